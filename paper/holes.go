package paper

import (
	"fmt"
	"strings"

	"tingate/core/dialect"
	"tingate/formats/pdf"
)

// Holes is the hole pattern of a drive's frame, at its true size.
func Holes(h Head, b dialect.Body) pdf.Holes {
	return pdf.Holes{Title: strings.TrimSpace(fmt.Sprintf("%s %s %s, frame %s", h.Drive.Tag, h.Drive.Rating.Dialect, h.Drive.Rating.Type,
		b.Frame)), Banner: Banner(h.Place), Made: h.Made, At: b.Holes(), Hole: b.Hole, Width: b.Width, Height: b.Height}
}
