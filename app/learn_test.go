package app_test

import (
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/links"
	"tingate/core/drivefile"
	"tingate/core/learn"
)

// unknown is a drive of which nobody has told the registers (MODBUS Application Protocol Specification V1.1b3): its gaps are refused, it
// gives 32 at once, some of its registers move by themselves, and it counts what is written.
type unknown struct {
	mu     sync.Mutex
	regs   map[uint16]uint16
	moves  []uint16
	asked  int
	writes int
	slow   time.Duration
	unit   uint8
}

func (u *unknown) HandleCoils(*modbus.CoilsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}
func (u *unknown) HandleDiscreteInputs(*modbus.DiscreteInputsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}
func (u *unknown) HandleInputRegisters(*modbus.InputRegistersRequest) ([]uint16, error) {
	return nil, modbus.ErrIllegalFunction
}

func (u *unknown) HandleHoldingRegisters(r *modbus.HoldingRegistersRequest) ([]uint16, error) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if r.IsWrite {
		u.writes++
		return nil, modbus.ErrIllegalFunction
	}
	if r.UnitId != u.unit {
		return nil, modbus.ErrGWTargetFailedToRespond
	}
	u.asked++
	time.Sleep(u.slow)
	if r.Quantity > 32 {
		return nil, modbus.ErrIllegalDataValue
	}
	for _, m := range u.moves {
		u.regs[m] += 13
	}
	out := make([]uint16, r.Quantity)
	for i := range out {
		v, ok := u.regs[r.Addr+uint16(i)]
		if !ok {
			return nil, modbus.ErrIllegalDataAddress
		}
		out[i] = v
	}
	return out, nil
}

func newUnknown(t *testing.T) (u *unknown, address string) {
	t.Helper()
	u = &unknown{regs: map[uint16]uint16{}, unit: 1}
	for _, run := range [][2]uint16{{100, 159}, {300, 320}, {1000, 1063}, {1500, 1500}} {
		for a := run[0]; a <= run[1]; a++ {
			u.regs[a] = a % 90
		}
	}
	u.moves = []uint16{110, 111, 1040}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	address = l.Addr().String()
	l.Close()
	srv, err := modbus.NewServer(&modbus.ServerConfiguration{URL: "tcp://" + address, Timeout: time.Minute, MaxClients: 2}, u)
	if err != nil {
		t.Fatal(err)
	}
	if err := srv.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = srv.Stop() })
	return u, address
}

// learner is a desk at a real place, beside a drive of no known family.
func learner(t *testing.T, address string) (d *desk, id string) {
	d = newDesk(t)
	d.placeOf(drivefile.Real)
	id = base.NewID()
	_, err := d.CreateDrive(ctx, d.rh, drives.NewDrive{ID: id, Place: d.place, Sets: []drives.Set{{Path: "tag", Text: "UN-01"}}})
	d.ok(err)
	d.set(d.rh, id, "link.address", address)
	return d, id
}

// steps goes on until there is nothing more to ask.
func (d *desk) steps(id string, ask links.LearnAsk) links.LearnStep {
	d.t.Helper()
	for {
		s, err := d.Learn(ctx, d.rh, id, ask)
		d.ok(err)
		if s.Done || s.Stopped != "" {
			return s
		}
		ask.Chart, ask.Values, ask.Usual = s.Chart, s.Values, s.Usual
	}
}

