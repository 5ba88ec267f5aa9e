package dialect

import (
	"slices"
	"strings"
)

// role is one thing that a setting can do besides carrying an intent of the closed list (intents, plan.go): its name in a family's file,
// what people call it, how it is wished, and whether the simulated drive does it. A new one is a row here, its effect in bench/config.go,
// and the field from which it is wished.
type role struct {
	name   string
	words  string // in a reason; empty: it is not wished
	wish   wish
	acts   bool     // the simulated drive does it (drives)
	found  bool     // a setting is found by it for a wish, where nothing of the simulation stands behind it (serves)
	can    []string // what its choices can stand for
	reacts bool     // to something that stops the drive, or that starts it again
	kind   string   // of setting that can do it, where the wish does not say so
	field  string   // the intent from which it is wished; empty: it follows from something else
	meek   bool     // followed where a family has a setting for it; where it has none, nobody misses it
	gate   string   // that asks for the field; empty: the one that asks for the speeds, Span
}

// wish is how a role is wished.
type wish int

const (
	notWished wish = iota
	onOrOff
	aSpeed // r/min of the shaft
	aShare // of the motor's own value
	seconds
	aFigure // gain, ohms
	aSense  // what its choice is to stand for
	aBand   // of speeds that are not stayed in
	aText
)

