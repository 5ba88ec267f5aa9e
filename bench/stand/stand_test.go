package stand_test

import (
	"bytes"
	"encoding/binary"
	"io"
	"net"
	"testing"
	"time"

	"tingate/bench/stand"
	"tingate/formats/familyfile"
)

// client speaks Modbus TCP by hand, frame by frame, as MODBUS Application Protocol V1.1b3 and the messaging guide on
// TCP/IP describe it: independent of the library that the program uses.
type client struct {
	t    *testing.T
	conn net.Conn
	n    uint16
}

func connect(t *testing.T, addr string) *client {
	t.Helper()
	c, err := net.Dial("tcp", addr)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { c.Close() })
	return &client{t: t, conn: c}
}

// ask sends a request and returns the answer's data unit: function code and what follows.
func (c *client) ask(unit byte, pdu ...byte) []byte {
	c.t.Helper()
	c.n++
	head := make([]byte, 7)
	binary.BigEndian.PutUint16(head, c.n)
	binary.BigEndian.PutUint16(head[4:], uint16(len(pdu)+1))
	head[6] = unit
	if _, err := c.conn.Write(append(head, pdu...)); err != nil {
		c.t.Fatal(err)
	}
	_ = c.conn.SetReadDeadline(time.Now().Add(5 * time.Second))
	if _, err := io.ReadFull(c.conn, head); err != nil {
		c.t.Fatal(err)
	}
	if got := binary.BigEndian.Uint16(head); got != c.n {
		c.t.Fatalf("transaction %d answered with %d", c.n, got)
	}
	if binary.BigEndian.Uint16(head[2:]) != 0 || head[6] != unit {
		c.t.Fatalf("protocol or unit of the answer: % x", head)
	}
	body := make([]byte, binary.BigEndian.Uint16(head[4:])-1)
	if _, err := io.ReadFull(c.conn, body); err != nil {
		c.t.Fatal(err)
	}
	return body
}

func word(v uint16) []byte { return []byte{byte(v >> 8), byte(v)} }

func (c *client) read(register, count uint16) []byte {
	return c.ask(1, append(append([]byte{3}, word(register)...), word(count)...)...)
}

func (c *client) write(register, value uint16) []byte {
	return c.ask(1, append(append([]byte{6}, word(register)...), word(value)...)...)
}

func serve(t *testing.T, family string) *stand.Drive {
	t.Helper()
	d := stand.New(familyfile.Find(family))
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	return d
}

func TestAnIndependentClientReadsAndWrites(t *testing.T) {
	d := serve(t, "Tarn")
	c := connect(t, d.Address())
	if got, want := c.read(1, 1), []byte{3, 2, 0x54, 0x41}; !bytes.Equal(got, want) {
		t.Errorf("identity: % x, want % x", got, want)
	}
	if got, want := c.read(401, 5), []byte{3, 10, 0x01, 0x90, 0x01, 0x90, 0x01, 0xf4, 0, 80, 0x05, 0xa0}; !bytes.Equal(got, want) {
		t.Errorf("page 4 at delivery: % x, want % x", got, want)
	}
	if got, want := c.write(404, 155), []byte{6, 0x01, 0x94, 0, 155}; !bytes.Equal(got, want) {
		t.Errorf("a single write is echoed: % x, want % x", got, want)
	}
	if v, _ := d.Value("4D"); v != 155 {
		t.Errorf("the drive holds %d", v)
	}
	if got := c.read(2, 1); got[3]&7 != 1 {
		t.Errorf("status: standstill, channels closed: % x", got)
	}
	d.SetRunning(true)
	d.SetChannels(false, false)
	if got := c.read(2, 1); got[3]&7 != 6 {
		t.Errorf("status: running, channels open: % x", got)
	}
}

