package pdf

import (
	"bytes"
	"fmt"
	"math"
	"time"

	"codeberg.org/go-pdf/fpdf"
)

// Holes is a hole pattern at its true size, with a bar by which a person measures that it was printed so.
type Holes struct {
	Title, Banner string
	Made          time.Time
	At            [][2]float64 // mm from the first, to the right and down
	Hole          string       // like M5
	Width, Height float64      // of the body around them, mm; 0: not known
}

// TooLargeError says that a pattern fits no sheet that can be printed here.
type TooLargeError struct{ Across, Up float64 }

func (e TooLargeError) Error() string {
	return fmt.Sprintf("holes %g by %g mm apart do not fit on A3: mark them by measuring", e.Across, e.Up)
}

const barLength = 100.0 // mm

// Write prints the pattern on A4, or on A3 where it does not fit there.
func (h Holes) Write() ([]byte, error) {
	var across, up float64
	for _, p := range h.At {
		across, up = max(across, p[0]), max(up, p[1])
	}
	wide, high := max(across, h.Width, barLength), max(up, h.Height)
	size, w, tall := "A4", 210.0, 297.0
	if wide > 180 || high > 240 {
		size, w, tall = "A3", 297, 420
	}
	if wide > w-30 || high > tall-57 || len(h.At) == 0 {
		return nil, TooLargeError{across, up}
	}
	p := begun(size, h.Title, h.Made)
	p.SetAutoPageBreak(false, 0)
	p.AddPage()
	if h.Banner != "" {
		banner(p, h.Banner)
	}
	p.SetXY(left, 14)
	p.SetFont("go", "B", 13)
	p.CellFormat(w-2*left, 6, h.Title, "", 1, "L", false, 0, "")
	p.SetFont("go", "", 9)
	p.CellFormat(w-2*left, 5, fmt.Sprintf("%d × %s · print at 100 %%, never “to fit” · measure the bar below: %g mm, or this sheet is not "+
		"used",
		len(h.At), h.Hole, barLength), "", 1, "L", false, 0, "")
	x0, y0 := (w-across)/2, 40+(high-up)/2
	if h.Width > 0 && h.Height > 0 {
		p.SetDrawColor(150, 158, 153)
		p.SetDashPattern([]float64{2, 1.5}, 0)
		p.Rect((w-h.Width)/2, 40+(high-h.Height)/2, h.Width, h.Height, "D")
		p.SetDashPattern(nil, 0)
	}
	p.SetDrawColor(0, 0, 0)
	p.SetLineWidth(.2)
	for i, at := range h.At {
		x, y := x0+at[0], y0+at[1]
		p.Line(x-7, y, x+7, y)
		p.Line(x, y-7, x, y+7)
		p.Circle(x, y, 2.5, "D")
		p.SetXY(x+3, y+1)
		p.SetFont("go", "", 7)
		p.CellFormat(20, 4, fmt.Sprintf("%d", i+1), "", 0, "L", false, 0, "")
	}
	h.bar(p, (w-barLength)/2, tall-16)
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// bar is what is measured before the sheet is used.
func (h Holes) bar(p *fpdf.Fpdf, x, y float64) {
	p.SetLineWidth(.3)
	p.Line(x, y, x+barLength, y)
	for mm := 0.0; mm <= barLength; mm += 10 {
		tick := 2.0
		if math.Mod(mm, 50) == 0 {
			tick = 4
		}
		p.Line(x+mm, y-tick, x+mm, y)
	}
	p.SetXY(x, y+.5)
	p.SetFont("go", "", 8)
	p.CellFormat(barLength, 4, fmt.Sprintf("%g mm", barLength), "", 0, "C", false, 0, "")
}
