package troubleshoot

import (
	"tingate/core/gate"
)

// whyStands: it shows that it runs, and the shaft does not turn.
func whyStands(j gate.Job, s gate.State) []StartCondition {
	c := conditions{j: j, s: s}
	in := j.Drive.Intent
	c.ask("frequency", "Its display shows an output frequency above zero", "Read it while run is given.",
		"The reference: its wire, its source, the switch for V and mA. The lowest speed may be zero.")
	if in.SpeedSource == "voltage" || in.SpeedSource == "current" {
		unit := map[string]string{"voltage": "V", "current": "mA"}[in.SpeedSource]
		c.ask("signal", "At the terminal the signal is more than its low end", "Measured in "+unit+", at the drive.",
			"The sender, its supply, the common of the signal. Gate Signal says what each reading asks for.")
	}
	c.planned("speed", "choice.speed_source", "It takes speed from the "+blank(in.SpeedSource),
		"Set it as planned; it may speed up at once.")
	c.ask("current", "Its output current is below the limit", "Read it.",
		"At its limit it hums: the load is jammed, the brake is closed, or boost is too small for a load that breaks away hard.")
	if j.Drive.Turn.Brake == "drive" || j.Drive.Turn.Brake == "apart" {
		c.ask("brake", "The brake opens", "Heard, and 24 V or its own voltage at the coil.",
			"Its supply, its contactor, its rectifier. Never open it by hand under a hanging load.")
	}
	c.ask("output", "Nothing in the motor cable is open: no switch, no contactor", "Looked at; three equal currents in the display.",
		"Close it with the drive stopped. One phase missing hums and does not start.")
	c.ask("coupling", "The motor's shaft stands too, not the machine alone", "Looked at from a safe place.",
		"A coupling or a belt is off: stop, isolate, prove dead.")
	return c.l
}

// whyUnasked: it runs, and nobody asked.
func whyUnasked(j gate.Job, s gate.State) []StartCondition {
	c := conditions{j: j, s: s}
	in := j.Drive.Intent
	c.ask("safe", "Torque is off and people are clear while you look", "Both channels open; the word in its display.",
		"First of all: emergency stop. It has shown that it starts by itself.")
	c.ask("run", "At the terminals no run input is closed", "24 V at the terminal, or its sign in the display of inputs.",
		"A contact that is stuck, a wire to plus, an output of a controller that is on. Gate Control finds the wire.")
	c.planned("source", "choice.command_source", "It takes run from the "+blank(in.CommandSource)+", and from nowhere else",
		"Another place gives run too: network, keypad in hand.")
	c.planned("restart", "choice.automatic_restart", "It does not restart by itself after a fault",
		"Turn it off at gate Span, where people can be near.")
	if in.PowerUp == "on" {
		c.l = append(c.l, StartCondition{"power", "It waits when power comes with run held", "fails", "Planned at gate Signal: it starts.",
			"Let it wait, or keep people out whenever power may come."})
	} else {
		c.ask("power", "It waits when power comes with run held", "Its setting for that; as planned it waits.", "Set it so, with run off.")
	}
	c.ask("hand", "Nobody left it in hand with run given", "Its key or selector for hand and auto.", "Stop it in hand, then auto.")
	c.ask("preset", "Neither jog nor a preset input is closed", "The inputs' display.",
		"Their wires; with lowest speed above zero a run command alone turns it.")
	c.ask("driven", "The load does not drive it",
		"Current near zero while it turns: a fan in a draught, a pump that runs back, a load that hangs.",
		"A flap, a check valve, a brake. A flying start catches it, a DC brake holds it before the start.")
	return c.l
}

// whyDirection: it turns the wrong way.
func whyDirection(j gate.Job, s gate.State) []StartCondition {
	c := conditions{j: j, s: s}
	t := j.Drive.Turn
	c.ask("shows", "Its display shows the direction that is asked", "Forward or reverse, while it turns.",
		"Reverse is asked: its input, the sign of the reference, a signal below its live zero.")
	c.planned("allowed", "choice.direction", "Only the directions that are planned are allowed", "Set it as planned.")
	if t.Forward != "" {
		c.ask("forward", "Forward is what is called so: "+t.Forward, "Gate Turn.", "Say at gate Turn what forward is, seen from where.")
	}
	how := "Gate Turn: as it was seen at the first turn."
	if t.Phases == "turned" {
		how = "Gate Turn: turned by the drive's setting."
	}
	c.ask("phases", "The phases on the motor are in their order", how,
		"Two motor leads exchanged, dead and proved so; or the setting, where the practice allows. Never the line's leads: a drive does "+
			"not care.")
	if j.Drive.Site.Encoder == "wanted" {
		c.ask("encoder", "The encoder counts up when the shaft turns forward", "Its count in the display, turned by hand or slowly.",
			"Its pairs A and B, or its setting: with the phases right.")
	}
	c.ask("gear", "Between motor and machine nothing turns the other way", "A gearbox with an odd number of stages, a crossed belt.",
		"Judge the machine's direction, not the motor's.")
	return c.l
}

// whyStop: it does not stop.
func whyStop(j gate.Job, s gate.State) []StartCondition {
	c := conditions{j: j, s: s}
	in := j.Drive.Intent
	c.ask("emergency", "The emergency stop takes torque off", "Its own circuit, its own channels: gate Stop.",
		"Isolate it by its disconnector, keep people away until it stands, and do not use it before gate Stop holds again.")
	c.ask("off", "With stop given the run input is seen open", "The inputs' display.",
		"A wire to plus, a second contact beside the first. Three-wire: the stop contact breaks, a start contact that makes is no stop.")
	c.planned("source", "choice.command_source", "The place that says stop is the one that has the command: "+blank(in.CommandSource),
		"A stop key or a stop input elsewhere may be ignored: gate Signal shows who gives what.")
	c.planned("mode", "choice.stop_mode", "It stops by "+blank(in.StopMode), "Coasting may take minutes: gate Span says how long.")
	c.ask("fall", "It slows down, and only too slowly", "Its frequency falls in the display.",
		"The fall is long, or bus control stretches it: a resistor, or a longer allowed time. Gate Span has the shortest that holds.")
	c.ask("driven", "The load does not keep it turning", "Current near zero while it turns.",
		"A hanging load, a draught, a fly-wheel: a brake, not a drive.")
	c.ask("hand", "It is not in hand, with run given there", "Its key or selector.", "Stop it there.")
	return c.l
}
