package dialect

import "strings"

// Kept is how drives of the family keep what was entered: through a power-off as it is confirmed or written, on a command of its own, or
// not at all.
type Kept struct {
	Keypad  string `yaml:"keypad,omitempty" json:"keypad,omitempty"`   // command, lost; empty: as it is confirmed
	Link    string `yaml:"link,omitempty" json:"link,omitempty"`       // command, lost; empty: as it is written
	Setting string `yaml:"setting,omitempty" json:"setting,omitempty"` // that keeps everything, on command
	Value   string `yaml:"value,omitempty" json:"value,omitempty"`     // that does so; it may read as delivered again at once
}

// The ways in which a value is not kept by itself.
const (
	KeptOnCommand = "command"
	NotKept       = "lost"
)

// Keeps is the setting that keeps everything on command, with the value that does so; nil where the family has none.
func (f *Family) Keeps() (*Setting, int64) {
	s, ok := f.Setting(f.Kept.Setting)
	if !ok {
		return nil, 0
	}
	steps, err := s.Read(f.Kept.Value)
	if err != nil {
		return nil, 0
	}
	return s, steps
}

// kept checks what the file says of it.
func (c *compiler) kept() {
	k := c.f.Kept
	for field, way := range map[string]string{"kept.keypad": k.Keypad, "kept.link": k.Link} {
		c.oneOf(field, way, []string{KeptOnCommand, NotKept})
	}
	if k.Keypad != KeptOnCommand && k.Link != KeptOnCommand {
		if k.Setting != "" {
			c.bad("kept.setting", k.Setting, "nothing, where nothing is kept on command")
		}
		return
	}
	s, steps := c.f.Keeps()
	switch {
	case s == nil:
		c.bad("kept.setting", strings.TrimSpace(k.Setting+" "+k.Value), "the setting that keeps everything, with its value")
	case s.Intent != "" || s.Drives != "" || s.Serves != "" || s.Acts != "":
		c.bad("kept.setting", k.Setting, "a setting that does nothing else")
	case !s.Inside(steps) || steps == s.delivery:
		c.bad("kept.value", k.Value, "a value of "+s.Code+" that is not as delivered")
	}
}
