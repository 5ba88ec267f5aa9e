package link_test

import (
	"context"
	"errors"
	"io"
	"net"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"tingate/bench/stand"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/familyfile"
	"tingate/link"
)

func standIn(t *testing.T, family string) (*stand.Drive, *dialect.Family) {
	t.Helper()
	f := familyfile.Find(family)
	d := stand.New(f)
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	return d, f
}

func dial(t *testing.T, addr string, f *dialect.Family) *link.Conn {
	t.Helper()
	c, err := link.Dial(context.Background(), addr, 1, f, 200*time.Millisecond)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(c.Close)
	return c
}

func write(c *link.Conn, f *dialect.Family, code string, steps int64, clear *link.Clearance) link.Result {
	s, _ := f.Setting(code)
	return c.Write(context.Background(), s, steps, clear, func(int64, []uint16) error { return nil })
}

func TestReadsEverySettingInFewRequests(t *testing.T) {
	for _, name := range familyfile.Names() {
		d, f := standIn(t, name)
		d.Scatter(7)
		got, err := dial(t, d.Address(), f).ReadAll(context.Background(), func(int, int) {})
		if err != nil || len(got) != len(f.Settings) {
			t.Fatalf("%s: %d settings, %v", name, len(got), err)
		}
		for code, v := range got {
			if want, _ := d.Value(code); v.Steps != want {
				t.Errorf("%s %s: %v, the drive holds %d", name, code, v, want)
			}
		}
		if n := len(f.Blocks()); n > 30 {
			t.Errorf("%s takes %d requests for %d settings", name, n, len(f.Settings))
		}
	}
}

func TestWritesOnlyAtStandstillAndReadsBack(t *testing.T) {
	d, f := standIn(t, "Tarn")
	c := dial(t, d.Address(), f)
	if r := write(c, f, "4D", 155, nil); r.Outcome != link.Held || *r.Before != 80 || *r.ReadBack != 155 {
		t.Errorf("%+v", r)
	}
	if r := write(c, f, "4D", 99999, nil); r.Outcome != link.Refused {
		t.Errorf("out of range: %+v", r)
	}
	d.SetRunning(true)
	for _, code := range []string{"4D", "7A"} {
		if r := write(c, f, code, 100, nil); r.Outcome != link.Refused || !strings.Contains(r.Message, "standstill") {
			t.Errorf("%s while running: %+v", code, r)
		}
	}
	if d.Writes() != 1 {
		t.Errorf("%d writes reached the drive, want 1", d.Writes())
	}
}

func TestMotionSettingsNeedOpenChannelsAndANamedPerson(t *testing.T) {
	d, f := standIn(t, "Tarn")
	c := dial(t, d.Address(), f)
	rh := &link.Clearance{Person: "RH"}
	for _, state := range [][2]bool{{true, true}, {true, false}, {false, true}} {
		d.SetChannels(state[0], state[1])
		if r := write(c, f, "8A", 1, rh); r.Outcome != link.Refused {
			t.Errorf("channels closed %v: %+v", state, r)
		}
	}
	d.SetChannels(false, false)
	if r := write(c, f, "8A", 1, nil); r.Outcome != link.Refused {
		t.Errorf("nobody confirmed: %+v", r)
	}
	if r := write(c, f, "8A", 1, &link.Clearance{}); r.Outcome != link.Refused {
		t.Errorf("without a name: %+v", r)
	}
	if d.Writes() != 0 {
		t.Fatalf("%d writes reached the drive before the conditions were met", d.Writes())
	}
	if r := write(c, f, "8A", 1, rh); r.Outcome != link.Held {
		t.Errorf("with the conditions met: %+v", r)
	}
}

