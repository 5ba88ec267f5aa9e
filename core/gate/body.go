package gate

import (
	"fmt"
	"slices"
	"strings"

	"tingate/core/dialect"
)

// keyOf makes a name of a family's file part of a check's key.
func keyOf(name string) string {
	return strings.Map(func(r rune) rune {
		if r == ' ' || r == '/' {
			return '-'
		}
		return r
	}, strings.ToLower(name))
}

// body is how this drive's frame is lifted, fixed and opened; nil when its size or its family's file does not say.
func (f *Facts) body() *dialect.Body {
	s := f.site()
	if f.job.Family == nil || !s.Known {
		return nil
	}
	return f.job.Family.BodyOf(s.Size.Frame)
}

// lifted asks how the drive is lifted and what it is drilled by.
func (g *powerGate) lifted(b *dialect.Body) {
	if b == nil {
		return
	}
	if b.Mass > 0 || b.Lift != "" {
		title := "Lifted"
		if b.Mass > 0 {
			title += fmt.Sprintf(" as %s kg want it", f4(b.Mass))
		}
		if b.Lift != "" {
			title += ": " + b.Lift
		}
		g.confirm(Check{Key: "power/body/lift", Group: "Mounting", Title: title, Work: Dead,
			Basis:  map[string]string{"frame": b.Frame, "kg": f4(b.Mass)},
			Detail: "A dropped drive is not used, whatever it looks like."}, true)
	}
	if holes := b.Holes(); holes != nil {
		title := fmt.Sprintf("Drilled by its pattern: %d × %s, %s mm apart", len(holes), b.Hole, f4(b.Up))
		if b.Across > 0 {
			title = fmt.Sprintf("Drilled by its pattern: %d × %s, %s by %s mm", len(holes), b.Hole, f4(b.Across), f4(b.Up))
		}
		detail := "The pattern prints 1:1; its bar is measured before a centre is punched."
		if b.Fixed == "rail" || b.Fixed == "either" {
			detail += " Or on a rail."
		}
		g.confirm(Check{Key: "power/body/holes", Group: "Mounting", Title: title, Detail: detail, Work: Dead,
			Basis: map[string]string{"frame": b.Frame, "holes": fmt.Sprintf("%s %s %s", b.Hole, f4(b.Across), f4(b.Up))}}, true)
	}
}

// opened asks for the covers that come off before the power terminals, in their order.
func (g *powerGate) opened(b *dialect.Body) {
	if b == nil {
		return
	}
	for _, c := range b.Covers {
		if c.Off == "power" {
			g.confirm(Check{Key: "power/body/off-" + keyOf(c.Name), Group: "Covers", Title: "Off before the power terminals: " + c.Name,
				Detail: c.How, Work: Dead, Basis: coverBasis(b, c)}, true)
		}
	}
}

// closed asks for what goes back before control wiring, the other way round.
func (g *powerGate) closed(b *dialect.Body) {
	if b == nil {
		return
	}
	for _, c := range slices.Backward(b.Covers) {
		if c.Back == "control" {
			g.confirm(Check{Key: "power/body/back-" + keyOf(c.Name), Group: "Looked over", Title: "Back before control wiring: " + c.Name,
				Detail: "Control wiring is landed with the power terminals covered.", Work: Dead, Basis: coverBasis(b, c)}, true)
		}
	}
}

// coverBasis is what a look at a cover rests on: another version of the family may say it otherwise.
func coverBasis(b *dialect.Body, c dialect.Cover) map[string]string {
	return map[string]string{"frame": b.Frame, "how": c.How}
}

// onePhase names the two terminals that take one phase, and what stays empty.
func onePhase(b *dialect.Body) (title string) {
	if b == nil || len(b.OnePhase) != 2 {
		return "Line and neutral on the two terminals that the manual names, not any two"
	}
	title = fmt.Sprintf("Line and neutral on %s and %s, not any two", b.OnePhase[0], b.OnePhase[1])
	if len(b.Empty) > 0 {
		title += "; " + strings.Join(b.Empty, ", ") + " stays empty"
	}
	return title
}

// coversBack are the covers that go back before the supply comes, the last that came off first.
func (g *wakeGate) coversBack() (l []look) {
	b := g.body()
	if b == nil {
		return nil
	}
	for _, c := range slices.Backward(b.Covers) {
		if c.Back == "supply" {
			l = append(l, look{"cover-" + keyOf(c.Name), "Back: " + c.Name, c.How})
		}
	}
	return l
}
