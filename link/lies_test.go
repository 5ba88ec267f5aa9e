package link_test

import (
	"context"
	"encoding/binary"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/familyfile"
	"tingate/link"
)

// liar is a Modbus TCP server (MODBUS Messaging on TCP/IP V1.0b) that says what a test wants it to say, frame by frame, and does what it
// wants it to do.
type liar struct {
	f    *dialect.Family
	addr string
	// read and write see each request with its honest answer, and give what goes out: nil hangs up, empty says nothing. write also
	// does, or does not do, what was asked.
	read  func(l *liar, n, at int, honest []byte) []byte
	write func(l *liar, at int, values []uint16, honest []byte) []byte

	mu       sync.Mutex
	regs     map[uint16]uint16
	running  bool
	open     [2]bool
	frozen   *uint16 // what the counter shows for ever
	began    time.Time
	reads    int
	writes   int
	last     []byte // payload of the answer before
	identity uint16
}

func newLiar(t *testing.T, family string) *liar {
	t.Helper()
	f := familyfile.Find(family)
	l := &liar{f: f, regs: map[uint16]uint16{}, open: [2]bool{true, true}, began: time.Now().Add(-10 * time.Second),
		identity: f.Link.Identity.Value}
	for i := range f.Settings {
		if s := &f.Settings[i]; s.Register != 0 {
			l.put(s, s.DeliverySteps())
		}
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	l.addr = ln.Addr().String()
	t.Cleanup(func() { ln.Close() })
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			go l.serve(c)
		}
	}()
	return l
}

func (l *liar) put(s *dialect.Setting, steps int64) {
	for i, r := range l.f.Encode(s, dialect.Held{Steps: steps, Text: s.Text(steps)}) {
		l.regs[s.Register+uint16(i)] = r
	}
}

func (l *liar) steps(s *dialect.Setting) int64 {
	l.mu.Lock()
	defer l.mu.Unlock()
	var regs []uint16
	for i := range s.Words() {
		regs = append(regs, l.regs[s.Register+uint16(i)])
	}
	v, _ := l.f.Decode(s, regs)
	return v.Steps
}

// do takes the values, as an honest drive would.
func (l *liar) do(at int, values []uint16) {
	for i, v := range values {
		l.regs[uint16(at+i)] = v
	}
}

func (l *liar) register(r uint16) uint16 {
	k := l.f.Link
	switch {
	case r == k.Identity.Register:
		return l.f.ByteSwapped(l.identity)
	case r == k.Clock && k.Clock != 0:
		if l.frozen != nil {
			return l.f.ByteSwapped(*l.frozen)
		}
		return l.f.ByteSwapped(uint16(time.Since(l.began) / (10 * time.Millisecond)))
	case r == k.Status.Register:
		var v uint16
		for bit, on := range map[uint]bool{k.Status.Standstill: !l.running, k.Status.ChannelA: l.open[0], k.Status.ChannelB: l.open[1]} {
			if on {
				v |= 1 << bit
			}
		}
		return l.f.ByteSwapped(v)
	}
	return l.regs[r]
}

// freeze makes the counter stand still from now on.
func (l *liar) freeze() {
	v := uint16(time.Since(l.began) / (10 * time.Millisecond))
	l.frozen = &v
}

func (l *liar) serve(c net.Conn) {
	defer c.Close()
	head := make([]byte, 7)
	for {
		if _, err := io.ReadFull(c, head); err != nil {
			return
		}
		pdu := make([]byte, int(binary.BigEndian.Uint16(head[4:]))-1)
		if _, err := io.ReadFull(c, pdu); err != nil {
			return
		}
		out := l.answer(head, pdu)
		if out == nil {
			return
		}
		if _, err := c.Write(out); err != nil {
			return
		}
	}
}

func (l *liar) answer(head, pdu []byte) []byte {
	l.mu.Lock()
	defer l.mu.Unlock()
	at := int(binary.BigEndian.Uint16(pdu[1:]))
	if pdu[0] == 3 {
		n := int(binary.BigEndian.Uint16(pdu[3:]))
		body := []byte{3, byte(2 * n)}
		for i := range n {
			body = binary.BigEndian.AppendUint16(body, l.register(uint16(at+i)))
		}
		l.reads++
		out := frame(head, body)
		if l.read != nil {
			out = l.read(l, l.reads, at, out)
		}
		l.last = body
		return out
	}
	var values []uint16
	from := 3
	if pdu[0] == 16 {
		from = 6
	}
	for i := from; i+1 < len(pdu); i += 2 {
		values = append(values, binary.BigEndian.Uint16(pdu[i:]))
	}
	l.writes++
	honest := frame(head, pdu[:5])
	if l.write == nil {
		l.do(at, values)
		return honest
	}
	return l.write(l, at, values, honest)
}

