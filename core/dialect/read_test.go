package dialect_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// held is what a drive holds after a sheet was entered.
func held(lines []dialect.Line) map[string]int64 {
	out := map[string]int64{}
	for _, l := range lines {
		if l.Planned && l.Problem == "" {
			out[l.Setting.Code] = l.Steps
		}
	}
	return out
}

// randomPlan is an intent that a person could have, on a motor of a random size.
func randomPlan(rng *rand.Rand) *dialect.Plan {
	p := dryer()
	pick := func(l ...string) string { return l[rng.IntN(len(l))] }
	p.Motor.Power = 1000 * (0.5 + 40*rng.Float64())
	p.Motor.Current = 1 + p.Motor.Power/1000*2
	p.DriveCurrent = p.Motor.Current * (1 + rng.Float64())
	p.Motor.Speed = 1400 + math.Round(80*rng.Float64())
	p.Load = pick("constant", "linear", "quadratic")
	p.LoadTorque = .3 + .7*rng.Float64()
	for name, top := range map[string]float64{"lowest_speed": 500, "jog": 300, "preset_1": 600, "preset_2": 1000, "preset_3": 1300,
		"reference_low": 400} {
		p.Numbers[name] = 30 + top*rng.Float64()
	}
	p.Numbers["highest_speed"] = 1000 + 380*rng.Float64()
	p.Numbers["reference_high"] = p.Numbers["highest_speed"]
	p.Numbers["rise"], p.Numbers["fall"] = 20+300*rng.Float64(), 20+300*rng.Float64()
	p.Numbers["current_limit"] = 1 + .5*rng.Float64()
	p.Choices["control"], p.Choices["slip_compensation"] = pick("volts-per-hertz", "vector"), pick("on", "off")
	p.Choices["command_source"], p.Choices["direction"] = pick("keypad", "terminals", "network"), pick("forward", "both")
	p.Choices["speed_source"] = pick("keypad", "voltage", "current", "presets", "network")
	delete(p.Choices, "reference_signal")
	if s := p.Choices["speed_source"]; s == "voltage" || s == "current" {
		p.Choices["reference_signal"] = s
	}
	return p
}

// Round trip over random intents: settings are read back into an intent within each setting's step, and entered again
// that intent gives the very same settings.
func TestRoundTripOverRandomIntents(t *testing.T) {
	rng := rand.New(rand.NewPCG(21, 22))
	for range 400 {
		p := randomPlan(rng)
		for _, name := range familyfile.Names() {
			f := familyfile.Find(name)
			sheet := f.Sheet(p)
			base := &dialect.Plan{Motor: dialect.Row{Name: "x"}, DriveCurrent: p.DriveCurrent, Load: p.Load, LoadTorque: p.LoadTorque,
				ServiceFactor: p.ServiceFactor}
			u := f.Read(held(sheet), base)
			if len(u.Not) > 0 {
				t.Fatalf("%s: %+v", name, u.Not)
			}
			for choice, want := range p.Choices {
				if got, ok := u.Plan.Choices[choice]; ok && got != want {
					t.Fatalf("%s %s: %s, want %s", name, choice, got, want)
				}
			}
			for i, l := range f.Sheet(&u.Plan) {
				if !sheet[i].Planned || l.Setting.Kind != "number" {
					continue
				}
				if l.Setting.Convention == "slope-speed" || l.Setting.Convention == "slope-time" {
					continue // a hair of the highest speed may make it another second: the slope is compared below
				}
				// A rounded highest speed or motor speed moves what is counted in it; a step is all that may come of it.
				if d := l.Steps - sheet[i].Steps; d > 1 || d < -1 {
					t.Fatalf("%s %s: %d steps, was %d; %+v", name, l.Setting.Code, l.Steps, sheet[i].Steps, p.Numbers)
				}
			}
		}
	}
}

// The slope that Voe's two settings say is the wanted one, never steeper, and within a step of its change of speed.
func TestSlopesComeBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	f := familyfile.Find("Voe")
	for range 300 {
		p := randomPlan(rng)
		u := f.Read(held(f.Sheet(p)), &dialect.Plan{DriveCurrent: p.DriveCurrent, Load: p.Load, LoadTorque: p.LoadTorque})
		for _, ramp := range []string{"rise", "fall"} {
			got, want := u.Plan.Numbers[ramp], p.Numbers[ramp]
			if got > want*(1+1e-9) || want-got > 1 {
				t.Fatalf("%s %v r/min per s came back as %v", ramp, want, got)
			}
		}
	}
}

func TestWhatIsNotUnderstoodIsListedAndKept(t *testing.T) {
	f := familyfile.Find("Tarn")
	values := held(f.Sheet(dryer()))
	values["9A"], values["4D"], values["8A"] = 8, 60000, 77
	base := &dialect.Plan{DriveCurrent: math.NaN(), LoadTorque: 1}
	u := f.Read(values, base)
	why := map[string]string{}
	for _, n := range u.Not {
		why[n.Code] = n.Why
	}
	for code, want := range map[string]string{"9A": "it carries no intent", "4D": "it is outside the setting's range",
		"8A": "it is outside the setting's range", "6M": "it needs motor values or the drive's rated current first"} {
		if why[code] != want {
			t.Errorf("%s: %q, want %q", code, why[code], want)
		}
	}
	if got := f.Read(nil, base); len(got.Not) != 0 || len(got.Plan.Numbers) != 0 {
		t.Errorf("nothing read, nothing understood: %+v", got)
	}
}

// Tarn 7A 8.3 s to 50 Hz on a 4-pole motor is 50/8.3·30 r/min per s; 6C 13.5 Hz carries 1.5 Hz of slip at full torque.
func TestReadingByHand(t *testing.T) {
	f := familyfile.Find("Tarn")
	u := f.Read(held(f.Sheet(dryer())), &dialect.Plan{DriveCurrent: 16, Load: "constant", LoadTorque: 1})
	for name, want := range map[string]float64{"rise": 50 / 8.3 * 30, "lowest_speed": 360, "jog": 150, "current_limit": 1.45 * 16 / 15.5} {
		if got := u.Plan.Numbers[name]; math.Abs(got/want-1) > 1e-4 {
			t.Errorf("%s: %v, want %v", name, got, want)
		}
	}
	// The drive was told of a 1440 r/min motor, but a 1455 r/min one stands there: 10 Hz carry its 1.5 Hz of slip.
	values := held(f.Sheet(dryer()))
	values["4E"], values["8F"] = 1440, 100
	if got := f.Read(values, dryer()).Plan.Numbers["preset_1"]; math.Abs(got-255) > .01 {
		t.Errorf("10 Hz on the motor that is there: %v r/min, want 255", got)
	}
	if u.Plan.Poles != 4 || u.Plan.Motor.Power != 7500 || u.Plan.Choices["speed_source"] != "voltage" {
		t.Errorf("%+v", u.Plan)
	}
}