var roles = []role{
	{name: "dc-brake", words: "DC brake", wish: onOrOff, acts: true, field: "dc_brake"},
	{name: "resistor", words: "braking resistor", wish: onOrOff, acts: true},
	{name: "bus-control", words: "fall lengthened by the DC link", wish: onOrOff, acts: true, field: "bus_control"},
	{name: "flying-start", words: "flying start", wish: onOrOff, acts: true, field: "flying_start"},
	{name: "run-at-power", words: "run held at power-up", wish: onOrOff, acts: true, field: "power_up", gate: "signal"},
	{name: "sensor", words: "winding sensor, wired at gate Control", wish: onOrOff, acts: true},
	{name: "loop", words: "process loop", wish: onOrOff, acts: true, found: true, field: "loop", gate: "signal"},
	{name: "brake", words: "mechanical brake, opened by the drive", wish: onOrOff, acts: true, found: true},

	{name: "skip-1-from", wish: aBand, acts: true, field: "skip_1_from"},
	{name: "skip-1-to", wish: aBand, acts: true, field: "skip_1_to"},
	{name: "skip-2-from", wish: aBand, acts: true, field: "skip_2_from"},
	{name: "skip-2-to", wish: aBand, acts: true, field: "skip_2_to"},
	{name: "skip-1", acts: true},
	{name: "skip-2", acts: true},
	{name: "skip-width", acts: true},

	{name: "dc-brake-current", words: "DC brake current", wish: aShare, acts: true, field: "dc_brake_current"},
	{name: "dc-brake-time", words: "DC brake time", wish: seconds, acts: true, field: "dc_brake_time"},
	{name: "resistor-ohm", words: "braking resistor", wish: aFigure, acts: true, field: "resistor"},
	{name: "boost", words: "boost at standstill", wish: aShare, acts: true, field: "boost"},
	{name: "reverse-wait", words: "wait before reverse", wish: seconds, acts: true, field: "reverse_wait"},
	{name: "hand-speed", words: "hand speed", wish: aSpeed, acts: true, field: "hand_speed", gate: "signal"},
	{name: "reference-filter", words: "filter of the reference", wish: seconds, acts: true, field: "filter", gate: "signal"},
	{name: "preset-4", words: "preset 4", wish: aSpeed, acts: true, field: "preset_4", gate: "signal"},
	{name: "preset-5", words: "preset 5", wish: aSpeed, acts: true, field: "preset_5", gate: "signal"},
	{name: "loop-gain", words: "gain of the loop", wish: aFigure, acts: true, found: true, field: "loop_gain", gate: "signal"},
	{name: "loop-time", words: "time of the loop", wish: seconds, acts: true, found: true, field: "loop_time", gate: "signal"},
	{name: "loop-setpoint", words: "setpoint of the loop", wish: aShare, acts: true, found: true, field: "loop_setpoint", gate: "signal"},
	{name: "sleep", words: "sleep below", wish: aSpeed, acts: true, found: true, field: "sleep", gate: "signal"},
	{name: "torque-limit", words: "torque limit", wish: aShare, acts: true, found: true, field: "torque_limit"},
	{name: "torque-limit-braking", words: "torque limit when braking", wish: aShare, acts: true, found: true,
		field: "torque_limit_braking"},
	{name: "pot", words: "faster and slower, to the highest speed in", wish: seconds, acts: true, field: "pot_time", gate: "signal"},
	{name: "brake-delay", words: "time until the brake is open", wish: seconds, acts: true, found: true},
	{name: "rounding", words: "rounding of the ramps", wish: aShare, field: "rounding"}, // done by curve, or curve-start and curve-end

	{name: "pot-keeps", words: "faster and slower, kept", wish: aSense, acts: true, field: "pot_keeps", gate: "signal",
		can: []string{"stop", "power", "always"}},
	{name: "stop-key", words: "stop key in remote", wish: aSense, acts: true, can: []string{"ignored", "obeyed", "quick-stop"},
		reacts: true,
		field:  "stop_key", gate: "signal"},
	{name: "interlock", words: "interlock opens", wish: aSense, acts: true, can: []string{"ramp", "coast"}, reacts: true,
		field: "interlock",
		gate:  "signal"},
	{name: "interlock-back", words: "after the interlock closes", wish: aSense, acts: true, can: []string{"fresh", "goes-on"}, reacts: true,
		field: "interlock_back", gate: "signal"},
	{name: "motor-kind", words: "the motor's kind", wish: aSense, acts: true, found: true,
		can: []string{"induction", "permanent-magnet"}},

	{name: speedUnit, words: "speeds counted in", wish: aSense, found: true, field: "speed_unit", gate: "signal",
		can: []string{"hz", "percent", "rpm"}},
	{name: "drive-name", words: "drive name", wish: aText, found: true, field: "drive_name", gate: "signal"},
	{name: "network-address", words: "network address", wish: aFigure, found: true, field: "network_address", gate: "signal"},
	{name: "network-speed", words: "network speed", wish: aSense, found: true, field: "network_speed", gate: "signal",
		can: []string{"9600", "19200", "38400", "57600", "115200", "125000", "250000", "500000", "1000000"}},
	{name: "network-parity", words: "network parity", wish: aSense, found: true, field: "network_parity", gate: "signal",
		can: []string{"none", "even", "odd"}},
	{name: "network-wait", words: "network lost after", wish: seconds, acts: true, found: true, field: "network_wait", gate: "signal"},
	{name: "network-lost", words: "network lost", wish: aSense, acts: true, found: true, can: []string{"stop", "hold", "fault", "goes-on"},
		reacts: true, field: "network_lost", gate: "signal"},
	{name: "dead-band", words: "dead band of the reference", wish: aShare, acts: true, meek: true},
	{name: "bend-1-at", words: "point 1 of the reference, at", wish: aShare, acts: true, field: "curve_1_at", gate: "signal"},
	{name: "bend-1", words: "speed at point 1 of the reference", wish: aSpeed, acts: true, field: "curve_1_speed", gate: "signal"},
	{name: "bend-2-at", words: "point 2 of the reference, at", wish: aShare, acts: true, field: "curve_2_at", gate: "signal"},
	{name: "bend-2", words: "speed at point 2 of the reference", wish: aSpeed, acts: true, field: "curve_2_speed", gate: "signal"},
	{name: "bend-3-at", words: "point 3 of the reference, at", wish: aShare, acts: true, field: "curve_3_at", gate: "signal"},
	{name: "bend-3", words: "speed at point 3 of the reference", wish: aSpeed, acts: true, field: "curve_3_speed", gate: "signal"},
	{name: "lost-below", words: "reference lost below", wish: aFigure, acts: true, field: "lost_below", gate: "signal"},
	{name: "motor-cooling", words: "cooling of the motor", wish: aSense, acts: true, meek: true,
		can: []string{"own-fan", "forced"}},
	{name: "magnetise", words: "magnetised at standstill", wish: onOrOff, acts: true, found: true, field: "magnetise"},
	{name: "preheat", words: "kept warm at standstill", wish: aShare, acts: true, field: "preheat"},
	{name: "auto-ramp", words: "ramps by themselves", wish: onOrOff, acts: true, field: "auto_ramp"},
	{name: "brake-opens-at", words: "brake opened from a current on", wish: aShare, acts: true, field: "brake_opens_at", gate: "turn"},
	{name: "brake-opens-torque", words: "brake opened from a torque on", acts: true},
	{name: "brake-closes-below", words: "brake closed below", wish: aSpeed, acts: true, field: "brake_closes_below", gate: "turn"},

	{name: "restarts-most", words: "restarts by itself, at most", wish: aFigure, acts: true, field: "restarts_most"},

	{name: "input-filter", acts: true},
	{name: "quick-stop-time", acts: true},
	{name: "quick-stop-dv", acts: true},
	{name: "quick-stop-dt", acts: true},
	{name: "start-scheme", acts: true, kind: "choice", can: []string{"two-wire", "three-wire"}},
	{name: "inputs-inverted", acts: true, kind: "bits"},
	{name: "stator-resistance", acts: true},
	{name: "rotor-resistance", acts: true},
	{name: "magnetising-current", acts: true},
	{name: "leakage", acts: true},
	{name: "phase-order", acts: true, kind: "choice"},
	{name: "stall", acts: true, kind: "choice"},
	{name: "line-phase", acts: true, kind: "choice"},
	{name: "output-phase", acts: true, kind: "choice"},
	{name: "earth-fault", acts: true, kind: "choice"},
	{name: "ride-through", acts: true, kind: "choice"},
	{name: "dc-start", acts: true},
	{name: "warmth-kept", acts: true, kind: "choice"},
	{name: "resistor-power", acts: true},
	{name: "jog-ramp", acts: true},
	{name: "curve", acts: true},
	{name: "curve-start", acts: true},
	{name: "curve-end", acts: true},
	{name: "second-rise", acts: true},
	{name: "second-fall", acts: true},
	{name: "switching", acts: true},
	{name: "encoder-lines", acts: true},
	{name: "encoder-direction", acts: true, kind: "choice"},
}

