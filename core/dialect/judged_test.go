package dialect_test

import (
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
	"tingate/testtools/golden"
)

// sum is a short mark of everything that was said, in the order in which it was.
type sum struct{ text strings.Builder }

func (s *sum) say(v ...any) { fmt.Fprintln(&s.text, v...) }

func (s *sum) mark() string {
	h := fnv.New32a()
	_, _ = h.Write([]byte(s.text.String()))
	s.text.Reset()
	return fmt.Sprintf("%08x", h.Sum32())
}

func (s *sum) line(l dialect.Line) {
	s.say(
		l.Setting.Code,
		l.Planned,
		l.Steps,
		fmt.Sprintf("%.6g", l.Exact),
		l.Because,
		l.Also,
		l.Figures,
		l.Missing,
		l.Rounded,
		l.Problem,
		l.Nearest,
	)
}

// fixed are families as they are, whatever comes after them.
func fixed(t *testing.T) []*dialect.Family {
	t.Helper()
	var l []*dialect.Family
	for _, n := range []string{"Tarn 4", "Tarn 8", "Brae 8", "Voe 7"} {
		name, version, _ := strings.Cut(n, " ")
		f := familyfile.Shipped().Version(name, version)
		if f == nil {
			t.Fatal(n)
		}
		l = append(l, f)
	}
	return l
}

// anyPlan is what a person could plan, with holes and odd figures in it.
func anyPlan(rng *rand.Rand) *dialect.Plan {
	p := dryer()
	pick := func(l ...string) string { return l[rng.IntN(len(l))] }
	p.Motor.Power = 1000 * (0.2 + 30*rng.Float64())
	p.Motor.Current = 1 + p.Motor.Power/1000*2*rng.Float64()
	p.Motor.Frequency = []float64{50, 60, 87, 100}[rng.IntN(4)]
	p.Motor.Speed = p.Motor.Frequency * []float64{29.1, 57, 19.2}[rng.IntN(3)]
	p.Poles = []int{4, 4, 2, 6, 0}[rng.IntN(5)]
	p.DriveCurrent = []float64{0, p.Motor.Current, 16, 40}[rng.IntN(4)]
	p.ServiceFactor = []float64{0, 1, 1.15}[rng.IntN(3)]
	p.Load, p.LoadTorque, p.LoadFriction = pick("constant", "linear", "quadratic", "constant-power"), rng.Float64(), .3*rng.Float64()
	p.Variant = dialect.Variant{Region: pick("", "50", "60"), Frame: pick("", "S", "M")}
	for _, name := range []string{"lowest_speed", "highest_speed", "jog", "preset_1", "preset_2", "preset_3", "reference_low",
		"reference_high",
		"rise", "fall", "current_limit"} {
		switch rng.IntN(8) {
		case 0:
			delete(p.Numbers, name)
		case 1:
			p.Numbers[name] = 0
		case 2:
			p.Numbers[name] = -5
		default:
			p.Numbers[name] = 2000 * rng.Float64() * rng.Float64()
		}
	}
	if rng.IntN(3) > 0 {
		p.Numbers["current_limit"] = .5 + 1.5*rng.Float64()
	}
	for c, l := range map[string][]string{"control": {"volts-per-hertz", "vector"}, "slip_compensation": {"on", "off"}} {
		p.Choices[c] = l[int(p.Motor.Power)%2]
	}
	p.Choices["command_source"], p.Choices["direction"] = pick("keypad", "terminals", "network"), pick("forward", "both")
	p.Choices["speed_source"] = pick("keypad", "voltage", "current", "presets", "network", "motor-potentiometer")
	p.Choices["stop_mode"], p.Choices["load_pattern"] = pick("ramp", "coast"), pick("constant", "quadratic", "automatic-boost")
	p.Choices["overload_class"], p.Choices["reference_loss"] = pick("10", "20", "30", "5"), pick("fault", "hold", "stop")
	if pick("", "x") == "x" {
		delete(p.Choices, pick("control", "direction", "stop_mode", "reference_loss"))
	}
	return p
}

