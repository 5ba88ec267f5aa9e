package tune

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/machine"
)

// plateCelsius is the winding's temperature for which a plate is true: an 80 K rise at 25 °C. Common practice; IEC 60034-2-1
// corrects to 95 °C for class 130 and to 115 °C for class 155.
const plateCelsius = 105

// warming is how much a resistance grows for each kelvin, over its value at 20 °C: copper; a cast cage is within a tenth of it.
const warming = .00393

// Warmed is a resistance at a temperature, °C, over the same at 20 °C.
func Warmed(celsius float64) float64 { return 1 + warming*(celsius-20) }

// Setting is what a result is held against: the plate that was entered, and how the motor stood when it was tuned.
type Setting struct {
	Plate   machine.Plate
	Celsius float64 // of the winding at the tune; NaN: 20 °C
	Cable   float64 // Ω of one phase of the motor cable; it is part of what a drive measures
	Linked  string  // how the row in use is linked: star, delta, double-star, double-delta; empty: not said
}

// Band is where a sound motor of the plate lies. SI, per phase, star equivalent.
type Band struct{ Low, Usual, High float64 }

// Holds tells whether a value lies in the band; a value that is not there does.
func (b Band) Holds(v float64) bool { return math.IsNaN(v) || v >= b.Low && v <= b.High }

func (b Band) times(k float64) Band { return Band{b.Low * k, b.Usual * k, b.High * k} }

// Bands are the bands of a result. Rs is with the cable, as a drive sees it.
type Bands struct{ Rs, Rr, Leakage, Lm, Magnetising Band }

// How well a drive identifies: 5 % of stator resistance and magnetising inductance, 10 % of the others (docs/tune.md).
const (
	fine  = .05
	rough = .10
)

// BandsOf works the bands out. ok is false when the plate leaves no machine.
func BandsOf(s Setting) (b Bands, ok bool) {
	e, ok := machine.Make(s.Plate)
	if !ok {
		return b, false
	}
	celsius := s.Celsius
	if math.IsNaN(celsius) {
		celsius = 20
	}
	cold := Warmed(celsius) / Warmed(plateCelsius)
	w := 2 * math.Pi * e.Frequency
	band := func(low, usual, high, tolerance float64) Band {
		return Band{low * (1 - tolerance), usual, high * (1 + tolerance)}
	}
	b.Rs = band(e.Low.Rs*cold, e.Rs*cold, e.High.Rs*cold, fine)
	b.Rs = Band{b.Rs.Low + s.Cable, b.Rs.Usual + s.Cable, b.Rs.High + s.Cable}
	b.Rr = band(e.Low.Rr*cold, e.Rr*cold, e.High.Rr*cold, rough)
	b.Leakage = band((e.Low.Xls+e.Low.Xlr)/w, (e.Xls+e.Xlr)/w, (e.High.Xls+e.High.Xlr)/w, rough)
	b.Lm = band(e.Low.Xm/w, e.Xm/w, e.High.Xm/w, fine)
	flux := e.Fit.MagnetisingVolts
	b.Magnetising = band(flux/e.High.Xm, flux/e.Xm, flux/e.Low.Xm, fine)
	return b, true
}

// Learnt is a result as it was read from a drive. SI, per phase, star equivalent; NaN: not shown.
type Learnt struct{ Rs, Rr, Leakage, Magnetising float64 }

// Outside names what lies outside the bands, in the order in which a tune finds it.
func (b Bands) Outside(l Learnt) []string {
	var out []string
	for _, x := range []struct {
		name string
		in   Band
		v    float64
	}{{"stator resistance", b.Rs, l.Rs}, {"rotor resistance", b.Rr, l.Rr}, {"leakage", b.Leakage, l.Leakage},
		{"magnetising current", b.Magnetising, l.Magnetising}} {
		if !x.in.Holds(x.v) {
			out = append(out, x.name)
		}
	}
	return out
}

// Other is another plate that could be the right one: a row that was not chosen, a figure mixed up.
type Other struct {
	Code, Text string
	Plate      machine.Plate
}

