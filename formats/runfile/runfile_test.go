package runfile

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"tingate/core/motion"
)

// run is a trapezoid as a recorder writes it.
func run(rise, fall, top, current float64, head string, unit float64) string {
	var b strings.Builder
	b.WriteString(head + "\n")
	for t := 0.0; t < rise+fall+8; t += .05 {
		v := top
		switch {
		case t < 2:
			v = 0
		case t < 2+rise:
			v = top * (t - 2) / rise
		case t > 5+rise:
			v = math.Max(0, top*(1-(t-5-rise)/fall))
		}
		fmt.Fprintf(&b, "%g;%g;%g\n", t*unit, v, current)
	}
	return b.String()
}

// Columns of any name and order, ms or s, Hz or r/min; gaps are counted; what cannot be is named by its line.
func TestRecordedRunsAreRead(t *testing.T) {
	for name, x := range map[string]struct {
		raw string
		c   Columns
	}{"by name": {run(8, 10, 1455, 12, "time;speed;current", 1), Columns{}},
		"ms":       {run(8, 10, 1455, 12, "time ms;rpm;a", 1000), Columns{}},
		"hertz":    {run(8, 10, 48.5, 12, "t;Hz;current", 1), Columns{Poles: 4}},
		"named":    {run(8, 10, 1455, 12, "Zeit;Drehzahl;Strom", 1), Columns{Time: "Zeit", Speed: "Drehzahl", Current: "Strom"}},
		"numbered": {run(8, 10, 1455, 12, "x;y;z", 1), Columns{Time: "1", Speed: "2", Current: "3"}}} {
		if name == "numbered" {
			x.raw = strings.SplitN(x.raw, "\n", 2)[1] // no header at all
		}
		r, err := Read([]byte(x.raw), x.c)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		m, ok := r.Times()
		if !ok || math.Abs(m.Top-1455) > 2 || math.Abs(m.Rise-.97*8) > .2 || math.Abs(m.Fall-.94*10) > .3 || m.Peak != 12 {
			t.Errorf("%s: %+v", name, m)
		}
	}
	r, err := Read([]byte(strings.Replace(run(8, 10, 1455, 12, "time;speed;current", 1), "current\n", "current\n0;;\n", 1)), Columns{})
	if err != nil || r.Gaps != 1 {
		t.Errorf("%d gaps, %v", r.Gaps, err)
	}
	for want, raw := range map[string]string{"columns for time and speed": "a;b\n1;2\n",
		"not before": "time;speed\n" + strings.Repeat("5;1\n", 9) + "4;1\n5;1\n", "ten or more": "time;speed\n1;2\n",
		"poles": run(8, 10, 50, 1, "t;hz;a", 1)} {
		if _, err := Read([]byte(raw), Columns{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("want %q: %v", want, err)
		}
	}
}

// Twice the inertia at the current limit, a ramp counted to another base, a scaling that is off: each is told as what it is.
func TestARecordedRunIsExplained(t *testing.T) {
	p := motion.Predicted{Top: 1455, Rise: 7.8, Fall: 9.4, Peak: 18, Limit: 24, Highest: 60, Upper: 50}
	for want, m := range map[string]motion.RunTimes{"more inertia": {Top: 1455, Rise: 15.6, Fall: 9.4, Peak: 24},
		"counted to another": {Top: 1455, Rise: 7.8 * 50 / 60, Fall: 9.4, Peak: 18},
		"scaling":            {Top: 1380, Rise: 7.8, Fall: 9.4, Peak: 18}, "stretched it": {Top: 1455, Rise: 7.8, Fall: 14, Peak: 18},
		"overshot": {Top: 1455, Rise: 7.8, Fall: 9.4, Peak: 18, Overshoot: .06}} {
		if got := strings.Join(m.Explain(p), " "); !strings.Contains(got, want) {
			t.Errorf("want %q: %s", want, got)
		}
	}
	if l := (motion.RunTimes{Top: 1450, Rise: 7.9, Fall: 9.3, Peak: 17}).Explain(p); len(l) != 0 {
		t.Errorf("a run as predicted: %v", l)
	}
	// Read every 0.6 s, a rise of 7.8 s may be counted as 9: nothing is said of it; of 11 s it is.
	if l := (motion.RunTimes{Top: 1455, Rise: 9, RiseLate: 1.2, Fall: 10.5, FallLate: 1.2, Peak: 18}).Explain(p); len(l) != 0 {
		t.Errorf("read too seldom: %v", l)
	}
	if l := (motion.RunTimes{Top: 1455, Rise: 11, RiseLate: 1.2, Fall: 9.4, Peak: 18}).Explain(p); len(l) != 1 {
		t.Errorf("long, however seldom it was read: %v", l)
	}
}
