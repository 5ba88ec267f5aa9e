package gate

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/translate"
	"tingate/core/wiring"
)

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
	g.modules()
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

// modules holds the modules that are meant to be in the drive against the family, its slots, and what was seen in them.
func (g *matchGate) modules() {
	f, wanted := g.job.Family, translate.Modules(g.job.Family, g.job.Drive)
	basis := map[string]string{"modules": g.job.Drive.Wiring.Modules, "encoder": g.job.Drive.Site.Encoder, "family": f.Name}
	if _, unknown := f.ModulesOf(g.job.Drive.Wiring.Modules); unknown != nil {
		var has []string
		for _, m := range f.Modules {
			has = append(has, m.Code)
		}
		g.finding("match", finding.Finding{Code: "module-unknown", Severity: finding.Stop, Field: "wiring.modules",
			Title:  fmt.Sprintf("%s is no module of %s", strings.Join(unknown, ", "), f.Name),
			Detail: "It has " + cmp.Or(strings.Join(has, ", "), "none") + ".", Action: "Choose another, or another family"}, basis)
	}
	if _, fits := f.Seats(wanted); !fits {
		var codes []string
		for _, m := range wanted {
			codes = append(codes, m.Code)
		}
		g.finding("match", finding.Finding{Code: "slot-taken-twice", Severity: finding.Stop, Field: "wiring.modules",
			Title:  strings.Join(codes, " and ") + " do not fit into the slots together",
			Detail: "Two of them need the same slot, or there is none for one.", Action: "Another module, or another drive"}, basis)
	}
	for _, m := range wanted {
		g.missing(m)
	}
	g.uncounted(wanted)
}

// missing misses a module that is meant to be in the drive, once every slot that could hold it was looked into.
func (g *matchGate) missing(m dialect.Module) {
	if m.Proves == "" {
		return // its slots are not asked for
	}
	var seen []string
	for _, s := range g.job.Family.Slots {
		got := g.inSlot(s.Name)
		if got == m.Code || got == "" && slices.Contains(s.Takes, m.Code) {
			return
		}
		seen = append(seen, s.Name+" "+got)
	}
	f := finding.Finding{Code: "module-missing/" + keyOf(m.Code), Severity: finding.Stop, Field: "wiring.modules",
		Title:  fmt.Sprintf("%s, %s, is meant to be in it, and is in no slot", m.Code, m.Name),
		Detail: "Seen: " + strings.Join(seen, ", ") + ".", Action: "Fit it, or do without it"}
	if m.Kind == "encoder" && g.job.Drive.Site.Encoder == "wanted" {
		f.Code, f.Field, f.Title = "encoder-module-missing", "site.encoder", "An encoder is wanted, and its module is not there"
		f.Detail, f.Action = fmt.Sprintf("%s, %s, is in no slot. %s", m.Code, m.Name, f.Detail), "Fit it, or work without an encoder"
	}
	g.finding("match", f, map[string]string{"slots": strings.Join(seen, " ")})
}

// uncounted finds modules in the drive whose terminals nobody counts on: the list of wires is made without them.
func (g *matchGate) uncounted(wanted []dialect.Module) {
	slots, modules := g.fitted()
	for i, m := range modules {
		if len(m.Terminals)+len(m.TakesAway) == 0 || slices.ContainsFunc(wanted, func(x dialect.Module) bool { return x.Code == m.Code }) {
			continue
		}
		g.finding("match", finding.Finding{Code: "module-not-counted/" + keyOf(m.Code), Severity: finding.Look, Field: "wiring.modules",
			Title:  fmt.Sprintf("%s is in slot %s, and the list of wires is made without it", m.Code, slots[i]),
			Detail: "Its terminals are given nothing; what it takes away is still counted on.",
			Action: "Choose it under Modules in it, or keep it with a reason"}, map[string]string{"slot": slots[i], "module": m.Code})
	}
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
