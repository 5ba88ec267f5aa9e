package plate

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"tingate/core/quantity"
)

// Correction is one change of one value that would make the row fit.
type Correction struct {
	Field string  `json:"field" doc:"Value of the row to be corrected"`
	From  float64 `json:"from"`
	To    float64 `json:"to"`
	Unit  string  `json:"unit"`
	Kind  string  `json:"kind" doc:"digit, transposed, decimal-point, missing-digit, doubled-digit, row, unit, frequency, percent, root-3, factor-2, synchronous, poles"`
	Why   string  `json:"why"`
	Cost  float64 `json:"cost" doc:"Lower is likelier"`
}

// Pairs of digits that stamping, dirt and handwriting confuse. Common practice.
var alike = map[[2]byte]bool{}

func init() {
	for _, p := range []string{"17", "38", "56", "68", "08", "06", "49", "27", "79", "35", "59", "89"} {
		alike[[2]byte{p[0], p[1]}], alike[[2]byte{p[1], p[0]}] = true, true
	}
}

type field struct {
	name, unit string
	get        func(*Row) *float64
	scale      float64 // stored value per unit as written
}

var fields = []field{
	{"voltage", "V", func(r *Row) *float64 { return &r.Voltage }, 1},
	{"frequency", "Hz", func(r *Row) *float64 { return &r.Frequency }, 1},
	{"power", "kW", func(r *Row) *float64 { return &r.Power }, 1000},
	{"power", "hp", func(r *Row) *float64 { return &r.Horsepower }, hpW},
	{"current", "A", func(r *Row) *float64 { return &r.Current }, 1},
	{"speed", "r/min", func(r *Row) *float64 { return &r.Speed }, 1},
	{"power_factor", "", func(r *Row) *float64 { return &r.Factor }, 1},
	{"efficiency", "%", func(r *Row) *float64 { return &r.Efficiency }, .01},
}

// Misreadings tries the likely misreadings of each value of the row in use and returns those corrections that
// leave nothing to stop at or look at, likeliest first, at most limit. Empty when the row is sound as it stands.
func Misreadings(p Plate, limit int) []Correction {
	s := search{p: p}
	now := figures(p.Kind, p.Row)
	if judge(p.Kind, p.Row, p.Others, now) == 0 {
		return nil
	}
	for i := range fields {
		s.field(&fields[i])
	}
	s.poles()
	sort.SliceStable(s.list, func(i, j int) bool { return s.list[i].Cost < s.list[j].Cost })
	out := s.list[:0:0]
	seen := map[string]bool{}
	for _, c := range s.list {
		key := c.Field + strconv.FormatFloat(c.To, 'g', 6, 64)
		if !seen[key] && len(out) < limit && c.Cost < s.list[0].Cost+4 {
			seen[key] = true
			out = append(out, c)
		}
	}
	return out
}

type search struct {
	p    Plate
	list []Correction
}

// try judges the row with one value changed and keeps it when nothing is left to object to.
func (s *search) try(f *field, to, prior float64, kind, why string) {
	row := s.p.Row
	v := f.get(&row)
	from := *v
	*v = to * f.scale
	res := figures(s.p.Kind, row)
	if judge(s.p.Kind, row, s.p.Others, res) != 0 {
		return
	}
	s.list = append(s.list, Correction{Field: f.name, From: from / f.scale, To: to, Unit: f.unit, Kind: kind, Why: why,
		Cost: prior + misfit(s.p, row, res)})
}

