// Package pdf prints records.
package pdf

import (
	"bytes"
	"fmt"
	"slices"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"
)

// Pair is a label with its value.
type Pair struct{ Label, Value string }

// Table is a titled table with widths in mm that add up to 180.
type Table struct {
	Title  string
	Note   string
	Head   []string
	Widths []float64
	Rows   [][]string
}

// Record is what a drive's record prints.
type Record struct {
	Title, Subtitle string
	Made            time.Time // stands in the file and on the page
	Foot            string
	Banner          string // across the top of every page; empty: none
	Facts           []Pair
	Tables          []Table
	Signatures      []string
	Pictures        []Picture // after the tables, small
}

// Picture is a photo made small, with what it is of.
type Picture struct {
	Title string
	JPEG  []byte
}

const (
	left  = 15.0
	width = 180.0
	line  = 5.0
)

// Write prints the record on A4.
func (r Record) Write() ([]byte, error) {
	p := begun("A4", r.Title, r.Made)
	p.SetAutoPageBreak(true, 18)
	p.AliasNbPages("")
	if r.Banner != "" {
		p.SetHeaderFunc(func() { banner(p, r.Banner) })
	}
	p.SetFooterFunc(func() {
		p.SetY(-13)
		p.SetFont("go", "", 7.5)
		p.SetTextColor(90, 100, 95)
		p.CellFormat(width-20, 4, r.Foot, "T", 0, "L", false, 0, "")
		p.CellFormat(20, 4, fmt.Sprintf("%d / {nb}", p.PageNo()), "T", 0, "R", false, 0, "")
	})
	p.AddPage()
	p.SetTextColor(23, 32, 29)
	p.SetFont("go", "B", 17)
	p.CellFormat(width, 8, r.Title, "", 1, "L", false, 0, "")
	p.SetFont("go", "", 10)
	p.CellFormat(width, 6, r.Subtitle, "", 1, "L", false, 0, "")
	p.Ln(2)
	for i, f := range r.Facts {
		p.SetFont("go", "", 8.5)
		p.SetTextColor(90, 100, 95)
		p.CellFormat(32, line, f.Label, "", 0, "L", false, 0, "")
		p.SetTextColor(23, 32, 29)
		p.SetFont("mono", "", 9)
		p.CellFormat(58, line, f.Value, "", i%2, "L", false, 0, "")
	}
	if len(r.Facts)%2 == 1 {
		p.Ln(line)
	}
	for _, t := range r.Tables {
		table(p, t)
	}
	pictures(p, r.Pictures)
	if len(r.Signatures) > 0 {
		if p.GetY() > 245 {
			p.AddPage()
		}
		p.Ln(12)
		w := width / float64(len(r.Signatures))
		for _, s := range r.Signatures {
			p.SetFont("go", "", 8.5)
			p.CellFormat(w-6, 5, s, "T", 0, "L", false, 0, "")
			p.CellFormat(6, 5, "", "", 0, "L", false, 0, "")
		}
	}
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), err
}

// begun is a paper of a size with its fonts and margins; made stands in it, so that it is the same from print to print.
func begun(size, title string, made time.Time) *fpdf.Fpdf {
	p := fpdf.New("P", "mm", size, "")
	p.SetCatalogSort(true)
	p.SetCreationDate(made)
	p.SetModificationDate(made)
	p.SetTitle(title, true)
	p.SetProducer("Tin Gate", true)
	// Its own copies: fpdf writes into the bytes of a font, and the next print would come out otherwise.
	p.AddUTF8FontFromBytes("go", "", slices.Clone(goregular.TTF))
	p.AddUTF8FontFromBytes("go", "B", slices.Clone(gobold.TTF))
	p.AddUTF8FontFromBytes("mono", "", slices.Clone(gomono.TTF))
	p.SetMargins(left, 14, left)
	return p
}

// banner is framed in dots, so that no page of a simulated place is taken for another.
func banner(p *fpdf.Fpdf, text string) {
	p.SetY(5)
	p.SetFont("go", "B", 9)
	p.SetTextColor(91, 43, 93)
	p.SetDrawColor(91, 43, 93)
	p.SetDashPattern([]float64{.6, 1.2}, 0)
	p.CellFormat(width, 6, text, "1", 1, "C", false, 0, "")
	p.SetDashPattern(nil, 0)
	p.SetDrawColor(0, 0, 0)
	p.SetTextColor(23, 32, 29)
	p.SetY(14)
}

func table(p *fpdf.Fpdf, t Table) {
	if p.GetY() > 255 {
		p.AddPage()
	}
	p.Ln(4)
	p.SetFont("go", "B", 11)
	p.CellFormat(width, 6, t.Title, "", 1, "L", false, 0, "")
	if t.Note != "" {
		p.SetFont("go", "", 8.5)
		p.MultiCell(width, 4.2, t.Note, "", "L", false)
	}
	head := func() {
		p.SetFont("go", "", 7.5)
		p.SetTextColor(90, 100, 95)
		for i, h := range t.Head {
			p.CellFormat(t.Widths[i], 5, h, "B", 0, "L", false, 0, "")
		}
		p.Ln(5)
		p.SetTextColor(23, 32, 29)
	}
	head()
	p.SetFont("go", "", 8.5)
	for _, row := range t.Rows {
		lines := make([][]string, len(row))
		high := 1
		for i, c := range row {
			lines[i] = p.SplitText(c, t.Widths[i]-2)
			high = max(high, len(lines[i]))
		}
		h := float64(high)*4.2 + 1
		if p.GetY()+h > 277 {
			p.AddPage()
			head()
			p.SetFont("go", "", 8.5)
		}
		x, y := p.GetX(), p.GetY()
		for i := range row {
			for k, s := range lines[i] {
				p.SetXY(x, y+.5+float64(k)*4.2)
				p.CellFormat(t.Widths[i], 4.2, s, "", 0, "L", false, 0, "")
			}
			x += t.Widths[i]
		}
		p.SetXY(left, y+h)
		p.SetDrawColor(200, 205, 200)
		p.Line(left, y+h, left+width, y+h)
		p.SetDrawColor(0, 0, 0)
	}
}

// pictures stand four in a row, each with what it is of.
func pictures(p *fpdf.Fpdf, list []Picture) {
	const wide, high, apart, row = 42.0, 42.0, 4.0, 4
	for i, x := range list {
		if i%row == 0 {
			if p.GetY()+high+8 > 270 {
				p.AddPage()
			}
			p.Ln(4)
		}
		name := fmt.Sprint("picture", i)
		info := p.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "JPG"}, bytes.NewReader(x.JPEG))
		if info == nil || p.Err() { // a photo that cannot be set is named in the table of files
			p.ClearError()
			continue
		}
		left, top := left+float64(i%row)*(wide+apart), p.GetY()
		w, h := wide, wide*info.Height()/info.Width()
		if h > high {
			w, h = high*info.Width()/info.Height(), high
		}
		p.ImageOptions(name, left, top, w, h, false, fpdf.ImageOptions{ImageType: "JPG"}, 0, "")
		p.SetFont("go", "", 7)
		p.SetXY(left, top+high+.5)
		p.CellFormat(wide, 3.5, p.SplitText(x.Title, wide)[0], "", 0, "L", false, 0, "")
		p.SetXY(15, top)
		if i%row == row-1 || i == len(list)-1 {
			p.SetXY(15, top+high+5)
		}
	}
}
