package machine

import (
	"math"

	"tingate/core/finding"
	"tingate/core/plate"
)

// FromRow takes a plate's row as an estimate needs it: what is not stamped is worked out, or usual for the size. Poles 0: the
// row has too little.
func FromRow(r plate.Row) (Plate, []finding.Finding) {
	res := plate.Judge(plate.Plate{Kind: plate.Induction, Row: r})
	var stops []finding.Finding
	for _, f := range res.Findings {
		if f.Severity == finding.Stop {
			stops = append(stops, f)
		}
	}
	p := Plate{Power: r.Power, Voltage: r.Voltage, Current: r.Current, Frequency: r.Frequency, Speed: r.Speed, Factor: r.Factor,
		Efficiency: r.Efficiency}
	if math.IsNaN(p.Power) {
		p.Power = r.Horsepower
	}
	if !(p.Power > 0) || !(p.Voltage > 0) || !(p.Frequency > 0) || !(p.Speed > 0) || !(res.Slip > 0) {
		return Plate{}, stops
	}
	p.Poles = res.Poles
	apparent := math.Sqrt(3) * p.Voltage * p.Current
	usualFactor, usualEfficiency := plate.Usual(p.Power, p.Poles, res.Slip)
	switch {
	case p.Current > 0 && p.Factor > 0:
		p.Efficiency = p.Power / (apparent * p.Factor) // the row's own figures agree by definition
	case p.Current > 0 && p.Efficiency > 0:
		p.Factor = p.Power / (apparent * p.Efficiency)
	case p.Current > 0:
		p.Efficiency = usualEfficiency
		p.Factor = p.Power / (apparent * p.Efficiency)
	default:
		if !(p.Factor > 0) {
			p.Factor = usualFactor
		}
		if !(p.Efficiency > 0) {
			p.Efficiency = usualEfficiency
		}
		p.Current = p.Power / (math.Sqrt(3) * p.Voltage * p.Factor * p.Efficiency)
	}
	return p, stops
}
