package dialect

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
)

// Wished is what a person wants of settings that carry no intent of the closed list: by what they do. Speeds at the shaft, r/min; shares
// of the motor's own values; seconds; ohms. What is not in a map is not wanted.
type Wished struct {
	Numbers map[string]float64 // by role
	Means   map[string]string  // what its choice is to stand for
	// what a reaction depends on, and stays as delivered where nothing else is wished: it is planned and read back
	Reacts []string
	On     map[string]bool
	Texts  map[string]string // by role; one that is too long is cut where it was not typed for the drive itself
}

// Lack is a wish that a family has no setting for: by its name among the wishes, and in words.
type Lack struct{ Name, Words string }

// SkipsOf are the bands of wishes, in order; both ends must be there.
func (w Wished) SkipsOf() [][2]float64 {
	var l [][2]float64
	for _, n := range []string{"skip-1", "skip-2"} {
		from, ok := w.Numbers[n+"-from"]
		to, ok2 := w.Numbers[n+"-to"]
		if ok && ok2 && to > from {
			l = append(l, [2]float64{from, to})
		}
	}
	return l
}

// Wish turns wishes into what the family's settings must hold, by code; lacks are those that it has no setting for, in words.
func (f *Family) Wish(p *Plan, w Wished) (out map[string]Function, lacks []Lack) {
	x := wishing{f: f, p: p, highest: f.highest(p), out: map[string]Function{}}
	for _, name := range named(func(r role) bool { return r.wish == onOrOff }) {
		on, ok := w.On[name]
		if !ok {
			continue
		}
		steps := int64(0)
		word := "off"
		s := x.setting(name)
		if on {
			word = "on"
			if s != nil {
				steps = s.lit()
			}
		}
		if s != nil {
			x.put(s, steps, "wanted: "+roleOf[name].words+" "+word, "")
		} else if on {
			x.lack(name, roleOf[name].words)
		}
	}
	x.skips(w.SkipsOf())
	for _, name := range named(func(r role) bool { return r.acts || r.found }) {
		if w := roleOf[name].wish; w != aSpeed && w != aShare && w != seconds && w != aFigure {
			continue
		}
		if v, ok := w.Numbers[name]; ok && !math.IsNaN(v) {
			x.number(name, name, v)
		}
	}
	x.senses(w.Means)
	for _, name := range slices.Sorted(maps.Keys(w.Texts)) {
		x.text(name, w.Texts[name])
	}
	for _, name := range w.Reacts {
		if s := x.setting(name); s != nil && w.Means[name] == "" {
			x.put(s, s.DeliveryFor(p.Variant), "what stops it and starts it again: as delivered", "")
		}
	}
	if v, ok := w.Numbers["rounding"]; ok && !math.IsNaN(v) {
		if x.setting("curve") != nil {
			x.number("curve", "rounding", v)
		} else {
			x.number("curve-start", "rounding", v)
			x.number("curve-end", "rounding", v)
		}
	}
	return x.out, x.lacks
}

// senses sets every choice whose meaning is wished.
func (x *wishing) senses(means map[string]string) {
	for _, name := range slices.Sorted(maps.Keys(means)) {
		if fixed, ok := x.f.Fixed[name]; ok && x.setting(name) == nil {
			if fixed != means[name] {
				x.lack(name, roleOf[name].words+": "+strings.ReplaceAll(means[name], "-", " "))
			}
			continue
		}
		if name == "motor-kind" && means[name] == "induction" && x.setting(name) == nil {
			continue // a family without a choice of it is for no other
		}
		x.means(name, means[name])
	}
}

// text is what a setting is to show. A drive's keypad takes so many signs; what is longer is cut, and said to be.
func (x *wishing) text(name, text string) {
	s := x.setting(name)
	if s == nil || s.Kind != "text" || text == "" {
		return // a name is no wish that anything hangs on
	}
	fn := Function{Because: "wanted: " + roleOf[name].words}
	if signs := []rune(text); int64(len(signs)) > s.max {
		text, fn.Rounded = strings.TrimSpace(string(signs[:s.max])), fmt.Sprintf("cut to the %d signs that it takes", s.max)
	}
	fn.Steps, fn.Text = TextSteps(text), text
	x.out[s.Code] = fn
}

// wishing is one translation on the way.
type wishing struct {
	f       *Family
	p       *Plan
	highest float64
	out     map[string]Function
	lacks   []Lack
}

func (x *wishing) lack(name, words string) {
	if !roleOf[name].meek {
		x.lacks = append(x.lacks, Lack{name, words})
	}
}

// UsualLost is the current of a live zero below which drives take a signal for lost where no setting says so, mA (NAMUR NE 43).
const UsualLost = 3.6

func (x *wishing) setting(drives string) *Setting { return x.f.Doing(drives) }

// Doing is the setting that does a thing, or that a wish finds by it; nil when the family has none.
func (f *Family) Doing(what string) *Setting {
	for i := range f.Settings {
		if s := &f.Settings[i]; s.Drives == what || s.Serves == what {
			return s
		}
	}
	return nil
}

// means sets a choice to the value that stands for something.
func (x *wishing) means(drives, wanted string) {
	if s := x.setting(drives); s != nil {
		for _, c := range s.Choices {
			if c.Means == wanted {
				x.put(s, c.Value, "wanted: "+roleOf[drives].words+": "+c.Text, "")
				return
			}
		}
	}
	x.lack(drives, roleOf[drives].words+" ("+wanted+")")
}

// lit is the first value of a choice that is not off.
func (s *Setting) lit() int64 {
	for _, c := range s.Choices {
		if c.Value != 0 {
			return c.Value
		}
	}
	return 1
}

