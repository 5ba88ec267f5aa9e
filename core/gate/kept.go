package gate

import (
	"fmt"
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
	var order []string
	open := map[string]string{} // code: how it was set last, while that is not kept
	out := &Unkept{Lost: []string{}, Waiting: []string{}}
	any := false
	put := func(code, how string, kept bool, en drivefile.Entry) {
		any = true
		if store != nil && code == store.Code {
			if kept {
				for c, how := range open {
					if how == dialect.KeptOnCommand {
						delete(open, c)
					}
				}
				out.By, out.At = en.By, en.At
			}
			return
		}
		order = append(order, code)
		if open[code] = how; how == "" {
			delete(open, code)
		}
	}
	for _, en := range f.job.Entries {
		switch en.Kind {
		case drivefile.EntryEntered:
			if b, ok := drivefile.Contents[drivefile.Entered](en); ok && f.rec.Machines.Read(b.Serial) {
				put(b.Code, k.Keypad, b.Steps == steps, en)
			}
		case drivefile.EntryWrite:
			b, ok := drivefile.Contents[drivefile.Write](en)
			if ok && b.Outcome != drivefile.Begun && b.Outcome != drivefile.Refused && f.rec.Machines.Read(b.Serial) {
				put(b.Code, k.Link, b.Outcome == drivefile.Held, en)
			}
		}
	}
	if !any {
		return nil
	}
	said := map[string]bool{}
	for _, code := range order {
		switch how := open[code]; {
		case how == "" || said[code]:
		case how == dialect.NotKept:
			out.Lost = append(out.Lost, code)
		default:
			out.Waiting = append(out.Waiting, code)
		}
		said[code] = true
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
