package bench_test

import (
	"fmt"
	"maps"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"tingate/bench"
	"tingate/core/dialect"
	"tingate/core/drive"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/formats/familyfile"
	"tingate/testtools/benches"
	"tingate/testtools/raced"
)

// script is a run of a bench: what is there and set, and what is done when. What a person could see of it is its print.
type script struct {
	name string
	set  func(*bench.Setup)
	acts []timed
	ends int // ms
}

type timed struct {
	at  int // ms
	act bench.Act
}

// print runs a script, and gives everything that can be seen of it, five times a second. It ends where that is not what another print
// begins with; empty: to its end.
func (s script) print(base bench.Setup, code string, value int64, other string) (string, error) {
	base = s.on(base)
	if code != "" {
		base.Values[code] = value
	}
	b, err := bench.New(base)
	if err != nil {
		return "", err
	}
	var out strings.Builder
	held := map[int]bool{} // closed while it may run
	n := 0
	for _, x := range base.Family.Terminals {
		if x.Kind != "digital-in" {
			continue
		}
		n++
		if functionOf(base, x.Setting) == "interlock" {
			held[n] = true
			if err := b.Do(bench.Act{Do: "terminal", N: n, On: true}); err != nil {
				return "", err
			}
		}
	}
	next := 0
	for ms := 0; ms < s.ends; ms += 200 {
		for next < len(s.acts) && s.acts[next].at <= ms {
			a := s.acts[next].act
			if a.Do == "terminal" && held[a.N] {
				a.On = !a.On
			}
			if err := b.Do(a); err != nil {
				return "", err
			}
			next++
		}
		b.Advance(200)
		v := b.Show(1e9)
		hot := 0.
		if v.Resistor != nil {
			hot = *v.Resistor
		}
		fmt.Fprintf(&out, "%s %s %s %s %s %.4g %.4g %.4g %.5g %.4g %.4g %v|", v.Phase, v.Blocked, v.Fault, v.Warning, v.TorqueOff, v.Speed,
			v.Hz, v.Current, v.Link, v.Encoder, hot, v.Relays)
		if other != "" && !strings.HasPrefix(other, out.String()) {
			break
		}
	}
	return out.String(), nil
}

// on is the setup of a script.
func (s script) on(base bench.Setup) bench.Setup {
	base.Values = cloned(base.Values)
	if s.set != nil {
		s.set(&base)
	}
	return base
}

func cloned(m map[string]int64) map[string]int64 {
	out := make(map[string]int64, len(m))
	for k, v := range m {
		out[k] = v
	}
	return out
}

// means puts every choice of an intent to what stands for it in the family's words.
func means(s *bench.Setup, intent, means string) {
	for i := range s.Family.Settings {
		x := &s.Family.Settings[i]
		if x.Intent != intent && x.Drives != intent {
			continue
		}
		for _, c := range x.Choices {
			if slices.Contains(strings.Split(c.Means, "|"), means) {
				s.Values[x.Code] = c.Value
			}
		}
	}
}

// functionOf is what an input's setting stands for as it is set.
func functionOf(s bench.Setup, code string) string {
	x, ok := s.Family.Setting(code)
	if !ok {
		return ""
	}
	v, set := s.Values[code]
	if !set {
		v = x.DeliverySteps()
	}
	for _, c := range x.Choices {
		if c.Value == v {
			return c.Means
		}
	}
	return ""
}

// assign gives the inputs from the third on functions, as far as the family has them.
func assign(functions ...string) func(*bench.Setup) {
	return func(s *bench.Setup) {
		n := 0
		for _, t := range s.Family.Terminals {
			if t.Kind != "digital-in" {
				continue
			}
			if n++; n < 3 || n-3 >= len(functions) {
				continue
			}
			x, ok := s.Family.Setting(t.Setting)
			for i := 0; ok && i < len(x.Choices); i++ {
				if x.Choices[i].Means == functions[n-3] {
					s.Values[x.Code] = x.Choices[i].Value
				}
			}
		}
	}
}

// number puts a setting that does something to a value in its own unit, or its first choice that is not what was delivered.
func number(s *bench.Setup, drives string, value float64) {
	for i := range s.Family.Settings {
		x := &s.Family.Settings[i]
		if x.Drives != drives {
			continue
		}
		if x.Kind == "choice" {
			s.Values[x.Code] = int64(value)
			continue
		}
		per := map[string]float64{"r/min": 30, "‰": 10, "ms": 1000}[x.Unit] // from Hz, percent, seconds
		if per == 0 {
			per = 1
		}
		s.Values[x.Code] = int64(value*per/x.Value(1) + .5)
	}
}