func (x *wishing) put(s *Setting, steps int64, because, rounded string) {
	x.out[s.Code] = s.function(steps, because, rounded)
}

func (s *Setting) function(steps int64, because, rounded string) Function {
	fn := Function{Steps: steps, Because: because, Rounded: rounded}
	if !s.Inside(steps) {
		fn.Problem = fmt.Sprintf("%s is outside of %s", s.WithUnit(steps), s.Span())
	}
	return fn
}

// Nearest is what a setting is to hold for a value in its unit: the nearest step, and whether it can.
func (s *Setting) Nearest(v float64, because string) Function { return s.hold(v, nearest, because) }

func (s *Setting) hold(v float64, r rounding, because string) Function {
	exact := v / s.step()
	steps := onGrid(exact, r)
	rounded := ""
	if math.Abs(exact-float64(steps)) > 1e-6 {
		rounded = map[rounding]string{down: "rounded down", up: "rounded up", nearest: "rounded"}[r]
	}
	return s.function(steps, because, rounded)
}

// skips are two ends each, or a middle each with one width for all.
func (x *wishing) skips(bands [][2]float64) {
	width := 0.
	for i, b := range bands {
		n := fmt.Sprintf("skip-%d", i+1)
		words := fmt.Sprintf("wanted: not from %.4g to %.4g r/min", b[0], b[1])
		from, to, mid := x.setting(n+"-from"), x.setting(n+"-to"), x.setting(n)
		switch {
		case from != nil && to != nil:
			x.grid(from, x.speed(from, b[0]), down, words)
			x.grid(to, x.speed(to, b[1]), up, words)
		case mid != nil:
			x.grid(mid, x.speed(mid, (b[0]+b[1])/2), nearest, words)
			width = math.Max(width, b[1]-b[0])
		default:
			x.lack(n+"-from", "a skip band")
		}
	}
	if s := x.setting("skip-width"); s != nil && width > 0 { // a width has no slip of its own
		x.grid(s, x.counted(s, width, width*float64(x.p.Poles)/120), up, fmt.Sprintf("wanted: the widest band of %.4g r/min", width))
	}
}

func (x *wishing) grid(s *Setting, v float64, r rounding, because string) {
	if math.IsNaN(v) {
		return // what it is counted from is not entered yet: the findings say so
	}
	x.out[s.Code] = s.hold(v, r, because)
}

// speed is a shaft speed, r/min, as a setting counts it: by the frequency that the load's slip asks for.
func (x *wishing) speed(s *Setting, rpm float64) float64 {
	return x.counted(s, rpm, x.p.Frequency(rpm))
}

// counted is a speed, r/min and its frequency, Hz, in a setting's unit.
func (x *wishing) counted(s *Setting, rpm, hz float64) float64 {
	switch s.Unit {
	case "r/min":
		return rpm
	case "%":
		return hz / x.highest * 100
	case "‰":
		return hz / x.highest * 1000
	}
	return hz
}

// ofShare is a share in the setting's unit: percent, or per thousand.
func (s *Setting) ofShare(v float64) float64 {
	if s.Unit == "‰" {
		return v * 1000
	}
	return v * 100
}

// number is a wish in the unit of the setting that does it.
func (x *wishing) number(drives, name string, v float64) {
	s := x.setting(drives)
	if s == nil && name == "brake-opens-at" { // some count the torque, as a share of the rated one
		name = "brake-opens-torque"
		s = x.setting(name)
	}
	if s == nil {
		if name != "lost-below" || v != UsualLost {
			x.lack(name, roleOf[name].words)
		}
		return
	}
	share := s.ofShare
	said, r := fmt.Sprintf("%.4g %%", v*100), nearest
	var counted float64
	kind := roleOf[name].wish
	switch {
	case name == "dc-brake-current" || name == "brake-opens-at":
		counted, r = share(v*x.p.Motor.Current/x.p.DriveCurrent), down
		said += " of the motor's current"
	case name == "pot":
		said = fmt.Sprintf("%.4g s", v)
		top := x.p.get("highest_speed")
		if s.Unit == "r/min/s" {
			counted, r = top/v, down
		} else { // a time to the highest frequency
			counted, r = x.highest/x.p.Frequency(top)*v, up
		}
	case name == "restarts-most": // at most: never one more
		said, counted, r = fmt.Sprintf("%.4g", v), v, down
	case name == "lost-below":
		said, counted = fmt.Sprintf("%.4g mA", v), v
	case name == "resistor-ohm":
		said, counted = fmt.Sprintf("%.4g Ω", v), v
	case name == "rounding":
		if counted = share(v); s.Unit == "ms" { // of the time of a whole ramp, half at each end
			rise := x.p.get("rise") * float64(x.p.Poles) / 120
			counted = v * x.highest / rise / 2 * 1000
		}
	case kind == aSpeed:
		said, counted = fmt.Sprintf("%.4g r/min", v), x.speed(s, v)
	case kind == seconds:
		said, counted = fmt.Sprintf("%.4g s", v), v
		if s.Unit == "ms" {
			counted = v * 1000
		}
	case kind == aFigure:
		said, counted = fmt.Sprintf("%.4g", v), v
	default:
		counted = share(v)
	}
	x.grid(s, counted, r, "wanted: "+roleOf[name].words+" "+strings.TrimSpace(said))
	if fn := x.out[s.Code]; name == "network-address" && counted != math.Trunc(counted) {
		fn.Problem = said + " is no address: it is a whole number"
		x.out[s.Code] = fn
	}
}
