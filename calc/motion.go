package calc

import (
	"fmt"
	"math"
	"strings"

	"tingate/core/finding"
	"tingate/core/motion"
	"tingate/core/quantity"
)

// RampIn is the input of ramp.
type RampIn struct {
	MotorInertiaKgm2  *float64 `json:"motor_inertia_kgm2"`
	LoadInertiaKgm2   *float64 `json:"load_inertia_kgm2"`
	LoadInertiaLbft2  *float64 `json:"load_inertia_lbft2"`
	MotorInertiaLbft2 *float64 `json:"motor_inertia_lbft2"`
	GearRatio         *float64 `json:"gear_ratio" doc:"motor turns per load turn, default 1"`
	GearEfficiency    *float64 `json:"gear_efficiency" doc:"0 to 1, default 1"`
	Load              string   `json:"load" enum:"none,constant,linear,quadratic,constant-power,"`
	LoadTorqueNM      *float64 `json:"load_torque_nm" doc:"at load_speed_rpm, on the load's shaft"`
	LoadSpeedRPM      *float64 `json:"load_speed_rpm"`
	MotorTorqueNM     *float64 `json:"motor_torque_nm" doc:"available"`
	BrakingTorqueNM   *float64 `json:"braking_torque_nm"`
	FromRPM           *float64 `json:"from_rpm" doc:"of the motor's shaft"`
	ToRPM             *float64 `json:"to_rpm"`
}

// RampOut is the output of ramp.
type RampOut struct {
	InertiaKgm2         *float64          `json:"inertia_kgm2" doc:"of everything, at the motor"`
	LoadTorqueAtMotorNM *float64          `json:"load_torque_at_motor_nm"`
	TimeS               *float64          `json:"time_s" doc:"null: never"`
	KineticEnergyJ      *float64          `json:"kinetic_energy_j"`
	Findings            []finding.Finding `json:"findings"`
}

// BrakingIn is the input of braking.
type BrakingIn struct {
	InertiaKgm2        *float64 `json:"inertia_kgm2"`
	FromRPM            *float64 `json:"from_rpm"`
	ToRPM              *float64 `json:"to_rpm"`
	TimeS              *float64 `json:"time_s"`
	LoadTorqueNM       *float64 `json:"load_torque_nm" doc:"positive helps stopping"`
	MotorEfficiencyPct *float64 `json:"motor_efficiency_pct"`
	DriveEfficiencyPct *float64 `json:"drive_efficiency_pct"`
	DCLinkCapacitanceF *float64 `json:"dc_link_capacitance_f"`
	DCLinkV            *float64 `json:"dc_link_v" doc:"at the start"`
	TripV              *float64 `json:"trip_v"`
	ChopperV           *float64 `json:"chopper_v"`
	ResistorOhm        *float64 `json:"resistor_ohm"`
	ChopperMaxCurrentA *float64 `json:"chopper_max_current_a"`
	TorqueLimitNM      *float64 `json:"torque_limit_nm"`
	CycleS             *float64 `json:"cycle_s"`
}

// BrakingOut is the output of braking.
type BrakingOut struct {
	KineticEnergyJ   *float64          `json:"kinetic_energy_j"`
	BrakingTorqueNM  *float64          `json:"braking_torque_nm"`
	ReturnedEnergyJ  *float64          `json:"returned_energy_j" doc:"that reaches the DC link"`
	DCLinkPeakV      *float64          `json:"dc_link_peak_v" doc:"without a chopper"`
	Trips            *bool             `json:"trips" doc:"without a chopper; null: capacitance, link or trip voltage is not given"`
	ShortestTimeS    *float64          `json:"shortest_time_s" doc:"without a trip and without a chopper; null: none"`
	ResistorPeakW    *float64          `json:"resistor_peak_w"`
	ResistorAverageW *float64          `json:"resistor_average_w"`
	ResistorOhmMin   *float64          `json:"resistor_ohm_min" doc:"that the chopper bears"`
	ResistorOhmMax   *float64          `json:"resistor_ohm_max" doc:"that takes the peak"`
	Findings         []finding.Finding `json:"findings"`
}

