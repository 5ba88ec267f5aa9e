package dialect

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
)

// Doing is what a setting can do besides carrying an intent of the closed list, for whoever makes a family.
type Doing struct {
	Name  string   `json:"name"`
	Words string   `json:"words"`
	Kinds []string `json:"kinds" doc:"kinds of setting that can do it"`
	Means []string `json:"means" doc:"what its choices stand for; empty: the first is off, or they stand for nothing"`
	Acts  bool     `json:"acts" doc:"the simulated drive does it"`
}

// Doings lists them, by their words.
func Doings() []Doing {
	var out []Doing
	for _, r := range roles {
		if !r.acts && !r.found {
			continue
		}
		d := Doing{Name: r.name, Words: r.words, Kinds: r.kinds(), Means: r.can, Acts: r.acts}
		if d.Words == "" {
			d.Words = strings.ReplaceAll(r.name, "-", " ")
		}
		if d.Means == nil {
			d.Means = []string{}
		}
		out = append(out, d)
	}
	slices.SortFunc(out, func(a, b Doing) int { return strings.Compare(a.Words, b.Words) })
	return out
}

// kinds of setting that can have a role.
func (r role) kinds() []string {
	switch {
	case r.kind != "":
		return []string{r.kind}
	case r.wish == onOrOff || r.wish == aSense:
		return []string{"choice"}
	case r.wish == aText:
		return []string{"text"}
	}
	return []string{"number"}
}

// does ties words in a setting's name to what it does. The first that fits, and that its kind can do, is taken.
var does = []struct {
	words *regexp.Regexp
	name  string
}{
	{regexp.MustCompile(`(drive|device|inverter|unit) (name|tag)|^tag$`), "drive-name"},
	{regexp.MustCompile(`(network|bus|node|station|slave|unit).*(address|id\b|number)|^(node|address)$`), "network-address"},
	{regexp.MustCompile(`baud|bit ?rate|(network|bus|serial|comm).*(speed|rate)`), "network-speed"},
	{regexp.MustCompile(`parity`), "network-parity"},
	{regexp.MustCompile(`(network|bus|comm\w*|link|heartbeat).*(timeout|time out|wait|time|after|silence)`), "network-wait"},
	{regexp.MustCompile(`(network|bus|comm\w*|link|connection).*(lost|loss|fail|abort|error)`), "network-lost"},
	{regexp.MustCompile(`dead ?band`), "dead-band"},
	{regexp.MustCompile(`(analog|reference|signal|setpoint).*(lost|break|loss).*(below|level|threshold)|live.?zero`), "lost-below"},
	{regexp.MustCompile(`motor.*(cool|fan)|cool.*motor`), "motor-cooling"},
	{regexp.MustCompile(`(magneti[sz]e|pre-?mag|field|flux).*(stand|hold|stop)`), "magnetise"},
	{regexp.MustCompile(`(auto\w*|by themselves|fastest|optimal).*(ramp|accel)`), "auto-ramp"},
	{regexp.MustCompile(`(kind|type) of (the )?motor|motor (kind|type)`), "motor-kind"},
	{regexp.MustCompile(`brake.*(open|release).*(torque)`), "brake-opens-torque"},
	{regexp.MustCompile(`brake.*(open|release).*(time|delay)|brake.*delay`), "brake-delay"},
	{regexp.MustCompile(`brake.*(open|release)`), "brake-opens-at"},
	{regexp.MustCompile(`brake.*(clos|appl|set).*(below|speed|freq|at)`), "brake-closes-below"},
	{regexp.MustCompile(`(mechanical|holding|motor) brake`), "brake"},
	{regexp.MustCompile(`(dc|injection).?(brake|braking|hold).*(before|start)`), "dc-start"},
	{regexp.MustCompile(`(dc|injection).?(brake|braking|hold|current).*(current|level|amp)|dc current`), "dc-brake-current"},
	{regexp.MustCompile(`(dc|injection).?(brake|braking|hold).*(time)|dc time`), "dc-brake-time"},
	{regexp.MustCompile(`(dc|injection).?(brake|braking|hold)`), "dc-brake"},
	{regexp.MustCompile(`resistor.*(power|rating|kw|watt)`), "resistor-power"},
	{regexp.MustCompile(`(braking )?resist(or|ance).*(ohm|value|resistance)|braking resistance`), "resistor-ohm"},
	{regexp.MustCompile(`resistor`), "resistor"},
	{regexp.MustCompile(`(over ?voltage|link|bus).*(control|hold|regulat)`), "bus-control"},
	{regexp.MustCompile(`flying|catch|spinning|pick.?up`), "flying-start"},
	{regexp.MustCompile(`(run|start).*(power.?(up|on))|power.?(up|on).*(run|start)`), "run-at-power"},
	{regexp.MustCompile(`thermistor|ptc|winding (sensor|temperature)|motor temp\w* sensor`), "sensor"},
	{regexp.MustCompile(`stop key|halt key|stop button`), "stop-key"},
	{regexp.MustCompile(`(after|when).*interlock.*(clos|back)|interlock.*(clos|back|restart)`), "interlock-back"},
	{regexp.MustCompile(`interlock`), "interlock"},
	{regexp.MustCompile(`restart(s)?.*(number|count|at most|max|tries|attempts)|(number|count|attempts).*restart`), "restarts-most"},
	{regexp.MustCompile(`quick.?stop.*(time|ramp)`), "quick-stop-time"},
	{regexp.MustCompile(`input.*filter|filter.*input`), "input-filter"},
	{regexp.MustCompile(`(analog|reference|setpoint).*filter`), "reference-filter"},
	{regexp.MustCompile(`boost`), "boost"},
	{regexp.MustCompile(`switching|carrier|pwm`), "switching"},
	{regexp.MustCompile(`encoder.*(lines|pulses|ppr|resolution)`), "encoder-lines"},
	{regexp.MustCompile(`encoder.*(direction|sequence|order)`), "encoder-direction"},
	{regexp.MustCompile(`phase (order|sequence)|rotation of the motor`), "phase-order"},
	{regexp.MustCompile(`(input|line|mains|supply).*phase.*(lost|loss|fail|missing)`), "line-phase"},
	{regexp.MustCompile(`(output|motor).*phase.*(lost|loss|fail|missing)`), "output-phase"},
	{regexp.MustCompile(`earth.?fault|ground.?fault`), "earth-fault"},
	{regexp.MustCompile(`stall`), "stall"},
	{regexp.MustCompile(`jog.*ramp`), "jog-ramp"},
	{regexp.MustCompile(`(second|other|2).*(rise|accel|up)|(rise|accel|up).*(2|second)\b`), "second-rise"},
	{regexp.MustCompile(`(second|other|2).*(fall|decel|down)|(fall|decel|down).*(2|second)\b`), "second-fall"},
	{regexp.MustCompile(`(wait|pause|dead time).*revers|revers.*(wait|pause|delay)`), "reverse-wait"},
	{regexp.MustCompile(`hand.*(speed|freq)`), "hand-speed"},
	{regexp.MustCompile(`torque.*limit.*(brak|generat|regen)`), "torque-limit-braking"},
	{regexp.MustCompile(`torque.*limit`), "torque-limit"},
	{regexp.MustCompile(`stator resistance`), "stator-resistance"},
	{regexp.MustCompile(`rotor resistance`), "rotor-resistance"},
	{regexp.MustCompile(`magneti[sz]ing current|no.?load current`), "magnetising-current"},
	{regexp.MustCompile(`leakage`), "leakage"},
}

