// Package dialect speaks drive families: their settings, conventions and codes, and turns intent into settings.
package dialect

import "slices"

// Family is a drive family's settings language, as its file gives it. docs/formats/dialect.md explains every key.
type Family struct {
	Name          string        `yaml:"name"`
	Version       string        `yaml:"version"`
	Firmware      string        `yaml:"firmware,omitempty"`
	FirmwareRange FirmwareRange `yaml:"firmware_range,omitempty"`
	About         string        `yaml:"about,omitempty"`
	Counts        Counts        `yaml:"conventions,omitempty"`
	TypeCode      TypeCode      `yaml:"type_code,omitempty"`
	Ratings       []Size        `yaml:"ratings,omitempty"`
	Derating      Derating      `yaml:"derating,omitempty"`
	Keypad        Keypad        `yaml:"keypad"`
	Access        Access        `yaml:"access,omitempty"`
	Link          LinkMap       `yaml:"link,omitempty"`
	Lists         ChoiceLists   `yaml:"lists,omitempty"` // choices that several settings share
	Groups        []Group       `yaml:"groups"`
	Settings      []Setting     `yaml:"settings"`
	Recipes       Recipes       `yaml:"recipes,omitempty"`
	Terminals     []Terminal    `yaml:"terminals,omitempty"`
	Switches      []Switch      `yaml:"switches,omitempty"`
	Faults        []Fault       `yaml:"faults,omitempty"`
	FaultHistory  FaultHistory  `yaml:"fault_history,omitempty"`
	Bodies        []Body        `yaml:"bodies,omitempty"`
	Slots         []Slot        `yaml:"slots,omitempty"`
	Modules       []Module      `yaml:"modules,omitempty"`
	Remembers     Memory        `yaml:"remembers,omitempty"`
	Kept          Kept          `yaml:"kept,omitempty"`
	// Fixed are reactions that no setting of the family changes, by what they do (see Reactions).
	Fixed map[string]string `yaml:"fixed,omitempty"`

	Hash string `yaml:"-"` // of the file, set by the reader
	// ReadOnly says why nothing is written over the link by this file; empty: single settings may be.
	ReadOnly string `yaml:"-"`
	byCode   map[string]int
}

// FirmwareRange is the firmware for which the file was written, both ends included; numbers joined by dots.
type FirmwareRange struct {
	From string `yaml:"from" json:"from"`
	To   string `yaml:"to" json:"to"`
}

// Counts says in the file's own words how the family counts. Each is out of a closed list; a setting that counts
// otherwise is a fault of the file.
type Counts struct {
	Ramp          string `yaml:"ramp,omitempty" json:"ramp"`
	Overload      string `yaml:"overload,omitempty" json:"overload"`
	Speed         string `yaml:"speed,omitempty" json:"speed"`
	Power         string `yaml:"power,omitempty" json:"power"`
	Poles         string `yaml:"poles,omitempty" json:"poles"`
	Slip          string `yaml:"slip,omitempty" json:"slip"`
	Analog        string `yaml:"analog,omitempty" json:"analog"`
	LineFrequency string `yaml:"line_frequency,omitempty" json:"line_frequency"`
}

// TypeCode takes a drive's type apart, part by part from the left.
type TypeCode struct {
	Example string     `yaml:"example" json:"example"`
	Parts   []TypePart `yaml:"parts" json:"parts"`
}

// TypePart is a fixed text, one of a list of values, or so many signs.
type TypePart struct {
	Name    string            `yaml:"name,omitempty" json:"name,omitempty"`
	Literal string            `yaml:"literal,omitempty" json:"literal,omitempty"`
	Signs   int               `yaml:"signs,omitempty" json:"signs,omitempty"`
	Values  map[string]string `yaml:"values,omitempty" json:"values,omitempty"`
}

// Size is one size of the family. Type is the beginning of its type code, Code what the rating register holds.
type Size struct {
	Type     string  `yaml:"type" json:"type"`
	Code     uint16  `yaml:"code,omitempty" json:"code"`
	Frame    string  `yaml:"frame,omitempty" json:"frame"`
	Phases   int     `yaml:"phases" json:"phases"`
	LineLow  float64 `yaml:"line_low_v" json:"line_low_v"`
	LineHigh float64 `yaml:"line_high_v" json:"line_high_v"`
	Power    float64 `yaml:"power_kw" json:"power_kw"`
	Heavy    float64 `yaml:"heavy_a" json:"heavy_a"`
	Normal   float64 `yaml:"normal_a,omitempty" json:"normal_a"`
	Wait     float64 `yaml:"wait_min" json:"wait_min" doc:"maker's wait before measuring; a wait is never a permission"`
}

