package lists

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/circuit"
	"tingate/core/gate"
	"tingate/formats/csvx"
)

// Wiring is a drive's connection list with what was landed, measured and found.
func (a *Lists) Wiring(ctx context.Context, driveID string) (gate.WiringState, error) {
	v, err := a.ViewOf(a.Store.Read(ctx), base.Actor{}, driveID)
	if err != nil {
		return gate.WiringState{}, err
	}
	if v.State.Wiring == nil {
		return gate.NoWiring(), nil
	}
	return *v.State.Wiring, nil
}

// Unseen are the mis-landings that no reading from end to end would show: how many change nothing, and those that would.
type Unseen struct {
	Harmless int      `json:"harmless"`
	Changing []string `json:"changing"`
}

// Unseen looks for mis-landings that the usual round of measuring would not show.
func (a *Lists) Unseen(ctx context.Context, driveID string) (Unseen, error) {
	out := Unseen{Changing: []string{}}
	w, err := a.Wiring(ctx, driveID)
	if err != nil || w.Net == nil {
		return out, err
	}
	hidden, err := w.Net.Hidden(w.Circuit.WireByWire())
	for _, m := range hidden {
		if w.Net.Alike(w.Net.With(m)) {
			out.Harmless++
		} else {
			out.Changing = append(out.Changing, m.Text(w.Net))
		}
	}
	return out, err
}

// wireColumns are the columns of a connection list, with the words by which they are known in a header.
var wireColumns = []struct {
	name  string
	known []string
}{
	{"wire", []string{"wire", "number", "no", "no.", "id", "wire number"}}, {"from", []string{"from", "source", "end 1"}},
	{"to", []string{"to", "target", "end 2"}},
	{"colour", []string{"colour", "color"}}, {"cross-section", []string{"cross-section", "cross section", "area", "size"}},
	{"screen", []string{"screen", "shield"}}, {"why", []string{"why", "function", "remark", "note"}},
}

// WiringCSV writes the connection list.
func (a *Lists) WiringCSV(ctx context.Context, driveID string) ([]byte, error) {
	w, err := a.Wiring(ctx, driveID)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = csvx.Write(&out, WireRows(w.Wires))
	return out.Bytes(), err
}

// WireRows are the rows of a connection list's table, with its header.
func WireRows(wires []gate.WireState) [][]string {
	rows := [][]string{{"wire", "from", "to", "colour", "cross-section", "screen", "why", "landed", "measured, Ω"}}
	for _, x := range wires {
		rows = append(rows, []string{x.ID, x.From, x.To, x.Colour, x.Area, x.Screen, x.Why, string(x.Landed), x.Value})
	}
	return rows
}

// WiringJSON writes the circuit: parts and wires.
func (a *Lists) WiringJSON(ctx context.Context, driveID string) ([]byte, error) {
	w, err := a.Wiring(ctx, driveID)
	if err != nil {
		return nil, err
	}
	b, err := json.MarshalIndent(w.Circuit, "", "  ")
	return append(b, '\n'), err
}

// WiringImport says what a list changed.
type WiringImport struct {
	Same    int      `json:"same"`
	Added   int      `json:"added"`
	Changed int      `json:"changed"`
	Missing []string `json:"missing" doc:"wires of the drawing that the list does not have; they stay"`
	Devices []string `json:"devices" doc:"parts that were made for wires to go to"`
}

var plainWord = regexp.MustCompile(`^[A-Za-z0-9_/+-]{1,40}$`)

// ImportWiring takes a connection list, CSV or JSON: wires that differ from the drawing or are not in it become the drive's
// own. Nothing is taken when a line cannot be read.
func (a *Lists) ImportWiring(ctx context.Context, who base.Actor, driveID string, raw []byte) (WiringImport, error) {
	out := WiringImport{Missing: []string{}, Devices: []string{}}
	list, err := readWires(raw)
	if err != nil {
		return out, err
	}
	w, err := a.Wiring(ctx, driveID)
	if err != nil {
		return out, err
	}
	if w.Net == nil {
		return out, base.Refuse("Choose first what is connected: the list is held against that.")
	}
	t := taking{WiringState: w, parts: map[string][]string{}, seen: map[string]bool{}, have: map[string]circuit.Wire{}, out: &out}
	for _, x := range w.Circuit.Wires {
		t.have[x.ID] = x
	}
	for i, x := range list {
		if err := t.wire(fmt.Sprintf("line %d", i+1), x); err != nil {
			return out, err
		}
	}
	t.rest()
	for sets := t.sets; len(sets) > 0; {
		n := min(200, len(sets))
		edit := drives.Edit{ID: base.NewID(), Edit: base.NewID(), Why: "from a connection list", Sets: sets[:n]}
		if err := a.drives.Change(ctx, who, driveID, edit); err != nil {
			return out, err
		}
		sets = sets[n:]
	}
	return out, nil
}

// taking is a list on its way in.
type taking struct {
	gate.WiringState
	have  map[string]circuit.Wire // as drawn, by number
	seen  map[string]bool
	parts map[string][]string // terminals of parts that the drawing has not
	sets  []drives.Set
	out   *WiringImport
}

