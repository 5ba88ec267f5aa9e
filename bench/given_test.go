package bench_test

import (
	"context"
	"testing"
	"time"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/formats/familyfile"
	"tingate/link"
	"tingate/testtools/benches"
)

// What a plan takes from elsewhere reaches the simulated drive out of each family's own settings.
func TestGivenSettingsReachTheDrive(t *testing.T) {
	for _, name := range []string{"Tarn", "Brae", "Voe"} {
		f := familyfile.Find(name)
		size := dialect.Size{Heavy: 20, Phases: 3, LineLow: 380, LineHigh: 480, Power: 7.5}
		values := f.Delivered(dialect.Variant{})
		if c := bench.Configure(f, values, size); c.LostBelow != 3.6 || c.DeadBand != 0 || c.BrakeFrom != 0 || c.BrakeBelow != 0 {
			t.Errorf("%s as delivered, without a brake: %+v", name, c)
		}
		set := func(doing string, v float64) {
			s := f.Doing(doing)
			if s == nil {
				t.Fatalf("%s has nothing for %s", name, doing)
			}
			values[s.Code] = s.Nearest(v, "").Steps
		}
		choose := func(doing, means string) {
			for _, c := range f.Doing(doing).Choices {
				if c.Means == means {
					values[f.Doing(doing).Code] = c.Value
				}
			}
		}
		set("brake", 1)
		set("dead-band", 5)
		set("lost-below", 3.2)
		choose("motor-cooling", "own-fan")
		if c := bench.Configure(f, values, size); c.LostBelow != 3.2 || c.DeadBand != .05 || !c.SelfCooled || !(c.BrakeBelow > .5) ||
			!(c.BrakeFrom > 0) && !(c.BrakeTorque > 0) {
			t.Errorf("%s: %+v", name, c)
		}
		choose("motor-cooling", "forced")
		set("auto-ramp", 1)
		if c := bench.Configure(f, values, size); c.SelfCooled || c.Rise < 5*c.Highest || c.Fall < 5*c.Highest || !c.BusControl {
			t.Errorf("%s, ramps by themselves: %+v", name, c)
		}
	}
}

// A name that is planned stands in the simulated drive, and is written and read over the link as any other value; what registers cannot
// hold is refused.
func TestANameOverTheLink(t *testing.T) {
	s := benches.Setup(t, "Tarn")
	s.Texts = map[string]string{"1H": "FAN 3"}
	b, err := bench.New(s)
	if err != nil {
		t.Fatal(err)
	}
	if err := b.Stand.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	defer b.Stand.Stop()
	c, err := link.Dial(context.Background(), b.Stand.Address(), 1, s.Family, time.Second)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	name, _ := s.Family.Setting("1H")
	if v, err := c.Value(context.Background(), name); err != nil || v.Text != "FAN 3" {
		t.Fatalf("%+v %v", v, err)
	}
	write := func(text string) link.Result {
		return c.WriteHeld(context.Background(), name, dialect.Held{Steps: dialect.TextSteps(text), Text: text}, nil,
			func(int64, []uint16) error { return nil })
	}
	if r := write("PUMP 12"); r.Outcome != link.Held || r.BackText != "PUMP 12" {
		t.Errorf("%+v", r)
	}
	for _, bad := range []string{"", "Lüfter", "thirteen signs", "a\nb"} {
		if r := write(bad); r.Outcome != link.Refused || r.ReadBack != nil {
			t.Errorf("%q: %+v", bad, r)
		}
	}
	if v, _ := c.Value(context.Background(), name); v.Text != "PUMP 12" {
		t.Errorf("refused, and changed all the same: %q", v.Text)
	}
}
