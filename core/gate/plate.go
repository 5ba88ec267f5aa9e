package gate

import (
	"errors"
	"fmt"
	"math"
	"sort"
	"strings"
	"unicode"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/plate"
	"tingate/core/quantity"
	"tingate/core/record"
	"tingate/core/sheet"
	"tingate/core/translate"
)

// Basis is the row in use as a person reads it: what a decision about the plate rests on.
func Basis(m drivefile.Motor) map[string]string {
	b := map[string]string{}
	put := func(k, v string) {
		if v != "" {
			b[k] = v
		}
	}
	r := m.Rows[translate.LinkedRow(m)]
	put("connection", r.Connection)
	for k, q := range map[string]drivefile.Q{"voltage": r.Voltage, "frequency": r.Frequency, "power": r.Power, "current": r.Current,
		"speed":        r.Speed,
		"power_factor": r.PowerFactor, "efficiency": m.Efficiency, "poles": m.Poles} {
		put(k, strings.TrimSpace(q.Text))
	}
	put("kind", m.Kind)
	return b
}

// plateGate asks for the motor's figures, and says what the sheet of settings shows.
type plateGate struct {
	asking
	linked                       string
	workedOut, unreadable, shown map[string]string
}

func (g *plateGate) ask() {
	m := g.job.Drive.Motor
	g.linked, g.workedOut, g.unreadable, g.shown = translate.LinkedRow(m), map[string]string{}, map[string]string{}, map[string]string{}
	p, basis := translate.Plate(m), Basis(m)
	for _, f := range g.result.Findings {
		g.finding("plate", f, basis)
	}
	g.asTyped()
	g.powerUnit()
	g.familyFindings()
	g.lineFindings()
	g.smallMotor()
	g.farFromList()
	g.figures = plateFigures(p, g.result)
	g.plateChecks(p)
	g.readBack("Motor settings read back")
}

func (g *plateGate) tell(s *State) {
	s.Linked, s.Poles, s.WorkedOut, s.Unreadable, s.Shown = g.linked, g.result.Poles, g.workedOut, g.unreadable, g.shown
	if c := plate.Misreadings(translate.Plate(g.job.Drive.Motor), 4); c != nil {
		s.Corrections = c
	}
}

// powerUnit asks about a power that was typed without its unit: a third more or less hangs on it, and both stand on plates.
func (g *plateGate) powerUnit() {
	id := g.linked
	q := g.job.Drive.Motor.Rows[id].Power
	if q.Value == nil || strings.ContainsFunc(q.Text, unicode.IsLetter) {
		return
	}
	hp := translate.Horsepower(g.job.Drive.Motor)
	g.finding("plate", finding.Finding{Code: "power-without-unit", Severity: finding.Look, Field: "motor.rows." + id + ".power",
		Title: strings.TrimSpace(q.Text) + " kW, or " + strings.TrimSpace(q.Text) + " hp?",
		Detail: fmt.Sprintf("No unit was typed with the power. %s kW are %s hp, and %s hp are %s kW; it is read as kW meanwhile.",
			f4(*q.Value), f4(*q.Value*1000/hp), f4(*q.Value), f4(*q.Value*hp/1000)), Action: "Type the unit with it, as the plate has it"},
		map[string]string{"power": q.Text})
}

// inOther is a power in horsepower where it was typed in kW, and the other way round: the two are taken for each other too easily.
func inOther(q drivefile.Q, m drivefile.Motor) string {
	hp := translate.Horsepower(m)
	if q.Unit == "metric hp" {
		hp = quantity.MetricHorsepowerW
	}
	if strings.HasSuffix(q.Unit, "hp") {
		return f4(*q.Value*hp/1000) + " kW"
	}
	w, _ := q.In(quantity.Power, "W")
	return f4(w/hp) + " hp"
}

