package calc

import (
	"context"
	"fmt"
	"math"

	"tingate/core/drive"
	"tingate/core/finding"
	"tingate/core/machine"
	"tingate/core/motion"
	"tingate/core/plate"
)

// MachineParameters are the values of an equivalent circuit. Reactances per phase, star equivalent, at rated_frequency_hz.
type MachineParameters struct {
	VoltageV         *float64 `json:"voltage_v"`
	FrequencyHz      *float64 `json:"frequency_hz"`
	RatedFrequencyHz *float64 `json:"rated_frequency_hz"`
	Poles            *float64 `json:"poles"`
	RsOhm            *float64 `json:"rs_ohm"`
	RrOhm            *float64 `json:"rr_ohm"`
	XlsOhm           *float64 `json:"xls_ohm"`
	XlrOhm           *float64 `json:"xlr_ohm"`
	XmOhm            *float64 `json:"xm_ohm"`
	RcOhm            *float64 `json:"rc_ohm" doc:"iron loss; missing: none"`
	RotationalLossW  *float64 `json:"rotational_loss_w"`
}

// MachineIn is the input of machine.
type MachineIn struct {
	MachineParameters
	Slip     *float64 `json:"slip"`
	SpeedRPM *float64 `json:"speed_rpm" doc:"instead of slip"`
}

// MachineOut is the output of machine.
type MachineOut struct {
	Slip              *float64 `json:"slip"`
	SpeedRPM          *float64 `json:"speed_rpm"`
	CurrentA          *float64 `json:"current_a"`
	RotorCurrentA     *float64 `json:"rotor_current_a"`
	PowerFactor       *float64 `json:"power_factor"`
	InputPowerW       *float64 `json:"input_power_w"`
	AirgapPowerW      *float64 `json:"airgap_power_w"`
	AirgapTorqueNM    *float64 `json:"airgap_torque_nm"`
	StatorLossW       *float64 `json:"stator_loss_w"`
	RotorLossW        *float64 `json:"rotor_loss_w"`
	IronLossW         *float64 `json:"iron_loss_w"`
	ShaftPowerW       *float64 `json:"shaft_power_w"`
	ShaftTorqueNM     *float64 `json:"shaft_torque_nm"`
	EfficiencyPct     *float64 `json:"efficiency_pct" doc:"null unless it motors"`
	BreakdownSlip     *float64 `json:"breakdown_slip"`
	BreakdownTorqueNM *float64 `json:"breakdown_torque_nm" doc:"of the air gap"`
	StartCurrentA     *float64 `json:"start_current_a"`
	StartTorqueNM     *float64 `json:"start_torque_nm" doc:"of the air gap, slip 1"`
	NoLoadCurrentA    *float64 `json:"no_load_current_a" doc:"slip 0"`
}

// EstimateIn is the input of estimate: a plate.
type EstimateIn struct {
	PowerKW              *float64 `json:"power_kw"`
	PowerHP              *float64 `json:"power_hp"`
	VoltageV             *float64 `json:"voltage_v"`
	CurrentA             *float64 `json:"current_a"`
	FrequencyHz          *float64 `json:"frequency_hz"`
	SpeedRPM             *float64 `json:"speed_rpm"`
	PowerFactor          *float64 `json:"power_factor"`
	EfficiencyPct        *float64 `json:"efficiency_pct"`
	Poles                *float64 `json:"poles"`
	StartCurrentRatio    *float64 `json:"start_current_ratio"`
	StartTorqueRatio     *float64 `json:"start_torque_ratio" doc:"of the air gap at slip 1, over rated: gives bar_xi"`
	BreakdownTorqueRatio *float64 `json:"breakdown_torque_ratio"`
}

// EstimateFit is the plate's row as the estimated machine gives it at the plate's speed.
type EstimateFit struct {
	CurrentA       *float64 `json:"current_a"`
	CurrentErrPct  *float64 `json:"current_error_pct"`
	PowerFactor    *float64 `json:"power_factor"`
	PowerFactorErr *float64 `json:"power_factor_error_pct"`
	TorqueNM       *float64 `json:"torque_nm"`
	TorqueErrPct   *float64 `json:"torque_error_pct"`
}