// Derating is what the maker takes off at a place; zero values are common practice.
type Derating struct {
	AltitudeFrom     float64 `yaml:"altitude_from_m,omitempty" json:"altitude_from_m"`
	AltitudePercent  float64 `yaml:"altitude_pct_per_100m,omitempty" json:"altitude_pct_per_100m"`
	AltitudeMost     float64 `yaml:"altitude_most_m,omitempty" json:"altitude_most_m"`
	AmbientFrom      float64 `yaml:"ambient_from_c,omitempty" json:"ambient_from_c"`
	AmbientPercent   float64 `yaml:"ambient_pct_per_k,omitempty" json:"ambient_pct_per_k"`
	AmbientMost      float64 `yaml:"ambient_most_c,omitempty" json:"ambient_most_c"`
	SwitchingFrom    float64 `yaml:"switching_from_khz,omitempty" json:"switching_from_khz"`
	SwitchingPercent float64 `yaml:"switching_pct_per_khz,omitempty" json:"switching_pct_per_khz"`
	SideBySide       float64 `yaml:"side_by_side_pct,omitempty" json:"side_by_side_pct"`
	SinglePhase      float64 `yaml:"single_phase_pct,omitempty" json:"single_phase_pct"`
}

// Access is the setting that opens the settings marked `access: full`, and the value that does.
type Access struct {
	Setting string `yaml:"setting"`
	Full    int64  `yaml:"full"`
}

// LinkMap is what the link may know of the registers that are no settings.
type LinkMap struct {
	Identity  RegisterValue   `yaml:"identity,omitempty"`
	Rating    uint16          `yaml:"rating,omitempty"`   // holds a rating's code; 0: none
	Firmware  uint16          `yaml:"firmware,omitempty"` // major × 256 + minor; 0: none
	Clock     uint16          `yaml:"clock,omitempty"`    // counts up a hundred times a second while the drive is on; 0: none
	Status    Status          `yaml:"status,omitempty"`
	Block     int             `yaml:"block,omitempty"`      // most registers in one read
	Gap       int             `yaml:"gap,omitempty"`        // most unused registers read along; the drive answers 0 for them
	WordOrder string          `yaml:"word_order,omitempty"` // high-first (default), low-first
	ByteOrder string          `yaml:"byte_order,omitempty"` // high-first (default), low-first
	Retries   int             `yaml:"retries,omitempty"`    // after a silence; default 2
	Clients   int             `yaml:"clients,omitempty"`    // most connections at a time; 0: not stated
	Forbidden []RegisterRange `yaml:"forbidden,omitempty"`
	Actuals   []Actual        `yaml:"actuals,omitempty"` // figures of the running drive
}

// RegisterValue is a register that holds a fixed value, by which the family is known.
type RegisterValue struct {
	Register uint16 `yaml:"register"`
	Value    uint16 `yaml:"value"`
}

// Status is the register that says whether the motor stands and whether both torque-off channels are open.
type Status struct {
	Register   uint16 `yaml:"register"`
	Standstill uint   `yaml:"standstill_bit"`
	ChannelA   uint   `yaml:"channel_a_open_bit"`
	ChannelB   uint   `yaml:"channel_b_open_bit"`
}

// RegisterRange holds registers that command motion. The link never touches them, for any address.
type RegisterRange struct {
	From uint16 `yaml:"from"`
	To   uint16 `yaml:"to"`
	Why  string `yaml:"why"`
}

// Group is a page or menu of the keypad.
type Group struct {
	Code string `yaml:"code"`
	Name string `yaml:"name"`
	Gate string `yaml:"gate"` // gate whose checks read its settings back
}