// HoldsOff are functions of an input that keep the drive from running while it is open: closed while it may run.
var HoldsOff = []string{"interlock", "coast", "quick-stop"}

// driven is the closed list of what settings without intent do to the simulated drive, serves that of what a setting is found by for a wish
// where nothing of the simulation stands behind it. A setting with neither is kept without effect.
var driven, serves = named(func(r role) bool { return r.acts }), named(func(r role) bool { return r.found })

// Reactions are what a family's settings say of what stops a drive and what starts it again, with the closed list of what each can stand
// for.
var Reactions = map[string][]string{}

var roleOf = map[string]role{}

func init() {
	for _, r := range roles {
		roleOf[r.name] = r
		if r.reacts {
			Reactions[r.name] = r.can
			Closed["fixed.what"], Closed["fixed.is"] = append(Closed["fixed.what"], r.name), append(Closed["fixed.is"], r.can...)
		}
	}
	slices.Sort(Closed["fixed.is"])
	Closed["fixed.is"] = slices.Compact(Closed["fixed.is"])
}

func named(is func(role) bool) []string {
	var l []string
	for _, r := range roles {
		if is(r) {
			l = append(l, r.name)
		}
	}
	return l
}

// Reacts tells whether a setting does something when something stops the drive, or starts it again.
func (s *Setting) Reacts() bool {
	_, reacts := Reactions[s.Drives]
	return reacts || strings.HasPrefix(s.Drives, "quick-stop-")
}

// WishedField is a role that is wished plainly: by one field of the intent, in one unit.
type WishedField struct {
	Role  string
	Field string // of the intent
	Unit  string // in which the wish counts: r/min, a share, s, a figure; on; sense
}

// Units of wishes.
const (
	WishOn     = "on"
	WishSpeed  = "r/min"
	WishShare  = "share"
	WishTime   = "s"
	WishFigure = "figure"
	WishSense  = "sense"
	WishText   = "text"
)

// WishedFields lists them.
func WishedFields() []WishedField {
	units := map[wish]string{onOrOff: WishOn, aSpeed: WishSpeed, aBand: WishSpeed, aShare: WishShare, seconds: WishTime,
		aFigure: WishFigure, aSense: WishSense, aText: WishText}
	var l []WishedField
	for _, r := range roles {
		if r.field != "" {
			l = append(l, WishedField{r.name, r.field, units[r.wish]})
		}
	}
	return l
}

// WishFrom is the field of the intent from which a role is wished; empty: it follows from something else.
func WishFrom(role string) string { return roleOf[role].field }

// WishGate is the gate that asks for a field of the intent from which a role is wished; empty: Span, or no role is.
func WishGate(field string) string {
	for _, r := range roles {
		if r.field == field && r.gate != "" {
			return r.gate
		}
	}
	return ""
}
