package prove

import (
	"fmt"
	"math"

	"tingate/bench"
)

// TruthInput is a digital input with what it does.
type TruthInput struct {
	Terminal string `json:"terminal"`
	Function string `json:"function"`
}

// TruthRow is what the drive does with some of its inputs closed.
type TruthRow struct {
	Closed []bool `json:"closed" doc:"in the order of the inputs"`
	Does   string `json:"does"`
	Moves  bool   `json:"moves" doc:"the shaft turns, or is asked to"`
}

// Truth is the truth table of a drive's inputs by its settings.
type Truth struct {
	Inputs []TruthInput `json:"inputs"`
	Rows   []TruthRow   `json:"rows"`
	Asked  string       `json:"asked" doc:"what the reference asks meanwhile"`
	More   int          `json:"more" doc:"inputs with a function that are left out, open"`
}

// mostInputs in a table: sixty-four rows are read, more are not.
const mostInputs = 6

// TruthTable tries every combination of the inputs that have a function, from standstill, the line on, the reference at six tenths.
func TruthTable(s bench.Setup) (Truth, error) {
	var out Truth
	b, err := bench.New(s)
	if err != nil {
		return out, err
	}
	c := &b.Sim().C
	var at []int
	for n, t := range bench.DigitalIns(s.Family) {
		if f := c.Inputs[n]; f != "" && f != "reset" {
			if len(at) < mostInputs {
				at = append(at, n)
				out.Inputs = append(out.Inputs, TruthInput{t.Name, f})
			} else {
				out.More++
			}
		}
	}
	out.Asked = "presets as the inputs say"
	switch c.Speed {
	case "analog":
		out.Asked = fmt.Sprintf("reference at 60 %%, %.1f Hz", c.Low+(c.High-c.Low)*.6)
	case "motor-potentiometer":
		out.Asked = "faster and slower, from the lowest speed"
	case "network":
		out.Asked = fmt.Sprintf("network, %.1f Hz", b.Given().Net.Hz)
	case "keypad":
		out.Asked = fmt.Sprintf("keypad, %.1f Hz", b.Given().KeyHz)
	}
	if l := c.Loop; l.On {
		out.Asked = fmt.Sprintf("its own controller, setpoint %.4g %%", l.Setpoint*100)
	}
	for combination := range 1 << len(at) {
		row, err := truth(s, at, combination)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// truth is one row.
func truth(s bench.Setup, at []int, combination int) (TruthRow, error) {
	var row TruthRow
	b, err := bench.New(s)
	if err != nil {
		return row, err
	}
	d, in := b.Sim(), b.Given()
	c := &d.C
	if c.Speed == "analog" {
		in.Analog = .6 * c.Full
		if c.Live {
			in.Analog = 4 + 16*.6
		}
	}
	in.Line = true
	three := c.ThreeWire
	start := uint16(0)
	in.Terminals = 0
	for k, n := range at {
		on := combination>>k&1 == 1
		row.Closed = append(row.Closed, on)
		if on && three && (c.Inputs[n] == "start" || c.Inputs[n] == "run-forward") {
			start |= 1 << n // a button: it is pressed once everything else stands
		} else if on && c.Inputs[n] != "run-forward" && c.Inputs[n] != "run-reverse" && c.Inputs[n] != "jog" {
			in.Terminals |= 1 << n
		}
	}
	b.Advance(1500)
	for k, n := range at { // run commands come last: a command that is held at power-up is no fresh one
		if combination>>k&1 == 1 {
			in.Terminals |= 1 << n
		}
	}
	in.Terminals |= start
	b.Advance(400)
	switch hz := math.Abs(d.Aim); {
	case d.Fault != "":
		row.Does = "faults: " + d.Fault
	case hz > .01:
		row.Moves = true
		row.Does = fmt.Sprintf("%s, %.1f Hz", map[bool]string{true: "forward", false: "back"}[d.Aim > 0], hz)
	case d.Blocked != "":
		row.Does = "stands: " + bench.Standing(d.Blocked)
	case d.Running:
		row.Does, row.Moves = "runs at zero", true
	default:
		row.Does = "stands"
	}
	return row, nil
}
