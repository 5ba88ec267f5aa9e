package dialect

import (
	"regexp"
	"slices"
	"strings"
)

// Proposal is what a setting seems to mean by its name, its unit and its choices. A person confirms it.
type Proposal struct {
	Intent     string
	Convention string
	Sure       bool   // name and unit leave no other way; a ramp or a percent never does
	Why        string // what is to be looked up in the maker's manual when it is not sure
	Motion     bool   // could start motion, as far as the name tells: rather once too often
	Protects   bool
}

// meaning ties words in a setting's name to an intent. The first that fits is taken.
var meanings = []struct {
	words  *regexp.Regexp
	intent string
}{
	{regexp.MustCompile(`pole`), "motor.poles"},
	{regexp.MustCompile(`cos|power.?factor`), "motor.factor"},
	{regexp.MustCompile(`(over ?load|thermal|trip).*class|class.*(over ?load|trip)`), "choice.overload_class"},
	{regexp.MustCompile(`over ?load|thermal (current|protection)`), "overload.current"},
	{regexp.MustCompile(`(current|amp).*(limit|max)|(limit|max).*(current|amp)`), "limit.current"},
	{regexp.MustCompile(`(supply|line|mains|grid).*(freq|hz)`), "choice.line_frequency"},
	{regexp.MustCompile(`slip`), "choice.slip_compensation"},
	{regexp.MustCompile(`(motor|rated|nominal|name ?plate).*(power|kw|hp)|^power$`), "motor.power"},
	{regexp.MustCompile(`(motor|rated|nominal|name ?plate).*volt`), "motor.voltage"},
	{regexp.MustCompile(`(motor|rated|nominal|base|name ?plate).*(freq|hz)`), "motor.frequency"},
	{regexp.MustCompile(`(motor|rated|nominal|name ?plate).*(current|amp)`), "motor.current"},
	{regexp.MustCompile(`(motor|rated|nominal|name ?plate).*(speed|rpm|r/min)`), "motor.speed"},
	{regexp.MustCompile(`(jog|inch|creep).*(speed|freq|hz|rpm|r/min)|^(jog|inch|creep)$`), "speed.jog"},
	{regexp.MustCompile(`(preset|fixed|multi|constant).*(1|one|first)\b`), "speed.preset.1"},
	{regexp.MustCompile(`(preset|fixed|multi|constant).*(2|two|second)\b`), "speed.preset.2"},
	{regexp.MustCompile(`(preset|fixed|multi|constant).*(3|three|third)\b`), "speed.preset.3"},
	{regexp.MustCompile(`(reference|analog|signal|setpoint).*(lost|loss|fail)`), "choice.reference_loss"},
	{regexp.MustCompile(`(analog|signal|reference|input|ai|setpoint).*(low|min|bottom|zero|0 %)`), "reference.low"},
	{regexp.MustCompile(`(analog|signal|reference|input|ai|setpoint).*(high|max|top|full|100 %)`), "reference.high"},
	{regexp.MustCompile(`max.*freq|freq.*max|highest freq`), "frequency.cap"},
	{regexp.MustCompile(`\b(upper|high|highest|max|maximum|top|fast)\b.*(limit|speed|freq)|fastest`), "speed.highest"},
	{regexp.MustCompile(`\b(lower|low|lowest|min|minimum|slow)\b.*(limit|speed|freq)|slowest`), "speed.lowest"},
	{regexp.MustCompile(`(second|other|2).*(accel|rise|ramp)|(accel|rise|ramp).*(2|second)\b`), ""},
	{regexp.MustCompile(`decel|fall|ramp.*down|down.*ramp`), "ramp.fall"},
	{regexp.MustCompile(`accel|rise|ramp.*up|up.*ramp|run.?up`), "ramp.rise"},
	{regexp.MustCompile(`(run|start|command|control).*(source|from|place|location|channel)`), "choice.command_source"},
	{regexp.MustCompile(`(speed|frequency|reference|setpoint).*(source|from|place|channel|select)`), "choice.speed_source"},
	{regexp.MustCompile(`(automatic|auto|by itself).*(restart|reset)|restart`), "choice.automatic_restart"},
	{regexp.MustCompile(`direction|revers`), "choice.direction"},
	{regexp.MustCompile(`stop.*(mode|method|way)|on stop|stopping`), "choice.stop_mode"},
	{regexp.MustCompile(`control.*(mode|method|kind)`), "choice.control"},
	{regexp.MustCompile(`(v/f|volts?|flux|torque).*(pattern|curve|char)`), "choice.load_pattern"},
	{regexp.MustCompile(`torque.?off|sto\b`), "choice.torque_off_shows"},
}

var mayMove = regexp.MustCompile(
	`\b(input|terminal|digital|di ?\d|tune|auto|identif|start|run|command|revers|direction|restart|hand|sleep|wake|brake|jog function|phase order|rotation|polarity|mode of operation)`,
)