// anyWish is a wish for some of the roles.
func anyWish(rng *rand.Rand) dialect.Wished {
	w := dialect.Wished{Numbers: map[string]float64{}, Means: map[string]string{}, On: map[string]bool{}}
	for _, f := range dialect.WishedFields() {
		if rng.IntN(3) == 0 {
			continue
		}
		switch f.Unit {
		case dialect.WishOn:
			w.On[f.Role] = rng.IntN(2) == 0
		case dialect.WishSense:
			w.Means[f.Role] = append([]string{"stop", "power", "always", "other"}, dialect.Reactions[f.Role]...)[rng.IntN(4)]
		case dialect.WishSpeed:
			w.Numbers[f.Role] = 1600 * rng.Float64()
		case dialect.WishShare:
			w.Numbers[f.Role] = 1.2 * rng.Float64()
		default:
			w.Numbers[f.Role] = 60 * rng.Float64() * rng.Float64()
		}
	}
	for _, r := range []string{"stop-key", "interlock", "interlock-back", "quick-stop-dv", "quick-stop-dt"} {
		if rng.IntN(2) == 0 {
			w.Reacts = append(w.Reacts, r)
		}
	}
	return w
}

// What the families make of plans, wishes, readings and questions is as it was: a hundred random plans in each of four.
func TestPlansAreSpokenAsBefore(t *testing.T) {
	var out strings.Builder
	families := fixed(t)
	for _, f := range families {
		rng := rand.New(rand.NewPCG(18, 7))
		for n := range 60 {
			var s sum
			p := anyPlan(rng)
			lines := f.Sheet(p)
			for _, l := range lines {
				s.line(l)
			}
			fmt.Fprintf(&out, "%s %s %d: %d lines %s", f.Name, f.Version, n, len(lines), s.mark())
			values := held(lines)
			for _, l := range lines {
				low, high := l.Setting.RangeSteps()
				for _, read := range []int64{l.Steps + 1, l.Steps - 1, 10 * l.Steps, l.Steps / 10, low, high,
					l.Setting.DeliveryFor(p.Variant), low +
						rng.Int64N(high-low+1)} {
					s.say(f.Explain(l, p, read))
					if rng.IntN(6) == 0 {
						values[l.Setting.Code] = read
					}
				}
			}
			fmt.Fprintf(&out, " explained %s", s.mark())
			for _, v := range []float64{0, 1, 300, 1455, 1500, 1800, 3000, -1455} {
				s.say(fmt.Sprintf("%.6g %.6g", p.Frequency(v), p.TorqueRatio(v)))
			}
			s.say(p.Regulates(), fmt.Sprintf("%.6g", f.Highest(p)))
			u := f.Read(values, p)
			for _, m := range []any{u.Plan.Motor, u.Plan.Numbers, u.Plan.Choices, u.Plan.Poles, u.Not} {
				s.say(rounded(m))
			}
			fmt.Fprintf(&out, " understood %d %s", len(u.Not), s.mark())
			for _, to := range families {
				for _, m := range dialect.Move(f, to, p) {
					s.say(m.Intent, m.Status, m.Note, m.From == nil, m.To == nil)
				}
				for _, e := range dialect.Update(f, to, p, values) {
					s.say(e)
				}
			}
			got, lacks := f.Wish(p, anyWish(rng))
			s.say(got, lacks)
			fmt.Fprintf(&out, " moved %s wished %d %d\n", s.mark(), len(got), len(lacks))
		}
	}
	golden.Same(t, "testdata/spoken.txt", out.String())
}

// rounded keeps figures from differing in their last digits.
func rounded(v any) string {
	switch x := v.(type) {
	case map[string]float64:
		var l []string
		for k, f := range x {
			l = append(l, fmt.Sprintf("%s %.6g", k, f))
		}
		slices.Sort(l)
		return strings.Join(l, " ")
	case dialect.Row:
		return fmt.Sprintf("%s %.6g %.6g %.6g %.6g %.6g %.6g", x.Name, x.Power, x.Voltage, x.Current, x.Frequency, x.Speed, x.Factor)
	}
	return fmt.Sprint(v)
}