// EstimateOut is the output of estimate.
type EstimateOut struct {
	RsOhm          *float64          `json:"rs_ohm"`
	RsOhmLow       *float64          `json:"rs_ohm_low"`
	RsOhmHigh      *float64          `json:"rs_ohm_high"`
	RrOhm          *float64          `json:"rr_ohm"`
	RrOhmLow       *float64          `json:"rr_ohm_low"`
	RrOhmHigh      *float64          `json:"rr_ohm_high"`
	XlsOhm         *float64          `json:"xls_ohm"`
	XlsOhmLow      *float64          `json:"xls_ohm_low"`
	XlsOhmHigh     *float64          `json:"xls_ohm_high"`
	XlrOhm         *float64          `json:"xlr_ohm"`
	XlrOhmLow      *float64          `json:"xlr_ohm_low"`
	XlrOhmHigh     *float64          `json:"xlr_ohm_high"`
	XmOhm          *float64          `json:"xm_ohm"`
	XmOhmLow       *float64          `json:"xm_ohm_low"`
	XmOhmHigh      *float64          `json:"xm_ohm_high"`
	RcOhm          *float64          `json:"rc_ohm"`
	NoLoadCurrentA *float64          `json:"no_load_current_a"`
	BarXi          *float64          `json:"bar_xi,omitempty" doc:"height of the rotor's bars over the depth of their current at rated frequency, for the start torque asked; 0: none is needed"`
	Fit            *EstimateFit      `json:"fit"`
	Findings       []finding.Finding `json:"findings"`
}

// Knot is a moment of a frequency profile.
type Knot struct {
	TS          *float64 `json:"t_s"`
	FrequencyHz *float64 `json:"frequency_hz"`
}

// TransientIn is the input of transient.
type TransientIn struct {
	MachineParameters
	InertiaKGM2  *float64 `json:"inertia_kgm2"`
	Load         string   `json:"load" enum:"none,constant,linear,quadratic,constant-power"`
	LoadTorqueNM *float64 `json:"load_torque_nm"`
	LoadSpeedRPM *float64 `json:"load_speed_rpm"`
	Supply       string   `json:"supply" enum:"direct,vf"`
	Profile      []Knot   `json:"profile"`
	BoostV       *float64 `json:"boost_v"`
	DurationS    *float64 `json:"duration_s"`
	SampleS      *float64 `json:"sample_s"`
}

// TransientSample is one moment of a run.
type TransientSample struct {
	TS       *float64 `json:"t_s"`
	SpeedRPM *float64 `json:"speed_rpm"`
	TorqueNM *float64 `json:"torque_nm"`
	CurrentA *float64 `json:"current_a" doc:"rms of the vector"`
}

// TransientOut is the output of transient.
type TransientOut struct {
	Samples       []TransientSample `json:"samples"`
	PeakCurrentA  *float64          `json:"peak_current_a" doc:"amplitude of the vector"`
	PeakTorqueNM  *float64          `json:"peak_torque_nm"`
	TimeTo95PctS  *float64          `json:"time_to_95pct_s"`
	FinalSpeedRPM *float64          `json:"final_speed_rpm"`
	FinalCurrentA *float64          `json:"final_current_a"`
}

// ReferenceIn is the input of reference-run: ohms, henries, kg·m², N·m, hertz, volts, farads, J/K, W/K.
type ReferenceIn struct {
	PolePairs *float64 `json:"pole_pairs"`
	Rs        *float64 `json:"rs"`
	Rr        *float64 `json:"rr"`
	Ls        *float64 `json:"ls"`
	Lr        *float64 `json:"lr"`
	Lm        *float64 `json:"lm"`
	J         *float64 `json:"j"`
	Kf        *float64 `json:"kf"`
	Tc        *float64 `json:"tc"`
	FN        *float64 `json:"fn"`
	Vpk       *float64 `json:"vpk"`
	B0        *float64 `json:"b0"`
	V0        *float64 `json:"v0"`
	Req       *float64 `json:"req"`
	C         *float64 `json:"c"`
	Von       *float64 `json:"von"`
	Vband     *float64 `json:"vband"`
	Rb        *float64 `json:"rb"`
	Trip      *float64 `json:"trip"`
	Cth       *float64 `json:"cth"`
	Gth       *float64 `json:"gth"`
	Variant   string   `json:"variant" enum:"cont,tick1ms,foc125us"`
	SampleS   *float64 `json:"sample_s" doc:"a whole number of milliseconds; default 0.01"`
}

// ReferenceSample is one moment of a reference run.
type ReferenceSample struct {
	TS        *float64 `json:"t_s"`
	SpeedRadS *float64 `json:"speed_rad_s"`
	CurrentA  *float64 `json:"current_a" doc:"amplitude of the vector"`
	TorqueNM  *float64 `json:"torque_nm"`
	BusV      *float64 `json:"bus_v"`
}

// ReferenceOut is the output of reference-run.
type ReferenceOut struct {
	Samples []ReferenceSample `json:"samples"`
	Steps   int               `json:"steps"`
}