// No register that commands is ever written, whatever a setting claims, for any family and any address.
func TestNothingThatCommandsIsEverSent(t *testing.T) {
	for _, name := range familyfile.Names() {
		d, f := standIn(t, name)
		d.SetChannels(false, false)
		c := dial(t, d.Address(), f)
		if len(f.Link.Forbidden) == 0 {
			t.Errorf("%s names no registers that command", name)
		}
		for _, r := range f.Link.Forbidden {
			for reg := r.From; reg <= r.To; reg++ {
				s := f.Settings[0]
				s.Register = reg
				res := c.Write(context.Background(), &s, s.DeliverySteps(), &link.Clearance{Person: "RH"},
					func(int64, []uint16) error { t.Errorf("%s: about to send to %d", name, reg); return nil })
				if res.Outcome != link.Refused || !strings.Contains(res.Message, "commands") {
					t.Errorf("%s register %d: %+v", name, reg, res)
				}
			}
		}
		if d.Writes() != 0 {
			t.Errorf("%s: something was written", name)
		}
	}
}

func TestNothingIsSentThatCouldNotBeRecorded(t *testing.T) {
	d, f := standIn(t, "Tarn")
	c := dial(t, d.Address(), f)
	s, _ := f.Setting("4D")
	r := c.Write(context.Background(), s, 155, nil, func(int64, []uint16) error { return errors.New("disk full") })
	if r.Outcome != link.Refused || d.Writes() != 0 {
		t.Errorf("%+v, %d writes", r, d.Writes())
	}
}

func TestTheWrongFamilyOrNobodyThereIsSaid(t *testing.T) {
	d, _ := standIn(t, "Tarn")
	if _, err := link.Dial(context.Background(), d.Address(), 1, familyfile.Find("Brae"), 200*time.Millisecond); err == nil {
		t.Error("a Tarn was taken for a Brae")
	}
	if _, err := link.Dial(context.Background(), d.Address(), 9, familyfile.Find("Tarn"), 200*time.Millisecond); err == nil {
		t.Error("another unit answered")
	}
	if _, err := link.Dial(context.Background(), "127.0.0.1:1", 1, familyfile.Find("Tarn"), 200*time.Millisecond); err == nil ||
		!strings.Contains(err.Error(), "No answer") {
		t.Errorf("nobody there: %v", err)
	}
	for _, bad := range []string{"", "host", "host:0", "host:99999", "ht tp:502", "http://x:1"} {
		if _, err := link.ParseAddress(bad); err == nil {
			t.Errorf("%q was taken for an address", bad)
		}
	}
}

// between stands between link and drive and spoils what passes. spoil sees each answer and may cut, drop or keep it.
type between struct {
	addr    string
	answers atomic.Int64
}

func spoiled(t *testing.T, to string, spoil func(n int64, answer []byte) []byte) *between {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	b := &between{addr: l.Addr().String()}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			in, err := l.Accept()
			if err != nil {
				return
			}
			go b.carry(in, to, spoil)
		}
	}()
	return b
}

func (b *between) carry(in net.Conn, to string, spoil func(int64, []byte) []byte) {
	defer in.Close()
	out, err := net.Dial("tcp", to)
	if err != nil {
		return
	}
	defer out.Close()
	go func() { _, _ = io.Copy(out, in) }()
	buf := make([]byte, 512)
	for {
		n, err := out.Read(buf)
		if err != nil {
			return
		}
		answer := spoil(b.answers.Add(1), buf[:n])
		if answer == nil {
			return // the server goes away
		}
		if _, err := in.Write(answer); err != nil {
			return
		}
	}
}

func TestSilencesShortAnswersAndLostServersAreSurvived(t *testing.T) {
	for name, bad := range map[string]func(answer []byte) []byte{
		"silent": func([]byte) []byte { return []byte{} },
		"short":  func(a []byte) []byte { return a[:len(a)-3] },
		"gone":   func([]byte) []byte { return nil },
	} {
		d, f := standIn(t, "Tarn")
		b := spoiled(t, d.Address(), func(n int64, a []byte) []byte {
			if n == 3 || n == 6 {
				return bad(a)
			}
			return a
		})
		c := dial(t, b.addr, f)
		got, err := c.ReadAll(context.Background(), func(int, int) {})
		if err != nil || len(got) != len(f.Settings) {
			t.Errorf("%s: %d of %d settings, %v", name, len(got), len(f.Settings), err)
		}
		for code, v := range got {
			if want, _ := d.Value(code); v.Steps != want {
				t.Errorf("%s: %s reads %v, the drive holds %d", name, code, v, want)
			}
		}
	}
}