// What is looked up in a family, typed into it and sent to it is as it was, setting by setting.
func TestFamiliesAnswerAsBefore(t *testing.T) {
	var out strings.Builder
	for _, f := range fixed(t) {
		rng := rand.New(rand.NewPCG(18, 8))
		var s sum
		for i := range f.Settings {
			x := &f.Settings[i]
			settingSays(&s, f, x, rng)
			fmt.Fprintf(&out, "%s %s %s %s\n", f.Name, f.Version, x.Code, s.mark())
		}
		for _, b := range append(f.Blocks(), f.Watched()...) {
			s.say(b)
		}
		for r := range 5000 {
			if why, yes := f.Commands(uint16(r)); yes {
				s.say(r, why)
			}
		}
		for _, r := range f.Ratings {
			facts, err := f.DecodeType(r.Type + "-X9")
			size, ok := f.RatingOf(strings.ToLower(r.Type))
			code, known := f.RatingByCode(r.Code)
			s.say(facts, err, size, ok, code, known)
		}
		for _, v := range []string{"", "1", "1.0", "2.4", "3.2", "9.9", "3.2.1", "x", "10"} {
			inside, ok := f.Covers(v)
			s.say(v, inside, ok, dialect.CompareVersions(v, f.Version), dialect.CompareVersions(v, "3.2"))
		}
		for i := range f.Link.Actuals {
			a := &f.Link.Actuals[i]
			for _, steps := range []int64{0, 1, 155, 15500} {
				full := f.Full(a, steps)
				for _, figure := range []float64{0, 1, -1, 12.34, 1455, 50} {
					regs := f.Registers(a, figure, full)
					s.say(a.What, fmt.Sprintf("%.6g %.6g", full, f.Figure(a, regs, full)), regs)
				}
			}
		}
		s.say(f.Ways(), f.TakesEncoder(), f.Keypad.Keys)
		m, ok := f.EncoderModule()
		s.say(m, ok)
		fmt.Fprintf(&out, "%s %s looked up %s", f.Name, f.Version, s.mark())
		for range 40 {
			values, now := map[string]int64{}, map[string]int64{}
			for i := range f.Settings {
				x := &f.Settings[i]
				low, high := x.RangeSteps()
				if rng.IntN(8) == 0 && x.Kind != "text" {
					values[x.Code] = low + rng.Int64N(high-low+1)
				}
				now[x.Code] = x.DeliverySteps()
			}
			for _, stop := range f.Route(f.Settings[rng.IntN(len(f.Settings))].Code, values, now) {
				s.say(stop)
			}
			driven := f.Driven(values)
			names := make([]string, 0, len(driven))
			for n, d := range driven {
				names = append(names, fmt.Sprintf("%s %s %d %.6g %s", n, d.Setting.Code, d.Steps, d.Value, d.Means))
			}
			slices.Sort(names)
			s.say(names)
			for what := range dialect.Reactions {
				names = append(names, what+" "+f.Reacts(what, values))
			}
			slices.Sort(names)
			s.say(names)
		}
		fmt.Fprintf(&out, " routes %s\n", s.mark())
	}
	for _, name := range []string{"Motor pole pairs", "Number of poles", "Rated power", "Motor cos phi", "Thermal class",
		"Max frequency", "Jog speed",
		"Preset speed 2", "Fixed speed three", "Reference lost", "AI1 low", "AI1 high", "Slip compensation", "Decel 2", "Run source",
		"Speed source",
		"Auto restart", "Direction", "Stop mode", "V/f pattern", "STO shows", "Input 3 function", "Stall protection", "Current limit",
		"Line frequency"} {
		for _, unit := range []string{"", "A", "%", "Hz", "rpm", "s", "kW", "HP", "‰"} {
			for _, kind := range []string{"number", "choice", "bits"} {
				fmt.Fprintf(&out, "%s %s %s: %v\n", name, unit, kind, dialect.Propose(name, unit, kind))
			}
		}
	}
	fmt.Fprintf(&out, "%v\n", dialect.Roles())
	golden.Same(t, "testdata/answered.txt", out.String())
}