// CoolingIn is the input of cooling.
type CoolingIn struct {
	RatedSpeedRPM *float64 `json:"rated_speed_rpm"`
	RatedTorqueNM *float64 `json:"rated_torque_nm"`
	SpeedRPM      *float64 `json:"speed_rpm"`
	TorqueNM      *float64 `json:"torque_nm" doc:"asked at speed_rpm; with load, at the rated speed"`
	Load          string   `json:"load" enum:"constant,linear,quadratic,constant-power," doc:"for the lowest speed"`
	Cooling       string   `json:"cooling" enum:"own-fan,forced,none,liquid,"`
}

// CoolingOut is the output of cooling.
type CoolingOut struct {
	TorqueForeverNM *float64          `json:"torque_forever_nm" doc:"that the motor bears at speed_rpm"`
	TorqueShare     *float64          `json:"torque_share" doc:"of the rated torque"`
	LowestSpeedRPM  *float64          `json:"lowest_speed_rpm" doc:"at which the load's torque is borne for ever"`
	Findings        []finding.Finding `json:"findings"`
}

// InertiaIn is the input of inertia.
type InertiaIn struct {
	Shape         string   `json:"shape" enum:"cylinder,drum,belt,screw,winch,fan,coast-down,acceleration"`
	MassKg        *float64 `json:"mass_kg"`
	RadiusM       *float64 `json:"radius_m"`
	InnerRadiusM  *float64 `json:"inner_radius_m"`
	CarriedMassKg *float64 `json:"carried_mass_kg" doc:"that is moved along"`
	LeadM         *float64 `json:"lead_m" doc:"per turn of a screw"`
	GearRatio     *float64 `json:"gear_ratio" doc:"motor turns per turn of the body, default 1"`
	TorqueNM      *float64 `json:"torque_nm" doc:"of the load when coasting; of the motor less the load when accelerating"`
	FromRPM       *float64 `json:"from_rpm"`
	ToRPM         *float64 `json:"to_rpm"`
	TimeS         *float64 `json:"time_s"`
	BandPct       *float64 `json:"band_pct" doc:"by which the figures may be off; default by the shape"`
}

// InertiaOut is the output of inertia.
type InertiaOut struct {
	InertiaKgm2        *float64 `json:"inertia_kgm2" doc:"on its own shaft"`
	InertiaAtMotorKgm2 *float64 `json:"inertia_at_motor_kgm2"`
	LowKgm2            *float64 `json:"low_kgm2" doc:"at the motor"`
	HighKgm2           *float64 `json:"high_kgm2" doc:"at the motor"`
}

// FanLawIn is the input of fan-law.
type FanLawIn struct {
	SpeedRPM      *float64 `json:"speed_rpm" doc:"at which flow, pressure and power are known"`
	Flow          *float64 `json:"flow" doc:"in any unit"`
	Pressure      *float64 `json:"pressure" doc:"in any unit"`
	PowerKW       *float64 `json:"power_kw"`
	NewSpeedRPM   *float64 `json:"new_speed_rpm"`
	NewFlow       *float64 `json:"new_flow" doc:"instead of new_speed_rpm"`
	StaticPctHead *float64 `json:"static_pct" doc:"share of the pressure that does not fall with the speed, default 0"`
}

// FanLawOut is the output of fan-law.
type FanLawOut struct {
	NewSpeedRPM *float64          `json:"new_speed_rpm"`
	SpeedRatio  *float64          `json:"speed_ratio"`
	NewFlow     *float64          `json:"new_flow"`
	NewPressure *float64          `json:"new_pressure"`
	NewPowerKW  *float64          `json:"new_power_kw"`
	TorqueRatio *float64          `json:"torque_ratio"`
	Findings    []finding.Finding `json:"findings"`
}

func init() {
	register("ramp", "How long a motor takes to bring its load from one speed to another", rampTime)
	register("braking", "What a fall gives back to the DC link, whether it trips, and which resistor it needs", braking)
	register("cooling", "The torque that a motor bears for ever at a speed, and the lowest speed for a load", cooling)
	register("inertia", "The inertia of a body, or out of a measured change of speed", Inertia)
	register("fan-law", "Flow, pressure and power of a fan or pump at another speed", fanLaw)
}

const perRPM = math.Pi / 30