// asTyped finds the texts that could not be read, and shows what was understood of the others.
func (g *plateGate) asTyped() {
	for _, q := range g.job.Drive.Quantities() {
		if q.Value != nil {
			g.shown[q.Path] = strings.TrimSpace(quantity.Digits(*q.Value, 6) + " " + q.Unit)
			if strings.HasPrefix(q.Path, "motor.rows.") && q.Kind.Name == quantity.Power.Name {
				g.shown[q.Path] = inOther(q.Q, g.job.Drive.Motor)
			}
			continue
		}
		_, problem := q.Kind.Parse(q.Text)
		want := "a " + q.Kind.Name
		if pe := (*quantity.Error)(nil); errors.As(problem, &pe) {
			want = pe.Want
		}
		g.unreadable[q.Path] = want
		g.finding(gateOf(q.Path), finding.Finding{Code: "not-readable", Severity: finding.Stop, Field: q.Path,
			Title:  fmt.Sprintf("%s cannot be read", drivefile.Called(q.Path)),
			Detail: fmt.Sprintf("%q is kept as typed. Wanted: %s.", q.Text, want), Action: "Type it again"}, nil)
	}
}

// gateOf is the gate that asks for a field of the drive.
func gateOf(path string) string {
	top, name, _ := strings.Cut(path, ".")
	switch top {
	case "motor", "rating":
		return "plate"
	case "turn", "signal", "stop":
		return top
	case "intent":
		if g := dialect.WishGate(name); g != "" {
			return g
		}
		for _, p := range []string{"jog", "preset_", "reference_", "loop_"} {
			if strings.HasPrefix(name, p) {
				return "signal"
			}
		}
	}
	return "span"
}

func (g *plateGate) plateChecks(p plate.Plate) {
	d := g.job.Drive
	c := Check{Key: "plate/family/drive", Title: "Drive family and rated current", Verdict: Holds}
	switch {
	case d.Rating.Dialect == "":
		c.Verdict, c.Detail = NotDone, "Choose the drive's family."
	case g.job.Family == nil:
		c.Verdict, c.Detail = Stops, fmt.Sprintf("The family %q is not known here.", d.Rating.Dialect)
	case math.IsNaN(d.Rating.Current.Num(quantity.Current, "A")):
		c.Verdict, c.Detail = NotDone, "Enter the rated output current from the drive's label."
	default:
		c.Detail = d.Rating.Dialect + ", " + strings.TrimSpace(d.Rating.Current.Text)
	}
	g.check(c)
	g.check(rowComplete(d.Motor, g.linked, p))
	g.findingsAnswered()
	ready := g.result.Poles > 0
	poles := Check{Key: "plate/poles/confirmed", Title: "Poles confirmed", Basis: map[string]string{"poles": fmt.Sprint(g.result.Poles)}}
	poles.Detail = fmt.Sprintf("%d poles, worked out from speed and frequency.", g.result.Poles)
	if p.Row.Poles != 0 {
		poles.Detail = fmt.Sprintf("%d poles, as stamped.", g.result.Poles)
	}
	if !ready {
		poles.Detail = "Enter speed and frequency first."
	}
	g.confirm(poles, ready)
	if ready && p.Row.Poles == 0 {
		g.workedOut["motor.poles"] = fmt.Sprint(g.result.Poles)
	}
	if !math.IsNaN(g.result.Efficiency) && math.IsNaN(p.Row.Efficiency) {
		g.workedOut["motor.efficiency"] = quantity.Digits(g.result.Efficiency*100, 3) + " %"
	}
	if !math.IsNaN(g.result.PowerFactor) && math.IsNaN(p.Row.Factor) && g.linked != "" {
		g.workedOut["motor.rows."+g.linked+".power_factor"] = quantity.Digits(g.result.PowerFactor, 3)
	}
}

