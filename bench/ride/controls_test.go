package ride_test

import (
	"math"
	"testing"

	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/drive"
	"tingate/core/motion"
	"tingate/testtools/benches"
	"tingate/testtools/check"
)

// by puts a family's setup on a way of control.
func by(t *testing.T, family, control string) bench.Setup {
	s := benches.Setup(t, family)
	for i := range s.Family.Settings {
		x := &s.Family.Settings[i]
		for _, c := range x.Choices {
			if x.Intent == "choice.control" && (c.Means == control || c.Means == "vector" && control == "encoder") {
				s.Values[x.Code] = c.Value
			}
		}
		if x.Drives == "encoder-lines" && control == "encoder" {
			s.Values[x.Code] = 1024
		}
	}
	return s
}

// What each way of control holds with the rated torque, in every family: all from a tenth of the speed, an encoder down to standstill.
func TestWhichControlHoldsWhat(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		for control, holds := range map[string][]bool{"volts-per-hertz": {false, false, true, true}, "vector": {false, false, true, true},
			"encoder": {true, true, true, true}} {
			const rated = 7500 * 30 / (math.Pi * 1455)
			c, err := ride.ControlledBy(by(t, family, control), rated, 5)
			if err != nil || len(c.Held) != 4 {
				t.Fatalf("%s, %s: %v", family, control, err)
			}
			for i, h := range c.Held {
				if h.Holds != holds[i] || h.Holds != (h.Says == "") || h.Wants != rated {
					t.Errorf("%s, %s: %+v", family, control, h)
				}
			}
			check.Against(
				t,
				"current of the rated torque at half of the speed, "+control+", A",
				"the plate: IEC 60034-1, rated torque takes rated current",
				c.Held[3].Current,
				15.1,
				.1,
			)
			if tuned := c.Tune > 0; tuned != (control != "volts-per-hertz") || !c.Enough || !c.Lowest.Holds || c.Lowest.Wants > 1 {
				t.Errorf("%s, %s: tune %v s, enough %v, %+v", family, control, c.Tune, c.Enough, c.Lowest)
			}
		}
	}
}

// A lowest speed with the whole torque that a way of control does not hold is not enough, and is said; nor is a plan that trips.
func TestWhatIsNotEnough(t *testing.T) {
	s := by(t, "Tarn", "volts-per-hertz")
	s.Load = motion.Load{Kind: "constant", Torque: 48}
	c, err := ride.ControlledBy(s, 48, 1)
	if err != nil || c.Enough || c.Lowest.Holds || c.Lowest.Says != "the shaft stands" {
		t.Errorf("%v, %v, %+v", err, c.Enough, c.Lowest)
	}
	// Where no lowest speed is stated, none is judged.
	if c, err = ride.ControlledBy(s, 48, 0); err != nil || !c.Enough || c.Lowest.Says != "" {
		t.Errorf("%v, %v, %+v", err, c.Enough, c.Lowest)
	}
	// A load that hangs pulls at every speed.
	for control, holds := range map[string]bool{"volts-per-hertz": false, "encoder": true} {
		hoist := by(t, "Tarn", control)
		hoist.Load = motion.Load{Kind: "hanging", Torque: 30}
		hoist.Brake = drive.Brake{Torque: 100, Follows: true, Opens: .1, Closes: .1}
		if c, err = ride.ControlledBy(hoist, 30, 5); err != nil || c.Held[0].Holds != holds || c.Lowest.Wants != 30 {
			t.Errorf("%s: %v, %+v, %+v", control, err, c.Held[0], c.Lowest)
		}
	}
	c, err = ride.ControlledBy(by(t, "Tarn", "encoder"), 48, 1)
	if err != nil || !c.Enough {
		t.Errorf("%v, %v, %+v", err, c.Enough, c.Lowest)
	}
	s = by(t, "Tarn", "volts-per-hertz")
	s.Load = motion.Load{Kind: "constant", Torque: 150}
	if c, err = ride.ControlledBy(s, 150, 5); err != nil || c.Enough || c.Ride.Trip == nil && !c.Ride.Stalled {
		t.Errorf("%v, %v, %+v", err, c.Enough, c.Ride.Trip)
	}
	s = by(t, "Tarn", "encoder")
	s.Lines = 0 // set, and not there
	if c, err = ride.ControlledBy(s, 48, 5); err != nil || c.Enough {
		t.Errorf("an encoder that is not there: %v, %+v", err, c.Lowest)
	}
}
