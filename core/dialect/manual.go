package dialect

import "slices"

// What a family's file tells of the keypad, the recipes, the terminals and the faults: the parts a person looks up.

// Keypad says how a setting is reached and kept. In path {group}, {letter} and {code} stand for parts of the code.
type Keypad struct {
	Path      []string  `yaml:"path" json:"path"`
	Keep      string    `yaml:"keep" json:"keep"`
	Style     string    `yaml:"style,omitempty" json:"style"`             // pages, tree, index
	Keys      KeyNames  `yaml:"keys,omitempty" json:"keys"`               // what is printed on the keys
	Wrap      bool      `yaml:"wrap,omitempty" json:"wrap"`               // the last is followed by the first
	Confirm   string    `yaml:"confirm,omitempty" json:"confirm"`         // once, twice, hold, dial-and-set
	Digits    string    `yaml:"digits,omitempty" json:"digits"`           // each, turn, step
	Blinking  string    `yaml:"blinking,omitempty" json:"blinking"`       // not-kept, kept, never
	Home      Step      `yaml:"home,omitempty" json:"home"`               // the gesture that always leads back
	Remote    Step      `yaml:"local_remote,omitempty" json:"remote"`     // how local and remote change over
	StopInRem string    `yaml:"stop_in_remote,omitempty" json:"stop"`     // obeyed, ignored
	Password  Password  `yaml:"password,omitempty" json:"password"`       //
	Refused   []Refused `yaml:"run_refused,omitempty" json:"refused"`     // modes in which run is refused
	Lamps     []Meaning `yaml:"lamps,omitempty" json:"lamps"`             //
	Words     []Meaning `yaml:"words,omitempty" json:"words"`             //
	Lists     string    `yaml:"shows_settings,omitempty" json:"lists"`    // all, changed: what the list shows when it is opened
	Locks     Words     `yaml:"locks,omitempty" json:"locks"`             // when the keypad refuses changes: running, access, remote
	Changes   string    `yaml:"refuses_changes,omitempty" json:"refuses"` // the same in a sentence
}

// KeyNames are the keys as printed.
type KeyNames struct {
	Group string `yaml:"group,omitempty" json:"group"`
	Next  string `yaml:"next,omitempty" json:"next"`
	Prev  string `yaml:"prev,omitempty" json:"prev"`
	Enter string `yaml:"enter,omitempty" json:"enter"`
	Back  string `yaml:"back,omitempty" json:"back"`
	Run   string `yaml:"run,omitempty" json:"run"`
	Stop  string `yaml:"stop,omitempty" json:"stop"`
}

// Step is one thing a person does, and what the drive then shows.
type Step struct {
	Do    string `yaml:"do" json:"do"`
	Shows string `yaml:"shows,omitempty" json:"shows,omitempty"`
}

// Password says what locks the keypad.
type Password struct {
	Setting   string `yaml:"setting,omitempty" json:"setting"`
	Delivered string `yaml:"delivered,omitempty" json:"delivered"`
	Lost      string `yaml:"lost,omitempty" json:"lost"`
}

// Refused is a mode in which the keypad does not run the motor, and what it says then.
type Refused struct {
	When  string `yaml:"when" json:"when"`
	Shows string `yaml:"shows" json:"shows"`
	Do    string `yaml:"do" json:"do"`
}

// Meaning is a sign with its meaning.
type Meaning struct {
	Sign  string `yaml:"sign" json:"sign"`
	Means string `yaml:"means" json:"means"`
}

// Throw is a position of a hardware switch.
type Throw struct {
	Sign  string `yaml:"sign" json:"sign"`
	Means string `yaml:"means" json:"means"`
	Is    string `yaml:"is,omitempty" json:"is,omitempty"` // voltage, current, source, sink
}

// Recipes are the family's ways to do what every drive does.
type Recipes struct {
	DeliveryReset  DeliveryReset `yaml:"delivery_reset,omitempty" json:"delivery_reset"`
	FirstStart     FirstStart    `yaml:"first_start,omitempty" json:"first_start"`
	Tunes          []Tune        `yaml:"tunes,omitempty" json:"tunes"`
	Copy           []Step        `yaml:"copy,omitempty" json:"copy"`
	Restore        []Step        `yaml:"restore,omitempty" json:"restore"`
	Changed        []Step        `yaml:"changed,omitempty" json:"changed" doc:"the drive's own list of what differs from delivery"`
	FaultReset     []Step        `yaml:"fault_reset,omitempty" json:"fault_reset"`
	TorqueOffReset []Step        `yaml:"torque_off_reset,omitempty" json:"torque_off_reset"`
}

// DeliveryReset is how a drive is brought to delivery state. It is done on the keypad, never over a link.
type DeliveryReset struct {
	Steps      []Step       `yaml:"steps,omitempty" json:"steps"`
	Codes      []SupplyCode `yaml:"codes,omitempty" json:"codes"`
	Proof      string       `yaml:"proof,omitempty" json:"proof" doc:"what the drive shows when it is done"`
	Cleared    string       `yaml:"cleared_by,omitempty" json:"cleared_by"`
	PowerCycle bool         `yaml:"power_cycle,omitempty" json:"power_cycle"`
	Wipes      string       `yaml:"wipes,omitempty" json:"wipes"`
	Keeps      string       `yaml:"keeps,omitempty" json:"keeps"`
}