// synchronous enters the speed of a motor that runs with its field, at 50 Hz with four poles.
func synchronous(f *dialect.Family, values map[string]int64) {
	for i := range f.Settings {
		if x := &f.Settings[i]; x.Intent == "motor.speed" {
			values[x.Code] = int64(1500/x.Value(1) + .5)
		}
	}
}

// quickFall makes the fall six times as steep.
func quickFall(s *bench.Setup) {
	quick := ""
	for i := range s.Family.Settings {
		if x := &s.Family.Settings[i]; x.Intent == "ramp.fall.time" || x.Intent == "ramp.fall" && quick == "" {
			quick = x.Code
		}
	}
	s.Values[quick] /= 6
}

// scripts between them use everything that a bench drive can do.
func scripts() []script {
	do := func(at int, what string, n int, on bool, value float64) timed {
		return timed{at, bench.Act{Do: what, N: n, On: on, Value: value}}
	}
	breaks := func(at int, what string, on bool) timed {
		return timed{at, bench.Act{Do: "break", What: what, On: on}}
	}
	on := do(0, "line", 0, true, 0)
	// every terminal by itself while the first runs it, the analog input at several heights
	terminals := []timed{on, do(1600, "analog", 0, false, 8), do(1800, "terminal", 1, true, 0)}
	at := 8000
	for n := 2; n <= 8; n++ {
		terminals = append(terminals, do(at, "terminal", n, true, 0), do(at+1600, "terminal", 1, false, 0),
			do(at+2600, "terminal", 1, true, 0), do(at+4000, "terminal", n, false, 0))
		at += 6000
	}
	ends := at + 12000
	terminals = append(terminals, do(at, "analog", 0, false, 2), do(at+3000, "analog", 0, false, .1), do(at+5000, "terminal", 1, false, 0))
	bits := []timed{on, do(1800, "terminal", 1, true, 0)}
	for n := 1; n < 8; n++ {
		for k := range 3 {
			bits = append(bits, do(2000+n*4000, "terminal", 3+k, n>>k&1 == 1, 0))
		}
	}
	alone := []timed{on}
	for n := 1; n <= 8; n++ {
		alone = append(alone, do(1600+n*5000, "terminal", n, true, 0), do(1600+n*5000+3600, "terminal", n, false, 0))
	}
	keypad := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 50), do(1600, "run", 0, false, 0),
		do(9000, "speed", 0, false, 20), do(14000, "reverse", 0, false, 0), do(20000, "stop", 0, false, 0),
		do(26000, "channel", 3, false, 0), do(27000, "channel", 3, true, 0), do(28000, "reset", 0, false, 0),
		do(29000, "run", 0, false, 0), do(33000, "channel", 1, false, 0), do(35000, "channel", 1, true, 0),
		do(36000, "reset", 0, false, 0), do(37000, "run", 0, false, 0)}
	held := []timed{do(0, "analog", 0, false, 8), do(0, "terminal", 1, true, 0), do(400, "line", 0, true, 0),
		do(9000, "line", 0, false, 0), do(14000, "line", 0, true, 0)}
	trouble := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 45), do(1600, "run", 0, false, 0),
		breaks(9000, "phase-lost", true), breaks(16000, "phase-lost", false), do(17000, "stop", 0, false, 0),
		do(18000, "reset", 0, false, 0), do(24000, "stop", 0, false, 0),
		breaks(34000, "jammed", true), do(34400, "run", 0, false, 0), do(60000, "stop", 0, false, 0), breaks(61000, "jammed", false),
		do(62000, "reset", 0, false, 0), do(63000, "run", 0, false, 0), breaks(72000, "output-lost", true),
		breaks(76000, "output-lost", false)}
	lost := []timed{on, do(400, "analog", 0, false, 9), do(1600, "terminal", 1, true, 0), breaks(7000, "reference-off", true),
		do(12000, "terminal", 1, false, 0)}
	bent := func(s *bench.Setup) { // percent of the signal, Hz
		for name, v := range map[string]float64{"bend-1-at": 25, "bend-1": 5, "bend-2-at": 50, "bend-2": 20, "bend-3-at": 75,
			"bend-3": 25} {
			number(s, name, v)
		}
	}
	sweep := []timed{on, do(1600, "analog", 0, false, 2), do(1800, "terminal", 1, true, 0), do(8000, "analog", 0, false, 4),
		do(14000, "analog", 0, false, 6), do(20000, "analog", 0, false, 9)}
	auto := func(source string) func(*bench.Setup) {
		return func(s *bench.Setup) {
			means(s, "choice.command_source", "terminals")
			means(s, "choice.speed_source", source)
			means(s, "choice.reference_signal", source)
		}
	}
	hot := func(s *bench.Setup) {
		means(s, "choice.command_source", "keypad")
		s.Load = motion.Load{Kind: "quadratic", Torque: 70, Speed: 152}
		for i := range s.Family.Settings {
			if x := &s.Family.Settings[i]; x.Intent == "overload.current" {
				s.Values[x.Code] = s.Values[x.Code] * 55 / 100
			}
		}
	}
	unwatched := func(s *bench.Setup) { // nothing but a sensor in the winding is left
		s.Load = motion.Load{Kind: "quadratic", Torque: 116, Speed: 152}
		s.Size.Heavy *= 2.5
		for i := range s.Family.Settings {
			x := &s.Family.Settings[i]
			if _, high := x.RangeSteps(); x.Intent == "overload.current" || x.Intent == "limit.current" || x.Intent == "current_limit" {
				s.Values[x.Code] = high
			}
		}
	}
	counted := func(s *bench.Setup) { number(s, "encoder-lines", 1024) }
	both := func(a, b func(*bench.Setup)) func(*bench.Setup) { return func(s *bench.Setup) { a(s); b(s) } }
	vector := func(s *bench.Setup) { means(s, "choice.control", "vector") }
	known := func(s *bench.Setup) {
		vector(s)
		number(s, "stator-resistance", map[bool]float64{true: 500, false: .5}[s.Family.Name == "Voe"])
		number(s, "rotor-resistance", map[bool]float64{true: 400, false: .4}[s.Family.Name == "Voe"])
		number(s, "leakage", map[bool]float64{true: 9000, false: 9}[s.Family.Name == "Voe"])
		number(s, "magnetising-current", map[bool]float64{true: 7000, false: 7}[s.Family.Name == "Voe"])
	}
	braked := func(s *bench.Setup) {
		number(s, "dc-brake", 1)
		number(s, "dc-brake-current", 50)
		number(s, "dc-brake-time", 2)
		number(s, "skip-1", 30)
		number(s, "skip-2", 20)
		number(s, "skip-width", 3)
		number(s, "skip-1-from", 28)
		number(s, "skip-1-to", 32)
		number(s, "skip-2-from", 18)
		number(s, "skip-2-to", 21)
	}
	heavy := func(s *bench.Setup) { s.LoadJ = 3 }
	resistor := func(s *bench.Setup) {
		s.LoadJ = 1
		number(s, "resistor", 1)
		number(s, "resistor-ohm", 60)
		quickFall(s)
	}
	long := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 50), do(1600, "run", 0, false, 0)}
	stops := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 50), do(1600, "run", 0, false, 0),
		do(12000, "stop", 0, false, 0), do(13000, "run", 0, false, 0), do(20000, "stop", 0, false, 0)}
	buttons := []timed{on, do(1800, "terminal", 1, true, 0), do(3000, "terminal", 3, true, 0), do(12000, "terminal", 3, false, 0),
		do(14000, "terminal", 4, true, 0), do(17000, "terminal", 4, false, 0), do(19000, "terminal", 1, false, 0),
		do(30000, "terminal", 1, true, 0), do(36000, "terminal", 1, false, 0), do(46000, "line", 0, false, 0),
		do(48000, "line", 0, true, 0), do(51000, "terminal", 1, true, 0)}
	dips := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 40), do(1600, "run", 0, false, 0),
		do(11000, "dip", 0, false, .4), do(14000, "reset", 0, false, 0), do(14400, "run", 0, false, 0),
		breaks(18000, "earth", true)}
	retries := []timed{on, do(200, "hand", 0, true, 0), do(200, "speed", 0, false, 45), do(1600, "run", 0, false, 0),
		breaks(9000, "output-lost", true), breaks(16000, "output-lost", false), do(30000, "stop", 0, false, 0)}
	tries := func(s *bench.Setup) {
		means(s, "choice.automatic_restart", "on")
		number(s, "restarts-most", 2)
		means(s, "choice.command_source", "keypad")
	}
	quick := []timed{on, do(1600, "analog", 0, false, 8), do(1700, "terminal", 3, true, 0), do(1800, "terminal", 1, true, 0),
		do(12000, "terminal", 3, false, 0)}
	hoist := func(s *bench.Setup) {
		vector(s)
		s.Brake = drive.Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}
		number(s, "brake", 1)
	}
	magnet := func(s *bench.Setup) { // of the same power, its plate as the drive holds the other's, but synchronous
		s.Motor, s.Magnet, s.Lines = machine.FromMagnetRow(7500, 400, 14.9, 50, 1500, .82, 0, 4), true, 0
		s.Load, s.LoadJ = motion.Load{Kind: "quadratic", Torque: 25, Speed: 157}, .02
		synchronous(s.Family, s.Values)
		means(s, "motor-kind", "permanent-magnet")
		vector(s)
	}
	limited := func(s *bench.Setup) {
		vector(s)
		resistor(s)
		number(s, "torque-limit-braking", 50)
	}
	regulated := func(s *bench.Setup) {
		s.Process = drive.Process{Top: .9, Speed: 152, Lag: 1}
		number(s, "loop", 1)
		number(s, "loop-setpoint", 50)
	}
	network := func(s *bench.Setup) {
		means(s, "choice.command_source", "network")
		means(s, "choice.speed_source", "network")
		means(s, "network-lost", "stop")
		number(s, "network-wait", 1)
	}
	told := []timed{on, do(1500, "net-speed", 0, false, 40), do(1600, "net-run", 0, true, 0), do(9000, "net", 0, false, 0),
		do(12500, "net", 0, true, 0), do(17000, "net-run", 0, false, 0)}
	return []script{ // the cheap ones that see most come first
		{"network", network, told, 21000},
		{"keypad", nil, keypad, 40000},
		{"reference lost, voltage", auto("voltage"), lost, 16000},
		{"reference lost, current", auto("current"), lost, 16000},
		{"keypad, brake and skips", braked, keypad, 40000},
		{"each terminal alone", auto("keypad"), alone, 46000},
		{"terminals, voltage", auto("voltage"), terminals, ends},
		{"terminals, current", auto("current"), terminals, ends},
		{"presets by bits", both(auto("presets"), assign("preset-0", "preset-1", "preset-2")), bits, 34000},
		{"trouble", nil, trouble, 77000},
		{"jog and second ramp", both(auto("voltage"), assign("jog", "second-ramp", "hand", "stop")), terminals, ends},
		{"each alone, jog", both(auto("keypad"), assign("jog", "hand", "preset-0", "preset-1")), alone, 46000},
		{"vector, known", known, keypad, 40000},
		{"terminals, presets", auto("presets"), terminals, ends},
		{"a heavy start and fall", heavy, stops, 40000},
		{"a resistor", resistor, stops, 40000},
		{"a dip, then a phase to earth", func(s *bench.Setup) { s.LoadJ = 1 }, dips, 20000},
		{"overloaded, and without power for a while", hot, append(append([]timed{}, long...), do(60000, "line", 0, false, 0),
			do(100000, "line", 0, true, 0), do(103000, "reset", 0, false, 0), do(104000, "run", 0, false, 0)), 230000},
		{"overloaded", hot, long, 150000},
		{"vector, overloaded", both(hot, known), long, 60000},
		{"vector, not tuned", vector, stops, 30000},
		{"a trip, and again by itself", tries, retries, 34000},
		{"a quick stop by its input", both(auto("voltage"), assign("quick-stop")), quick, 18000},
		{"a mechanical brake", hoist, stops, 32000},
		{"a motor with magnets", magnet, stops, 24000},
		{"run held at power-up", auto("voltage"), held, 24000},
		{"an encoder watched", counted, keypad, 20000},
		{"a hot winding", both(auto("voltage"), unwatched),
			[]timed{on, do(1600, "analog", 0, false, 10), do(1800, "terminal", 1, true, 0)}, 400000},
		{"stop key and interlock", both(auto("voltage"),
			both(assign("interlock"), func(s *bench.Setup) {
				number(s, "stop-key",
					map[string]float64{"Voe": 1, "Brae": 1}[s.Family.Name])
			})),
			[]timed{on, do(1600, "analog", 0, false, 8), do(1800, "terminal", 1, true, 0), do(12000, "stop", 0, false, 0),
				do(16000, "terminal", 1, false, 0), do(16400, "terminal", 1, true, 0), do(26000, "terminal", 3, true, 0),
				do(30000, "terminal", 3, false, 0)}, 40000},
		{"stop key, as delivered", auto("voltage"),
			[]timed{on, do(1600, "analog", 0, false, 8), do(1800, "terminal", 1, true, 0), do(8000, "stop", 0, false, 0)}, 12000},
		{"faster and slower", both(auto("motor-potentiometer"), assign("faster", "slower")), buttons, 58000},
		{"its own controller", both(auto("voltage"), regulated), []timed{on, do(1800, "terminal", 1, true, 0)}, 60000},
		{"vector, a torque limit", limited, stops, 40000},
		{"terminals, brake and skips", both(auto("voltage"), braked), terminals, ends},
		{"a bent reference", both(auto("voltage"), bent), sweep, 30000},
		{"trouble, terminals", auto("voltage"), append(append([]timed{}, terminals[:3]...), trouble[4:]...), 60000},
	}
}

