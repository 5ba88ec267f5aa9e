package gate_test

import (
	"strings"
	"testing"

	"tingate/core/drivefile/sample"
	"tingate/core/gate"
	"tingate/formats/familyfile"
)

// Wishes beyond the closed list become lines with reasons; what the family cannot do, and what contradicts itself, is said.
func TestWishesBecomeLines(t *testing.T) {
	j := job(sample.Dryer(), nil)
	in := &j.Drive.Intent
	in.Skip1From, in.Skip1To, in.Rounding, in.DCBrake, in.Resistor = sample.Q("intent.skip_1_from", "600"),
		sample.Q("intent.skip_1_to", "660"), sample.Q("intent.rounding", "20"), "on", sample.Q("intent.resistor", "60 Ω")
	s := gate.Evaluate(j, now)
	for code, want := range map[string]string{"6D": "not from 600 to 660 r/min", "7F": "rounding of the ramps 20 %", "5A": "DC brake on",
		"5F": "braking resistor 60 Ω"} {
		found := false
		for _, l := range s.Lines {
			if l.Code == code {
				found = l.Planned && strings.Contains(l.Because, want) && l.SetTo != ""
			}
		}
		if !found {
			t.Errorf("%s does not say %q", code, want)
		}
	}
	has := func(code string) bool {
		for _, f := range gate.Evaluate(j, now).Findings {
			if strings.HasPrefix(f.Code, code) {
				return true
			}
		}
		return false
	}
	for _, x := range []struct {
		name string
		do   func()
		code string
	}{
		{"one end", func() { in.Skip2From = sample.Q("intent.skip_2_from", "900") }, "skip-one-end"},
		{"turned", func() { in.Skip2To = sample.Q("intent.skip_2_to", "800") }, "skip-turned"},
		{"lowest in it", func() { in.LowestSpeed = sample.Q("intent.lowest_speed", "630") }, "lowest-in-skip"},
		{"power-up", func() { in.PowerUp = "on" }, "starts-with-power"},
		{"fan", func() { in.Load, in.StopMode = "quadratic", "coast" }, "no-flying-start"},
		{"hanging", func() { j.Drive.Turn.Hanging = true }, "dc-brake-holds-nothing"},
		{"voe", func() {
			in.Preset5, j.Drive.Rating.Dialect, j.Family = sample.Q("intent.preset_5", "600"), "Voe", familyfile.Find("Voe")
		}, "family-has-none"},
	} {
		x.do()
		if !has(x.code) {
			t.Errorf("%s: no finding %s", x.name, x.code)
		}
	}
}

// A hanging load wants a brake, a ramped stop, and the brake's times in their order; a resistor wants what the drive bears.
func TestBrakeAndResistorAtSpan(t *testing.T) {
	j := job(sample.Dryer(), nil)
	in, turn := &j.Drive.Intent, &j.Drive.Turn
	find := func(code string) string {
		for _, f := range gate.Evaluate(j, now).Findings {
			if f.Code == code {
				return f.Detail
			}
		}
		return ""
	}
	turn.Hanging, turn.Brake = true, "none"
	if find("hanging-without-brake") == "" || find("brake-timing") != "" {
		t.Error("no brake")
	}
	turn.Brake, turn.Opens, turn.Closes = "drive", sample.Q("turn.brake_opens", "0.3"), sample.Q("turn.brake_closes", "0.2 s")
	if d := find("brake-timing"); !strings.Contains(d, "opened, 0.3 s") || !strings.Contains(d, "closed, 0.2 s") ||
		find("hanging-coasts") != "" {
		t.Error(d)
	}
	if f := gate.FiguresOf(j, gate.Evaluate(j, now)); f.Brake.Opens != .3 || f.Brake.Closes != .2 {
		t.Errorf("%+v", f.Brake)
	}
	if in.StopMode = "coast"; find("hanging-coasts") == "" {
		t.Error("it coasts")
	}
	in.Resistor = sample.Q("intent.resistor", "40")
	if find("resistor-least-unknown") == "" {
		t.Error("the drive's least is not asked for")
	}
	if in.ResistorLeast = sample.Q("intent.resistor_least", "55"); find("resistor-too-low") == "" {
		t.Error("40 of at least 55 Ω")
	}
	if in.Resistor = sample.Q("intent.resistor", "60"); find("resistor-too-low")+find("resistor-least-unknown") != "" {
		t.Error("60 of at least 55 Ω")
	}
}