// familyFindings hold the drive's own label against what its family file knows.
func (g *plateGate) familyFindings() {
	f, r := g.job.Family, g.job.Drive.Rating
	if f == nil {
		return
	}
	say := func(code string, sev finding.Severity, field, title, detail, action string, basis map[string]string) {
		g.finding("plate", finding.Finding{Code: code, Severity: sev, Field: "rating." + field, Title: title, Detail: detail,
			Action: action}, basis)
	}
	switch {
	case r.DialectVersion != "" && r.DialectVersion != f.Version:
		say("family-version-missing", finding.Look, "dialect", fmt.Sprintf("%s %s is not here", f.Name, r.DialectVersion),
			fmt.Sprintf("This drive was planned with version %s of its family's file; version %s is used now.", r.DialectVersion,
				f.Version), "Add that version, or see what changes and take this one",
			map[string]string{"version": r.DialectVersion + " " + f.Version})
	case g.job.Newest != "" && g.job.Newest != f.Version && dialect.CompareVersions(g.job.Newest, f.Version) > 0:
		say("family-newer", finding.Note, "dialect",
			fmt.Sprintf("%s %s is here; this drive stays with %s", f.Name, g.job.Newest, f.Version),
			"What would change for this drive is shown before it is taken.", "", nil)
	}
	if inside, ok := f.Covers(r.Firmware); ok && !inside {
		say("firmware-not-covered", finding.Look, "firmware", fmt.Sprintf("Firmware %s is not covered", r.Firmware),
			fmt.Sprintf("The family's file was written for firmware %s to %s: codes, ranges and registers may differ.",
				f.FirmwareRange.From, f.FirmwareRange.To), "Compare some settings on the keypad, or add the file for this firmware",
			map[string]string{"firmware": r.Firmware, "file": f.Version})
	}
	if r.Type == "" || len(f.TypeCode.Parts) == 0 {
		return
	}
	if _, err := f.DecodeType(r.Type); err != nil {
		say("type-not-understood", finding.Note, "type", "The type is not taken apart",
			fmt.Sprintf("%s types look like %s; %v.", f.Name, f.TypeCode.Example, err), "", nil)
	}
	size, ok := f.RatingOf(r.Type)
	if !ok {
		return
	}
	amps := r.Current.Num(quantity.Current, "A")
	if want := size.Current(r.Duty); math.IsNaN(amps) {
		g.workedOut["rating.current"] = quantity.Digits(want, 4) + " A"
	} else if math.Abs(amps/size.Heavy-1) > .02 && (size.Normal == 0 || math.Abs(amps/size.Normal-1) > .02) {
		both := quantity.Digits(size.Heavy, 4) + " A"
		if size.Normal > 0 {
			both += " heavy, " + quantity.Digits(size.Normal, 4) + " A normal duty"
		}
		say("rating-disagrees", finding.Look, "current", "The rated current does not go with the type",
			fmt.Sprintf("%s gives %s; entered is %s A.", size.Type, both, quantity.Digits(amps, 4)), "Read the drive's label again",
			map[string]string{"type": r.Type, "current": r.Current.Text})
	}
}

func rowComplete(m drivefile.Motor, linked string, p plate.Plate) Check {
	c := Check{Key: "plate/complete/row", Title: "Linked row complete", Verdict: Holds}
	if len(m.Rows) == 0 {
		c.Verdict, c.Detail = NotDone, "Type the row of the plate that fits the drive's output."
		return c
	}
	if linked == "" {
		c.Verdict, c.Detail = NotDone, "Mark the row that is linked in the terminal box."
		return c
	}
	var missing []string
	for _, f := range []struct {
		name string
		v    float64
	}{{"volts", p.Row.Voltage}, {"hertz", p.Row.Frequency}, {"power", translate.Either(p.Row.Power, p.Row.Horsepower)},
		{"amperes", p.Row.Current}, {"r/min", p.Row.Speed}} {
		if math.IsNaN(f.v) {
			missing = append(missing, f.name)
		}
	}
	c.Detail = translate.RowName(m.Rows[linked])
	if missing != nil {
		c.Verdict, c.Detail = NotDone, "Missing: "+strings.Join(missing, ", ")+"."
	}
	return c
}

