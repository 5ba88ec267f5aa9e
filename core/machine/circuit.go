// Package machine holds the induction machine and the permanent-magnet machine: the equivalent circuit in steady state,
// its estimation from a plate, and the dynamic model in which runs are made.
package machine

import (
	"math"
	"math/cmplx"
)

// Circuit is the exact equivalent circuit of one phase, star equivalent, rotor referred to the stator. Ohms, the reactances
// at Frequency; Rc 0: no iron loss; Friction is the loss of turning, W, taken from the shaft at any speed above standstill.
type Circuit struct {
	Rs, Rr, Xls, Xlr, Xm, Rc float64
	Frequency                float64 // Hz
	Poles                    int
	Friction                 float64 // W
}

// Point is the circuit at one slip. Line volts, line amperes, rms.
type Point struct {
	Slip, Speed                  float64 // 1, r/min
	Current, RotorCurrent        float64
	PowerFactor                  float64 // of the line current; below 0 when it generates
	Input, Airgap                float64 // W
	AirgapTorque                 float64 // N·m
	StatorLoss, RotorLoss        float64
	IronLoss                     float64
	ShaftPower, ShaftTorque      float64
	Efficiency                   float64 // NaN unless it motors
	MagnetisingVolts, Magnetises float64 // V per phase over the magnetising branch; A through the reactance
}

// Synchronous is the synchronous speed at a frequency, rad/s mechanical.
func (c Circuit) Synchronous(f float64) float64 { return 4 * math.Pi * f / float64(c.Poles) }

// at gives the impedances at a frequency: stator, magnetising branch, and the rotor's admittance at a slip.
func (c Circuit) at(f, slip float64) (zs, zm, yr complex128) {
	k := f / c.Frequency
	zs = complex(c.Rs, k*c.Xls)
	zm = complex(0, k*c.Xm)
	if c.Rc > 0 {
		zm = zm * complex(c.Rc, 0) / (zm + complex(c.Rc, 0))
	}
	// slip / (rr + j slip x): finite at slip 0.
	yr = complex(slip, 0) / complex(c.Rr, slip*k*c.Xlr)
	return zs, zm, yr
}

// At solves the circuit at a line voltage (V), a frequency (Hz) and a slip. Chapman, Electric Machinery Fundamentals, ch. 6.
func (c Circuit) At(v, f, slip float64) Point {
	zs, zm, yr := c.at(f, slip)
	zf := 1 / (1/zm + yr)
	phase := complex(v/math.Sqrt(3), 0)
	i := phase / (zs + zf)
	e := i * zf
	ir := e * yr
	p := Point{Slip: slip, Current: cmplx.Abs(i), RotorCurrent: cmplx.Abs(ir), MagnetisingVolts: cmplx.Abs(e)}
	ws := c.Synchronous(f)
	p.Speed = (1 - slip) * ws * 30 / math.Pi
	s := 3 * phase * cmplx.Conj(i)
	p.Input = real(s)
	if a := cmplx.Abs(s); a > 0 {
		p.PowerFactor = real(s) / a
	}
	p.Airgap = 3 * real(e*cmplx.Conj(ir))
	p.AirgapTorque = p.Airgap / ws
	p.StatorLoss = 3 * c.Rs * p.Current * p.Current
	p.RotorLoss = 3 * c.Rr * p.RotorCurrent * p.RotorCurrent
	if c.Rc > 0 {
		p.IronLoss = 3 * p.MagnetisingVolts * p.MagnetisingVolts / c.Rc
	}
	p.Magnetises = p.MagnetisingVolts / (f / c.Frequency * c.Xm)
	p.ShaftPower = p.Airgap*(1-slip) - c.Friction
	if slip >= 1 {
		p.ShaftPower = p.Airgap * (1 - slip)
	}
	if w := (1 - slip) * ws; w != 0 {
		p.ShaftTorque = p.ShaftPower / w
	} else {
		p.ShaftTorque = p.AirgapTorque
	}
	p.Efficiency = math.NaN()
	if p.ShaftPower > 0 && p.Input > 0 {
		p.Efficiency = p.ShaftPower / p.Input
	}
	return p
}

// Breakdown is the slip and the air-gap torque (N·m) at the top of the motoring torque curve, by the source as seen from
// the rotor (Thevenin).
func (c Circuit) Breakdown(v, f float64) (slip, torque float64) {
	zs, zm, _ := c.at(f, 0)
	vt := complex(v/math.Sqrt(3), 0) * zm / (zs + zm)
	zt := zs * zm / (zs + zm)
	x := imag(zt) + f/c.Frequency*c.Xlr
	z := math.Hypot(real(zt), x)
	a := cmplx.Abs(vt)
	return c.Rr / z, 1.5 * a * a / (c.Synchronous(f) * (real(zt) + z))
}

// DirectCurrentTorque is the torque, N·m, against a rotor that turns at w (rad/s, mechanical) through a field that stands, made by direct
// current with the magnetising effect of amps of line current: 3/ωs · I² Xm² (Rr/s) / ((Rr/s)² + (Xm+Xlr)²), s = w/ωs. Saturation is left
// out.
func (c Circuit) DirectCurrentTorque(amps, w float64) float64 {
	sync := c.Synchronous(c.Frequency)
	s := math.Abs(w) / sync
	if s == 0 {
		return 0
	}
	r, x := c.Rr/s, c.Xm+c.Xlr
	return 3 / sync * amps * amps * c.Xm * c.Xm * r / (r*r + x*x)
}

// TorqueWithin is the most torque, N·m, at a line voltage (V) and frequency (Hz) with a line current of at most amps.
func (c Circuit) TorqueWithin(v, f, amps float64) float64 {
	best := 0.0
	for slip := .001; slip <= 1; slip *= 1.02 {
		if p := c.At(v, f, slip); p.Current <= amps && p.AirgapTorque > best {
			best = p.AirgapTorque
		}
	}
	return best
}

// SlipFor is the motoring slip at which the air gap gives a torque (N·m), below breakdown; ok is false beyond it. Negative
// torques give the generating slip.
func (c Circuit) SlipFor(v, f, torque float64) (slip float64, ok bool) {
	top, most := c.Breakdown(v, f)
	low, high := 0.0, top
	if torque < 0 {
		low, high = -top, 0
		if c.At(v, f, low).AirgapTorque > torque {
			return -top, false
		}
	} else if torque > most {
		return top, false
	}
	for range 60 {
		if s := (low + high) / 2; c.At(v, f, s).AirgapTorque < torque {
			low = s
		} else {
			high = s
		}
	}
	return (low + high) / 2, true
}

// Valid names the first value that no machine has; empty when all are sound.
func (c Circuit) Valid() (field string, got float64, want string) {
	for _, x := range []struct {
		field string
		v     float64
	}{{"rs_ohm", c.Rs}, {"rr_ohm", c.Rr}, {"xls_ohm", c.Xls}, {"xlr_ohm", c.Xlr}, {"xm_ohm", c.Xm}, {"rated_frequency_hz", c.Frequency}} {
		if !(x.v > 0) || math.IsInf(x.v, 0) {
			return x.field, x.v, "above 0"
		}
	}
	if c.Rc < 0 {
		return "rc_ohm", c.Rc, "above 0, or none"
	}
	if c.Friction < 0 {
		return "rotational_loss_w", c.Friction, "0 or above"
	}
	if c.Poles < 2 || c.Poles%2 != 0 || c.Poles > 120 {
		return "poles", float64(c.Poles), "an even number of 2 to 120"
	}
	return "", 0, ""
}