// Cause is one thing that would explain a result that does not fit.
type Cause struct {
	Code string `json:"code"`
	Text string `json:"text"`
}

// Explain names the single things that would explain a result outside its bands: the other link, figures taken from line to
// line, a winding still warm, more cable, or one of the other plates. Most likely first; none when nothing alone explains it.
func Explain(s Setting, l Learnt, others []Other) []Cause {
	b, ok := BandsOf(s)
	if !ok || len(b.Outside(l)) == 0 {
		return nil
	}
	causes := []Cause{}
	try := func(code, text string, b Bands) {
		if len(b.Outside(l)) == 0 {
			causes = append(causes, Cause{code, text})
		}
	}
	relinked := func(k float64) Bands {
		r := Bands{Rs: b.Rs.times(k), Rr: b.Rr.times(k), Leakage: b.Leakage.times(k), Lm: b.Lm.times(k),
			Magnetising: b.Magnetising.times(1 / k)}
		extra := s.Cable * (1 - k) // the cable is not relinked
		r.Rs = Band{r.Rs.Low + extra, r.Rs.Usual + extra, r.Rs.High + extra}
		return r
	}
	for _, x := range []struct {
		code, unless string
		k            float64
		text         string
	}{{"link-delta", "delta", 1. / 3, "linked in delta where the row in use says star: a third of every impedance"},
		{"link-star", "star", 3, "linked in star where the row in use says delta: three times every impedance"},
		{"link-low", "double", .25, "linked for the low voltage where the row in use is the high one: a quarter of every impedance"},
		{"link-high", "", 4, "linked for the high voltage where the row in use is the low one: four times every impedance"}} {
		if s.Linked == "" || !strings.HasPrefix(s.Linked, x.unless) || x.unless == "" {
			try(x.code, x.text, relinked(x.k))
		}
	}
	for _, o := range others {
		if ob, ok := BandsOf(Setting{o.Plate, s.Celsius, s.Cable, s.Linked}); ok {
			try(o.Code, o.Text, ob)
		}
	}
	warm := s
	warm.Celsius = plateCelsius
	if wb, ok := BandsOf(warm); ok && !(s.Celsius > 60) {
		wb.Rs.Low, wb.Rr.Low = b.Rs.Low, b.Rr.Low // anything between cold and warm
		try("warm", fmt.Sprintf("the winding was warm: up to %d °C", plateCelsius), wb)
	}
	if l.Rs > b.Rs.High {
		doubled := b
		doubled.Rs = Band{2*b.Rs.Low - s.Cable, 2*b.Rs.Usual - s.Cable, 2*b.Rs.High - s.Cable}
		try("line-to-line", "the stator resistance is from line to line: twice that of a phase", doubled)
		long := b
		long.Rs.High = math.Inf(1)
		try("cable", fmt.Sprintf("%s Ω more in the motor cable or a bad joint", short(l.Rs-b.Rs.Usual)), long)
	}
	return causes
}

func short(v float64) string { return fmt.Sprintf("%.2g", v) }

// Others are plates a technician could have meant: the row with power in the other unit, or with the current of the other
// link. A whole row of the other link looks like the other link itself.
func Others(p machine.Plate) []Other {
	var l []Other
	add := func(code, text string, change func(*machine.Plate)) {
		q := p
		change(&q)
		// What the row leaves open follows from it: efficiency from power, current and cos φ.
		q.Efficiency = q.Power / (math.Sqrt(3) * q.Voltage * q.Current * q.Factor)
		if q.Efficiency > .4 && q.Efficiency < .99 {
			l = append(l, Other{code, text, q})
		}
	}
	add("power-hp", "power in hp entered as kW", func(q *machine.Plate) { q.Power *= .7457 })
	add("power-kw", "power in kW entered as hp", func(q *machine.Plate) { q.Power /= .7457 })
	r3 := math.Sqrt(3)
	add("current-low", "the current entered is too small by √3", func(q *machine.Plate) { q.Current *= r3 })
	add("current-high", "the current entered is too large by √3", func(q *machine.Plate) { q.Current /= r3 })
	return l
}

