package dialect

// driven is the closed list of what settings without intent do to the simulated drive. A setting with neither is kept without
// effect.
var driven = []string{"start-scheme", "inputs-inverted", "run-at-power", "boost", "stator-resistance", "rotor-resistance", "magnetising-current", "leakage", "phase-order",
	"dc-brake", "dc-brake-current", "dc-brake-time", "resistor", "resistor-ohm", "skip-1", "skip-2", "skip-width", "skip-1-from", "skip-1-to", "skip-2-from", "skip-2-to",
	"bus-control", "stall", "sensor", "line-phase", "jog-ramp", "curve", "curve-start", "curve-end", "second-rise", "second-fall", "reverse-wait", "preset-4", "preset-5",
	"hand-speed", "reference-filter", "switching", "encoder-lines", "encoder-direction", "flying-start", "torque-limit", "torque-limit-braking", "pot", "pot-keeps", "loop", "loop-gain", "loop-time", "loop-setpoint", "sleep",
	"stop-key", "interlock", "interlock-back", "quick-stop-dv", "quick-stop-dt"}

// Reactions are what a family's settings say of what stops a drive and what starts it again, with the closed list of what each can stand for.
var Reactions = map[string][]string{"stop-key": {"ignored", "obeyed", "quick-stop"}, "interlock": {"ramp", "coast"}, "interlock-back": {"fresh", "goes-on"}}

// Delivered are the values of all settings as a drive of that variant is delivered, by code.
func (f *Family) Delivered(v Variant) map[string]int64 {
	out := make(map[string]int64, len(f.Settings))
	for i := range f.Settings {
		out[f.Settings[i].Code] = f.Settings[i].DeliveryFor(v)
	}
	return out
}

// Reacts is what a family does, by its settings' values or for good; empty: its file does not say.
func (f *Family) Reacts(what string, values map[string]int64) string {
	if d, ok := f.Driven(values)[what]; ok {
		return d.Means
	}
	return f.Fixed[what]
}

// serves is the closed list of what a setting is found by for a person's wish, where neither an intent nor the simulated drive stands behind it.
var serves = []string{"loop", "loop-gain", "loop-time", "loop-setpoint", "sleep", "torque-limit", "torque-limit-braking", "motor-kind", "brake", "brake-delay"}

// Driven is a setting's value for the simulated drive.
type Driven struct {
	Setting *Setting
	Steps   int64
	Value   float64 // of a number, in the setting's unit
	Means   string  // of a choice that stands for something
}

// Driven gives the values of settings that act on the simulated drive without being intent, by what they do.
func (f *Family) Driven(values map[string]int64) map[string]Driven {
	out := map[string]Driven{}
	for i := range f.Settings {
		s := &f.Settings[i]
		steps, ok := values[s.Code]
		if s.Drives == "" || !ok {
			continue
		}
		d := Driven{Setting: s, Steps: steps, Value: s.Value(steps)}
		for _, c := range s.Choices {
			if c.Value == steps {
				d.Means = c.Means
			}
		}
		out[s.Drives] = d
	}
	return out
}

// Acts tells whether a setting does anything in the simulated drive.
func (f *Family) Acts(s *Setting) bool {
	if s.Drives == "preset-4" || s.Drives == "preset-5" { // two bits reach three presets
		return f.has("preset-2")
	}
	if s.Intent != "" || s.Drives != "" {
		return true
	}
	for _, t := range f.Terminals {
		if t.Setting == s.Code && t.Kind == "digital-in" {
			return true
		}
	}
	return false
}

// has tells whether an input of the family can be given a function.
func (f *Family) has(function string) bool {
	for _, t := range f.Terminals {
		s, ok := f.Setting(t.Setting)
		for i := 0; ok && i < len(s.Choices); i++ {
			if s.Choices[i].Means == function {
				return true
			}
		}
	}
	return false
}
