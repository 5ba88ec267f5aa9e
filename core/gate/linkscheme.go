package gate

import (
	"math"
	"strconv"

	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/translate"
	"tingate/core/winding"
)

// linkScheme is how the motor is to be linked for the row in use; empty when it cannot be told, with the findings.
func (f *Facts) linkScheme() (winding.Scheme, int, []finding.Finding) {
	m := f.job.Drive.Motor
	leads, _ := strconv.Atoi(m.Leads)
	marking := m.Marking
	if marking == "" {
		marking = "uvw"
	}
	if leads == 3 {
		return winding.Scheme{}, 3, nil
	}
	row := m.Rows[translate.LinkedRow(m)]
	if leads == 6 { // the row itself says star or delta
		if name := map[string]string{"star": "6-star", "delta": "6-delta"}[row.Connection]; name != "" {
			s, _ := winding.Find(name, marking)
			return s, leads, nil
		}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, r := range m.Rows {
		if v := r.Voltage.Num(quantity.Voltage, "V"); !math.IsNaN(v) {
			low, high = min(low, v), max(high, v)
		}
	}
	v := row.Voltage.Num(quantity.Voltage, "V")
	if math.IsNaN(v) || leads == 0 {
		return winding.Scheme{}, leads, nil
	}
	name, findings := winding.Choose(leads, m.Winding, low, high, v)
	s, _ := winding.Find(name, marking)
	return s, leads, findings
}