func init() {
	register("machine", "An induction machine's equivalent circuit at one slip", machineAt)
	register("estimate", "The equivalent circuit that fits a plate, with bands", estimate)
	registerLong("transient", "A machine from rest, on the line or on volts per hertz", transient)
	register("reference-run", "The run that simulations of a drive are held against", referenceRun)
}

// circuit checks the parameters and makes the circuit of them.
func (p *MachineParameters) circuit() (machine.Circuit, error) {
	if err := first(positive("voltage_v", p.VoltageV), positive("frequency_hz", p.FrequencyHz),
		positive("rated_frequency_hz", p.RatedFrequencyHz), positive("poles", p.Poles)); err != nil {
		return machine.Circuit{}, err
	}
	if p.RcOhm != nil && !(*p.RcOhm > 0) {
		return machine.Circuit{}, &Error{"rc_ohm", show(p.RcOhm), "above 0, or none"}
	}
	if *p.Poles != math.Trunc(*p.Poles) {
		return machine.Circuit{}, &Error{"poles", show(p.Poles), "an even number of 2 to 120"}
	}
	c := machine.Circuit{Rs: orElse(p.RsOhm, math.NaN()), Rr: orElse(p.RrOhm, math.NaN()), Xls: orElse(p.XlsOhm, math.NaN()),
		Xlr: orElse(p.XlrOhm, math.NaN()), Xm: orElse(p.XmOhm, math.NaN()),
		Rc: orElse(p.RcOhm, 0), Frequency: *p.RatedFrequencyHz, Poles: int(*p.Poles), Friction: orElse(p.RotationalLossW, 0)}
	if field, got, want := c.Valid(); field != "" {
		text := fmt.Sprintf("%g", got)
		if math.IsNaN(got) {
			text = "nothing"
		}
		return c, &Error{field, text, want}
	}
	return c, nil
}

func machineAt(in *MachineIn) (*MachineOut, error) {
	c, err := in.circuit()
	if err != nil {
		return nil, err
	}
	v, f := *in.VoltageV, *in.FrequencyHz
	slip := value(in.Slip)
	switch {
	case in.Slip != nil && in.SpeedRPM != nil:
		return nil, &Error{"slip", "slip and speed_rpm", "one of them"}
	case in.SpeedRPM != nil:
		slip = 1 - *in.SpeedRPM*math.Pi/30/c.Synchronous(f)
	case in.Slip == nil:
		return nil, &Error{"slip", "nothing", "slip or speed_rpm"}
	}
	p := c.At(v, f, slip)
	bs, bt := c.Breakdown(v, f)
	start := c.At(v, f, 1)
	out := &MachineOut{Slip: number(slip), SpeedRPM: number(p.Speed), CurrentA: number(p.Current), RotorCurrentA: number(p.RotorCurrent),
		PowerFactor: number(p.PowerFactor),
		InputPowerW: number(p.Input), AirgapPowerW: number(p.Airgap), AirgapTorqueNM: number(p.AirgapTorque),
		StatorLossW: number(p.StatorLoss), RotorLossW: number(p.RotorLoss), IronLossW: number(p.IronLoss),
		ShaftPowerW: number(p.ShaftPower), ShaftTorqueNM: number(p.ShaftTorque), EfficiencyPct: number(p.Efficiency * 100),
		BreakdownSlip: number(bs), BreakdownTorqueNM: number(bt),
		StartCurrentA: number(start.Current), StartTorqueNM: number(start.AirgapTorque), NoLoadCurrentA: number(c.At(v, f, 0).Current)}
	return out, nil
}

