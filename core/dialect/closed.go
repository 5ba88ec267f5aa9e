package dialect

// Closed are the closed lists of a family's file beside its settings, by the place: part.field. What is not in it is free.
var Closed = map[string][]string{
	"keypad.style": {"pages", "tree", "index"}, "keypad.confirm": {"once", "twice", "hold", "dial-and-set"},
	"keypad.digits": {"each", "turn", "step"}, "keypad.blinking": {"not-kept", "kept", "never"},
	"keypad.stop_in_remote": {"obeyed", "ignored"}, "keypad.shows_settings": {"all", "changed"},
	"remembers.motor_warmth": {"kept", "forgotten"}, "remembers.run_command": {"fresh", "held"},
	"terminals.kind": terminalKinds, "faults.family": faultFamilies, "faults.severity": {"fault", "warning", "blocked"},
	"faults.clears": clearings, "modules.kind": moduleKinds, "recipes.tunes.kind": tuneKinds, "groups.gate": {"plate", "span", "signal"},
	"link.word_order": {"high-first", "low-first"}, "link.byte_order": {"high-first", "low-first"},
	"link.actuals.register_type": registerTypes, "switches.positions.is": switchKinds, "settings.delivery_by.region": {"50", "60"},
	"bodies.fixed": fixedBy, "bodies.covers.off": coverOff, "bodies.covers.back": coverBack, "modules.terminals.kind": terminalKinds,
	"conventions.ramp": countLists["ramp"], "conventions.overload": countLists["overload"],
	"conventions.speed": countLists["speed"],
	"conventions.power": countLists["power"], "conventions.poles": countLists["poles"], "conventions.slip": countLists["slip"],
	"conventions.analog": countLists["analog"], "conventions.line_frequency": countLists["line_frequency"],
}