// Repeat compares two results of the same kind: by how much they differ at most, in percent, and in what.
func Repeat(a, b Learnt) (percent float64, what string) {
	for _, x := range []struct {
		name string
		a, b float64
	}{{"stator resistance", a.Rs, b.Rs}, {"rotor resistance", a.Rr, b.Rr}, {"leakage", a.Leakage, b.Leakage},
		{"magnetising current", a.Magnetising, b.Magnetising}} {
		if d := 200 * math.Abs(x.a-x.b) / (x.a + x.b); d > percent {
			percent, what = d, x.name
		}
	}
	return percent, what
}

// Permit says which kinds a machine permits, and why the others are refused.
type Permit struct {
	Permanent bool   // permanent magnets
	Uncouple  bool   // the coupling can be taken apart
	Hanging   bool   // a load that falls
	Backstop  bool   // cannot turn backward
	Wants     string // of the practice: best, coupled, standstill
	Simple    bool   // volts per hertz without slip compensation: nothing of a tune is used
	Tuned     bool   // a tune holds already
}

// Offer is a kind of tune with why it is offered in its place, or why it is refused.
type Offer struct {
	Kind    string
	Why     string
	Refused bool
}

// Kinds in the words of a family's recipes.
const (
	KindNone       = "none"
	KindStandstill = "standstill"
	KindExtended   = "standstill-extended"
	KindUncoupled  = "rotating-uncoupled"
	KindCoupled    = "rotating-coupled"
	KindMechanical = "mechanical"
	KindMaker      = "from-maker"
)

// Offers orders the kinds that a drive has: the best that this machine permits first, the refused ones last. has lists the
// kinds of the family; empty: all.
func Offers(p Permit, has []string) []Offer {
	why := map[string]string{KindUncoupled: "learns everything, the shaft free", KindCoupled: "learns with the load on the shaft",
		KindExtended:   "resistances and leakage at standstill",
		KindStandstill: "stator resistance at standstill; little", KindMechanical: "inertia only, after a tune",
		KindMaker: "the maker's values typed in", KindNone: "volts per hertz runs without"}
	order := []string{KindUncoupled, KindExtended, KindStandstill, KindCoupled, KindMaker, KindMechanical, KindNone}
	switch p.Wants {
	case "coupled":
		order = []string{KindCoupled, KindUncoupled, KindExtended, KindStandstill, KindMaker, KindMechanical, KindNone}
	case "standstill":
		order = []string{KindExtended, KindStandstill, KindUncoupled, KindCoupled, KindMaker, KindMechanical, KindNone}
	}
	refuse := map[string]string{}
	if !p.Uncouple {
		refuse[KindUncoupled] = "the coupling cannot be taken apart"
	}
	if p.Hanging {
		refuse[KindCoupled] = "a hoist is never turned coupled"
	}
	if p.Backstop && !p.Hanging {
		why[KindCoupled] = "with the load on the shaft, forward only: direction first"
	}
	if p.Permanent {
		refuse[KindUncoupled], refuse[KindCoupled] = "permanent magnets are tuned at standstill",
			"permanent magnets are tuned at standstill"
	}
	switch {
	case p.Hanging:
		refuse[KindMechanical] = "a hoist is never turned coupled"
	case !p.Tuned:
		refuse[KindMechanical] = "it needs a tune before it"
	}
	if !p.Simple {
		refuse[KindNone] = "this control needs the motor's values"
	} else {
		order = append([]string{KindNone}, order[:len(order)-1]...)
	}
	var good, bad []Offer
	for _, k := range order {
		if len(has) > 0 && k != KindNone && k != KindMaker && !slices.Contains(has, k) {
			continue
		}
		if r := refuse[k]; r != "" {
			bad = append(bad, Offer{k, r, true})
		} else {
			good = append(good, Offer{k, why[k], false})
		}
	}
	return append(good, bad...)
}

// Turns tells whether a kind turns the shaft.
func Turns(kind string) bool {
	return strings.HasPrefix(kind, "rotating") || kind == KindMechanical
}