func settingSays(s *sum, f *dialect.Family, x *dialect.Setting, rng *rand.Rand) {
	low, high := x.RangeSteps()
	s.say(x.Span(), x.Acting(), f.KeyPath(x), x.Words(), f.Acts(x), x.Reacts())
	for _, v := range []dialect.Variant{{}, {Region: "50"}, {Region: "60"}, {Frame: "S"}, {Frame: "M"}, {Region: "60", Frame: "M"}} {
		s.say(x.DeliveryFor(v))
	}
	for _, n := range []int64{low, high, low - 1, high + 1, 0, 1, -1, 7, 100, low + rng.Int64N(high-low+1)} {
		s.say(n, x.Text(n), x.WithUnit(n), x.Inside(n), x.Off(n), x.AsRead(n, " t "))
		v := dialect.Held{Steps: n, Text: "Gannet"}
		regs := f.Encode(x, v)
		back, exact := f.Decode(x, regs)
		s.say(regs, back, exact)
		for i := range regs {
			regs[i]++
		}
		back, exact = f.Decode(x, regs)
		s.say(back, exact, f.ByteSwapped(uint16(n)))
	}
	index, sub, is := x.Object()
	first, last, ends := x.CountRange()
	s.say(index, sub, is, first, last, ends, x.DataType())
	for _, n := range []int64{low, high, 0, 1, 7} {
		counts := x.Counts(dialect.Held{Steps: n, Text: "Gannet"})
		back, err := x.FromCounts(counts)
		s.say(counts, back, err)
		back, err = x.FromCounts(counts + "1")
		s.say(back, err)
	}
	for _, text := range []string{"", "1", "0", "-1", "1.5", "1,5", "1.55", " 12 ", "0x10", "on", "off", "yes", "terminals",
		"1 terminals", "50.0 Hz",
		"15.5 A", "10 s", "10 min", "1.000,5", "1e3", "one", "X1 + X2", "none", x.Delivery, x.Name} {
		n, err := x.Read(text)
		s.say(text, n, err)
	}
	full, some := int64(1), int64(0)
	for _, n := range []dialect.Now{{}, {Running: true}, {Remote: true}, {Access: &full}, {Access: &some}, {Running: true, Access: &full}} {
		if h := f.Refuses(x, n); h != nil {
			s.say(*h)
		}
	}
}

// What is wrong with a family's file is named as before: three hundred files with four things bent in each.
func TestBentFamiliesAreRefusedAsBefore(t *testing.T) {
	rng := rand.New(rand.NewPCG(18, 9))
	var out strings.Builder
	for _, f := range fixed(t)[1:] {
		raw := familyfile.Shipped().RawVersion(f.Name, f.Version)
		for n := range 100 {
			var doc yaml.Node
			if err := yaml.Unmarshal(raw, &doc); err != nil {
				t.Fatal(err)
			}
			for range 4 {
				bendNode(rng, doc.Content[0])
			}
			bent, err := yaml.Marshal(&doc)
			if err != nil {
				t.Fatal(err)
			}
			text := "taken"
			if g, err := familyfile.Read(bent); err != nil {
				text = err.Error()
			} else {
				var s sum
				s.say(f.Narrows(g))
				text += " " + s.mark()
			}
			fmt.Fprintf(&out, "%s %d: %s\n", f.Name, n, strings.ReplaceAll(text, "\n", " | "))
		}
	}
	golden.Same(t, "testdata/refused.txt", out.String())
}

// bendNode changes one thing: a value, or that it is there.
func bendNode(rng *rand.Rand, n *yaml.Node) {
	for len(n.Content) > 0 {
		i := rng.IntN(len(n.Content))
		if n.Kind == yaml.MappingNode {
			i |= 1 // a value, not its key
			if rng.IntN(25) == 0 {
				n.Content = slices.Delete(n.Content, i-1, i+1)
				return
			}
		} else if rng.IntN(40) == 0 {
			n.Content = append(n.Content, n.Content[i]) // twice
			return
		}
		n = n.Content[i]
	}
	words := []string{
		"0",
		"-1",
		"1",
		"70000",
		"x",
		"",
		"0.001",
		"1e9",
		"full",
		"motion",
		"number",
		"choice",
		"u32",
		"s16",
		"4A",
		"motor.power",
		"amperes",
		"nowhere",
		"both",
		"0.3",
		"99",
	}
	n.Value, n.Tag, n.Style = words[rng.IntN(len(words))], "", 0
}