// Every setting that is not marked as without effect is changed, and the bench is seen to behave otherwise in at least one of the scripts.
// Where it was seen last time is tried first (testdata/seen.txt, written anew with TINGATE_SEEN=write): that saves time, and decides
// nothing.
func TestEverySettingChangesWhatIsSeen(t *testing.T) {
	raced.Skip(t)
	seenIn := map[string]string{}
	raw, err := os.ReadFile("testdata/seen.txt")
	if err != nil {
		t.Fatal(err)
	}
	for line := range strings.Lines(string(raw)) {
		setting, where, _ := strings.Cut(strings.TrimSpace(line), "\t")
		seenIn[setting] = where
	}
	var mu sync.Mutex
	now := map[string]string{}
	t.Cleanup(func() {
		if os.Getenv("TINGATE_SEEN") != "write" {
			return
		}
		var out strings.Builder
		for _, setting := range slices.Sorted(maps.Keys(now)) {
			out.WriteString(setting + "\t" + now[setting] + "\n")
		}
		if err := os.WriteFile("testdata/seen.txt", []byte(out.String()), 0o644); err != nil {
			t.Error(err)
		}
	})
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		t.Run(family, func(t *testing.T) {
			t.Parallel()
			f := familyfile.Find(family)
			base := benches.Setup(t, family)
			all := scripts()
			inputs := 0
			for _, x := range f.Terminals {
				if x.Kind == "digital-in" {
					inputs++
				}
			}
			was := make([]string, len(all))
			for i := range all {
				var acts []timed
				for _, a := range all[i].acts {
					if a.act.Do != "terminal" || a.act.N <= inputs {
						acts = append(acts, a)
					}
				}
				all[i].acts = acts
			}
			acting := 0
			for i := range f.Settings {
				s := &f.Settings[i]
				if !f.Acts(s) || s.Kind == "text" || s.Register == 0 || without[s.Intent] {
					continue
				}
				acting++
				by, value := seen(t, s, base, all, was, seenIn[family+" "+s.Code])
				if by == "" {
					t.Errorf("%s %q: nothing is seen of it, whatever it is set to", s.Code, s.Name)
				}
				mu.Lock()
				now[family+" "+s.Code] = fmt.Sprintf("%s\t%d", by, value)
				mu.Unlock()
			}
			t.Logf("%d settings", acting)
		})
	}
}