var mayProtect = regexp.MustCompile(
	`limit|over ?load|protect|stall|loss|lost|monitor|direction|restart|phase|brake|sto\b|torque.?off|interlock`,
)

// units that belong to each convention, without spaces, in lower case.
var unitWays = map[string]map[string]string{
	"motor.power":      {"kw": "kilowatts", "hp": "horsepower"},
	"motor.voltage":    {"v": "volts"},
	"motor.frequency":  {"hz": "hertz"},
	"motor.current":    {"a": "amperes", "ma": "milliamperes", "%": "percent-of-drive"},
	"motor.speed":      {"r/min": "rpm", "rpm": "rpm", "1/min": "rpm", "min-1": "rpm"},
	"motor.factor":     {"": "ratio"},
	"motor.poles":      {"": "poles", "poles": "poles"},
	"overload.current": {"a": "amperes", "%": "percent-of-motor"},
	"limit.current":    {"a": "amperes", "%": "percent-of-motor", "‰": "per-thousand-of-motor"},
	"frequency.cap":    {"hz": "hertz"},
	"ramp.rise":        {"s": "to-highest"},
	"ramp.fall":        {"s": "to-highest"},
}

var shaftWays = map[string]string{"hz": "shaft-as-hertz", "r/min": "shaft-as-rpm", "rpm": "shaft-as-rpm", "1/min": "shaft-as-rpm",
	"min-1": "shaft-as-rpm", "%": "shaft-as-percent"}

// unitWords are units as people write them, in small letters without spaces, and as the field writes them.
var unitWords = map[string]string{"rpm": "r/min", "1/min": "r/min", "min-1": "r/min", "min^-1": "r/min", "u/min": "r/min", "hz": "Hz",
	"a": "A", "amp": "A", "amps": "A", "ma": "mA", "v": "V", "volt": "V", "volts": "V",
	"kw": "kW", "hp": "hp", "s": "s", "sec": "s", "seconds": "s", "ms": "ms", "pct": "%", "percent": "%", "%": "%", "khz": "kHz",
	"ohm": "Ω", "ohms": "Ω", "-": "", "none": "",
	"kohm": "kΩ", "mohm": "mΩ", "ω": "Ω", "kω": "kΩ", "mω": "mΩ", "mh": "mH", "h": "h", "min": "min", "nm": "Nm", "°c": "°C", "bar": "bar",
	"kva": "kVA", "w": "W", "mm": "mm", "‰": "‰", "kg·m²": "kg·m²", "kgm2": "kg·m²", "poles": "poles"}

// IsUnit tells whether a text is a unit, however it is written.
func IsUnit(text string) bool {
	k, ok := unitWords[strings.ToLower(strings.Join(strings.Fields(text), ""))]
	return ok && k != ""
}

// ProposeUnit is the unit as the field writes it.
func ProposeUnit(unit string) string {
	u := strings.ToLower(strings.Join(strings.Fields(unit), ""))
	if k, ok := unitWords[u]; ok {
		return k
	}
	return strings.TrimSpace(unit)
}

// Propose guesses a setting's intent from its name; kind is number, choice, bits or text.
func Propose(name, unit, kind string) Proposal {
	n := strings.ToLower(strings.Join(strings.Fields(name), " "))
	p := Proposal{Motion: mayMove.MatchString(n), Protects: mayProtect.MatchString(n)}
	for _, m := range meanings {
		if !m.words.MatchString(n) {
			continue
		}
		if m.intent == "motor.poles" && strings.Contains(n, "pair") {
			p.Intent, p.Convention, p.Sure = m.intent, "pole-pairs", kind == "number"
			break
		}
		p.fit(m.intent, strings.ToLower(strings.ReplaceAll(ProposeUnit(unit), " ", "")), kind)
		if p.Intent != "" || m.intent == "" {
			break
		}
	}
	switch p.Intent {
	case "choice.command_source", "choice.speed_source", "choice.direction", "choice.automatic_restart":
		p.Motion, p.Protects = true, true
	case "overload.current", "limit.current", "frequency.cap", "speed.highest", "speed.lowest", "choice.overload_class",
		"choice.reference_loss", "choice.torque_off_shows":
		p.Motion, p.Protects = false, true
	case "":
	default:
		p.Motion = false
	}
	return p
}

func (p *Proposal) fit(intent, unit, kind string) {
	it, ok := intents[intent]
	if !ok {
		return
	}
	switch {
	case it.dim == choice && kind == "choice":
		p.Intent, p.Convention, p.Sure = intent, "choice", true
	case it.dim == choice && intent == "choice.slip_compensation" && kind == "number" && unit == "%":
		p.Intent, p.Convention, p.Sure = intent, "slip-percent", true
	case it.dim == power && kind == "choice":
		p.Intent, p.Convention, p.Why = intent, "power-list", "each choice needs its power in kW"
	case kind != "number":
	case it.dim == shaft:
		if way, ok := shaftWays[unit]; ok {
			p.Intent, p.Convention, p.Sure = intent, way, unit != "%"
			if unit == "%" {
				p.Why = "percent of what: the highest frequency?"
			}
		}
	default:
		way, ok := unitWays[intent][unit]
		if !ok {
			return
		}
		p.Intent, p.Convention, p.Sure = intent, way, true
		switch {
		case it.dim == slope:
			p.Sure, p.Why = false, "seconds from 0 to what: the highest frequency, the motor's frequency, the plate speed?"
		case unit == "%":
			p.Sure, p.Why = false, "percent of the motor's or of the drive's rated current?"
		}
	}
}

