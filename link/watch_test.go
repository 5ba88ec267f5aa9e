package link_test

import (
	"context"
	"math"
	"strings"
	"testing"
	"time"

	"tingate/bench/stand"
	"tingate/core/dialect"
	"tingate/formats/familyfile"
	"tingate/link"
)

// watch takes so many moments.
func watch(t *testing.T, c *link.Conn, n int, each func(i int, m link.Moment)) error {
	t.Helper()
	i := 0
	ctx, stop := context.WithTimeout(context.Background(), 20*time.Second)
	defer stop()
	return c.Watch(ctx, 2*time.Millisecond, 700*time.Millisecond, nil, func(m link.Moment) bool {
		each(i, m)
		i++
		return i < n
	})
}

func served(t *testing.T, d *stand.Drive) string {
	t.Helper()
	if err := d.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = d.Stop() })
	return d.Address()
}

// What a running drive gives comes back in engineering units to one count, in every family, whichever way its words and bytes go, and
// whichever setting a share is of.
func TestActualFiguresOfEveryFamily(t *testing.T) {
	is := stand.Figures{Speed: -1452, Frequency: -49.87, Current: 12.3, Torque: -31.4, Link: 562}
	by := map[string]float64{"speed": is.Speed, "frequency": is.Frequency, "current": is.Current, "torque": is.Torque, "link": is.Link}
	for _, name := range familyfile.Names() {
		d, f := standIn(t, name)
		if len(f.Link.Actuals) < 3 {
			t.Fatalf("%s gives %d figures", name, len(f.Link.Actuals))
		}
		d.SetFigures(is)
		d.SetRunning(true)
		c := dial(t, d.Address(), f)
		last := -1.
		err := watch(t, c, 5, func(_ int, m link.Moment) {
			if m.Missed || m.Standstill || m.T <= last {
				t.Errorf("%s: %+v after %g", name, m, last)
			}
			last = m.T
			for i, a := range f.Link.Actuals {
				if got, want := m.Figures[i], by[a.What]; math.Abs(got-want) > .01*math.Abs(want) {
					t.Errorf("%s %s: got %g %s, want %g", name, a.What, got, dialect.ActualUnits[a.What][0], want)
				}
			}
		})
		if err != nil || last < 0 {
			t.Errorf("%s: %v", name, err)
		}
		if d.Writes() != 0 {
			t.Errorf("%s: watching wrote", name)
		}
	}
	// The whole of a share is what the drive holds, not what is planned.
	d, f := standIn(t, "Voe")
	d.SetFigures(is)
	if err := d.Set("6075h:00", "24600"); err != nil {
		t.Fatal(err)
	}
	_ = watch(t, dial(t, d.Address(), f), 1, func(_ int, m link.Moment) {
		if math.Abs(m.Figures[1]-is.Current) > .0246/2+1e-9 {
			t.Errorf("of 24.6 A: got %g A", m.Figures[1])
		}
	})
}

// Answers that are lost are gaps, and the watch goes on; a drive that stays away ends it.
func TestWatchingGoesOnAfterLostAnswers(t *testing.T) {
	d, f := standIn(t, "Tarn")
	d.SetFigures(stand.Figures{Frequency: 25})
	b := spoiled(t, d.Address(), func(n int64, a []byte) []byte {
		if n == 4 || n == 7 {
			return nil
		}
		return a
	})
	missed, had := 0, 0
	if err := watch(t, dial(t, b.addr, f), 10, func(_ int, m link.Moment) {
		switch {
		case m.Missed && math.IsNaN(m.Figures[0]):
			missed++
		case !m.Missed && m.Figures[0] == 25:
			had++
		default:
			t.Errorf("%+v", m)
		}
	}); err != nil || missed != 2 || had != 8 {
		t.Errorf("%d missed, %d had, %v", missed, had, err)
	}
	c := dial(t, d.Address(), f)
	n := 0
	err := watch(t, c, 1000, func(i int, m link.Moment) {
		if i == 2 {
			_ = d.Stop()
		}
		if !m.Missed {
			n++
		}
	})
	if err == nil || !strings.Contains(err.Error(), "not answered") || n < 3 {
		t.Errorf("%d moments, %v", n, err)
	}
}

// A gateway that gives old values, a drive that restarts, and a family without such registers are said.
func TestWatchingRefusesOldAnswers(t *testing.T) {
	f := familyfile.Find("Brae")
	old := stand.New(f)
	old.Stale = true
	err := watch(t, dial(t, served(t, old), f), 1000, func(_ int, m link.Moment) { time.Sleep(20 * time.Millisecond) })
	if err == nil || !strings.Contains(err.Error(), "old values") {
		t.Errorf("%v", err)
	}
	away := stand.New(f)
	c := dial(t, served(t, away), f)
	time.Sleep(4 * time.Second) // its counter must be far enough from zero for a restart to show
	err = watch(t, c, 1000, func(i int, m link.Moment) {
		if i == 3 {
			if err := away.Reboot(0); err != nil {
				t.Error(err)
			}
		}
	})
	if err == nil || !strings.Contains(err.Error(), "restarted") {
		t.Errorf("%v", err)
	}
	bare := *f
	bare.Link.Actuals = nil
	if err := watch(t, dial(t, served(t, stand.New(f)), &bare), 1, func(int, link.Moment) {}); err == nil ||
		!strings.Contains(err.Error(), "no registers of actual figures") {
		t.Errorf("%v", err)
	}
}
