package wiring

import "strconv"

// Running is the way of numbering that counts wires and terminals one after the other. The other way, by function, gives every
// function a decade of its own: what is added later leaves the numbers of what is landed already as they are.
const Running = "running"

// decades are the functions in the order of their numbers: the first has 10 to 19. A function keeps its place for ever; new ones
// come last.
var decades = []string{"run-forward", "stop", "start", "run-reverse", "jog", "reset", "interlock", "coast", "hand", "preset-0", "preset-1",
	"running", "fault", "reference", "shown", "sensor", "torque-off", "encoder", "faster", "slower"}

// late are functions that came after the decades were given out, in the order in which they came.
var late = []string{"brake-open", "common"}

// ids are the numbers of the wires of one run: from a rail to the device, from the device into the strip, from there to the drive.
type ids struct{ rail, field, drive string }

// numbers are those of every wire.
type numbers struct {
	plus, zero, shared string
	runs               []ids
}

// number gives every wire its number before it is laid, since terminals of the strip are named by them.
func (m *maker) number() numbers {
	last := map[string]int{"": 0}
	for i, f := range decades {
		last[f] = 10*(i+1) - 1
	}
	after := 10 * len(decades)
	for _, f := range late { // which count from one
		after += 10
		last[f] = after
	}
	next := func(function string) string {
		if m.w.Numbers == Running {
			function = ""
		}
		if _, ok := last[function]; !ok {
			after += 10
			last[function] = after
		}
		last[function]++
		return strconv.Itoa(last[function])
	}
	railed := func(plus bool) bool {
		for _, r := range m.runs {
			if r.device != "" && r.plus == plus && !m.between(r) {
				return true
			}
		}
		return false
	}
	var n numbers
	// By function the feeds keep their numbers whether both are there or not.
	always := m.w.Numbers != Running
	if always || railed(true) {
		n.plus = next("")
	}
	if always || railed(false) {
		n.zero = next("")
	}
	if m.w.Supply == "outside" {
		n.shared = next("")
	}
	for _, r := range m.runs {
		var x ids
		if r.device != "" && !m.between(r) {
			x.rail = next(r.function)
		}
		switch {
		case m.between(r):
			x.field = next(r.function)
		case r.to != "":
			x.field, x.drive = next(r.function), next(r.function)
		}
		n.runs = append(n.runs, x)
	}
	return n
}