func rampTime(in *RampIn) (*RampOut, error) {
	if in.LoadInertiaKgm2 != nil && in.LoadInertiaLbft2 != nil {
		return nil, &Error{"load_inertia_lbft2", fmt.Sprint(*in.LoadInertiaLbft2), "the load's inertia once, in kg·m² or in lb·ft²"}
	}
	or := func(a, b *float64) float64 {
		if a != nil {
			return *a
		}
		return orElse(b, 0) * quantity.PoundFootSquared
	}
	t := motion.Train{MotorJ: or(in.MotorInertiaKgm2, in.MotorInertiaLbft2), LoadJ: or(in.LoadInertiaKgm2, in.LoadInertiaLbft2),
		Ratio: orElse(in.GearRatio, 1), Efficiency: orElse(in.GearEfficiency, 1),
		Load: motion.Load{Kind: in.Load, Torque: orElse(in.LoadTorqueNM, 0), Speed: orElse(in.LoadSpeedRPM, 0) * perRPM}}
	if t.Load.Kind == "" {
		t.Load.Kind = "none"
		if t.Load.Torque != 0 {
			t.Load.Kind = "constant"
		}
	}
	if err := first(needed("from_rpm", in.FromRPM), needed("to_rpm", in.ToRPM)); err != nil {
		return nil, err
	}
	switch {
	case !(t.MotorJ >= 0) || !(t.LoadJ >= 0) || t.MotorJ+t.LoadJ == 0:
		return nil, &Error{"motor_inertia_kgm2", fmt.Sprint(t.MotorJ), "inertias of 0 or more, one of them above 0"}
	case !(t.Ratio > 0):
		return nil, &Error{"gear_ratio", fmt.Sprint(t.Ratio), "a number above 0"}
	case !(t.Efficiency > 0 && t.Efficiency <= 1):
		return nil, &Error{"gear_efficiency", fmt.Sprint(t.Efficiency), "above 0 to 1"}
	case *in.FromRPM < 0 || *in.ToRPM < 0:
		return nil, &Error{"from_rpm", fmt.Sprint(*in.FromRPM), "speeds of 0 or more"}
	case (t.Load.Kind == "linear" || t.Load.Kind == "quadratic" || t.Load.Kind == "constant-power") && !(t.Load.Speed > 0):
		return nil, &Error{"load_speed_rpm", "nothing", "the speed at which the load takes load_torque_nm"}
	}
	from, to := *in.FromRPM*perRPM, *in.ToRPM*perRPM
	braking := to < from
	torque := orElse(in.MotorTorqueNM, 0)
	at := to
	if braking {
		torque, at = orElse(in.BrakingTorqueNM, 0), from
	} else if err := first(needed("motor_torque_nm", in.MotorTorqueNM)); err != nil && from != to {
		return nil, err
	}
	out := &RampOut{InertiaKgm2: number(t.Inertia()), LoadTorqueAtMotorNM: number(t.Torque(at, braking)),
		TimeS: number(t.Time(torque, from, to)), KineticEnergyJ: number(motion.Energy(t.Inertia(), from, to)),
		Findings: []finding.Finding{}}
	if out.TimeS == nil {
		title, detail := "It never gets there", "Somewhere on the way the load takes all of the motor's torque."
		if braking {
			detail = "Neither the load nor a braking torque slows it."
		}
		out.Findings = append(out.Findings,
			finding.Finding{Code: "cannot-accelerate", Severity: finding.Stop, Field: "motor_torque_nm", Title: title, Detail: detail,
				Action: "More torque, a lighter load, or another gear"})
	}
	return out, nil
}