func (t *taking) set(path, text string) {
	if text != "" {
		t.sets = append(t.sets, drives.Set{Path: path, Text: text})
	}
}

// wire takes one line.
func (t *taking) wire(at string, x circuit.Wire) error {
	if !plainWord.MatchString(x.ID) || t.seen[x.ID] {
		return base.Bad(at+", wire", x.ID, "a wire number used once, of letters, digits, - _ / +")
	}
	t.seen[x.ID] = true
	old, known := t.have[x.ID]
	if known && old.From == x.From && old.To == x.To && (x.Colour == "" || x.Colour == old.Colour) &&
		(x.Area == "" || x.Area == old.Area) {
		t.out.Same++
		return nil
	}
	if x.From == x.To {
		return base.Bad(at+", to", x.To, "another terminal than it comes from")
	}
	for _, end := range [][2]string{{"from", x.From}, {"to", x.To}} {
		if err := t.end(at+", "+end[0], end[1]); err != nil {
			return err
		}
	}
	if known {
		t.out.Changed++
	} else {
		t.out.Added++
	}
	p := "wiring.wires." + x.ID + "."
	t.set(p+"from", x.From)
	t.set(p+"to", x.To)
	t.set(p+"colour", x.Colour)
	t.set(p+"area", x.Area)
	t.set(p+"screen", x.Screen)
	t.set(p+"why", x.Why)
	return nil
}

// end takes one end of a wire: at a terminal that is drawn, or at a part of its own.
func (t *taking) end(field, end string) error {
	part, terminal, ok := strings.Cut(end, ":")
	if !ok || !plainWord.MatchString(part) || strings.TrimSpace(terminal) == "" || strings.ContainsAny(terminal, ":,") {
		return base.Bad(field, end, "part:terminal, like X1:4")
	}
	if t.Net.Has(end) {
		return nil
	}
	if p, ours := t.Circuit.Part(part); ours && p.Kind != "other" {
		return base.Bad(field, end, "a terminal of "+part+": "+strings.Join(p.Terminals, ", "))
	}
	if !slices.Contains(t.parts[part], terminal) {
		t.parts[part] = append(t.parts[part], terminal)
	}
	return nil
}

// rest notes what the list does not have, and the parts that it makes.
func (t *taking) rest() {
	for _, x := range t.Circuit.Wires {
		if !t.seen[x.ID] {
			t.out.Missing = append(t.out.Missing, x.ID)
		}
	}
	for part, terminals := range t.parts {
		old, _ := t.Circuit.Part(part)
		all := append(slices.Clone(old.Terminals), terminals...)
		slices.Sort(all)
		t.set("wiring.devices."+part+".terminals", strings.Join(slices.Compact(all), ", "))
		t.set("wiring.devices."+part+".kind", "other")
		t.out.Devices = append(t.out.Devices, part)
	}
	slices.Sort(t.out.Devices)
}

// readWires reads a list in JSON, as WiringJSON writes it, or in CSV with a header.
func readWires(raw []byte) ([]circuit.Wire, error) {
	if trimmed := bytes.TrimSpace(raw); len(trimmed) > 0 && trimmed[0] == '{' {
		var c circuit.Circuit
		dec := json.NewDecoder(bytes.NewReader(trimmed))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&c); err != nil {
			return nil, base.Bad("list", err.Error(), "parts and wires, as this program writes them")
		}
		if len(c.Wires) == 0 || len(c.Wires) > circuit.MostWires {
			return nil, base.Bad("wires", fmt.Sprint(len(c.Wires)), fmt.Sprintf("1 to %d", circuit.MostWires))
		}
		return c.Wires, nil
	}
	column := func(cell string) int {
		for i, c := range wireColumns {
			if slices.Contains(c.known, strings.ToLower(strings.TrimSpace(cell))) {
				return i
			}
		}
		return -1
	}
	t, err := csvx.Read(raw, func(cell string) bool { return column(cell) >= 0 })
	if err != nil {
		return nil, base.Bad("list", err.Error(), "a list with columns wire, from, to")
	}
	at := map[int]int{}
	for i, h := range t.Header {
		if k := column(h); k >= 0 {
			if _, twice := at[k]; !twice {
				at[k] = i
			}
		}
	}
	for k := range 3 {
		if _, ok := at[k]; !ok {
			return nil, base.Bad("header", strings.Join(t.Header, ", "),
				"columns wire, from and to; colour, cross-section, screen and why if wanted")
		}
	}
	if len(t.Rows) == 0 || len(t.Rows) > circuit.MostWires {
		return nil, base.Bad("wires", fmt.Sprint(len(t.Rows)), fmt.Sprintf("1 to %d", circuit.MostWires))
	}
	var list []circuit.Wire
	for _, row := range t.Rows {
		cell := func(k int) string {
			if i, ok := at[k]; ok && i < len(row) {
				return row[i]
			}
			return ""
		}
		list = append(list, circuit.Wire{ID: cell(0), From: cell(1), To: cell(2), Colour: cell(3), Area: cell(4), Screen: cell(5),
			Why: cell(6)})
	}
	return list, nil
}
