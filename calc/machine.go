package calc

import (
	"fmt"
	"math"

	"tingate/core/finding"
	"tingate/core/machine"
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