func braking(in *BrakingIn) (*BrakingOut, error) {
	if err := first(positive("inertia_kgm2", in.InertiaKgm2), positive("from_rpm", in.FromRPM), positive("time_s", in.TimeS)); err != nil {
		return nil, err
	}
	var lacks []string
	for _, x := range []struct {
		field string
		v     *float64
	}{{"dc_link_capacitance_f", in.DCLinkCapacitanceF}, {"dc_link_v", in.DCLinkV}, {"trip_v", in.TripV}} {
		if x.v == nil {
			lacks = append(lacks, x.field)
		} else if err := positive(x.field, x.v); err != nil {
			return nil, err
		}
	}
	to := orElse(in.ToRPM, 0)
	if !(to >= 0 && to < *in.FromRPM) {
		return nil, &Error{"to_rpm", fmt.Sprint(to), "0 or more, below from_rpm"}
	}
	share := func(p *float64) float64 { return orElse(p, 100) / 100 }
	for field, p := range map[string]*float64{"motor_efficiency_pct": in.MotorEfficiencyPct,
		"drive_efficiency_pct": in.DriveEfficiencyPct} {
		if p != nil && !(*p > 0 && *p <= 100) {
			return nil, &Error{field, fmt.Sprint(*p), "above 0 to 100"}
		}
	}
	b := motion.Braking{J: *in.InertiaKgm2, From: *in.FromRPM * perRPM, To: to * perRPM, Seconds: *in.TimeS,
		Load: orElse(in.LoadTorqueNM, 0), Motor: share(in.MotorEfficiencyPct), Drive: share(in.DriveEfficiencyPct),
		C: orElse(in.DCLinkCapacitanceF, 1), Link: orElse(in.DCLinkV, 1), Trip: orElse(in.TripV, 1e6), Chopper: value(in.ChopperV),
		Most: orElse(in.ChopperMaxCurrentA, 0), Resistor: value(in.ResistorOhm), TorqueLimit: orElse(in.TorqueLimitNM, math.NaN()),
		Cycle: orElse(in.CycleS, 0)}
	r := b.Work()
	out := &BrakingOut{KineticEnergyJ: number(r.Kinetic), BrakingTorqueNM: number(r.Torque), ReturnedEnergyJ: number(r.Returned),
		DCLinkPeakV: number(r.Peak), Trips: &r.Trips, ShortestTimeS: number(r.Shortest), ResistorPeakW: number(r.PeakPower),
		ResistorAverageW: number(r.Average), ResistorOhmMin: number(r.LeastOhm), ResistorOhmMax: number(r.MostOhm),
		Findings: []finding.Finding{}}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		out.Findings = append(out.Findings,
			finding.Finding{Code: code, Severity: sev, Field: "time_s", Title: title, Detail: detail, Action: action})
	}
	if len(lacks) > 0 {
		out.DCLinkPeakV, out.Trips, out.ShortestTimeS = nil, nil, nil
		say("link-not-known", finding.Look, "Whether it trips cannot be worked out",
			"Not given: "+strings.Join(lacks, ", ")+". What comes back, and what a resistor must take, stand.",
			"Give them to know whether the link trips")
	}
	if !r.Regenerating {
		say("not-regenerating", finding.Note, "Nothing comes back",
			"The load stops it faster than the fall asks: the motor drives until the end.", "")
	}
	if r.LeastOhm > r.MostOhm {
		say("no-resistor-fits", finding.Stop, "No resistor fits", "The chopper bears no resistance that is low enough for the peak.",
			"A longer fall, or a larger drive")
	}
	if ohm := b.Resistor; ohm > 0 && ohm < r.LeastOhm {
		say("resistor-too-low", finding.Stop, "The resistor draws more than the chopper bears", "", "A higher resistance")
	} else if ohm > r.MostOhm {
		say("resistor-too-high", finding.Look, "The resistor does not take the peak", "The link rises, and trips or stretches the fall.",
			"A lower resistance, or a longer fall")
	}
	return out, nil
}

func cooling(in *CoolingIn) (*CoolingOut, error) {
	if err := first(positive("rated_speed_rpm", in.RatedSpeedRPM), positive("rated_torque_nm", in.RatedTorqueNM)); err != nil {
		return nil, err
	}
	own := in.Cooling == "" || in.Cooling == "own-fan" || in.Cooling == "none"
	out := &CoolingOut{Findings: []finding.Finding{}}
	rated := *in.RatedTorqueNM
	if in.SpeedRPM != nil {
		s := motion.OwnFan(*in.SpeedRPM / *in.RatedSpeedRPM, own)
		out.TorqueShare, out.TorqueForeverNM = number(s), number(s*rated)
		if in.Load == "" && in.TorqueNM != nil && *in.TorqueNM > s*rated {
			out.Findings = append(out.Findings,
				finding.Finding{Code: "too-hot-for-ever", Severity: finding.Stop, Field: "torque_nm", Title: "The motor gets too hot",
					Detail: "At that speed it bears less for ever.", Action: "Faster, a fan of its own drive, or a larger motor"})
		}
	}
	if in.Load != "" && in.TorqueNM != nil {
		l := motion.Load{Kind: in.Load, Torque: *in.TorqueNM / rated, Speed: 1}
		out.LowestSpeedRPM = number(*in.RatedSpeedRPM * motion.LowestFor(func(s float64) float64 {
			t, _ := l.At(math.Max(s,
				1e-9))
			return t
		}, own))
	}
	return out, nil
}

