package gate

import (
	"fmt"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/wiring"
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

// slotKey is the check in which somebody says what is in a slot.
func slotKey(slot string) string { return "match/slot/" + keyOf(slot) }

// slots asks what is in each slot, where the family's file tells by what a module is known.
func (g *matchGate) slots() {
	f := g.job.Family
	if f == nil {
		return
	}
	twice := map[string]string{}
	for _, s := range f.Slots {
		options := []Option{{"empty", "empty", ""}}
		told := false
		for _, m := range f.Modules {
			if slices.Contains(s.Takes, m.Code) {
				options = append(options, Option{m.Code, m.Code + ", " + m.Name, m.Gives})
				told = told || m.Proves != ""
			}
		}
		if !told {
			continue
		}
		options = append(options, Option{"other", "something else",
			"Look it up before power comes: a module that the drive does not know may hold it in a fault."})
		c := Check{Key: slotKey(s.Name), Group: "What arrived", Title: "In slot " + s.Name, Work: Either, Basis: g.slotBasis()}
		got := g.choose(c, options, true)
		if at := twice[got]; at != "" && got != "empty" && got != "other" {
			g.again(c.Key, got+" is said to be in slot "+at+" too: a drive knows one of a kind. Look again.")
		}
		twice[got] = s.Name
		if got == "other" {
			g.again(c.Key, "Look it up: what it is, and whether this drive takes it.")
		}
	}
	g.encoderModule()
}

// slotBasis is what a look into a slot rests on, beside the drive itself.
func (f *Facts) slotBasis() map[string]string {
	return map[string]string{"family": f.job.Family.Name, "type": f.job.Drive.Rating.Type}
}

// inSlot is what somebody has seen in a slot of this drive; empty: nobody has looked, or it was another drive.
func (f *Facts) inSlot(slot string) string {
	ev := f.rec.Evidence[slotKey(slot)]
	if ok, _ := f.rec.Machines.Stands(f.rec.Machines.BasisFor("match", slotKey(slot), f.slotBasis()), ev); !ok {
		return ""
	}
	return ev.Value
}

// fitted are the modules that somebody has seen in the drive, with their slots.
func (f *Facts) fitted() (slots []string, modules []dialect.Module) {
	if f.job.Family == nil {
		return nil, nil
	}
	for _, s := range f.job.Family.Slots {
		got := f.inSlot(s.Name)
		for _, m := range f.job.Family.Modules {
			if m.Code == got && m.Proves != "" {
				slots, modules = append(slots, s.Name), append(modules, m)
			}
		}
	}
	return slots, modules
}

// encoderModule misses the module that an encoder goes to, once every slot was looked into.
func (g *matchGate) encoderModule() {
	f := g.job.Family
	m, ok := f.EncoderModule()
	own := slices.ContainsFunc(f.Terminals, func(t dialect.Terminal) bool { return t.Kind == "encoder" })
	if !ok || m.Proves == "" || own || g.job.Drive.Site.Encoder != "wanted" {
		return
	}
	seen := ""
	for _, s := range f.Slots {
		got := g.inSlot(s.Name)
		if got == m.Code || got == "" && slices.Contains(s.Takes, m.Code) {
			return
		}
		seen += s.Name + " " + got + " "
	}
	g.finding("match", finding.Finding{Code: "encoder-module-missing", Severity: finding.Stop, Field: "site.encoder",
		Title:  "An encoder is wanted, and its module is not there",
		Detail: fmt.Sprintf("%s, %s, is in no slot: %s.", m.Code, m.Name, strings.TrimSpace(seen)),
		Action: "Fit it, or work without an encoder"}, map[string]string{"slots": seen})
}

// lost finds wires on terminals that a fitted module takes away.
func (g *controlGate) lost() {
	slots, modules := g.fitted()
	for i, m := range modules {
		for _, r := range g.wiring.Rows {
			for _, end := range []string{r.From, r.To} {
				terminal, ours := strings.CutPrefix(end, wiring.Drive+":")
				if !ours || !slices.Contains(m.TakesAway, terminal) {
					continue
				}
				g.finding("control", finding.Finding{Code: "terminal-taken/" + keyOf(terminal), Severity: finding.Stop, Field: "wiring",
					Title: fmt.Sprintf("Terminal %s does nothing with %s in slot %s", terminal, m.Code, slots[i]),
					Detail: fmt.Sprintf("The module takes it away; wire %s goes to it: what it is to do does not happen, and nothing "+
						"tells.",
						r.ID), Action: "Another terminal, or another module"},
					map[string]string{"module": m.Code, "terminal": terminal, "wire": r.ID})
			}
		}
	}
}

// known asks for what shows that the drive knows each module in it.
func (g *wakeGate) known(live bool, on string) {
	slots, modules := g.fitted()
	for i, m := range modules {
		detail := on
		if m.Address != "" && live {
			detail = "Its address stands in " + m.Address + "."
		}
		g.confirm(Check{Key: "wake/module/" + keyOf(slots[i]), Group: "The drive", Title: fmt.Sprintf("It knows %s in slot %s: %s", m.Code,
			slots[i], m.Proves), Detail: detail, Work: Live, Basis: map[string]string{"module": m.Code}}, live)
	}
}