// Setting is one setting. Numbers are decimals as text, so that they lie on the step's grid exactly.
type Setting struct {
	Code         string     `yaml:"code"`
	Group        string     `yaml:"group"`
	Name         string     `yaml:"name"`
	Short        string     `yaml:"short,omitempty"`
	Kind         string     `yaml:"kind"` // number, choice, bits, text
	Unit         string     `yaml:"unit,omitempty"`
	Step         string     `yaml:"step,omitempty"`
	Min          string     `yaml:"min,omitempty"`
	Max          string     `yaml:"max,omitempty"` // of a text: most signs
	Special      []Special  `yaml:"special,omitempty"`
	Delivery     string     `yaml:"delivery"`
	DeliveryBy   []Delivery `yaml:"delivery_by,omitempty"`
	List         string     `yaml:"list,omitempty"`    // a shared list, instead of choices
	Choices      []Choice   `yaml:"choices,omitempty"` // of bits: value is the bit's number
	Register     uint16     `yaml:"register,omitempty"`
	RegisterType string     `yaml:"register_type,omitempty"` // u16 (default), s16, u32, s32, text
	Scale        string     `yaml:"scale,omitempty"`         // register = value × scale; default one step a count
	Running      bool       `yaml:"running,omitempty"`       // may be changed while running
	Access       string     `yaml:"access,omitempty"`        // "full": refused below full access
	Takes        string     `yaml:"takes,omitempty"`         // when a value acts: kept (default), dialled, stopped, power
	Protects     bool       `yaml:"protects,omitempty"`
	Serves       string     `yaml:"serves,omitempty"`    // what a wish of a person finds it by; the simulated drive does nothing with it
	Drives       string     `yaml:"drives,omitempty"`    // what the simulated drive does with a setting that carries no intent
	OffValue     string     `yaml:"off_value,omitempty"` // of one that protects: the value at which it does not
	Acts         string     `yaml:"acts,omitempty"`      // "motion": could start motion; written only with both torque-off channels open
	Voids        Words      `yaml:"voids,omitempty"`     // tune, or settings that fall back to delivery
	Moves        Words      `yaml:"moves,omitempty"`     // settings whose value, range or meaning goes along
	Paths        [][]string `yaml:"paths,omitempty"`     // other ways to it on the keypad
	Intent       string     `yaml:"intent,omitempty"`
	Convention   string     `yaml:"convention,omitempty"`
	Counted      []Counting `yaml:"counted,omitempty"`     // otherwise, by the setting that serves speed-unit
	ObjectType   string     `yaml:"object_type,omitempty"` // of one whose code is index and subindex: its data type; default the register's
	Source       Source     `yaml:"source,omitempty"`

	stepMantissa, min, max, delivery int64
	decimals                         int
	perStep                          int64 // register counts a step
	deliveryBy                       []int64
	special                          []int64
	counted                          []Setting // one for each of Counted
}

// Source is where a row of a family comes from, when it is not the maker's own file: what it was read from, and by whom.
type Source struct {
	Kind   string `yaml:"kind,omitempty" json:"kind,omitempty"` // list, device, typed, learnt; empty: the family's author
	From   string `yaml:"from,omitempty" json:"from,omitempty"` // the list's name and the place in it, a page of the manual
	By     string `yaml:"by,omitempty" json:"by,omitempty"`
	Second string `yaml:"second,omitempty" json:"second,omitempty"` // who else has compared it with that
}

// Brought tells whether any of the rows was brought in by somebody: from a list, a device description, by typing or by learning.
func (f *Family) Brought() bool {
	return f != nil && slices.ContainsFunc(f.Settings, func(s Setting) bool { return s.Source.Kind != "" })
}

// Words is a list of words; a file may give a single one without brackets.
type Words []string

// UnmarshalYAML takes one word or a list of them.
func (w *Words) UnmarshalYAML(decode func(any) error) error {
	var one string
	if err := decode(&one); err == nil {
		*w = Words{one}
		return nil
	}
	var many []string
	err := decode(&many)
	*w = many
	return err
}

// Special is a value with a meaning of its own; it may lie outside the range.
type Special struct {
	Value string `yaml:"value"`
	Text  string `yaml:"text"`
}

// Delivery is a delivery value that holds for a region (line frequency, "50" or "60"), a frame, or both.
type Delivery struct {
	Region string `yaml:"region,omitempty"`
	Frame  string `yaml:"frame,omitempty"`
	Value  string `yaml:"value"`
}

// Choice is one value of a choice setting, or one bit. Means names the intent it carries out.
type Choice struct {
	Value int64  `yaml:"value"`
	Text  string `yaml:"text"`
	Means string `yaml:"means,omitempty"`
}

// ChoiceLists are lists of choices by name.
type ChoiceLists map[string][]Choice

// Variant is what a delivery value may depend on. Empty parts are not known.
type Variant struct{ Region, Frame string }