// senseWords are words by which a choice shows what it stands for, where its own are not enough.
var senseWords = map[string]string{"goes-on": "goes on|no action|continue|by itself|ignore", "hold": "hold|keep|last",
	"fault": "fault|trip|alarm",
	"stop":  "stop|ramp", "ignored": "ignored|no effect|off|disab", "obeyed": "obeyed|active|on\\b|enab", "quick-stop": "quick",
	"fresh": "fresh|new|again|manual", "coast": "coast|free|disab", "ramp": "ramp|slow", "own-fan": "own|shaft|self",
	"forced": "forced|separate|driven|external|of its own", "permanent-magnet": "magnet|synchronous|\\bpm",
	"induction": "induction|asynchronous|\\bim",
	"two-wire":  "two|2|switch", "three-wire": "three|3|button|pulse"}

// ProposeDoing says what a setting without an intent seems to do by its name, and what its choices, by their words, stand for; empty when
// the name tells nothing. It is a question to a person, never sure.
func ProposeDoing(name, kind string, texts []string) (doing string, means []string) {
	n := strings.ToLower(strings.Join(strings.Fields(name), " "))
	for _, d := range does {
		r := roleOf[d.name]
		if !d.words.MatchString(n) || !slices.Contains(r.kinds(), kind) {
			continue
		}
		for _, t := range texts {
			means = append(means, r.sense(t))
		}
		return d.name, means
	}
	return "", nil
}

var bitRate = regexp.MustCompile(`^([0-9.]+) ?([km]?)(?:b|$)`)

// sense is what a choice's words stand for; empty when they tell nothing.
func (r role) sense(text string) string {
	t := strings.ToLower(strings.ReplaceAll(text, "-", " "))
	rate := ""
	if m := bitRate.FindStringSubmatch(t); m != nil {
		if v, err := strconv.ParseFloat(m[1], 64); err == nil {
			rate = strconv.FormatFloat(v*map[string]float64{"": 1, "k": 1e3, "m": 1e6}[m[2]], 'f', 0, 64)
		}
	}
	for _, c := range r.can {
		words := senseWords[c]
		if words == "" {
			words = regexp.QuoteMeta(strings.ReplaceAll(c, "-", " "))
		}
		if ok, _ := regexp.MatchString(`(^|[^a-z0-9])(`+words+`)`, t); ok {
			return c
		}
		if c == rate {
			return c
		}
	}
	return ""
}

// ActsOrServes is a doing as the file says it: by what the simulated drive does, or by what a wish finds the setting by.
func ActsOrServes(doing string) (drives, serves string) {
	if r := roleOf[doing]; r.found && !r.acts {
		return "", doing
	}
	return doing, ""
}
