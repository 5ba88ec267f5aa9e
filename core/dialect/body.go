package dialect

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Body is how the drives of a frame are lifted, fixed and opened. Zero and empty: the file does not say.
type Body struct {
	Frame    string  `yaml:"frame" json:"frame"` // as in the sizes
	Mass     float64 `yaml:"kg,omitempty" json:"kg"`
	Lift     string  `yaml:"lift,omitempty" json:"lift" doc:"how it is lifted"`
	Width    float64 `yaml:"width_mm,omitempty" json:"width_mm"`
	Height   float64 `yaml:"height_mm,omitempty" json:"height_mm"`
	Depth    float64 `yaml:"depth_mm,omitempty" json:"depth_mm"`
	Across   float64 `yaml:"holes_across_mm,omitempty" json:"holes_across_mm" doc:"between the holes, from side to side; 0: one above the other"`
	Up       float64 `yaml:"holes_up_mm,omitempty" json:"holes_up_mm" doc:"between the holes, from top to bottom"`
	Hole     string  `yaml:"hole,omitempty" json:"hole" doc:"like M5"`
	Fixed    string  `yaml:"fixed,omitempty" json:"fixed"`                            // screws, rail, either
	OnePhase Words   `yaml:"one_phase,omitempty" json:"one_phase"`                    // the two terminals that take one phase
	Empty    Words   `yaml:"one_phase_empty,omitempty" json:"one_phase_empty"`        // what stays empty then
	Port     string  `yaml:"port,omitempty" json:"port" doc:"where the link goes in"` //
	Awake    Words   `yaml:"without_mains,omitempty" json:"without_mains"`            // keypad, link: what lives without mains
	Covers   []Cover `yaml:"covers,omitempty" json:"covers" doc:"in the order in which they come off"`
}

// Cover is one cover: what comes off before what, and before what it goes back.
type Cover struct {
	Name string `yaml:"name" json:"name"`
	How  string `yaml:"how,omitempty" json:"how" doc:"screws, catches, which first"`
	Off  string `yaml:"off,omitempty" json:"off"`   // before the terminals of: power, control
	Back string `yaml:"back,omitempty" json:"back"` // before: control (its wiring), supply (comes back)
}

// Closed lists of a body.
var (
	fixedBy     = []string{"screws", "rail", "either"}
	awake       = []string{"keypad", "link"}
	coverOff    = []string{"power", "control"}
	coverBack   = []string{"control", "supply"}
	mostBody    = 2000. // mm, of any length
	mostBodyKg  = 2000.
	leastSpread = 10. // mm between holes
)

// BodyOf is the body of a frame; nil when the file has none.
func (f *Family) BodyOf(frame string) *Body {
	if i := slices.IndexFunc(f.Bodies, func(b Body) bool { return b.Frame == frame }); i >= 0 && frame != "" {
		return &f.Bodies[i]
	}
	return nil
}

// Holes are the places of the holes, mm from the first, to the right and down; nil when the file does not say.
func (b Body) Holes() [][2]float64 {
	switch {
	case b.Up > 0 && b.Across > 0:
		return [][2]float64{{0, 0}, {b.Across, 0}, {0, b.Up}, {b.Across, b.Up}}
	case b.Up > 0:
		return [][2]float64{{0, 0}, {0, b.Up}}
	}
	return nil
}

// bodies checks what the file says of bodies and of modules.
func (c *compiler) bodies() {
	frames := map[string]bool{}
	ends := map[string]bool{}
	for _, t := range c.f.Terminals {
		for _, e := range t.Ends() {
			ends[e] = true
		}
	}
	for i := range c.f.Bodies {
		b := &c.f.Bodies[i]
		for _, l := range []*Words{&b.OnePhase, &b.Empty, &b.Awake} {
			if *l == nil {
				*l = Words{} // lists are empty, never absent
			}
		}
		if b.Covers == nil {
			b.Covers = []Cover{}
		}
		at := fmt.Sprintf("bodies[%d].", i)
		if frames[b.Frame] || !slices.ContainsFunc(c.f.Ratings, func(r Size) bool { return r.Frame == b.Frame }) || b.Frame == "" {
			c.bad(at+"frame", b.Frame, "the frame of a size, once")
		}
		frames[b.Frame] = true
		for name, v := range map[string]float64{"width_mm": b.Width, "height_mm": b.Height, "depth_mm": b.Depth,
			"holes_across_mm": b.Across,
			"holes_up_mm":     b.Up} {
			if math.IsNaN(v) || v < 0 || v > mostBody || v > 0 && v < leastSpread {
				c.bad(at+name, fmt.Sprint(v), fmt.Sprintf("%g to %g mm, or nothing", leastSpread, mostBody))
			}
		}
		if !(b.Mass >= 0 && b.Mass <= mostBodyKg) {
			c.bad(at+"kg", fmt.Sprint(b.Mass), fmt.Sprintf("0 to %g kg", mostBodyKg))
		}
		if b.Across > 0 && b.Up == 0 {
			c.bad(at+"holes_up_mm", "nothing", "a distance, where holes lie side by side")
		}
		if b.Width > 0 && b.Across > b.Width*1.5 || b.Height > 0 && b.Up > b.Height*1.5 {
			c.bad(at+"holes_up_mm", fmt.Sprintf("%g by %g mm", b.Across, b.Up), "holes at the body")
		}
		c.oneOf(at+"fixed", b.Fixed, fixedBy)
		for _, w := range b.Awake {
			c.oneOf(at+"without_mains", w, awake)
		}
		if n := len(b.OnePhase); n != 0 && n != 2 {
			c.bad(at+"one_phase", strings.Join(b.OnePhase, ", "), "two terminals")
		}
		for k, x := range b.Covers {
			cover := fmt.Sprintf("%scovers[%d].", at, k)
			if strings.TrimSpace(x.Name) == "" {
				c.bad(cover+"name", x.Name, "what it is called")
			}
			c.oneOf(cover+"off", x.Off, coverOff)
			c.oneOf(cover+"back", x.Back, coverBack)
			if x.Off == "control" && x.Back == "control" {
				c.bad(cover+"back", x.Back, "supply: it comes off for the control terminals")
			}
		}
	}
	c.moduleParts(ends)
}
