package signal

import (
	"testing"

	"tingate/testtools/check"
)

// Points measured at a drive's terminal against what is wanted there.
func TestMeasuredPoints(t *testing.T) {
	m, ok := Through([]Point{{0.07, 0}, {5.035, 900}, {10, 1800}}, .07, 10)
	if !ok {
		t.Fatal("no line")
	}
	check.Against(t, "0.07 to 10 V give 0 to 1800 r/min: at the top", "common practice", m.High, 1800, 1e-9)
	check.Against(t, "and at 0.07 V", "common practice", m.Low, 0, 1e-9)
	for want, points := range map[string][]Point{
		Fits: {{0, 5}, {10, 1450}}, Offset: {{0, 100}, {5, 827}, {10, 1555}}, Gain: {{0, 0}, {5, 640}, {10, 1280}},
		Both: {{0, 150}, {10, 1300}}, Inverted: {{0, 1455}, {10, 0}}, Bent: {{0, 0}, {5, 1200}, {10, 1455}},
	} {
		m, ok := Through(points, 0, 10)
		if got := m.Against(0, 1455, .02); !ok || got != want {
			t.Errorf("%v: %s, want %s", points, got, want)
		}
	}
	if _, ok := Through([]Point{{3, 1}, {3, 2}}, 0, 10); ok {
		t.Error("two points at one signal make no line")
	}
	if _, ok := Through([]Point{{3, 1}}, 0, 10); ok {
		t.Error("one point makes no line")
	}
}