// misfit measures how far a row that passes lies from the typical one of its size: efficiency, slip, cos φ and the
// ratio of its rows, each in units of its usual spread.
func misfit(p Plate, r Row, res Result) float64 {
	c := 0.0
	w := r.power()
	if w > 0 && p.Kind != PermanentMagnet {
		_, typ, _ := plausibleEfficiency(w, polesOr4(res.Poles), Missing)
		if has(res.Efficiency) && res.Efficiency < 1 {
			c += math.Abs(math.Log((1/res.Efficiency-1)/(1/typ-1))) / .35
		}
		if has(res.Slip) && res.Slip > 0 {
			c += math.Abs(math.Log(res.Slip/typicalSlip(w))) / .6
		}
		if has(res.PowerFactor) {
			c += math.Abs(res.PowerFactor-typicalPowerFactor(w, polesOr4(res.Poles))) / .07
		}
		c += preferred(w)
	}
	if v := r.Voltage; has(v) && !standardVoltage(v) {
		c += 1.5
	}
	if f := r.Frequency; has(f) && f != 50 && f != 60 && f != 87 && f != 100 {
		c += 6 // nearly every plate is for 50 or 60 Hz
	}
	for _, o := range p.Others {
		if r.Voltage > 0 && o.Voltage > 0 && r.Current > 0 && o.Current > 0 && r.Frequency == o.Frequency {
			c += math.Min(3, math.Abs(math.Log(r.Voltage*r.Current/o.Voltage/o.Current))/.03)
		}
	}
	return c
}

// preferred powers of IEC 60072 in kW and of NEMA in hp; a power off the list is less likely.
var preferredPowers = []float64{60, 90, 120, 180, 250, 370, 550, 750, 1100, 1500, 2200, 3000, 4000, 5500, 7500, 9200, 11000, 15000, 18500,
	22000, 30000, 37000, 45000, 55000, 75000, 90000, 110000, 132000, 160000, 200000, 250000, 315000}

func preferred(w float64) float64 {
	for _, p := range preferredPowers {
		if math.Abs(w/p-1) < .035 {
			return 0
		}
	}
	return .8
}

func standardVoltage(v float64) bool {
	for _, s := range [...]float64{115, 200, 208, 220, 230, 240, 277, 380, 400, 415, 440, 460, 480, 500, 525, 575, 600, 660, 690} {
		if v == s {
			return true
		}
	}
	return false
}

func (s *search) field(f *field) {
	row := s.p.Row
	v := *f.get(&row) / f.scale
	if !has(v) || v <= 0 {
		return
	}
	text := strconv.FormatFloat(math.Round(v*1e6)/1e6, 'f', -1, 64)
	s.digits(f, text)
	s.try(f, v*10, 1.4, "decimal-point", "decimal point one place to the right")
	s.try(f, v/10, 1.4, "decimal-point", "decimal point one place to the left")
	if v > 1 && (f.name == "power_factor") {
		s.try(f, v/100, .3, "percent", "percent read as a ratio")
	}
	for _, o := range s.p.Others {
		if ov := *f.get(&o) / f.scale; has(ov) && ov != v &&
			(f.name == "voltage" || f.name == "current" || f.name == "speed" || f.name == "frequency") {
			prior := .6
			if f.name == "voltage" {
				prior = 2 // the volts of the row in use are what the terminals were linked for
			}
			s.try(f, ov, prior, "row", fmt.Sprintf("taken from the %s V row", quantity.Format(o.Voltage)))
		}
	}
	switch f.name {
	case "voltage", "current":
		if f.name == "current" {
			s.try(f, round3(v*root3), 1.2, "root-3", "amperes of the other connection (factor √3)")
			s.try(f, round3(v/root3), 1.2, "root-3", "amperes of the other connection (factor √3)")
			if dual(row.Voltage) {
				s.try(f, round3(v*2), 1.2, "factor-2", "amperes of the other voltage (factor 2)")
				s.try(f, round3(v/2), 1.2, "factor-2", "amperes of the other voltage (factor 2)")
			}
			return
		}
		for _, to := range [...]float64{v * 2, v / 2} {
			if dual(v) && standardVoltage(to) {
				s.try(f, to, 2, "factor-2", "volts of the other voltage (factor 2)")
			}
		}
		for _, to := range [...]float64{v * root3, v / root3} {
			for _, std := range [...]float64{230, 240, 400, 415, 460, 480, 690} {
				if math.Abs(to/std-1) < .02 {
					s.try(f, std, 2, "root-3", "volts of the other connection (factor √3)")
				}
			}
		}
	case "speed":
		s.synchronous(f, row)
	case "frequency":
		s.try(f, 110-v, 1, "frequency", "row of the other frequency")
		if p := row.Poles; s.p.Kind == PermanentMagnet && p > 0 && row.Speed > 0 {
			s.try(f, row.Speed*float64(p)/120, 1, "synchronous", fmt.Sprintf("%d poles turn at that speed there", p))
		}
	case "power":
		s.unit(f, v)
	}
}