// Inertia works an inertia out of a body's figures, or of a measured change of speed.
func Inertia(in *InertiaIn) (*InertiaOut, error) {
	ratio := orElse(in.GearRatio, 1)
	if !(ratio > 0) {
		return nil, &Error{"gear_ratio", fmt.Sprint(ratio), "a number above 0"}
	}
	var j, low, high float64
	switch in.Shape {
	case "":
		return nil, &Error{"shape", "nothing", "one of cylinder, drum, belt, screw, winch, fan, coast-down, acceleration"}
	case "coast-down", "acceleration":
		if err := first(positive("torque_nm", in.TorqueNM), needed("from_rpm", in.FromRPM), needed("to_rpm", in.ToRPM),
			positive("time_s", in.TimeS)); err != nil {
			return nil, err
		}
		if *in.FromRPM == *in.ToRPM {
			return nil, &Error{"to_rpm", fmt.Sprint(*in.ToRPM), "another speed than from_rpm"}
		}
		j = motion.FromChange(*in.TorqueNM, *in.FromRPM*perRPM, *in.ToRPM*perRPM, *in.TimeS)
		band := orElse(in.BandPct, 15) / 100
		low, high = j*(1-band), j*(1+band)
	default:
		b := motion.Body{Shape: in.Shape, Mass: orElse(in.MassKg, 0), Radius: orElse(in.RadiusM, 0), Inner: orElse(in.InnerRadiusM, 0),
			Carried: orElse(in.CarriedMassKg, 0), Lead: orElse(in.LeadM, 0), Band: orElse(in.BandPct, 0) / 100}
		need := map[string][]*Error{"cylinder": {positive("mass_kg", in.MassKg), positive("radius_m", in.RadiusM)},
			"drum":  {positive("radius_m", in.RadiusM)},
			"belt":  {positive("carried_mass_kg", in.CarriedMassKg), positive("radius_m", in.RadiusM)},
			"screw": {positive("carried_mass_kg", in.CarriedMassKg), positive("lead_m", in.LeadM)},
			"winch": {positive("carried_mass_kg", in.CarriedMassKg), positive("radius_m", in.RadiusM)},
			"fan":   {positive("mass_kg", in.MassKg), positive("radius_m", in.RadiusM)}}
		if err := first(need[in.Shape]...); err != nil {
			return nil, err
		}
		if b.Inner >= b.Radius && in.Shape == motion.Cylinder && b.Inner > 0 {
			return nil, &Error{"inner_radius_m", fmt.Sprint(b.Inner), "below radius_m"}
		}
		j, low, high = b.Inertia()
	}
	s := ratio * ratio
	return &InertiaOut{number(j), number(j / s), number(low / s), number(high / s)}, nil
}

func fanLaw(in *FanLawIn) (*FanLawOut, error) {
	if err := first(positive("speed_rpm", in.SpeedRPM)); err != nil {
		return nil, err
	}
	var r float64
	switch {
	case in.NewSpeedRPM != nil && in.NewFlow != nil:
		return nil, &Error{"new_flow", fmt.Sprint(*in.NewFlow), "either new_speed_rpm or new_flow"}
	case in.NewSpeedRPM != nil && *in.NewSpeedRPM >= 0:
		r = *in.NewSpeedRPM / *in.SpeedRPM
	case in.NewFlow != nil && in.Flow != nil && *in.Flow > 0 && *in.NewFlow >= 0:
		r = *in.NewFlow / *in.Flow
	default:
		return nil, &Error{"new_speed_rpm", "nothing", "the other speed, or the other flow with flow"}
	}
	static := orElse(in.StaticPctHead, 0) / 100
	if !(static >= 0 && static <= 1) {
		return nil, &Error{"static_pct", fmt.Sprint(static * 100), "0 to 100"}
	}
	out := &FanLawOut{NewSpeedRPM: number(r * *in.SpeedRPM), SpeedRatio: number(r), NewFlow: number(r * value(in.Flow)),
		NewPressure: number(r * r * value(in.Pressure)), NewPowerKW: number(r * r * r * value(in.PowerKW)), TorqueRatio: number(r * r),
		Findings: []finding.Finding{}}
	if static > 0 && r < math.Sqrt(static) {
		out.Findings = append(out.Findings,
			finding.Finding{Code: "below-static-head", Severity: finding.Look, Field: "new_speed_rpm",
				Title:  "It no longer moves anything",
				Detail: "The pressure at that speed is below what stands against it: a pump turns, and nothing flows.",
				Action: "A higher lowest speed"})
	}
	return out, nil
}