func estimate(in *EstimateIn) (*EstimateOut, error) {
	power := math.NaN()
	if in.PowerKW != nil {
		power = *in.PowerKW * 1000
	} else if in.PowerHP != nil {
		power = *in.PowerHP * 745.7
	}
	for _, x := range []struct {
		field string
		v     *float64
	}{{"power_kw", number(power)}, {"voltage_v", in.VoltageV}, {"frequency_hz", in.FrequencyHz}, {"speed_rpm", in.SpeedRPM}} {
		if !(value(x.v) > 0) {
			return nil, &Error{x.field, show(x.v), "above 0: an estimate needs power, voltage, frequency and speed"}
		}
	}
	row := plate.EmptyRow()
	row.Power, row.Voltage, row.Frequency, row.Speed = power, *in.VoltageV, *in.FrequencyHz, *in.SpeedRPM
	row.Current, row.Factor, row.Efficiency = orElse(in.CurrentA, plate.Missing), orElse(in.PowerFactor, plate.Missing),
		orElse(in.EfficiencyPct, plate.Missing)/100
	row.Poles = int(orElse(in.Poles, 0))
	p, l := machine.FromRow(row)
	out := &EstimateOut{Findings: findings(l)}
	if p.Poles == 0 {
		return out, nil
	}
	p.StartCurrent, p.Breakdown = orElse(in.StartCurrentRatio, 0), orElse(in.BreakdownTorqueRatio, 0)
	e, ok := machine.Make(p)
	if !ok {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "no-machine", Severity: finding.Stop, Title: "No machine fits these figures",
				Detail: "Slip, efficiency and cos φ leave no equivalent circuit.", Action: "Check the plate first"})
		return out, nil
	}
	n := number
	out.RsOhm, out.RsOhmLow, out.RsOhmHigh = n(e.Rs), n(e.Low.Rs), n(e.High.Rs)
	out.RrOhm, out.RrOhmLow, out.RrOhmHigh = n(e.Rr), n(e.Low.Rr), n(e.High.Rr)
	out.XlsOhm, out.XlsOhmLow, out.XlsOhmHigh = n(e.Xls), n(e.Low.Xls), n(e.High.Xls)
	out.XlrOhm, out.XlrOhmLow, out.XlrOhmHigh = n(e.Xlr), n(e.Low.Xlr), n(e.High.Xlr)
	out.XmOhm, out.XmOhmLow, out.XmOhmHigh = n(e.Xm), n(e.Low.Xm), n(e.High.Xm)
	out.RcOhm, out.NoLoadCurrentA = n(e.Rc), n(e.NoLoad)
	rated := p.Power / (p.Speed * math.Pi / 30)
	out.Fit = &EstimateFit{n(e.Fit.Current), n((e.Fit.Current/p.Current - 1) * 100), n(e.Fit.PowerFactor),
		n((e.Fit.PowerFactor/p.Factor - 1) * 100), n(e.Fit.ShaftTorque), n((e.Fit.ShaftTorque/rated - 1) * 100)}
	if r := orElse(in.StartTorqueRatio, 0); r > 0 {
		xi, ok := e.BarFor(p.Voltage, r*rated)
		if ok {
			out.BarXi = n(xi)
		} else {
			out.Findings = append(out.Findings,
				finding.Finding{Code: "start-torque", Severity: finding.Look, Field: "start_torque_ratio",
					Title: "No bars give that start torque", Detail: "More than a cage of this plate can give.", Action: "Read it again"})
		}
	}
	return out, nil
}

// mostSamples bounds what one run answers.
const mostSamples = 200_000

// mostSteps bounds what one run costs: some seconds.
const mostSteps = 20_000_000

func transient(ctx context.Context, in *TransientIn) (*TransientOut, error) {
	rated := in.RatedFrequencyHz
	if in.FrequencyHz == nil {
		in.FrequencyHz = rated
	}
	c, err := in.circuit()
	if err != nil {
		return nil, err
	}
	if err := first(positive("inertia_kgm2", in.InertiaKGM2), positive("duration_s", in.DurationS),
		positive("sample_s", in.SampleS)); err != nil {
		return nil, err
	}
	if *in.DurationS / *in.SampleS > mostSamples || *in.DurationS > 600 {
		return nil, &Error{"duration_s", show(in.DurationS), fmt.Sprintf("at most 600 s and %d samples", mostSamples)}
	}
	load := motion.Load{Kind: in.Load, Torque: value(in.LoadTorqueNM),
		Speed: orElse(in.LoadSpeedRPM, c.Synchronous(c.Frequency)*30/math.Pi) * math.Pi / 30}
	if load.Kind == "" {
		load.Kind = "none"
	}
	if load.Kind == "none" {
		load.Torque = 0
	} else if err := first(needed("load_torque_nm", in.LoadTorqueNM)); err != nil {
		return nil, err
	}
	if !(load.Torque >= 0) || !(load.Speed > 0) {
		return nil, &Error{"load_torque_nm", show(in.LoadTorqueNM), "0 or above, at a speed above 0"}
	}
	s := machine.Supply{Volts: *in.VoltageV, Hz: *in.FrequencyHz}
	if in.Supply == "vf" {
		s.Hz = *rated
		s.Boost = orElse(in.BoostV, 0)
		if len(in.Profile) == 0 {
			return nil, &Error{"profile", "nothing", "at least one knot of t_s and frequency_hz"}
		}
		for i, k := range in.Profile {
			if k.TS == nil || k.FrequencyHz == nil || i > 0 && *k.TS <= s.Profile[i-1].Time {
				return nil, &Error{fmt.Sprintf("profile[%d].t_s", i), show(k.TS), "t_s and frequency_hz, later than the knot before"}
			}
			s.Profile = append(s.Profile, machine.Profile{Time: *k.TS, Hz: *k.FrequencyHz})
		}
	}
	m := machine.FromCircuit(c)
	if n := m.Steps(s, *in.DurationS, *in.SampleS); !(n <= mostSteps) {
		return nil, &Error{"duration_s", show(in.DurationS),
			fmt.Sprintf("a run of at most %d steps, each a fortieth of the fastest turn of supply or machine; this one takes %.3g: a "+
				"shorter time, or a lower frequency", mostSteps, n)}
	}
	r := m.Run(ctx, s, load, c.Friction/math.Pow(c.Synchronous(c.Frequency), 2), *in.InertiaKGM2, *in.DurationS, *in.SampleS)
	if r.Stopped {
		return nil, stopped(ctx)
	}
	if r.Diverged {
		return nil, &Error{"inertia_kgm2", show(in.InertiaKGM2), "a machine that a simulation can follow: the run left all bounds"}
	}
	out := &TransientOut{Samples: make([]TransientSample, len(r.Samples)), PeakCurrentA: number(r.PeakCurrent),
		PeakTorqueNM: number(r.PeakTorque), TimeTo95PctS: number(r.Near), FinalSpeedRPM: number(r.Final.Speed),
		FinalCurrentA: number(r.Final.Current)}
	for i, m := range r.Samples {
		out.Samples[i] = TransientSample{number(m.Time), number(m.Speed), number(m.Torque), number(m.Current)}
	}
	return out, nil
}

