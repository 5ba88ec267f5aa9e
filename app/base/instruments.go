package base

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
)

// rangeOf is how a range is written behind a meter's number: 1000 V DC, auto AC+DC, AC.
var rangeOf = regexp.MustCompile(`^(?:(?:\d+(?:[.,]\d+)? ?m?V|auto) )?(AC\+DC|AC|DC)$`)

// InstrumentOf finds an instrument of a place by the number on it.
func InstrumentOf(p drivefile.Place, number string) (id string, m drivefile.Instrument, ok bool) {
	plain := func(t string) string { return strings.ToLower(strings.Join(strings.Fields(t), " ")) }
	for _, id := range slices.Sorted(maps.Keys(p.Instruments)) {
		if m := p.Instruments[id]; number != "" && plain(m.Number) == plain(number) {
			return id, m, true
		}
	}
	return "", m, false
}

// WithInstrument turns "M3, 1000 V DC" into what is known of it: which instrument of the place, on which kind of voltage. One whose number
// is not known at the place stays as the text that it is, and proves nothing dead. One that does not measure what is asked is refused.
func WithInstrument(p drivefile.Place, c *gate.Check, ev *drivefile.Evidence) error {
	if ev.Instrument == record.OnBench {
		if p.Kind != drivefile.Simulated {
			return Refuse(p.Name + " is a real place: what the bench shows proves nothing of its machine.")
		}
		return nil
	}
	number, rest, _ := strings.Cut(ev.Instrument, ",")
	id, m, ok := InstrumentOf(p, strings.TrimSpace(number))
	if !ok {
		return nil
	}
	if c.Role != "" && m.Role != c.Role {
		return Bad("with", m.Number+", "+strings.ReplaceAll(OrBlank(m.Role), "-", " "),
			"a "+strings.ReplaceAll(c.Role, "-", " ")+": this is measured in "+c.Unit)
	}
	ev.Meter = id
	if rest = strings.TrimSpace(rest); rest == "" || m.Role != drivefile.RoleMeter {
		return nil
	}
	found := rangeOf.FindStringSubmatch(rest)
	if found == nil {
		return Bad("with", ev.Instrument, "the meter's number and its range: "+m.Number+", 1000 V DC; or "+m.Number+", auto AC+DC")
	}
	on := found[1]
	if !has(m.Measures, on) {
		return Bad("with", ev.Instrument, fmt.Sprintf("a range that %s has: it measures %s", m.Number, measuresWords[m.Measures]))
	}
	ev.On = on
	return nil
}

var measuresWords = map[string]string{"ac": "AC", "dc": "DC", "ac-and-dc": "AC and DC, each on a range of its own",
	"automatic": "AC and DC, and finds out which", "": "what is not entered at the place yet"}

// has tells whether a meter that measures so can stand on a kind of voltage.
func has(measures, on string) bool {
	switch measures {
	case "ac":
		return on == "AC"
	case "dc":
		return on == "DC"
	case "ac-and-dc":
		return on == "AC" || on == "DC"
	}
	return measures == "automatic"
}