// seen finds a script and a value of a setting with which the bench behaves otherwise. first is where that was so last time: script, tab,
// value.
func seen(t *testing.T, s *dialect.Setting, base bench.Setup, all []script, was []string, first string) (by string, value int64) {
	low, high := s.RangeSteps()
	stands := func(values map[string]int64) int64 {
		if v, ok := values[s.Code]; ok {
			return v
		}
		return s.DeliverySteps()
	}
	standing := stands(base.Values)
	try := []int64{standing / 2, standing * 2, (low + high) / 2, low, high, (low*7 + high) / 8}
	if len(s.Choices) > 0 {
		try = nil
		for _, c := range s.Choices {
			try = append(try, c.Value)
		}
		if s.Kind == "bits" {
			for b := range 8 {
				try = append(try, 1<<b)
			}
		}
	}
	differs := func(i int, v int64) bool {
		if v == stands(all[i].on(base).Values) || !s.Inside(v) {
			return false
		}
		var err error
		if was[i] == "" {
			if was[i], err = all[i].print(base, "", 0, ""); err != nil {
				t.Fatal(all[i].name, err)
			}
		}
		now, err := all[i].print(base, s.Code, v, was[i])
		if err != nil {
			t.Fatal(all[i].name, s.Code, err)
		}
		return now != was[i]
	}
	where, with, _ := strings.Cut(first, "\t")
	if i := slices.IndexFunc(all, func(x script) bool { return x.name == where }); i >= 0 {
		if v, err := strconv.ParseInt(with, 10, 64); err == nil && slices.Contains(try, v) && differs(i, v) {
			return where, v
		}
	}
	for i, sc := range all {
		for _, v := range try {
			if differs(i, v) {
				return sc.name, v
			}
		}
	}
	return "", 0
}
