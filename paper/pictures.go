package paper

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // photos are kept as they came
	"strings"

	"golang.org/x/image/draw"

	"tingate/formats/pdf"
)

// Pictures of a record: as large on paper, dots wide.
const (
	thumbnail  = 320
	mostPixels = 24_000_000 // of a photo that is made small; larger ones are named only
)

// keptFiles lists what is kept with a drive, and makes its photos small.
func (h Head) keptFiles(file func(sha256 string) []byte) (pdf.Table, []pdf.Picture) {
	t := pdf.Table{Title: "Photos, papers, runs", Head: []string{"of", "file", "SHA-256, from its beginning", "who, when"},
		Widths: []float64{32, 64, 56, 28}}
	var pictures []pdf.Picture
	for _, a := range h.State.Attachments {
		of := strings.ReplaceAll(a.Of, "-", " ")
		t.Rows = append(t.Rows, []string{of, fmt.Sprintf("%s, %d kB", a.Name, (a.Size+999)/1000), a.SHA256[:min(len(a.SHA256), 24)],
			h.signed(a.By, a.At)})
		if !strings.HasPrefix(a.Type, "image/") {
			continue
		}
		if b := small(file(a.SHA256)); b != nil {
			pictures = append(pictures, pdf.Picture{Title: of + ": " + a.Name, JPEG: b})
		}
	}
	return t, pictures
}

// small is a photo of at most so many dots; nil when it is none that can be read.
func small(raw []byte) []byte {
	c, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil || c.Width < 1 || c.Height < 1 || c.Width*c.Height > mostPixels {
		return nil
	}
	img, _, err := image.Decode(bytes.NewReader(raw))
	if err != nil {
		return nil
	}
	k := min(1, float64(thumbnail)/float64(max(c.Width, c.Height)))
	out := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(c.Width)*k)), max(1, int(float64(c.Height)*k))))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(out, out.Bounds(), img, img.Bounds(), draw.Over, nil)
	var b bytes.Buffer
	if jpeg.Encode(&b, out, &jpeg.Options{Quality: 75}) != nil {
		return nil
	}
	return b.Bytes()
}