func TestADriveNobodyKnowsTellsItsRegistersByOneChange(t *testing.T) {
	u, address := newUnknown(t)
	d, id := learner(t, address)
	s := d.steps(id, links.LearnAsk{Chart: learn.Chart{From: 0, To: 1600, Most: 125}, Budget: 150})
	if s.Chart.Registers() != len(u.regs) || s.Chart.Most > 32 || s.Chart.Asked > 150 || s.Stopped != "" {
		t.Fatalf("%d of %d registers, %d at once, after %d requests: %s", s.Chart.Registers(), len(u.regs), s.Chart.Most, s.Chart.Asked,
			s.Stopped)
	}
	pass := func(shown string) learn.Pass {
		r := d.steps(id, links.LearnAsk{Chart: s.Chart, Read: true, Budget: 1})
		return learn.Pass{Shown: shown, Values: r.Values}
	}
	put := func(raw int32) {
		u.mu.Lock()
		defer u.mu.Unlock()
		u.regs[1010], u.regs[1011] = uint16(raw), uint16(raw>>16)
	}
	put(-1750000)
	passes := []learn.Pass{pass("-1750"), pass("-1750")}
	put(-2000000)
	passes = append(passes, pass("-2000"))
	f, err := d.CompareReadings(s.Chart, learn.Setting, passes)
	d.ok(err)
	if len(f.Fits) != 1 || f.Alone != 3 {
		t.Fatalf("%+v", f)
	}
	if m := f.Fits[0]; m.Register != 1010 || m.Type != "s32" || m.WordOrder != "low-first" || m.Scale != "1000" {
		t.Errorf("%+v", m)
	}
	if u.writes > 0 {
		t.Errorf("%d were written", u.writes)
	}
}

func TestLearningOnALineThatAControllerUsesStopsAtTheFirstDelay(t *testing.T) {
	u, address := newUnknown(t)
	d, id := learner(t, address)
	ask := links.LearnAsk{Chart: learn.Chart{From: 100, To: 159, Most: 10}, Budget: 200, Shared: true}
	if _, err := d.Learn(ctx, d.rh, id, ask); err == nil || !strings.Contains(err.Error(), "who answers for the controller") {
		t.Errorf("nobody agreed: %v", err)
	}
	ask.Owner, ask.Usual = "TK, line 1", 5
	u.slow = 120 * time.Millisecond
	s, err := d.Learn(ctx, d.rh, id, ask)
	d.ok(err)
	if !strings.Contains(s.Stopped, "the controller may have waited") || u.asked != 1 {
		t.Errorf("%q after %d requests", s.Stopped, u.asked)
	}
}

func TestLearningRefusesWhatItCannotTrust(t *testing.T) {
	u, address := newUnknown(t)
	d, id := learner(t, address)
	chart := learn.Chart{From: 100, To: 159, Most: 10}
	for _, x := range []struct {
		name string
		ask  links.LearnAsk
		want string
	}{
		{"upside down", links.LearnAsk{Chart: learn.Chart{From: 5, To: 2, Most: 10}}, "0 to 65535"},
		{"too many at once", links.LearnAsk{Chart: learn.Chart{From: 5, To: 20, Most: 200}}, "1 to 125"},
		{"more read than there is", links.LearnAsk{Chart: chart, Read: true, Values: make([]uint16, 3)}, "at most 0"},
	} {
		if _, err := d.Learn(ctx, d.rh, id, x.ask); err == nil || !strings.Contains(err.Error(), x.want) {
			t.Errorf("%s: %v", x.name, err)
		}
	}
	if _, err := d.Learn(ctx, base.Actor{}, id, links.LearnAsk{Chart: chart, Budget: 1}); err == nil {
		t.Error("nobody asked, and was answered")
	}
	// Another unit at the gateway: its exception is no answer of the drive.
	u.unit = 9
	s, err := d.Learn(ctx, d.rh, id, links.LearnAsk{Chart: chart, Budget: 10})
	d.ok(err)
	if s.Stopped == "" || s.Chart.Asked != 0 {
		t.Errorf("another unit: %+v", s)
	}
	u.unit = 1
	// What answered and does not any more.
	chart.Answered(learn.Span{From: 100, To: 109})
	delete(u.regs, 105)
	if s, err = d.Learn(ctx, d.rh, id, links.LearnAsk{Chart: chart, Read: true, Budget: 10}); err != nil ||
		!strings.Contains(s.Stopped, "answered before and do not now") {
		t.Errorf("%v %+v", err, s)
	}
	d.set(d.rh, id, "link.unit", "0")
	if _, err := d.Learn(ctx, d.rh, id, links.LearnAsk{Chart: chart, Budget: 10}); err == nil {
		t.Error("unit 0 is asked")
	}
}
