package circuit

import "math"

// Ohms is what a meter reads between two terminals with the power off: 0 where they are joined, the loads between them, or
// +Inf. Sources count as open: what stands inside one is not known. NaN for a terminal that is not there.
func (n *Net) Ohms(a, b string, s State) float64 {
	x, ok := n.index[a]
	y, ok2 := n.index[b]
	if !ok || !ok2 {
		return math.NaN()
	}
	sol := n.joined(s, n.wires)
	if sol.find(x) == sol.find(y) {
		return 0
	}
	probe := *n
	probe.sources = []source{{"meter", x, y, 1, 0}}
	sol.net = &probe
	sol.energise()
	if i := sol.Currents["meter"]; i > 0 {
		return 1 / i
	}
	return math.Inf(1)
}