func frame(head, pdu []byte) []byte {
	out := append([]byte{}, head[:4]...)
	out = binary.BigEndian.AppendUint16(out, uint16(len(pdu)+1))
	return append(append(out, head[6]), pdu...)
}

// exceptionOf turns an honest answer into an exception.
func exceptionOf(honest []byte, code byte) []byte {
	return frame(honest[:7], []byte{honest[7] | 0x80, code})
}

func with(honest []byte, change func(b []byte)) []byte {
	b := append([]byte{}, honest...)
	change(b)
	return b
}

type writeLie struct {
	name string
	lie  func(l *liar, at int, values []uint16, honest []byte) []byte
	want drivefile.Outcome
	says string // in the message
}

// Twenty-seven ways in which a drive, a gateway or a net lies about a write. What is told afterwards is what was read.
func TestLiesAboutAWrite(t *testing.T) {
	takes := func(code byte) func(l *liar, at int, v []uint16, h []byte) []byte {
		return func(l *liar, at int, v []uint16, h []byte) []byte { l.do(at, v); return exceptionOf(h, code) }
	}
	leaves := func(code byte) func(l *liar, at int, v []uint16, h []byte) []byte {
		return func(_ *liar, _ int, _ []uint16, h []byte) []byte { return exceptionOf(h, code) }
	}
	lies := []writeLie{
		{"exception 01, and taken", takes(1), link.Held, "all the same"},
		{"exception 03, and taken", takes(3), link.Held, "all the same"},
		{"exception 04, and taken", takes(4), link.Held, "all the same"},
		{"exception 05, and taken: it only means later", takes(5), link.Held, "accepted"},
		{"exception 06, and taken", takes(6), link.Held, "all the same"},
		{"exception 0A, and taken", takes(10), link.Held, "all the same"},
		{"exception 0B, and taken", takes(11), link.Held, "no answer"},
		{"an exception that no standard has, and taken", takes(99), link.Held, "not whole"},
		{"exception 03, and left", leaves(3), link.Refused, "Still holds"},
		{"exception 04, and left", leaves(4), link.Refused, "Still holds"},
		{"exception 05, and left", leaves(5), link.Differs, "not done with it yet"},
		{"exception 0B, and left", leaves(11), link.Differs, "reads back"},
		{"a yes, and left", func(_ *liar, _ int, _ []uint16, h []byte) []byte { return h }, link.Differs, "not taken"},
		{"a yes, and another value", func(l *liar, at int, v []uint16, h []byte) []byte { l.do(at, []uint16{v[0] - 5}); return h },
			link.Differs, "reads back"},
		{"exception 03, and another value", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, []uint16{v[0] - 5})
			return exceptionOf(h, 3)
		}, link.Differs, "reads back"},
		{"silence, and taken", func(l *liar, at int, v []uint16, _ []byte) []byte { l.do(at, v); return []byte{} }, link.Held, "no answer"},
		{"silence, and left", func(*liar, int, []uint16, []byte) []byte { return []byte{} }, link.Differs, "no answer"},
		{"hung up, and taken", func(l *liar, at int, v []uint16, _ []byte) []byte { l.do(at, v); return nil }, link.Held, "not whole"},
		{"half an answer, and taken", func(l *liar, at int, v []uint16, h []byte) []byte { l.do(at, v); return h[:9] }, link.Held,
			"no answer"},
		{"another register's yes", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			return with(h, func(b []byte) { b[9]++ })
		}, link.Held, "not whole"},
		{"another value's yes, and that value", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, []uint16{v[0] + 1})
			return with(h, func(b []byte) { b[11]++ })
		}, link.Differs, "not whole"},
		{"another unit's yes", func(_ *liar, _ int, _ []uint16, h []byte) []byte { return with(h, func(b []byte) { b[6]++ }) },
			link.Differs, "not whole"},
		{"another question's yes", func(_ *liar, _ int, _ []uint16, h []byte) []byte { return with(h, func(b []byte) { b[1] += 7 }) },
			link.Differs, "no answer"},
		{"a yes, and nothing can be read after", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.read = func(*liar, int, int, []byte) []byte { return nil }
			return h
		}, link.Unknown, "could not be read back"},
		{"a yes, and exceptions to every question after", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.read = func(_ *liar, _, _ int, h []byte) []byte { return exceptionOf(h, 4) }
			return h
		}, link.Unknown, "could not be read back"},
		{"a gateway that repeats the new value while the drive has gone", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.freeze()
			return h
		}, link.Unknown, "stands still"},
		{"another device takes the address", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.identity++
			return h
		}, link.Unknown, "another device"},
		{"taken, and fallen back", func(l *liar, at int, v []uint16, h []byte) []byte {
			was := l.regs[uint16(at)]
			l.do(at, v)
			seen := 0
			l.read = func(l *liar, _, where int, h []byte) []byte {
				if where == at {
					if seen++; seen == 1 {
						l.regs[uint16(at)] = was
					}
				}
				return h
			}
			return h
		}, link.Differs, "did not stay"},
		{"restarted with it", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.began = time.Now()
			return h
		}, link.Held, "restarted"},
		{"somebody runs it meanwhile", func(l *liar, at int, v []uint16, h []byte) []byte {
			l.do(at, v)
			l.running = true
			return h
		}, link.Held, "no longer reports standstill"},
	}
	if len(lies) < 22 {
		t.Fatalf("%d lies", len(lies))
	}
	for _, x := range lies {
		t.Run(x.name, func(t *testing.T) {
			t.Parallel()
			l := newLiar(t, "Brae")
			s, _ := l.f.Setting("motor.current")
			before := l.steps(s)
			asked := before + 25
			c := dial(t, l.addr, l.f)
			l.mu.Lock()
			l.write = x.lie
			l.mu.Unlock()
			r := c.Write(context.Background(), s, asked, nil, func(int64, []uint16) error { return nil })
			if r.Outcome != x.want || !strings.Contains(r.Message, x.says) {
				t.Fatalf("%+v, want %s with %q", r, x.want, x.says)
			}
			if l.writes != 1 {
				t.Errorf("sent %d times", l.writes)
			}
			holds := l.steps(s)
			switch r.Outcome {
			case link.Held:
				if r.ReadBack == nil || *r.ReadBack != asked || holds != asked {
					t.Errorf("told as held, and the drive holds %d: %+v", holds, r)
				}
			case link.Refused, link.Differs:
				if r.ReadBack == nil || *r.ReadBack != holds {
					t.Errorf("the drive holds %d: %+v", holds, r)
				}
			}
		})
	}
}

