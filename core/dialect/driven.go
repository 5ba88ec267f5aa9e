package dialect

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
