package gate

import (
	"fmt"
	"maps"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
)

// Unkept is what the next power-off would take back, in a family that does not keep everything as it is entered.
type Unkept struct {
	Lost    []string `json:"lost" doc:"codes of settings that nothing keeps but the keypad"`
	Waiting []string `json:"waiting" doc:"codes of settings that a command would keep"`
	Setting string   `json:"setting,omitempty" doc:"code of the setting that keeps them"`
	Name    string   `json:"name,omitempty"`
	SetTo   string   `json:"set_to,omitempty"`
	Link    bool     `json:"link" doc:"it can be sent over the link"`
	By      string   `json:"by,omitempty" doc:"who kept them last"`
	At      string   `json:"at,omitempty"`
}

// put is one setting that was set in this drive: in a way that keeps it, keeps it on command, or never does.
type put struct {
	code, how string
	commands  bool // with the value, and the outcome, by which the setting that keeps everything does so
	entry     drivefile.Entry
}

// puts are all that were, in their order. steps is the value of the setting that keeps everything.
func (f *Facts) puts(k dialect.Kept, steps int64) (l []put) {
	for _, en := range f.rec.Standing {
		switch en.Kind {
		case drivefile.EntryEntered:
			if b, ok := drivefile.Contents[drivefile.Entered](en); ok && f.rec.Machines.Read(b.Serial) {
				l = append(l, put{b.Code, k.Keypad, b.Steps == steps, en})
			}
		case drivefile.EntryWrite:
			b, ok := drivefile.Contents[drivefile.Write](en)
			if ok && b.Outcome != drivefile.Begun && b.Outcome != drivefile.Refused && f.rec.Machines.Read(b.Serial) {
				l = append(l, put{b.Code, k.Link, b.Outcome == drivefile.Held && b.Asked == steps, en})
			}
		}
	}
	return l
}

// unkept goes through what was set on the keypad and written over the link in this drive, and what kept it; nil: the family keeps
// everything by itself, or nothing was set yet.
func (f *Facts) unkept() *Unkept {
	if f.job.Family == nil {
		return nil
	}
	k := f.job.Family.Kept
	if k.Keypad == "" && k.Link == "" {
		return nil
	}
	store, steps := f.job.Family.Keeps()
	puts := f.puts(k, steps)
	if len(puts) == 0 {
		return nil
	}
	out := &Unkept{Lost: []string{}, Waiting: []string{}}
	var order []string
	open := map[string]string{} // code: how it was set last, while that is not kept
	for _, p := range puts {
		switch {
		case store == nil || p.code != store.Code:
			order = append(order, p.code)
			open[p.code] = p.how
		case p.commands:
			maps.DeleteFunc(open, func(_, how string) bool { return how == dialect.KeptOnCommand })
			out.By, out.At = p.entry.By, p.entry.At
		}
	}
	for _, code := range order {
		if f.rec.Entered[code] == nil && f.rec.Written[code] == nil { // void by a return to delivery state
			continue
		}
		switch open[code] {
		case dialect.NotKept:
			out.Lost = append(out.Lost, code)
		case dialect.KeptOnCommand:
			out.Waiting = append(out.Waiting, code)
		}
		delete(open, code) // each once
	}
	if store != nil {
		out.Setting, out.Name, out.SetTo = store.Code, store.Name, store.WithUnit(steps)
		out.Link = store.Register != 0
	}
	return out
}

// kept asks that nothing is left which a power-off takes back.
func (g *keepGate) kept() {
	u := g.unkept()
	if u == nil {
		return
	}
	c := Check{Key: "keep/kept", Title: "Nothing set that a power-off takes back", Verdict: Holds, Work: Either, By: u.By, At: u.At}
	if len(u.Waiting) > 0 {
		c.Verdict = Again
		c.Detail = fmt.Sprintf("Set since everything was last kept: %s. Set %s, %s, to %s.", few(u.Waiting), u.Setting, u.Name, u.SetTo)
	}
	if len(u.Lost) > 0 {
		c.Verdict = Again
		c.Detail = strings.TrimSpace(
			c.Detail + fmt.Sprintf(" Written over the link, and lost at the next power-off: %s. Set them on the keypad.",
				few(u.Lost)),
		)
	}
	g.check(c)
}

// few are the first of some codes, and that there are more.
func few(codes []string) string {
	const most = 6
	if len(codes) > most {
		return strings.Join(codes[:most], ", ") + fmt.Sprintf(" and %d more", len(codes)-most)
	}
	return strings.Join(codes, ", ")
}
