package familyfile

// known is what CiA 402-2 says of an object of the drive profile, from memory: its unit, what its choices mean,
// and what
// a setting there carries in a family.
type known struct {
	unit               string
	intent, convention string
	drives             string
	choices            string
	motion, protects   bool
}

// rampOptions are the choices that the option codes of the profile share.
const rampOptions = "0 = disable drive function; 1 = slow down on the ramp"

var profile = map[string]known{
	"6046h:01": {unit: "r/min", intent: "speed.lowest", convention: "shaft-as-rpm", protects: true},
	"6046h:02": {unit: "r/min", intent: "speed.highest", convention: "shaft-as-rpm", protects: true},
	"6048h:01": {unit: "r/min", intent: "ramp.rise", convention: "slope-speed"},
	"6048h:02": {unit: "s", intent: "ramp.rise.time", convention: "slope-time"},
	"6049h:01": {unit: "r/min", intent: "ramp.fall", convention: "slope-speed"},
	"6049h:02": {unit: "s", intent: "ramp.fall.time", convention: "slope-time"},
	"604Ah:01": {unit: "r/min", drives: "quick-stop-dv", protects: true},
	"604Ah:02": {unit: "s", drives: "quick-stop-dt", protects: true},
	"604Dh:00": {intent: "motor.poles", convention: "poles"},
	"605Ah:00": {protects: true, choices: rampOptions + "; 2 = slow down on the quick stop ramp; 3 = slow down on the current limit; " +
		"4 = slow down on the voltage limit; 5 = ramp, and stay in quick stop; 6 = quick stop ramp, and stay in quick stop"},
	"605Bh:00": {protects: true, choices: rampOptions},
	"605Ch:00": {
		intent:     "choice.stop_mode",
		convention: "choice",
		choices:    "0 = disable drive function → coast; 1 = slow down on the ramp → ramp",
	},
	"605Dh:00": {protects: true, choices: "1 = slow down on the ramp; 2 = slow down on the quick stop ramp"},
	"605Eh:00": {protects: true, choices: rampOptions + "; 2 = slow down on the quick stop ramp"},
	"6072h:00": {unit: "‰", drives: "torque-limit", protects: true},
	"6073h:00": {unit: "‰", intent: "limit.current", convention: "per-thousand-of-motor", protects: true},
	"6075h:00": {unit: "mA", intent: "motor.current", convention: "milliamperes"},
	"6076h:00": {unit: "mN·m"},
	"607Eh:00": {motion: true, protects: true},
	"6080h:00": {unit: "r/min", protects: true},
	"6402h:00": {choices: "1 = DC, phase modulated; 3 = synchronous, magnets; 7 = squirrel cage induction"},
}

// commanding are the objects by which a network commands (the same that dialect refuses as registers): no settings, for any family.
var commanding = map[uint16]string{0x6040: "controlword", 0x6042: "target velocity", 0x6060: "modes of operation", 0x6071: "target torque",
	0x607a: "target position", 0x60ff: "target velocity"}
