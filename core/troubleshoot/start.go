package troubleshoot

import (
	"fmt"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/sheet"
)

// whyNot: it does not start.
func whyNot(j gate.Job, s gate.State) []StartCondition {
	var l []StartCondition
	add := func(key, text, state, how, do string) {
		l = append(l, StartCondition{key, text, state, how, do})
	}
	line := StartCondition{"line", "The drive has its line", "ask", "Its display is lit.",
		"Isolator, fuses, contactor in front: gate Wake."}
	if s.Energy.State == drivefile.Live {
		line.State, line.How = "holds", "Recorded: "+s.Energy.Text
	}
	l = append(l, line)
	add("fault", "It shows no fault and no warning that blocks", "ask", "Read its display.",
		"Find the cause first; then run off, reset, run on. Gate Stop has the way back after torque off.")
	torqueOff := "torque off"
	if j.Family != nil {
		if w := gate.StopWords(j.Family)["torque-off"]; w != "" {
			torqueOff = w
		}
	}
	add("torque-off", fmt.Sprintf("It does not show %q: both torque-off channels are closed", torqueOff), "ask",
		"Relay on, both channels 24 V.", "Reset of the stop circuit, from outside the zone; then a fresh run command.")
	if j.Family != nil {
		for i, x := range j.Family.Keypad.Refused {
			if strings.Contains(strings.ToLower(x.When), "torque") {
				continue
			}
			add(fmt.Sprintf("refused-%d", i), fmt.Sprintf("It does not show %q: %s", x.Shows, x.When), "ask", "Read its display.", x.Do)
		}
	}
	for _, x := range []struct{ key, intent, text, wanted string }{{"command", "choice.command_source",
		"It takes run from the " + blank(j.Drive.Intent.CommandSource), j.Drive.Intent.CommandSource},
		{"speed", "choice.speed_source", "It takes speed from " + blank(j.Drive.Intent.SpeedSource), j.Drive.Intent.SpeedSource}} {
		if c := settingOf(j, s, x.intent); c != nil && x.wanted != "" {
			state := map[sheet.Verdict]string{sheet.Holds: "holds", sheet.Differs: "fails"}[c.Verdict]
			how := c.Code + " is planned as " + c.SetTo
			if c.Read != nil {
				how += ", read as " + c.Read.Text
			}
			if state == "" {
				state = "ask"
			}
			add(x.key, x.text, state, how+".", "Set "+c.Code+" to "+c.SetTo+"; it may start at once if run is held.")
		}
	}
	add("hand", "It is left in auto, not in hand", "ask", "Its key or selector for hand and auto.", "Change it with run off: it may start.")
	if p, ok := gate.WiringOf(j); ok {
		for _, t := range p.Assigns {
			text := map[string]string{"run-forward": "sees its run command", "start": "sees the start button while it is pressed",
				"stop": "sees the stop button closed", "interlock": "sees the process interlock closed",
				"coast": "sees the second enable closed", "quick-stop": "sees the quick stop closed"}[t.Function]
			if text != "" {
				add("input-"+t.Terminal, fmt.Sprintf("Terminal %s %s", t.Terminal, text), "ask",
					"24 V at the terminal, or its sign in the display of inputs.",
					"Follow its wires at gate Control; other equipment may hold it open.")
			}
		}
	} else if j.Drive.Intent.CommandSource == "terminals" {
		add("input", "Its run input is closed", "ask", "24 V at the terminal.", "Its contact and its wires: gate Control.")
	}
	in := j.Drive.Intent
	if in.Loop == "on" {
		add("loop", "Its own controller asks for more than standstill, and does not sleep", "ask",
			"Setpoint and measured value in its display.",
			"The measured value above the setpoint, or its wire on another signal; asleep it starts by itself.")
	} else if in.SpeedSource == "voltage" || in.SpeedSource == "current" {
		unit := map[string]string{"voltage": "V", "current": "mA"}[in.SpeedSource]
		add("reference", "Its reference asks for more than standstill", "ask", "Measure the signal at its terminal, in "+unit+".",
			"Runs but stands still: no signal, the switch for V and mA, the common of the signal.")
	}
	if in.SpeedSource == "presets" {
		add("reference", "The inputs choose a preset that is not zero", "ask", "Preset inputs, and the preset's setting.",
			"The truth table below says which.")
	}
	if in.SpeedSource == "motor-potentiometer" {
		add("reference", "Faster was held long enough to leave standstill", "ask",
			"24 V at its terminal while it is held, and slower open.",
			"Where the lowest speed is zero it stands until faster is held; a slower that is stuck closed holds it there.")
	}
	if in.Direction == "forward" {
		add("direction", "Forward is asked, not reverse", "ask", "Only forward is allowed here.",
			"The reverse input, or the sign of the reference.")
	}
	add("tune", "No tune has just ended that wants its stop key", "ask", "Some drives run again only after stop.", "Press stop, then run.")
	add("shaft", "The brake opens, and nothing jams the shaft", "ask", "Current at its limit, and it hums.",
		"Stop at once. Brake supply, load, coupling.")
	return l
}