func TestAPartlyReadDriveKeepsWhatWasReadAndSaysSo(t *testing.T) {
	d, f := standIn(t, "Tarn")
	b := spoiled(t, d.Address(), func(n int64, a []byte) []byte {
		if n > 3 {
			return nil
		}
		return a
	})
	got, err := dial(t, b.addr, f).ReadAll(context.Background(), func(int, int) {})
	if err == nil || len(got) == 0 || len(got) == len(f.Settings) {
		t.Errorf("%d settings, %v", len(got), err)
	}
}

func TestADriveThatTakesAnotherValueIsFound(t *testing.T) {
	d, f := standIn(t, "Tarn")
	c := dial(t, d.Address(), f)
	s, _ := f.Setting("4D")
	r := c.Write(context.Background(), s, 155, nil, func(int64, []uint16) error {
		go func() { // another client writes in between
			for range 200 {
				_ = d.Set("4D", "9.0")
				time.Sleep(50 * time.Microsecond)
			}
		}()
		time.Sleep(2 * time.Millisecond)
		return nil
	})
	if r.Outcome != link.Held && r.Outcome != link.Differs || r.ReadBack == nil {
		t.Errorf("what is read back is told: %+v", r)
	}
	if r.Outcome == link.Differs && !strings.Contains(r.Message, "reads back 9.0 A") {
		t.Errorf("%+v", r)
	}
}

func TestAStoppedReadStops(t *testing.T) {
	d, f := standIn(t, "Tarn")
	ctx, stop := context.WithCancel(context.Background())
	got, err := dial(t, d.Address(), f).ReadAll(ctx, func(done, _ int) {
		if done == 2 {
			stop()
		}
	})
	if err == nil || len(got) == 0 || len(got) == len(f.Settings) {
		t.Errorf("%d settings, %v", len(got), err)
	}
}

// A drive that restarts in the middle of a write: whether it took the value is found when it comes back in time, and
// not known when it does not.
func TestADriveThatRestartsInTheMiddleOfAWrite(t *testing.T) {
	for _, c := range []struct {
		takes bool
		away  time.Duration
		want  drivefile.Outcome
	}{{true, 100 * time.Millisecond, link.Held}, {false, 100 * time.Millisecond, link.Differs}, {true, 3 * time.Second, link.Unknown}} {
		f := familyfile.Find("Tarn")
		d := stand.New(f)
		d.RebootOnWrite, d.RebootTakes, d.RebootFor = 1, c.takes, c.away
		if err := d.Serve("127.0.0.1:0"); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = d.Stop() })
		r := write(dial(t, d.Address(), f), f, "4D", 155, nil)
		if r.Outcome != c.want || r.Before == nil || *r.Before != 80 {
			t.Errorf("%+v: %+v", c, r)
		}
	}
}

// A gateway that has lost its drive goes on giving what it read: nothing of it is taken for a reading.
func TestOldAnswersAreNotTaken(t *testing.T) {
	f := familyfile.Find("Brae")
	d := stand.New(f)
	d.Stale = true
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	c := dial(t, d.Address(), f)
	got, err := c.ReadAll(context.Background(), func(int, int) {})
	if err == nil || !strings.Contains(err.Error(), "stands still") || len(got) != 0 {
		t.Errorf("%d settings, %v", len(got), err)
	}
	r := write(c, f, "motor.current", 1550, nil)
	if r.Outcome != link.Refused || !strings.Contains(r.Message, "gives old values") || d.Writes() != 0 {
		t.Errorf("%+v, %d writes", r, d.Writes())
	}
}