// choiceWords are the words by which a choice shows what it means, for each intent that is a choice.
var choiceWords = map[string][]struct{ words, means string }{
	"line_frequency": {{"50", "50"}, {"60", "60"}},
	"load_pattern": {{"auto|boost|adapt", "automatic-boost"}, {"square|quadratic|reduced|variable|fan|pump", "quadratic"},
		{"const|linear|straight", "constant"}},
	"control":           {{"vector|field|flux|sensorless|closed", "vector"}, {"v/f|volt|scalar|u/f", "volts-per-hertz"}},
	"slip_compensation": {{"off|no|disab", "off"}, {"on|yes|enab", "on"}},
	"direction":         {{"both|allow|bidir|enab|reverse and", "both"}, {"forward|only|lock|no|disab", "forward"}},
	"stop_mode":         {{"coast|free|let", "coast"}, {"ramp|decel", "ramp"}},
	"overload_class":    {{"10", "10"}, {"20", "20"}, {"30", "30"}},
	"automatic_restart": {{"off|no|never|disab|manual", "off"}, {"on|yes|auto|enab|after", "on"}},
	"command_source": {{"keypad|panel|local|operator|key", "keypad"}, {"terminal|digital|wire|i/o", "terminals"},
		{"bus|net|serial|comm|field", "network"}},
	"speed_source": {{"motor.?pot|faster|up.{1,5}down|inc.{1,8}dec", "motor-potentiometer"}, {"preset|fixed|multi", "presets"},
		{"keypad|panel|key", "keypad"}, {"ma\\b|current|4-20", "current"}, {"\\bv\\b|volt|0-10|10 v", "voltage"},
		{"bus|net|serial|comm|field", "network"}, {"analog|terminal", "voltage|current"}},
	"reference_signal": {{"ma\\b|current|4-20", "current"}, {"\\bv\\b|volt|0-10", "voltage"}},
	"reference_loss": {{"fault|trip|alarm", "fault"}, {"lowest|minimum|lower", "lowest"}, {"preset|fixed", "preset"},
		{"hold|last|keep|previous", "hold"}, {"stop|zero", "stop"}},
	"torque_off_shows": {{"(stop|message|warning)[^a-z]+(without|no)[^a-z]+(fault|trip|alarm)|(no|without)[^a-z]+(fault|trip|alarm)",
		"stop"},
		{"fault|trip|alarm", "fault"}, {"stop|no fault|message|warning|none", "stop"}},
}

// ProposeMeans says what a choice's words mean for an intent; empty when they tell nothing.
func ProposeMeans(intent, text string) string {
	t := strings.ToLower(text)
	for _, w := range choiceWords[strings.TrimPrefix(intent, "choice.")] {
		if ok, _ := regexp.MatchString(`(^|[^a-z])(`+w.words+`)`, t); ok {
			return w.means
		}
	}
	return ""
}

// Role is an intent of the closed list with the conventions that it may be counted by.
type Role struct {
	Intent string `json:"intent"`
	Ways   []Way  `json:"ways"`
	Means  string `json:"means,omitempty" doc:"what its choices may mean, joined by commas"`
}

// Way is a convention.
type Way struct {
	Name  string `json:"name"`
	About string `json:"about"`
	Kind  string `json:"kind" enum:"number,choice"`
}

// Roles lists every intent that a setting can carry, in alphabetical order.
func Roles() []Role {
	out := make([]Role, 0, len(intents))
	for name, it := range intents {
		r := Role{Intent: name, Ways: []Way{}}
		for w, c := range conventions {
			if c.dim == it.dim && (it.dim != choice || w == "choice" || name == "choice.slip_compensation") &&
				(it.dim != slope || w != "slope-speed" || strings.HasPrefix(name, "ramp.")) {
				r.Ways = append(r.Ways, Way{w, c.about, c.kind()})
			}
		}
		slices.SortFunc(r.Ways, func(a, b Way) int { return strings.Compare(a.Name, b.Name) })
		var means []string
		for _, w := range choiceWords[strings.TrimPrefix(name, "choice.")] {
			if !slices.Contains(means, w.means) {
				means = append(means, w.means)
			}
		}
		slices.Sort(means)
		r.Means = strings.Join(means, ",")
		out = append(out, r)
	}
	slices.SortFunc(out, func(a, b Role) int { return strings.Compare(a.Intent, b.Intent) })
	return out
}
