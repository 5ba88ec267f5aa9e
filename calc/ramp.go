package calc

import (
	"fmt"
	"math"

	"tingate/core/motion"
)

// RampConvertIn is the input of ramp-convert.
type RampConvertIn struct {
	Given              string   `json:"given" enum:"to-highest-frequency,to-base-frequency,to-plate-speed,slope-hz-per-s,slope-pct-per-s,per-100-hz"`
	Value              *float64 `json:"value" doc:"Seconds, Hz/s or %/s"`
	HighestFrequencyHz *float64 `json:"highest_frequency_hz"`
	BaseFrequencyHz    *float64 `json:"base_frequency_hz"`
	PlateSpeedRPM      *float64 `json:"plate_speed_rpm"`
	Poles              *int     `json:"poles"`
	FromHz             *float64 `json:"from_hz" doc:"default 0"`
	ToHz               *float64 `json:"to_hz" doc:"default the highest frequency"`
}

// RampConvertOut is the output of ramp-convert.
type RampConvertOut struct {
	SlopeHzPerS         *float64 `json:"slope_hz_per_s"`
	SlopePctPerS        *float64 `json:"slope_pct_per_s"`
	SlopeRPMPerS        *float64 `json:"slope_rpm_per_s"`
	ToHighestFrequencyS *float64 `json:"to_highest_frequency_s"`
	ToBaseFrequencyS    *float64 `json:"to_base_frequency_s"`
	ToPlateSpeedS       *float64 `json:"to_plate_speed_s"`
	Per100HzS           *float64 `json:"per_100_hz_s"`
	ActualS             *float64 `json:"actual_s" doc:"Between from_hz and to_hz"`
}

func init() {
	register("ramp-convert", "One ramp in every counting: to highest frequency, base frequency, plate speed, or as a slope", rampConvert)
}

func rampConvert(in *RampConvertIn) (*RampConvertOut, error) {
	if in.Given == "" {
		return nil, &Error{"given", "nothing",
			"one of to-highest-frequency, to-base-frequency, to-plate-speed, slope-hz-per-s, slope-pct-per-s, per-100-hz"}
	}
	if err := first(positive("value", in.Value)); err != nil {
		return nil, err
	}
	for field, p := range map[string]*float64{"highest_frequency_hz": in.HighestFrequencyHz, "base_frequency_hz": in.BaseFrequencyHz,
		"plate_speed_rpm": in.PlateSpeedRPM} {
		if p != nil && !(*p > 0) {
			return nil, &Error{field, fmt.Sprint(*p), "a number above 0"}
		}
	}
	b := motion.RampBase{Highest: value(in.HighestFrequencyHz), Base: value(in.BaseFrequencyHz), PlateSpeed: value(in.PlateSpeedRPM)}
	rpm := math.NaN()
	if in.Poles != nil {
		if *in.Poles <= 0 || *in.Poles%2 != 0 {
			return nil, &Error{"poles", fmt.Sprint(*in.Poles), "an even number of poles"}
		}
		b.Poles = *in.Poles
		rpm = 120 / float64(b.Poles)
	} else {
		b.PlateSpeed = math.NaN()
	}
	slope := b.Slope(motion.Counting(in.Given), *in.Value)
	if math.IsNaN(slope) {
		need := map[string]string{"to-highest-frequency": "highest_frequency_hz", "slope-pct-per-s": "highest_frequency_hz",
			"to-base-frequency": "base_frequency_hz", "to-plate-speed": "plate_speed_rpm"}[in.Given]
		if need == "plate_speed_rpm" && in.PlateSpeedRPM != nil {
			need = "poles"
		}
		return nil, &Error{need, "nothing", "a number, since the ramp is given " + in.Given}
	}
	to := orElse(in.ToHz, b.Highest)
	return &RampConvertOut{number(slope), number(b.Count(motion.SlopePercent, slope)), number(slope * rpm),
		number(b.Count(motion.ToHighestFrequency, slope)),
		number(b.Count(motion.ToBaseFrequency, slope)), number(b.Count(motion.ToPlateSpeed, slope)),
		number(b.Count(motion.Per100Hz, slope)),
		number(math.Abs(to-orElse(in.FromHz, 0)) / slope)}, nil
}
