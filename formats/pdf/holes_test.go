package pdf

import (
	"bytes"
	"compress/zlib"
	"errors"
	"io"
	"math"
	"regexp"
	"strconv"
	"testing"
	"time"
)

// drawn are the drawing commands of a page's stream.
func drawn(t *testing.T, raw []byte) string {
	t.Helper()
	var out bytes.Buffer
	for _, part := range bytes.Split(raw, []byte("stream\n"))[1:] {
		r, err := zlib.NewReader(bytes.NewReader(part))
		if err != nil {
			continue
		}
		b, _ := io.ReadAll(r) //nolint:errcheck // a font's stream may end otherwise
		if bytes.Contains(b, []byte(" l S")) {
			out.Write(b)
		}
	}
	return out.String()
}

// A pattern lies on its sheet at its true size: lines are measured in the file itself, 72 points an inch, 25.4 mm (ISO 32000-1, 8.3.2.3).
func TestHolesAreDrawnAtTheirSize(t *testing.T) {
	h := Holes{Title: "WN-01 frame F3", Made: time.Date(2026, 12, 1, 10, 0, 0, 0, time.UTC), Hole: "M6", Width: 190, Height: 330,
		At: [][2]float64{{0, 0}, {160, 0}, {0, 314}, {160, 314}}}
	raw, err := h.Write()
	if err != nil {
		t.Fatal(err)
	}
	again, _ := h.Write()
	if !bytes.Equal(raw, again) {
		t.Error("printed twice, and not the same")
	}
	if !bytes.Contains(raw, []byte("841.89 1190.55")) {
		t.Error("190 by 330 mm is printed on A3")
	}
	line := regexp.MustCompile(`([\d.]+) ([\d.]+) m ([\d.]+) ([\d.]+) l S`)
	mm := func(t string) float64 { v, _ := strconv.ParseFloat(t, 64); return v * 25.4 / 72 }
	var crosses [][2]float64
	bar := false
	for _, m := range line.FindAllStringSubmatch(drawn(t, raw), -1) {
		x1, y1, x2, y2 := mm(m[1]), mm(m[2]), mm(m[3]), mm(m[4])
		if math.Abs(y1-y2) < .01 && math.Abs(x2-x1-14) < .02 {
			crosses = append(crosses, [2]float64{(x1 + x2) / 2, 420 - y1})
		}
		bar = bar || math.Abs(y1-y2) < .01 && math.Abs(x2-x1-100) < .02
	}
	if len(crosses) != 4 || !bar {
		t.Fatalf("%d holes, bar of 100 mm: %v", len(crosses), bar)
	}
	for i, c := range crosses {
		if dx, dy := c[0]-crosses[0][0]-h.At[i][0], c[1]-crosses[0][1]-h.At[i][1]; math.Abs(dx) > .05 || math.Abs(dy) > .05 {
			t.Errorf("hole %d is off by %.2f and %.2f mm", i+1, dx, dy)
		}
	}
	small := h
	small.Width, small.Height, small.At = 75, 165, [][2]float64{{0, 0}, {0, 150}}
	if raw, err = small.Write(); err != nil || !bytes.Contains(raw, []byte("595.28 841.89")) {
		t.Errorf("75 by 165 mm is printed on A4: %v", err)
	}
	h.At = [][2]float64{{0, 0}, {500, 900}}
	if _, err = h.Write(); !errors.As(err, &TooLargeError{}) {
		t.Errorf("half a metre by one: %v", err)
	}
}
