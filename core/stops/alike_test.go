package stops

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"tingate/core/circuit"
	"tingate/testtools/raced"
)

// What is taken to show the same in a test does so when each is played by itself: every fault of circuits of all kinds, in every test.
func TestWhatIsAlikeShowsTheSame(t *testing.T) {
	rng := rand.New(rand.NewPCG(19, 13849))
	pick := func(l ...string) string { return l[rng.IntN(len(l))] }
	played, saved, across := 0, 0, 0
	circuits, least := 14, 50_000
	if raced.On { // it is made side by side, and that is looked at with a few
		circuits, least = 2, 100
	}
	for n := range circuits {
		s := Spec{Kind: pick("two-channel", "one-channel", "controller"), Lamps: pick("none", "two", "three"), Strip: n%2 == 0,
			Contactors: rng.IntN(3), Status: n%3 == 0, Jumper: n%5 == 0, Fuse: n%4 == 1, Interlock: n%4 == 2, Aux: rng.IntN(2)}
		for i := range 1 + rng.IntN(3) {
			s.Devices = append(s.Devices, SpecDevice{ID: fmt.Sprintf("S%d", i+1), Kind: pick("", EmergencyStop, Guard, "light-curtain")})
		}
		p, errs := Compile(Draft(s))
		if p == nil || len(errs) > 0 {
			continue
		}
		table, err := p.Table()
		if err != nil {
			continue
		}
		faults, of, err := p.formsOf(table, nil)
		if err != nil {
			t.Fatal(err)
		}
		var list []int
		plays := make([]*play, len(of))
		for i := range of {
			list = append(list, i)
			if plays[i], err = p.begin(mistakes(faults, i)); err != nil {
				t.Fatal(err)
			}
		}
		known := map[string]string{}
		for k := range table {
			groups, keys := p.alike(&table[k], list, of)
			for g, l := range groups {
				first := plays[l[0]].row(&table[k])
				if other, ok := known[keys[g]]; ok && other != first {
					t.Fatalf("%+v, %s: %v is taken to show what was shown in another test: %q, %q", s, table[k].Key, mistakes(faults, l[0]),
						first, other)
				} else if ok {
					across++
				}
				known[keys[g]] = first
				for _, i := range l[1:] {
					played++
					if row := plays[i].row(&table[k]); row != first {
						t.Fatalf("%+v, %s: %v and %v are taken to show the same: %q, %q", s, table[k].Key, mistakes(faults, l[0]),
							mistakes(faults, i), first, row)
					}
				}
				saved += len(l) - 1
			}
		}
	}
	if t.Logf("%d plays compared, %d across tests", played, across); played < least || across < least/50 || saved != played {
		t.Errorf("only %d plays could be saved", played)
	}
}

// Contacts in a row are one contact, a wire that leads nowhere is none; what stands between a load and a source stays.
func TestAnOutlineTellsWhatLoadsCanTell(t *testing.T) {
	p := compiled(t, TwoChannel(4))
	all := circuit.ContactsOf(p.contacts + len(p.Net.Circuit.Wires))
	for i := range p.contacts + len(p.Net.Circuit.Wires) {
		all.Put(i, true)
	}
	text := func(m ...circuit.Mistake) string {
		return string(p.with(m).net.OutlineOf(nil).When(all, nil, &circuit.Workspace{}))
	}
	open := func(id string) string { return text(circuit.Mistake{Kind: circuit.Open, Wire: id}) }
	sound := text()
	first, others := "", 0
	for _, w := range p.Net.Circuit.Wires {
		if o := open(w.ID); o == sound {
			t.Errorf("wire %s may be open, and nothing is seen of it", w.ID)
		} else if first == "" {
			first = o
		} else if o == first {
			others++
		}
	}
	if others < 2 {
		t.Errorf("%d further wires of a channel are as the first when they are open", others)
	}
}