func plateFigures(p plate.Plate, r plate.Result) []Figure {
	out := []Figure{}
	row := p.Row
	n := func(v float64) string { return quantity.Digits(v, 4) }
	in := func(label string, v float64, unit string) Input { return Input{label, n(v), unit} }
	add := func(f Figure, v float64) {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return
		}
		f.Value = quantity.Fixed(v, 3)
		if f.Unit == "r/min" || f.Unit == "" {
			f.Value = n(v)
		}
		out = append(out, f)
	}
	power := translate.Either(row.Power, row.Horsepower)
	volts, amps := in("Voltage", row.Voltage, "V"), in("Current", row.Current, "A")
	add(Figure{Key: "synchronous", Label: "Synchronous speed", Short: "120 f / p", Unit: "r/min", Formula: "120 × frequency ÷ poles",
		Inputs: []Input{in("Frequency", row.Frequency, "Hz"), in("Poles", float64(r.Poles), "")}}, r.SynchronousSpeed)
	if r.Poles > 0 {
		add(Figure{Key: "poles", Label: "Poles", Short: "most poles that leave a slip",
			Formula: "largest even p with 120 f / p above the plate speed",
			Inputs:  []Input{in("Frequency", row.Frequency, "Hz"), in("Speed", row.Speed, "r/min")}}, float64(r.Poles))
	}
	if p.Kind != plate.PermanentMagnet {
		add(Figure{Key: "slip", Label: "Slip", Short: n(r.SlipSpeed) + " r/min", Unit: "%",
			Formula: "(synchronous − plate speed) ÷ synchronous",
			Inputs:  []Input{in("Synchronous", r.SynchronousSpeed, "r/min"), in("Speed", row.Speed, "r/min")}}, r.Slip*100)
	}
	add(Figure{Key: "torque", Label: "Rated torque", Unit: "N·m", Formula: "power ÷ (2π × speed ÷ 60)",
		Inputs: []Input{in("Power", power/1000, "kW"), in("Speed", row.Speed, "r/min")}}, r.Torque)
	add(Figure{Key: "apparent", Label: "Apparent power", Short: "√3 V I", Unit: "kVA", Formula: "√3 × voltage × current",
		Inputs: []Input{volts, amps}}, r.ApparentPower/1000)
	add(Figure{Key: "input", Label: "Power in", Short: "√3 V I cos φ", Unit: "kW", Formula: "√3 × voltage × current × cos φ",
		Inputs: []Input{volts, amps, in("cos φ", r.PowerFactor, "")}}, r.InputPower/1000)
	label := "Efficiency implied"
	if math.IsNaN(row.Factor) {
		label = "Efficiency stamped"
	}
	add(Figure{Key: "efficiency", Label: label, Unit: "%", Formula: "power ÷ power in",
		Inputs: []Input{in("Power", power/1000, "kW"), in("Power in", r.InputPower/1000, "kW")}}, r.Efficiency*100)
	if !math.IsNaN(r.NoLoadCurrent) {
		out = append(out, Figure{Key: "no-load", Label: "No-load current", Short: "estimate", Unit: "A", Estimate: true,
			Value:   quantity.Digits(r.NoLoadCurrentLow, 2) + "–" + quantity.Digits(r.NoLoadCurrent, 2),
			Formula: "current × (sin φ − x cos φ), x from 0.04 to 0.27; by size when cos φ is missing",
			Inputs:  []Input{amps, in("cos φ", r.PowerFactor, "")}})
	}
	for i := range out {
		out[i].Inputs = known(out[i].Inputs)
	}
	return out
}

// known drops inputs that are not there.
func known(list []Input) []Input {
	out := make([]Input, 0, len(list))
	for _, i := range list {
		if i.Value != "0" {
			out = append(out, i)
		}
	}
	return out
}

func sortedKeys[V any](m map[string]V) []string {
	l := make([]string, 0, len(m))
	for k := range m {
		l = append(l, k)
	}
	sort.Strings(l)
	return l
}

// Basis is what a decision about the finding rests on: the values the rule looked at.
func (a Answered) Basis() map[string]string { return a.basis }

// Readings are the last values seen of every setting of the job's family, in the plan or not, in this very drive since it was last reset.
func Readings(j Job) map[string]record.Read {
	out := map[string]record.Read{}
	for code, r := range recordOf(j).Reads {
		s, ok := j.Family.Setting(code)
		if !ok {
			continue
		}
		v := *sheet.Shown(s, r)
		out[code] = v
	}
	return out
}