// A drive that restarts while it is read is read again: values from before and after need not belong together.
func TestARestartDuringAReadIsReadAgain(t *testing.T) {
	f := familyfile.Find("Brae")
	d := stand.New(f)
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	time.Sleep(4 * time.Second) // its counter must be far enough from zero for a restart to show
	c := dial(t, d.Address(), f)
	starts, restarted := 0, false
	got, err := c.ReadAll(context.Background(), func(done, _ int) {
		if done == 1 {
			starts++
		}
		if done == 3 && !restarted {
			restarted = true
			if err := d.Set("motor.current", "12.34"); err != nil {
				t.Error(err)
			}
			if err := d.Reboot(0); err != nil {
				t.Error(err)
			}
		}
	})
	if err != nil || starts != 2 || got["motor.current"].Text != "12.34" {
		t.Errorf("%d starts, %v, %+v", starts, err, got["motor.current"])
	}
}

// The family that answers is found among all, with its size and firmware, whatever order its bytes come in.
func TestProbing(t *testing.T) {
	var all []*dialect.Family
	for _, n := range familyfile.Names() {
		all = append(all, familyfile.Find(n))
	}
	for _, f := range all {
		d := stand.New(f)
		d.Rating, d.Firmware = f.Ratings[1].Code, 1<<8|4
		if err := d.Serve("127.0.0.1:0"); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = d.Stop() })
		found, err := link.Probe(context.Background(), d.Address(), 1, all, 300*time.Millisecond)
		if err != nil || len(found) != 1 || found[0].Family != f || found[0].Rating.Type != f.Ratings[1].Type ||
			found[0].Firmware != "1.4" {
			t.Errorf("%s: %+v %v", f.Name, found, err)
		}
		if d.Writes() != 0 {
			t.Error("probing writes nothing")
		}
	}
	if _, err := link.Probe(context.Background(), "127.0.0.1:1", 1, all, 100*time.Millisecond); err == nil {
		t.Error("nothing answers there")
	}
}

// A family that takes one connection says so when another program holds it.
func TestTwoClientsOnOneDrive(t *testing.T) {
	d, f := standIn(t, "Brae")
	first := dial(t, d.Address(), f)
	_, err := link.Dial(context.Background(), d.Address(), 1, f, 200*time.Millisecond)
	if err == nil || !strings.Contains(err.Error(), "one connection at a time") {
		t.Errorf("%v", err)
	}
	first.Close()
	time.Sleep(50 * time.Millisecond)
	dial(t, d.Address(), f)
	// Voe takes several: both read while the other writes, and each sees what is there.
	d, f = standIn(t, "Voe")
	a, b := dial(t, d.Address(), f), dial(t, d.Address(), f)
	if r := write(a, f, "6075h:00", 12345, nil); r.Outcome != link.Held {
		t.Errorf("%+v", r)
	}
	if got, err := b.ReadAll(context.Background(), func(int, int) {}); err != nil || got["6075h:00"].Text != "12345" {
		t.Errorf("%+v %v", got["6075h:00"], err)
	}
}

func TestASlowDriveIsReadWhole(t *testing.T) {
	f := familyfile.Find("Voe")
	d := stand.New(f)
	d.Delay = 50 * time.Millisecond
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	if got, err := dial(t, d.Address(), f).ReadAll(context.Background(), func(int, int) {}); err != nil || len(got) != len(f.Settings) {
		t.Errorf("%d of %d, %v", len(got), len(f.Settings), err)
	}
}

func TestTextsAreSetOnTheKeypad(t *testing.T) {
	d, f := standIn(t, "Tarn")
	if r := write(dial(t, d.Address(), f), f, "1H", dialect.TextSteps("x"), nil); r.Outcome != link.Refused ||
		!strings.Contains(r.Message, "keypad") {
		t.Errorf("%+v", r)
	}
}