// Exception codes of the specification: 1 function, 2 address, 3 value, 6 busy.
func TestExceptionsAreThoseOfTheSpecification(t *testing.T) {
	d := serve(t, "Tarn")
	c := connect(t, d.Address())
	for _, x := range []struct {
		what string
		got  []byte
		want []byte
	}{
		{"no such register", c.read(450, 1), []byte{0x83, 2}},
		{"a block over a gap", c.read(418, 8), []byte{0x83, 2}},
		{"more than the family's block", c.read(401, 17), []byte{0x83, 3}},
		{"a command register", c.write(9000, 1), []byte{0x86, 2}},
		{"the status is not written", c.write(2, 1), []byte{0x86, 2}},
		{"out of range", c.write(404, 9999), []byte{0x86, 3}},
		{"no such choice", c.write(801, 7), []byte{0x86, 3}},
		{"several registers at once", c.ask(1, 16, 0x01, 0x91, 0, 2, 4, 0, 1, 0, 1), []byte{0x90, 1}},
		{"coils", c.ask(1, 1, 0, 0, 0, 1), []byte{0x81, 1}},
		{"input registers", c.ask(1, 4, 0, 0, 0, 1), []byte{0x84, 1}},
	} {
		if !bytes.Equal(x.got, x.want) {
			t.Errorf("%s: % x, want % x", x.what, x.got, x.want)
		}
	}
	if d.Writes() != 0 {
		t.Errorf("%d writes were taken", d.Writes())
	}
	d.SetRunning(true)
	if got := c.write(404, 100); !bytes.Equal(got, []byte{0x86, 6}) {
		t.Errorf("locked while running: % x", got)
	}
	if got := c.write(701, 100); got[0] != 6 {
		t.Errorf("a setting that may change while running: % x", got)
	}
}

func TestSettingsOfFullAccessAreRefusedBelowIt(t *testing.T) {
	d := serve(t, "Tarn")
	c := connect(t, d.Address())
	if got := c.write(901, 10); got[0] != 6 {
		t.Errorf("full access: % x", got)
	}
	if got := c.write(103, 0); got[0] != 6 {
		t.Errorf("access to basic: % x", got)
	}
	if got := c.write(901, 8); !bytes.Equal(got, []byte{0x86, 1}) {
		t.Errorf("basic access: % x", got)
	}
	if got := c.write(404, 100); got[0] != 6 {
		t.Errorf("an ordinary setting: % x", got)
	}
}

func TestNonsenseDoesNotStopTheDrive(t *testing.T) {
	d := serve(t, "Tarn")
	for _, junk := range [][]byte{{}, {0}, bytes.Repeat([]byte{0xff}, 300), []byte("GET / HTTP/1.1\r\n\r\n"),
		{0, 1, 0, 0, 0xff, 0xff, 1, 3}, {0, 1, 0, 0, 0, 0, 0}} {
		c, err := net.Dial("tcp", d.Address())
		if err != nil {
			t.Fatal(err)
		}
		_, _ = c.Write(junk)
		c.Close()
	}
	if got := connect(t, d.Address()).read(1, 1); !bytes.Equal(got, []byte{3, 2, 0x54, 0x41}) {
		t.Errorf("after nonsense: % x", got)
	}
}

func TestSeedsRepeatAndStayInRange(t *testing.T) {
	for _, name := range familyfile.Names() {
		f := familyfile.Find(name)
		one, two, other := stand.New(f), stand.New(f), stand.New(f)
		one.Scatter(3)
		two.Scatter(3)
		other.Scatter(4)
		differ := 0
		for i := range f.Settings {
			s := &f.Settings[i]
			a, _ := one.Value(s.Code)
			b, _ := two.Value(s.Code)
			c, _ := other.Value(s.Code)
			if a != b || !s.Inside(a) {
				t.Errorf("%s %s: %d and %d from one seed", name, s.Code, a, b)
			}
			if a != c {
				differ++
			}
		}
		if differ == 0 {
			t.Errorf("%s: two seeds give the same drive", name)
		}
	}
}

func TestOnlyLoopbackIsServed(t *testing.T) {
	d := stand.New(familyfile.Find("Tarn"))
	for _, listen := range []string{"0.0.0.0:0", "192.0.2.1:5020", "nonsense", "[::]:0"} {
		if err := d.Serve(listen); err == nil {
			t.Errorf("%s was served", listen)
		}
	}
	for code, text := range map[string]string{"9ZZ": "1", "4D": "abc", "6K": "500", "8A": "moon"} {
		if err := d.Set(code, text); err == nil {
			t.Errorf("%s = %s was taken", code, text)
		}
	}
}