// synchronous tries the speeds at which a motor with magnets turns: of the poles that are stamped, or of those nearest to the speed, likely
// ones first.
func (s *search) synchronous(f *field, row Row) {
	if s.p.Kind != PermanentMagnet || !(row.Frequency > 0) {
		return
	}
	likely := []int{row.Poles}
	if row.Poles <= 0 {
		near := 2 * int(math.Round(60*row.Frequency/row.Speed))
		likely = []int{near, near - 2, near + 2}
	}
	for i, p := range likely {
		if p >= 2 && p <= 2*mostPairs && p%2 == 0 {
			s.try(f, math.Round(120*row.Frequency/float64(p)*10)/10, .8+.5*float64(i), "synchronous",
				fmt.Sprintf("%d poles turn so at %s Hz", p, quantity.Format(row.Frequency)))
		}
	}
}

// unit tries the same figure as the other unit of power.
func (s *search) unit(f *field, v float64) {
	row := s.p.Row
	if has(row.Power) && has(row.Horsepower) {
		return
	}
	other := "hp"
	if f.unit == "hp" {
		other = "kW"
		row.Power, row.Horsepower = v*1000, Missing
	} else {
		row.Power, row.Horsepower = Missing, v*hpW
	}
	res := figures(s.p.Kind, row)
	if judge(s.p.Kind, row, s.p.Others, res) == 0 {
		s.list = append(s.list, Correction{Field: "power", From: v, To: v, Unit: other, Kind: "unit", Why: f.unit + " read for " + other,
			Cost: .8 + misfit(s.p, row, res)})
	}
}

func round3(v float64) float64 { f, _ := strconv.ParseFloat(quantity.Digits(v, 3), 64); return f }

// digits tries every single wrong, transposed, doubled and (for the speed) missing digit.
func (s *search) digits(f *field, text string) {
	b := []byte(text)
	parse := func(t []byte) float64 { v, _ := strconv.ParseFloat(string(t), 64); return v }
	for i, c := range b {
		if c == '.' {
			continue
		}
		for d := byte('0'); d <= '9'; d++ {
			if d == c || i == 0 && d == '0' && len(b) > 1 && b[1] != '.' {
				continue
			}
			prior := 2.6
			if alike[[2]byte{c, d}] {
				prior = 1.2
			}
			t := append([]byte{}, b...)
			t[i] = d
			if v := parse(t); v > 0 {
				s.try(f, v, prior, "digit", fmt.Sprintf("%c read as %c", d, c))
			}
		}
		if i+1 < len(b) && b[i+1] != '.' && b[i+1] != c {
			t := append([]byte{}, b...)
			t[i], t[i+1] = t[i+1], t[i]
			s.try(f, parse(t), 1.7, "transposed", "two digits changed over")
		}
		if i+1 < len(b) && b[i+1] == c {
			t := append(append([]byte{}, b[:i]...), b[i+1:]...)
			s.try(f, parse(t), 1.5, "doubled-digit", "a digit typed twice")
		}
	}
	if f.name != "speed" || strings.Contains(text, ".") || len(text) > 3 {
		return
	}
	for i := 0; i <= len(b); i++ {
		for d := byte('0'); d <= '9'; d++ {
			t := append(append(append([]byte{}, b[:i]...), d), b[i:]...)
			if t[0] != '0' {
				s.try(f, parse(t), 2, "missing-digit", fmt.Sprintf("a %c left out", d))
			}
		}
	}
}

func (s *search) poles() {
	if s.p.Row.Poles == 0 {
		return
	}
	row := s.p.Row
	row.Poles = 0
	res := figures(s.p.Kind, row)
	if res.Poles == 0 || res.Poles == s.p.Row.Poles || judge(s.p.Kind, row, s.p.Others, res) != 0 {
		return
	}
	s.list = append(s.list, Correction{Field: "poles", From: float64(s.p.Row.Poles), To: float64(res.Poles), Kind: "poles",
		Why: "poles as speed and frequency give them", Cost: 1 + misfit(s.p, row, res)})
}