// A setting of two registers of which only one was taken is no setting that holds.
func TestHalfOfALongSettingTaken(t *testing.T) {
	l := newLiar(t, "Voe")
	for i := range l.f.Settings {
		s := &l.f.Settings[i]
		asked := int64(70_000)
		if s.Words() != 2 || s.Kind != "number" || !s.Inside(asked) || s.Acts != "" {
			continue
		}
		l.write = func(l *liar, at int, v []uint16, h []byte) []byte { l.do(at, v[:1]); return h }
		r := dial(t, l.addr, l.f).Write(context.Background(), s, asked, nil, func(int64, []uint16) error { return nil })
		if r.Outcome == link.Held || r.ReadBack == nil || *r.ReadBack != l.steps(s) {
			t.Errorf("%s: %+v", s.Code, r)
		}
		return
	}
	t.Skip("no family has a long setting")
}

// What is so when a write is about to go out decides, not what was so when it was asked for.
func TestNothingIsWrittenToADriveThatChangedMeanwhile(t *testing.T) {
	rh := &link.Clearance{Person: "RH"}
	for name, x := range map[string]struct {
		change func(l *liar)
		code   string
		says   string
	}{
		"run meanwhile":            {func(l *liar) { l.running = true }, "motor.current", "standstill"},
		"a channel closed":         {func(l *liar) { l.open[1] = false }, "", "torque-off channels"},
		"the counter stands still": {func(l *liar) { l.freeze() }, "motor.current", "stands still"},
		"it answers no more": {func(l *liar) { l.read = func(*liar, int, int, []byte) []byte { return nil } }, "motor.current",
			"No whole answer"},
	} {
		for _, when := range []string{"before", "while it is recorded"} {
			l := newLiar(t, "Brae")
			s, ok := l.f.Setting(x.code)
			for i := range l.f.Settings {
				if !ok && l.f.Settings[i].Acts == "motion" && l.f.Settings[i].Register != 0 {
					s, ok = &l.f.Settings[i], true
				}
			}
			c := dial(t, l.addr, l.f)
			change := func() { l.mu.Lock(); x.change(l); l.mu.Unlock() }
			if when == "before" {
				change()
			}
			r := c.Write(context.Background(), s, s.DeliverySteps(), rh, func(int64, []uint16) error {
				if when != "before" {
					change()
				}
				return nil
			})
			if r.Outcome != link.Refused || l.writes != 0 || !strings.Contains(r.Message, x.says) ||
				!strings.Contains(r.Message, "Nothing was written") {
				t.Errorf("%s, %s: %+v, %d writes", name, when, r, l.writes)
			}
		}
	}
}

