package prove

import (
	"fmt"
	"strings"

	"tingate/bench"
	"tingate/core/dialect"
)

// Giver is who gives one thing to the drive, in auto and in hand.
type Giver struct {
	What string `json:"what"`
	Auto string `json:"auto"`
	Hand string `json:"hand"`
	// AutoBy and HandBy are where it comes from; empty: from nowhere.
	AutoBy []Place `json:"auto_by"`
	HandBy []Place `json:"hand_by"`
}

// Place is where a command comes from.
type Place string

// The places that commands come from.
const (
	byKeypad     Place = "keypad"
	byTerminals  Place = "terminals"
	byAnalog     Place = "analog"
	byPresets    Place = "presets"
	byNetwork    Place = "network"
	byController Place = "controller"
)

// gives is the command matrix of a drive by its settings.
func (p *prover) gives() []Giver {
	c := &p.D.C
	at := map[string]string{}
	for n, t := range bench.DigitalIns(p.B.Setup.Family) {
		at[c.Inputs[n]] = "terminal " + t.Name
	}
	by := func(f, word, otherwise string) string {
		if at[f] == "" {
			return otherwise
		}
		return at[f] + word
	}
	key := c.Command == "keypad"
	run, stop, turn := "the network", "the network", "the network's sign"
	switch {
	case key:
		run, stop, turn = "the keypad's run key", "the keypad's stop key", "the keypad"
	case c.Command == "terminals" && c.ThreeWire:
		run, stop, turn = by("start", ", pressed", by("run-forward", ", pressed", "nothing: no input has it")),
			by("stop", ", opened", "nothing: no input has it"), by("run-reverse", "", "forward only: no input has it")
	case c.Command == "terminals":
		run, stop, turn = by("run-forward", ", closed", "nothing: no input has it"),
			by("run-forward", ", opened", "nothing: no input has it"), by("run-reverse", "", "forward only: no input has it")
	}
	back := "the keypad"
	if !c.BothWays {
		turn, back = "forward only", "forward only"
	}
	also := []string{}
	for _, f := range dialect.HoldsOff {
		if at[f] != "" {
			also = append(also, at[f]+", "+inputWords[f])
		}
	}
	also = append(also, "torque off")
	speed := map[string]string{"keypad": "the keypad", "network": "the network",
		"presets": "presets: " + strings.Join(presetBits(at), ", ")}[c.Speed]
	if c.Speed == "motor-potentiometer" {
		begins := map[string]string{"power": "kept until power goes", "always": "kept for good"}[c.PotKeeps]
		if begins == "" {
			begins = "from the lowest at each start"
		}
		speed = fmt.Sprintf("faster: %s; slower: %s; %.2g Hz/s, %s", by("faster", "", "no input has it"),
			by("slower", "", "no input has it"), c.PotSlope, begins)
	}
	if c.Speed == "analog" {
		unit := "0 to 10 V"
		if c.Live {
			unit = "4 to 20 mA"
		}
		speed = fmt.Sprintf("%s: %.1f to %.1f Hz", unit, c.Low, c.High)
	}
	if l := c.Loop; l.On {
		speed = fmt.Sprintf("its own controller, to %.4g %% of the measured value", l.Setpoint*100)
		if l.Sleep > 0 {
			speed += fmt.Sprintf(", asleep below %.1f Hz", l.Sleep)
		}
	}
	speed += fmt.Sprintf("; within %.1f and %.1f Hz", c.Lower, c.Upper)
	hand := "the keypad"
	if c.Hand > 0 {
		hand = fmt.Sprintf("the keypad, beginning with %.1f Hz", c.Hand)
	}
	where := func(list ...Place) []Place { return append([]Place{}, list...) }
	wired := func(f string, otherwise ...Place) []Place { // by terminals, where an input has the function
		if at[f] != "" {
			return where(byTerminals)
		}
		return where(otherwise...)
	}
	command, turns := where(map[string]Place{"keypad": byKeypad, "terminals": byTerminals, "network": byNetwork}[c.Command]), where()
	handTurns := where()
	if c.BothWays {
		turns, handTurns = command, where(byKeypad)
		if c.Command == "terminals" {
			turns = wired("run-reverse")
		}
	}
	if c.Command == "terminals" && strings.HasPrefix(run, "nothing") {
		command = where()
	}
	speeds := where(map[string]Place{"keypad": byKeypad, "network": byNetwork, "presets": byPresets, "analog": byAnalog,
		"motor-potentiometer": byTerminals}[c.Speed])
	if c.Loop.On {
		speeds = where(byController)
	}
	resets := where(byKeypad)
	if at["reset"] != "" {
		resets = where(byKeypad, byTerminals)
	}
	return []Giver{
		{"Run", run, "the keypad's run key", command, where(byKeypad)},
		{"Stop", stop, "the keypad's stop key", command, where(byKeypad)},
		{"Stops it too", strings.Join(also, "; "), strings.Join(also, "; "), where(byTerminals), where(byTerminals)},
		{"Direction", turn, back, turns, handTurns},
		{"Speed", speed, hand, speeds, where(byKeypad)},
		{"Jog", by("jog", fmt.Sprintf(", %.1f Hz", c.Jog), "nobody"), "nobody", wired("jog"), where()},
		{"Fault reset", by("reset", ", or the keypad", "the keypad"), "the keypad", resets, where(byKeypad)},
		{"Hand or auto", by("hand", "", "the keypad"), by("hand", "", "the keypad"), wired("hand", byKeypad), wired("hand", byKeypad)},
	}
}

func presetBits(at map[string]string) []string {
	var l []string
	for _, f := range []string{"preset-0", "preset-1", "preset-2"} {
		if at[f] != "" {
			l = append(l, at[f])
		}
	}
	if l == nil {
		return []string{"no input has them"}
	}
	return l
}