func referenceRun(in *ReferenceIn) (*ReferenceOut, error) {
	var r drive.Reference
	for _, x := range []struct {
		field string
		v     *float64
		to    *float64
		zero  bool
	}{{"pole_pairs", in.PolePairs, &r.Motor.Pairs, false}, {"rs", in.Rs, &r.Motor.Rs, false}, {"rr", in.Rr, &r.Motor.Rr, false},
		{"ls", in.Ls, &r.Motor.Ls, false}, {"lr", in.Lr, &r.Motor.Lr, false}, {"lm", in.Lm, &r.Motor.Lm, false},
		{"j", in.J, &r.J, false}, {"kf", in.Kf, &r.Fan, true}, {"tc", in.Tc, &r.Dry, true}, {"fn", in.FN, &r.FN, false},
		{"vpk", in.Vpk, &r.Vpk, false}, {"b0", in.B0, &r.B0, true}, {"v0", in.V0, &r.V0, false},
		{"req", in.Req, &r.Bus.Resistance, false}, {"c", in.C, &r.Bus.C, false}, {"von", in.Von, &r.Bus.On, false},
		{"vband", in.Vband, &r.Bus.Band, false}, {"rb", in.Rb, &r.Bus.Chopper, false}, {"cth", in.Cth, &r.Cth, false},
		{"gth", in.Gth, &r.Gth, true}} {
		if x.v == nil || *x.v < 0 || *x.v == 0 && !x.zero {
			return nil, &Error{x.field, show(x.v), "above 0"}
		}
		*x.to = *x.v
	}
	if r.Motor.Ls*r.Motor.Lr <= r.Motor.Lm*r.Motor.Lm {
		return nil, &Error{"lm", show(in.Lm), "so that ls · lr is above lm²"}
	}
	r.Bus.Open = r.V0
	every := orElse(in.SampleS, .01) * 1000
	if every < 1 || every != math.Round(every) || every > 10000 {
		return nil, &Error{"sample_s", show(in.SampleS), "a whole number of milliseconds, up to 10 s"}
	}
	out := &ReferenceOut{Samples: []ReferenceSample{}}
	n := 0
	take := func(s drive.Sample) {
		if n%int(every) == 0 || n == drive.Runtime*1000 {
			out.Samples = append(out.Samples,
				ReferenceSample{number(s.Time), number(s.Speed), number(s.Current), number(s.Torque), number(s.Bus)})
		}
		n++
	}
	switch in.Variant {
	case "cont", "":
		_, out.Steps = r.Continuous(20, take)
	case "tick1ms":
		_, out.Steps = r.Held(take)
	case "foc125us":
		_, out.Steps = r.Oriented(take)
	}
	if s := out.Samples[len(out.Samples)-1]; s.SpeedRadS == nil || s.BusV == nil {
		return nil, &Error{"j", show(in.J), "a machine that these steps can follow: the run left all bounds"}
	}
	return out, nil
}