func TestUnitZeroIsNobody(t *testing.T) {
	l := newLiar(t, "Tarn")
	if _, err := link.Dial(context.Background(), l.addr, 0, l.f, time.Second); err == nil || !strings.Contains(err.Error(), "Unit 0") {
		t.Errorf("dialled: %v", err)
	}
	if _, err := link.Probe(context.Background(), l.addr, 0, []*dialect.Family{l.f}, time.Second); err == nil {
		t.Error("probed")
	}
	if l.reads != 0 {
		t.Error("something was asked")
	}
}

// Twenty ways in which an answer to a read is not what it seems. What comes of it is the truth, or an error.
func TestLiesAboutARead(t *testing.T) {
	const from = 6 // the request in the middle of a read of all that it begins with
	once := func(lie func(l *liar, honest []byte) []byte) func(*liar, int, int, []byte) []byte {
		return func(l *liar, n, _ int, h []byte) []byte {
			if n == from {
				return lie(l, h)
			}
			return h
		}
	}
	always := func(lie func(l *liar, honest []byte) []byte) func(*liar, int, int, []byte) []byte {
		return func(l *liar, n, _ int, h []byte) []byte {
			if n >= from {
				return lie(l, h)
			}
			return h
		}
	}
	lies := map[string]func(*liar, int, int, []byte) []byte{
		"another device takes the address": always(func(l *liar, h []byte) []byte { l.identity = 7; return h }),
		"the counter stands still":         func(l *liar, n, _ int, h []byte) []byte { l.freeze(); return h },
		"it restarts, and again":           func(l *liar, n, _ int, h []byte) []byte { l.began = time.Now(); return h },
	}
	for _, code := range []byte{1, 2, 3, 4, 5, 6, 10, 11, 99} {
		lies[fmt.Sprintf("exception %02X", code)] = always(func(_ *liar, h []byte) []byte { return exceptionOf(h, code) })
	}
	for name, lie := range map[string]func(l *liar, h []byte) []byte{
		"silence":            func(*liar, []byte) []byte { return []byte{} },
		"hung up":            func(*liar, []byte) []byte { return nil },
		"half an answer":     func(_ *liar, h []byte) []byte { return h[:len(h)/2] },
		"a register too few": func(_ *liar, h []byte) []byte { return frame(h[:7], append([]byte{3, h[8] - 2}, h[9:len(h)-2]...)) },
		"a register too many": func(_ *liar, h []byte) []byte {
			return frame(h[:7], append([]byte{3, h[8] + 2}, append(h[9:], 0, 1)...))
		},
		"a count that is not so":    func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[8] += 2 }) },
		"another unit":              func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[6] += 3 }) },
		"another function":          func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[7] = 4 }) },
		"another question's number": func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[0]++ }) },
		"another protocol":          func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[2] = 1 }) },
		"a length of nothing":       func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[4], b[5] = 0, 0 }) },
		"a length without end":      func(_ *liar, h []byte) []byte { return with(h, func(b []byte) { b[4], b[5] = 255, 255 }) },
		"the answer before":         func(l *liar, h []byte) []byte { return frame(h[:7], l.last) },
		"noise":                     func(*liar, []byte) []byte { return []byte("HTTP/1.1 200 OK\r\n\r\n") },
	} {
		lies[name+", once"], lies[name+", always"] = once(lie), always(lie)
	}
	if len(lies) < 18 {
		t.Fatalf("%d lies", len(lies))
	}
	for name, lie := range lies {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			l := newLiar(t, "Brae")
			c := dial(t, l.addr, l.f)
			l.mu.Lock()
			l.read = lie
			l.mu.Unlock()
			got, err := c.ReadAll(context.Background(), func(int, int) {})
			for code, v := range got {
				if s, _ := l.f.Setting(code); v.Steps != l.steps(s) {
					t.Errorf("%s reads %d, the drive holds %d (error %v)", code, v.Steps, l.steps(s), err)
				}
			}
			if err == nil && len(got) != len(l.f.Settings) {
				t.Errorf("%d of %d settings, and no error", len(got), len(l.f.Settings))
			}
			if strings.HasSuffix(name, "always") && err == nil {
				t.Error("no error")
			}
			if l.writes != 0 {
				t.Error("something was written")
			}
		})
	}
}

