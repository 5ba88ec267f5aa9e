package stops

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"tingate/core/circuit"
)

// AsMust is the answer to a test that showed at every step what it must.
const AsMust = "as it must"

// ReadShown reads the answer to a test: AsMust, or what was otherwise, like "step 4: K1 on, T1 running; step 6: H1 off". Up to the last
// step that is named everything else was as it must; what comes after it was not looked at.
func (p *Played) ReadShown(t Test, answer string) ([]Shown, error) {
	bad := func(got, want string) error { return &circuit.FieldError{Path: "value", Got: got, Want: want} }
	otherwise := map[int]Seen{}
	last := len(t.Steps) - 1
	if answer != AsMust {
		last = -1
		for _, s := range strings.Split(answer, ";") {
			head, rest, ok := strings.Cut(strings.TrimSpace(s), ":")
			n, err := strconv.Atoi(strings.TrimPrefix(head, "step "))
			if !ok || err != nil || n < 1 || n > len(t.Steps) {
				return nil, bad(s, fmt.Sprintf(`%s, or "step 1: part shows, part shows; step 2: …" with steps up to %d`, AsMust,
					len(t.Steps)))
			}
			last = max(last, n-1)
			if otherwise[n-1] == nil {
				otherwise[n-1] = Seen{}
			}
			for _, x := range strings.Split(rest, ",") {
				part, shows, _ := strings.Cut(strings.TrimSpace(x), " ")
				if _, ok := t.Steps[n-1].Must[part]; !ok || !p.canShow(part, shows) {
					return nil, bad(x, "a part of the circuit with what it can show, like K1 on")
				}
				otherwise[n-1][part] = shows
			}
		}
	}
	var out []Shown
	for k := 0; k <= last; k++ {
		seen := Seen{}
		for id, v := range t.Steps[k].Must {
			seen[id] = v
		}
		for id, v := range otherwise[k] {
			seen[id] = v
		}
		out = append(out, Shown{t.Key, k, seen})
	}
	return out, nil
}

// Answer is what a person would answer to a test of a circuit with faults: as it must, or what is otherwise at the first step that
// differs.
func (p *Played) Answer(t Test, faults []circuit.Mistake) (string, error) {
	r, err := p.begin(faults)
	if err != nil {
		return "", err
	}
	answer := AsMust
	err = r.run(t.Events, t.looks(), func(k int) bool {
		var l []string
		for i := range r.list {
			if x := &r.list[i]; t.Steps[k].Must[x.id] != x.shows() {
				l = append(l, x.id+" "+x.shows())
			}
		}
		if l != nil {
			answer = fmt.Sprintf("step %d: %s", k+1, strings.Join(l, ", "))
		}
		return l == nil
	})
	return answer, err
}

// Shows lists what a part can show.
func (p *Played) Shows(part string) []string {
	switch p.Devices[part].Does {
	case DriveInputs:
		return []string{"ready", "running", "torque-off", "discrepancy", "channel-fault", "reset-required", "restart-required",
			"internal-fault", "unpowered"}
	case Brake:
		return []string{"released", "applied"}
	}
	return []string{"on", "off"}
}

func (p *Played) canShow(part, shows string) bool {
	for _, s := range p.Shows(part) {
		if s == shows {
			return true
		}
	}
	return false
}

// Otherwise says in words what was shown against what must be, step by step; "" when nothing differs.
func (p *Played) Otherwise(t Test, shown []Shown) string {
	var l []string
	for _, s := range shown {
		var parts []string
		for id, v := range s.Seen {
			if want := t.Steps[s.Step].Must[id]; want != v {
				parts = append(parts, fmt.Sprintf("%s is %s, must be %s", p.Name(id), strings.ReplaceAll(v, "-", " "),
					strings.ReplaceAll(want, "-", " ")))
			}
		}
		sort.Strings(parts)
		if parts != nil {
			l = append(l, fmt.Sprintf("Step %d, %s: %s.", s.Step+1, t.Steps[s.Step].Do, strings.Join(parts, "; ")))
		}
	}
	return strings.Join(l, " ")
}