// SupplyCode is the reset's code for a supply.
type SupplyCode struct {
	Frequency float64 `yaml:"line_hz" json:"line_hz"`
	Voltage   float64 `yaml:"line_v" json:"line_v"`
	Code      string  `yaml:"code" json:"code"`
}

// FirstStart is the assistant that a new drive offers.
type FirstStart struct {
	Pages    []Page `yaml:"pages,omitempty" json:"pages"`
	LeavesTo Words  `yaml:"leaves_out,omitempty" json:"leaves_out" doc:"settings that it does not ask for"`
	Disables Words  `yaml:"disables,omitempty" json:"disables" doc:"settings that protect, and are off once it was followed"`
	Skip     Step   `yaml:"skip,omitempty" json:"skip"`
}

// Page is one page of the assistant and the setting that it sets.
type Page struct {
	Shows string `yaml:"shows" json:"shows"`
	Sets  string `yaml:"sets,omitempty" json:"sets"`
}

// Tune is one kind of identification run.
type Tune struct {
	Kind      string   `yaml:"kind" json:"kind"`
	Setting   string   `yaml:"setting" json:"setting"`
	Value     string   `yaml:"value" json:"value"`
	Start     string   `yaml:"start" json:"start"`
	Within    float64  `yaml:"within_s,omitempty" json:"within_s"`
	Progress  []string `yaml:"progress,omitempty" json:"progress"`
	Done      string   `yaml:"done" json:"done"`
	DoneValue string   `yaml:"done_value,omitempty" json:"done_value"`
	StopAfter bool     `yaml:"stop_after,omitempty" json:"stop_after" doc:"stop must be pressed before it will run again"`
	Turns     bool     `yaml:"turns,omitempty" json:"turns" doc:"the shaft turns at speed"`
}

// Terminal is one terminal of the drive.
type Terminal struct {
	Name       string `yaml:"name" json:"name"`
	Kind       string `yaml:"kind" json:"kind"`
	Electrical string `yaml:"electrical,omitempty" json:"electrical"`
	Common     string `yaml:"common,omitempty" json:"common"`
	Setting    string `yaml:"setting,omitempty" json:"setting" doc:"the setting that gives it its function"`
	Delivery   string `yaml:"delivery,omitempty" json:"delivery" doc:"what it does as delivered"`
	Jumper     string `yaml:"jumper,omitempty" json:"jumper" doc:"a factory link on it, in words"`
	// For the connection list: terminals that belong together (a relay: common, breaks, makes, or its two ends; two ends of
	// an input), factory links as pairs, what it gives or draws in mA, and what an analog input or output takes in ohms.
	Legs    Words      `yaml:"legs,omitempty" json:"legs"`
	Links   [][]string `yaml:"links,omitempty" json:"links"`
	Current float64    `yaml:"ma,omitempty" json:"ma"`
	Takes   Words      `yaml:"takes,omitempty" json:"takes"` // voltage, current
	Ohm     float64    `yaml:"ohm,omitempty" json:"ohm" doc:"of a voltage input; of an output the most it may see"`
	LoopOhm float64    `yaml:"loop_ohm,omitempty" json:"loop_ohm" doc:"of a current input"`
	Switch  string     `yaml:"switch,omitempty" json:"switch" doc:"the hardware switch that chooses what it takes"`
	// Of an output: the setting that turns it over, and which of its bits where it is one of bits. Turned over it stands while what it
	// shows does not.
	Turned    string `yaml:"turned_by,omitempty" json:"turned_by,omitempty"`
	TurnedBit int    `yaml:"turned_bit,omitempty" json:"turned_bit,omitempty"`
	Module    string `yaml:"-" json:"module,omitempty" doc:"code of the module that brings it"`
}

// Ends are the terminals that a screwdriver finds under a terminal's name.
func (t Terminal) Ends() []string {
	if len(t.Legs) > 0 {
		return t.Legs
	}
	return []string{t.Name}
}

// Switch is a hardware switch and what it changes.
type Switch struct {
	Name      string      `yaml:"name" json:"name"`
	Positions []Throw     `yaml:"positions" json:"positions"`
	Delivered string      `yaml:"delivered" json:"delivered"`
	PowerOff  bool        `yaml:"power_off,omitempty" json:"power_off" doc:"may be moved with the power off only"`
	Changes   []SwitchAct `yaml:"changes,omitempty" json:"changes"`
}

// SwitchAct says that a setting goes by another name and unit once the switch is moved.
type SwitchAct struct {
	Position string `yaml:"position" json:"position"`
	Setting  string `yaml:"setting" json:"setting"`
	Name     string `yaml:"name" json:"name"`
	Unit     string `yaml:"unit,omitempty" json:"unit"`
}