// Whatever a family's file says, no register that commands by the standard is written, and a file that names none of its own is for
// reading.
func TestNothingThatCommandsByTheStandardIsEverSent(t *testing.T) {
	l := newLiar(t, "Brae")
	c := dial(t, l.addr, l.f)
	rh := &link.Clearance{Person: "RH"}
	n := 0
	for _, axis := range []uint16{0, 0x800, 0x1000, 0x3800} {
		for _, object := range []uint16{0x6040, 0x6042, 0x6060, 0x6071, 0x607A, 0x60FF} {
			s := l.f.Settings[0]
			s.Register = object + axis
			r := c.Write(context.Background(), &s, s.DeliverySteps(), rh,
				func(int64, []uint16) error { t.Errorf("about to send to %Xh", s.Register); return nil })
			if r.Outcome != link.Refused || !strings.Contains(r.Message, "CiA 402") {
				t.Errorf("%Xh: %+v", s.Register, r)
			}
			n++
		}
	}
	bare := *l.f
	bare.Link.Forbidden = nil
	if c, err := link.Dial(context.Background(), l.addr, 1, &bare, time.Second); err != nil {
		t.Fatal(err)
	} else {
		s, _ := bare.Setting("motor.current")
		if r := c.Write(context.Background(), s, s.DeliverySteps(), rh,
			func(int64, []uint16) error { t.Error("about to send"); return nil }); r.Outcome != link.Refused ||
			!strings.Contains(r.Message, "read only") {
			t.Errorf("%+v", r)
		}
		c.Close()
	}
	if l.writes != 0 || n != 24 {
		t.Errorf("%d writes over %d registers", l.writes, n)
	}
}

// A setting of two registers whose second one commands is refused like one whose first does, by the file's reader and by the link.
func TestTheSecondWordCommandsToo(t *testing.T) {
	tried := 0
	for _, name := range []string{"Tarn", "Brae", "Voe"} {
		d, f := standIn(t, name)
		c := dial(t, d.Address(), f)
		for i := range f.Settings {
			if f.Settings[i].Words() != 2 || f.Settings[i].Kind == "text" || f.Settings[i].Register == 0 {
				continue
			}
			tried++
			before := f.Link.Forbidden[0].From - 1
			for _, at := range []uint16{0x603F, before} {
				moved := *f
				moved.Settings = append(moved.Settings[:0:0], f.Settings...)
				moved.Settings[i].Register = at
				s := moved.Settings[i]
				r := c.Write(context.Background(), &s, s.DeliverySteps(), &link.Clearance{Person: "rh"},
					func(int64, []uint16) error { t.Errorf("about to send to %d and the next", at); return nil })
				if r.Outcome != link.Refused || !strings.Contains(r.Message, "commands") {
					t.Errorf("%s %s at %d: %+v", name, s.Code, at, r)
				}
				said := false
				for _, err := range moved.Compile() {
					said = said || strings.Contains(err.Error(), "outside those that command motion")
				}
				if !said {
					t.Errorf("%s with %s at %d is taken", name, s.Code, at)
				}
			}
			break
		}
	}
	if tried == 0 {
		t.Error("no family has a setting of two registers")
	}
}
