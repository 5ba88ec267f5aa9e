package calc

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/stat"

	"tingate/core/signal"
)

// AnalogIn is the input of analog.
type AnalogIn struct {
	Method       string   `json:"method" enum:"two-point,offset-gain,gain-offset"`
	In           *float64 `json:"in"`
	InUnit       string   `json:"in_unit" enum:"v,ma,pct,raw"`
	InLow        *float64 `json:"in_low"`
	InHigh       *float64 `json:"in_high"`
	OutLow       *float64 `json:"out_low"`
	OutHigh      *float64 `json:"out_high"`
	OffsetPct    *float64 `json:"offset_pct"`
	Gain         *float64 `json:"gain"`
	Offset       *float64 `json:"offset" doc:"the same as offset_pct"`
	Invert       bool     `json:"invert"`
	Clamp        *bool    `json:"clamp" doc:"default true"`
	RawLow       *float64 `json:"raw_low"`
	RawHigh      *float64 `json:"raw_high"`
	DeadBand     *float64 `json:"dead_band" doc:"in the input's unit"`
	DeadBandKind string   `json:"dead_band_kind" enum:"jump,shifted"`
	Full         *float64 `json:"full" doc:"input at which a shifted dead band still gives full output"`
	LiveZero     bool     `json:"live_zero" doc:"4 to 20 mA"`
	Bits         *int     `json:"bits"`
}

// AnalogOut is the output of analog.
type AnalogOut struct {
	Out     *float64 `json:"out"`
	InState *string  `json:"in_state"`
	StepOut *float64 `json:"step_out"`
}

func init() {
	register("analog", "What a reference input makes of a signal, by two points or by offset and gain", analog)
	register("analog-fit", "The straight line through measured points, and how far they lie off it", analogFit)
}

// span is the usual span of an input by its unit.
func span(in *AnalogIn) (low, high float64) {
	switch in.InUnit {
	case "v":
		low, high = 0, 10
	case "ma":
		low, high = 0, 20
		if in.LiveZero {
			low = 4
		}
	case "raw":
		return orElse(in.InLow, orElse(in.RawLow, 0)), orElse(in.InHigh, orElse(in.RawHigh, 32767))
	default:
		low, high = 0, 100
	}
	return orElse(in.InLow, low), orElse(in.InHigh, high)
}

func analog(in *AnalogIn) (*AnalogOut, error) {
	if in.Method == "" {
		return nil, &Error{"method", "nothing", "one of two-point, offset-gain, gain-offset"}
	}
	if err := first(needed("in", in.In)); err != nil {
		return nil, err
	}
	low, high := span(in)
	if low == high {
		return nil, &Error{"in_high", fmt.Sprint(high), "other than in_low, which is the same"}
	}
	s := signal.Scale{Method: in.Method, InLow: low, InHigh: high, Invert: in.Invert, Clamp: in.Clamp == nil || *in.Clamp,
		Gain: orElse(in.Gain, 1), Offset: orElse(in.OffsetPct, orElse(in.Offset, 0)),
		PercentFromInput: in.InUnit != "" && in.InUnit != "pct",
		DeadBand:         orElse(in.DeadBand, 0), Shifted: in.DeadBandKind == "shifted"}
	if s.DeadBand < 0 {
		return nil, &Error{"dead_band", fmt.Sprint(s.DeadBand), "0 or more"}
	}
	if in.LiveZero {
		s.Zero = low
	}
	s.Full = orElse(in.Full, high)
	if s.Shifted && s.Full-s.Zero <= s.DeadBand {
		return nil, &Error{"full", fmt.Sprint(s.Full), "above the dead band"}
	}
	width := 100 * math.Abs(s.Gain)
	if in.Method == "two-point" {
		for field, p := range map[string]*float64{"out_low": in.OutLow, "out_high": in.OutHigh} {
			if p == nil {
				return nil, &Error{field, "nothing", "a number"}
			}
		}
		s.OutLow, s.OutHigh = *in.OutLow, *in.OutHigh
		width = math.Abs(s.OutHigh - s.OutLow)
	}
	out := &AnalogOut{Out: number(s.Out(*in.In))}
	if in.InUnit == "ma" && in.LiveZero {
		st := signal.LiveZeroState(*in.In)
		out.InState = &st
	}
	if in.Bits != nil {
		if *in.Bits < 1 || *in.Bits > 32 {
			return nil, &Error{"bits", fmt.Sprint(*in.Bits), "1 to 32"}
		}
		out.StepOut = number(width / (math.Pow(2, float64(*in.Bits)) - 1))
	}
	return out, nil
}

// Point is a measured pair.
type Point struct {
	In  *float64 `json:"in"`
	Out *float64 `json:"out"`
}

// AnalogFitIn is the input of analog-fit.
type AnalogFitIn struct {
	Points []Point `json:"points"`
}

// AnalogFitOut is the output of analog-fit: out = gain × in + offset.
type AnalogFitOut struct {
	Gain       *float64 `json:"gain"`
	Offset     *float64 `json:"offset"`
	WorstError *float64 `json:"worst_error" doc:"largest distance of a point from the line, in the output's unit"`
	RMSError   *float64 `json:"rms_error" doc:"root of the mean square, divisor n"`
}

func analogFit(in *AnalogFitIn) (*AnalogFitOut, error) {
	if len(in.Points) < 2 {
		return nil, &Error{"points", fmt.Sprint(len(in.Points), " points"), "two points or more"}
	}
	var x, y []float64
	same := true
	for i, p := range in.Points {
		if p.In == nil || p.Out == nil {
			return nil, &Error{fmt.Sprintf("points[%d]", i), "a point without in or out", "both numbers"}
		}
		x, y = append(x, *p.In), append(y, *p.Out)
		same = same && x[i] == x[0]
	}
	if same {
		return nil, &Error{"points", "one input only", "points at two different inputs"}
	}
	offset, gain := stat.LinearRegression(x, y, nil, false)
	worst, sum := 0.0, 0.0
	for i := range x {
		e := y[i] - gain*x[i] - offset
		worst = math.Max(worst, math.Abs(e))
		sum += e * e
	}
	return &AnalogFitOut{number(gain), number(offset), number(worst), number(math.Sqrt(sum / float64(len(x))))}, nil
}
