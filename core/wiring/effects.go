package wiring

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"tingate/core/circuit"
)

// Input levels of IEC 61131-2, type 1, V at 24 V DC: on from 15, off to 5.
const (
	onVolts  = 15
	offVolts = 5
)

func level(v float64) string {
	switch v = math.Abs(v); {
	case math.IsNaN(v) || v <= offVolts:
		return "off"
	case v >= onVolts:
		return "on"
	}
	return fmt.Sprintf("not certain, %.3g V", v)
}

// Effects says in sentences what the drive would do were the circuit built otherwise: at rest, and with each contact of
// the field held. Empty when no input, lamp or supply would tell.
func (p Plan) Effects(built *circuit.Net) []string {
	if p.Net == nil || built == nil {
		return []string{}
	}
	out := []string{}
	seen := map[string]bool{}
	add := func(text string) {
		if !seen[text] {
			seen[text] = true
			out = append(out, text)
		}
	}
	for _, c := range append([]string{""}, p.contacts()...) {
		state, when := circuit.State{}, "At rest"
		if c != "" {
			state[c] = true
			part, _ := p.Circuit.Part(partOf(c))
			when = "With " + part.ID + " " + strings.ToLower(part.Name) + " worked"
		}
		drawn, now := p.Net.Solve(state), built.Solve(state)
		for _, short := range now.Shorts {
			add(when + ": " + short + " is shorted.")
		}
		a, b := drawn.Loads(), now.Loads()
		for _, name := range names(a, b) {
			was, is := level(a[name]), level(b[name])
			if was != is && watched(name) {
				add(fmt.Sprintf("%s: %s is %s, drawn %s.", when, p.says(name), is, was))
			}
		}
	}
	return out
}

// watched are loads that people see or the drive acts on; a transmitter's or potentiometer's own are not.
func watched(name string) bool { return !strings.HasPrefix(name, "R1.") }

func names(a, b map[string]float64) []string {
	all := map[string]bool{}
	for k := range a {
		all[k] = true
	}
	for k := range b {
		all[k] = true
	}
	l := make([]string, 0, len(all))
	for k := range all {
		l = append(l, k)
	}
	sort.Strings(l)
	return l
}

// says names a load as people know it: an input by its terminal and function, a lamp by its name.
func (p Plan) says(load string) string {
	part, name, _ := strings.Cut(load, ".")
	if part == Drive {
		for _, a := range p.Assigns {
			if a.Terminal == name {
				return "input " + name + " (" + a.Text + ")"
			}
		}
		return "terminal " + name
	}
	if x, ok := p.Circuit.Part(part); ok && x.Name != "" {
		return part + " " + strings.ToLower(x.Name)
	}
	return part
}

// contacts are those of the field, by part.contact.
func (p Plan) contacts() []string {
	var l []string
	for _, x := range p.Circuit.Parts {
		if x.ID == Drive {
			continue
		}
		seen := map[string]bool{}
		for _, c := range x.Contacts {
			if !seen[c.Name] {
				seen[c.Name] = true
				l = append(l, x.ID+"."+c.Name)
			}
		}
	}
	return l
}

// partOf is the part of a contact or load that is named part.contact.
func partOf(key string) string {
	id, _, _ := strings.Cut(key, ".")
	return id
}