// Fault is a fault or warning.
type Fault struct {
	Code     string `yaml:"code" json:"code"`
	Text     string `yaml:"text" json:"text"`
	Family   string `yaml:"family" json:"family"`
	Severity string `yaml:"severity" json:"severity"`
	Clears   string `yaml:"clears" json:"clears"`
	Look     string `yaml:"look,omitempty" json:"look" doc:"where to look first"`
}

// FaultHistory is what the drive keeps of past faults.
type FaultHistory struct {
	Depth int   `yaml:"depth" json:"depth"`
	Keeps Words `yaml:"keeps,omitempty" json:"keeps"`
}

// Slot takes modules.
type Slot struct {
	Name  string `yaml:"name" json:"name"`
	Takes Words  `yaml:"takes" json:"takes"`
}

// Module is an option that goes into a slot.
type Module struct {
	Code  string `yaml:"code" json:"code"`
	Kind  string `yaml:"kind,omitempty" json:"kind"` // encoder, terminals, network
	Name  string `yaml:"name" json:"name"`
	Gives string `yaml:"gives,omitempty" json:"gives"`
	// What it does to the drive: terminals that it brings and takes away, the setting that holds its address, and what shows that the drive
	// knows it.
	Terminals []Terminal `yaml:"terminals,omitempty" json:"terminals,omitempty"`
	TakesAway Words      `yaml:"takes_away,omitempty" json:"takes_away,omitempty"`
	Address   string     `yaml:"address,omitempty" json:"address,omitempty"`
	Proves    string     `yaml:"proved_by,omitempty" json:"proved_by,omitempty"`
	// Of an encoder's module: what it can feed an encoder with, and the signals that it reads (ttl, htl, sine). Empty: the file does not
	// say.
	Feeds   []Feed `yaml:"feeds,omitempty" json:"feeds,omitempty"`
	Signals Words  `yaml:"signals,omitempty" json:"signals,omitempty"`
}

// Feed is a supply for an encoder.
type Feed struct {
	Volts   float64 `yaml:"v" json:"v"`
	Current float64 `yaml:"ma" json:"ma"` // mA at most
}

// EncoderModule is the module that an encoder goes to; ok is false when the family has none.
func (f *Family) EncoderModule() (m Module, ok bool) {
	if i := slices.IndexFunc(f.Modules, func(m Module) bool { return m.Kind == "encoder" }); i >= 0 {
		return f.Modules[i], true
	}
	return m, false
}

// TakesEncoder tells whether an encoder can be connected: by terminals of its own, or by a module in a slot.
func (f *Family) TakesEncoder() bool {
	return slices.ContainsFunc(f.Terminals, func(t Terminal) bool { return t.Kind == "encoder" }) ||
		slices.ContainsFunc(f.Slots, func(s Slot) bool {
			return slices.ContainsFunc(f.Modules, func(m Module) bool { return m.Kind == "encoder" && slices.Contains(s.Takes, m.Code) })
		})
}

// Memory is what a drive remembers through a power cycle.
type Memory struct {
	MotorWarmth string `yaml:"motor_warmth,omitempty" json:"motor_warmth"` // kept, forgotten
	RunCommand  string `yaml:"run_command,omitempty" json:"run_command"`   // fresh, held: whether a run command held at power-up runs
	Note        string `yaml:"note,omitempty" json:"note"`
}

// Closed lists of the file.
var (
	kinds         = []string{"number", "choice", "bits", "text"}
	registerTypes = []string{"u16", "s16", "u32", "s32", "text"}
	takesWhen     = []string{"kept", "dialled", "stopped", "power"}
	tuneKinds     = []string{"standstill", "standstill-extended", "rotating-uncoupled", "rotating-coupled", "mechanical", "from-maker"}
	switchKinds   = []string{"voltage", "current", "source", "sink"}
	moduleKinds   = []string{"encoder", "terminals", "network"}
	terminalKinds = []string{"digital-in", "digital-out", "relay", "analog-in", "analog-out", "reference-supply", "control-supply",
		"common", "torque-off", "encoder", "power", "temperature", "bus"}
	faultFamilies = []string{"drive-temperature", "input-phase", "output-phase", "bus-over-voltage", "bus-under-voltage", "overcurrent",
		"earth-fault", "motor-overload", "drive-overload", "encoder", "reference-lost", "torque-off-channel", "external", "network",
		"settings", "internal"}
	clearings  = []string{"by-itself", "reset", "power-cycle", "none"}
	countLists = map[string][]string{
		"ramp":           {"to-highest", "to-plate-speed", "to-base-frequency", "slope"},
		"overload":       {"amperes", "percent-of-drive", "percent-of-motor"},
		"speed":          {"shaft-as-hertz", "shaft-as-rpm", "shaft-as-percent"},
		"power":          {"kilowatts", "horsepower", "power-list"},
		"poles":          {"entered", "worked-out"},
		"slip":           {"off-on", "percent"},
		"analog":         {"two-point", "offset-gain", "gain-offset"},
		"line_frequency": {"region", "code", "reset"},
	}
)
