package calc

import (
	"math"

	"tingate/core/finding"
	"tingate/core/supply"
	"tingate/core/winding"
)

// LinksIn is the input of links: a scheme by name; or what a motor and drive are, to choose one; or a linking to be judged.
type LinksIn struct {
	Scheme       string              `json:"scheme" enum:"6-star,6-delta,9-star-low,9-star-high,9-delta-low,9-delta-high,12-star-low,12-star-high,12-delta-low,12-delta-high"`
	Marking      string              `json:"marking" enum:"uvw,t"`
	Leads        *float64            `json:"leads" enum:"6,9,12"`
	Winding      string              `json:"winding" enum:"star,delta"`
	VoltageLowV  *float64            `json:"voltage_low_v"`
	VoltageHighV *float64            `json:"voltage_high_v"`
	DriveOutputV *float64            `json:"drive_output_v"`
	Joins        [][]string          `json:"joins" doc:"groups of leads, to be judged"`
	Lines        map[string][]string `json:"lines" doc:"leads on L1, L2, L3"`
}

// LinksOut is the output of links.
type LinksOut struct {
	Scheme     *string             `json:"scheme"`
	Connection *string             `json:"connection"`
	Joins      [][]string          `json:"joins"`
	Lines      map[string][]string `json:"lines"`
	Valid      bool                `json:"valid"`
	CoilPu     *float64            `json:"coil_pu" doc:"voltage over a coil, per unit of the voltage between lines"`
	Findings   []finding.Finding   `json:"findings"`
}

// VoltageDropIn is the input of voltage-drop.
type VoltageDropIn struct {
	CurrentA    *float64 `json:"current_a"`
	LengthM     *float64 `json:"length_m"`
	ROhmPerKm   *float64 `json:"r_ohm_per_km"`
	XOhmPerKm   *float64 `json:"x_ohm_per_km"`
	PowerFactor *float64 `json:"power_factor"`
	Phases      *float64 `json:"phases" enum:"1,3"`
	VoltageV    *float64 `json:"voltage_v"`
}

// VoltageDropOut is the output of voltage-drop.
type VoltageDropOut struct {
	DropV   *float64 `json:"drop_v"`
	DropPct *float64 `json:"drop_pct"`
}

// CableIn is the input of cable.
type CableIn struct {
	LengthM      *float64 `json:"length_m"`
	DCLinkV      *float64 `json:"dc_link_v"`
	RiseUs       *float64 `json:"rise_us" doc:"default 0.1"`
	RatedA       *float64 `json:"drive_rated_current_a"`
	MotorPowerKW *float64 `json:"motor_power_kw"`
	MotorFit     string   `json:"motor_fit" enum:"inverter-duty,plain,not-known"`
	Screened     bool     `json:"screened"`
}

// CableOut is the output of cable.
type CableOut struct {
	CriticalLengthM  *float64          `json:"critical_length_m"`
	PeakV            *float64          `json:"peak_v"`
	AllowedV         *float64          `json:"allowed_v"`
	ChargingCurrentA *float64          `json:"charging_current_a" doc:"peak of each pulse"`
	Findings         []finding.Finding `json:"findings"`
}

func init() {
	register("links", "How a motor's leads are linked, and whether a linking as fitted is sound", links)
	register("voltage-drop", "The voltage lost along a feeder", voltageDrop)
	register("cable", "What a motor cable does to the motor and to the drive", cable)
}

func links(in *LinksIn) (*LinksOut, error) {
	marking := in.Marking
	if marking == "" {
		marking = "uvw"
	}
	name, found := in.Scheme, []finding.Finding{}
	leads := int(orElse(in.Leads, 0))
	switch {
	case in.Joins != nil || in.Lines != nil:
		if leads != 6 && leads != 9 && leads != 12 {
			return nil, &Error{"leads", show(in.Leads), "6, 9 or 12"}
		}
		if leads == 9 && in.Winding != "star" && in.Winding != "delta" {
			return nil, &Error{"winding", in.Winding, "star or delta"}
		}
		j := winding.Judge(leads, in.Winding, marking, in.Joins, in.Lines)
		out := &LinksOut{Joins: in.Joins, Lines: in.Lines, Valid: j.Valid, Findings: findings(j.Findings)}
		if j.Valid {
			out.Connection, out.CoilPu = &j.Connection, number(j.Coil)
			if j.Scheme != "" {
				out.Scheme = &j.Scheme
			}
		}
		return out, nil
	case name == "":
		for field, v := range map[string]*float64{"voltage_low_v": in.VoltageLowV, "voltage_high_v": in.VoltageHighV,
			"drive_output_v": in.DriveOutputV} {
			if !(value(v) > 0) {
				return nil, &Error{field, show(v), "volts above 0"}
			}
		}
		var l []finding.Finding
		name, l = winding.Choose(leads, in.Winding, *in.VoltageLowV, *in.VoltageHighV, *in.DriveOutputV)
		found = findings(l)
		if name == "" {
			return &LinksOut{Joins: [][]string{}, Lines: map[string][]string{}, Findings: found}, nil
		}
	}
	s, _ := winding.Find(name, marking) // the schema lets no other name through
	valid := true
	for _, f := range found {
		valid = valid && f.Severity != finding.Stop
	}
	return &LinksOut{&s.Name, &s.Connection, s.Joins, s.Lines, valid, number(s.Coil), found}, nil
}

func voltageDrop(in *VoltageDropIn) (*VoltageDropOut, error) {
	phases := orElse(in.Phases, 3)
	if phases != 1 && phases != 3 {
		return nil, &Error{"phases", show(in.Phases), "1 or 3"}
	}
	for _, x := range []struct {
		field string
		v     *float64
	}{{"current_a", in.CurrentA}, {"length_m", in.LengthM}, {"r_ohm_per_km", in.ROhmPerKm}} {
		if !(value(x.v) >= 0) {
			return nil, &Error{x.field, show(x.v), "0 or above"}
		}
	}
	pf := orElse(in.PowerFactor, 1)
	if !(pf >= 0 && pf <= 1) {
		return nil, &Error{"power_factor", show(in.PowerFactor), "0 to 1"}
	}
	v := supply.VoltageDrop(*in.CurrentA, *in.LengthM, *in.ROhmPerKm, orElse(in.XOhmPerKm, 0), pf, int(phases))
	return &VoltageDropOut{number(v), number(v / orElse(in.VoltageV, math.NaN()) * 100)}, nil
}

func cable(in *CableIn) (*CableOut, error) {
	for _, x := range []struct {
		field string
		v     *float64
	}{{"length_m", in.LengthM}, {"dc_link_v", in.DCLinkV}} {
		if !(value(x.v) > 0) {
			return nil, &Error{x.field, show(x.v), "above 0"}
		}
	}
	c := supply.MotorCable{Length: *in.LengthM, DCLink: *in.DCLinkV, Rise: orElse(in.RiseUs, 0), Rated: orElse(in.RatedA, math.Inf(1)),
		Power: orElse(in.MotorPowerKW, 0), Fit: in.MotorFit, Screened: in.Screened}
	out := c.Work()
	return &CableOut{number(out.Critical), number(out.Peak), number(out.Allowed), number(out.Charging), findings(out.Findings)}, nil
}
