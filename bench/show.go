package bench

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tingate/core/drive"
	"tingate/core/safety"
)

// Shown is the bench as a screen draws it.
type Shown struct {
	Tick      int64       `json:"tick"`
	Waiting   int         `json:"waiting" doc:"acts that have not acted yet; each takes a tick"`
	Time      float64     `json:"time" doc:"s"`
	Faster    float64     `json:"faster"`
	Family    string      `json:"family"`
	Line      bool        `json:"line"`
	State     string      `json:"state" doc:"of IEC 61800-7-201"`
	Phase     drive.Phase `json:"phase" enum:"off,searching,magnetising,running,stopping,braking,tuning,magnetised"`
	TorqueOff string      `json:"torque_off" doc:"state of the torque-off function"`
	Blocked   string      `json:"blocked" doc:"why a run command does nothing"`
	Limiting  string      `json:"limiting"`
	Fault     string      `json:"fault"`
	FaultCode string      `json:"fault_code" doc:"in the family's words"`
	FaultText string      `json:"fault_text"`
	Warning   string      `json:"warning"`
	Damage    string      `json:"damage"`
	Speed     float64     `json:"speed"`
	Hz        float64     `json:"hz"`
	Current   float64     `json:"current"`
	Phases    []float64   `json:"phases" doc:"A rms of U, V and W, as a clamp meter reads them"`
	Earth     float64     `json:"earth" doc:"A rms from the motor to earth, as a clamp round all three phases reads it"`
	Link      float64     `json:"link"`
	Ripple    float64     `json:"ripple" doc:"V of the link within a period of the mains, from top to bottom"`
	Lines     []float64   `json:"lines" doc:"A rms of L1, L2 and L3"`
	Caps      float64     `json:"caps" doc:"A rms of the link's capacitors: what warms them"`
	Resistor  *float64    `json:"resistor,omitempty" doc:"°C of the braking resistor; missing: none is fitted"`
	Torque    float64     `json:"torque"`
	Warmth    float64     `json:"warmth" doc:"percent of the overload"`
	Winding   float64     `json:"winding" doc:"°C"`
	Sink      float64     `json:"sink" doc:"°C"`
	Measured  *float64    `json:"measured,omitempty" doc:"percent of the range of what the drive's own controller regulates; missing: it is off"`
	Turns     float64     `json:"turns" doc:"of the shaft since the start"`
	Count     float64     `json:"count" doc:"of the encoder"`
	Encoder   float64     `json:"encoder" doc:"r/min as the drive reads it"`
	Coupled   bool        `json:"coupled"`
	Brake     string      `json:"brake" enum:"none,open,closed,moving"`
	BrakeBy   string      `json:"brake_by" enum:"drive,apart,"`
	LoadSpeed float64     `json:"load_speed" doc:"r/min, of a load behind a shaft that gives; else the motor's"`
	Hand      bool        `json:"hand"`
	KeyHz     float64     `json:"key_hz"`
	Net       Net         `json:"net" doc:"what the controller sends over the network"`
	Analog    float64     `json:"analog"`
	AnalogTop float64     `json:"analog_top"`
	AnalogIs  string      `json:"analog_unit" enum:"V,mA"`
	Inputs    []Pin       `json:"inputs"`
	Relays    []Pin       `json:"relays"`
	ChannelA  bool        `json:"channel_a" doc:"closed"`
	ChannelB  bool        `json:"channel_b"`
	Broken    []string    `json:"broken" doc:"what is broken and told"`
	Hidden    int         `json:"hidden" doc:"things broken that are not told"`
	Trips     []Trip      `json:"trips" doc:"newest first"`
	Control   string      `json:"control"`
	Command   string      `json:"command" doc:"who gives run"`
	Source    string      `json:"source" doc:"what asks for speed"`
	Samples   []Sample    `json:"samples" doc:"newer than asked for"`
	Tuned     bool        `json:"tuned" doc:"the drive knows its motor from a tune that still holds"`
	Tune      *TuneShown  `json:"tune,omitempty"`
	Armed     string      `json:"armed" doc:"a tune waits for the start key"`
}

// Pin is a digital terminal with what it does.
type Pin struct {
	Terminal string `json:"terminal"`
	Does     string `json:"does"`
	On       bool   `json:"on"`
}

// Net is what a controller sends over the network, as long as it is alive.
type Net struct {
	Alive bool    `json:"alive"`
	Run   bool    `json:"run"`
	Back  bool    `json:"back"`
	Hz    float64 `json:"hz"`
}

// Trip is a fault with the figures of its moment.
type Trip struct {
	Code    string  `json:"code"`
	Family  string  `json:"family" doc:"of faults"`
	Text    string  `json:"text"`
	At      float64 `json:"at" doc:"s"`
	Hz      float64 `json:"hz"`
	Current float64 `json:"current"`
	Speed   float64 `json:"speed"`
	Link    float64 `json:"link"`
}

// Show gives the bench as it stands, with samples newer than a time, s.
func (b *Bench) Show(after float64) Shown {
	b.mu.Lock()
	defer b.mu.Unlock()
	d := &b.sim
	if b.lost { // no figure of it is one
		s := Nothing()
		s.Tick, s.Family, s.Fault = b.tick, b.Setup.Family.Name, "simulation"
		s.FaultText = "the simulation left all bounds: no step can follow these figures. Check the load's inertia and the plate, and " +
			"set the bench up anew"
		return s
	}
	s := Shown{Tick: b.tick, Waiting: len(b.pending), Time: d.Time, Faster: b.faster, Family: b.Setup.Family.Name, Line: b.in.Line,
		State: string(d.Device.State), Phase: d.Phase, TorqueOff: string(d.STO.State), Blocked: d.Blocked,
		Limiting: d.Limiting, Fault: d.Fault, Warning: d.Warning, Damage: d.Damage, Speed: d.Speed, Hz: d.Hz, Current: d.Current,
		Phases: append([]float64{}, d.Phases[:]...), Earth: d.Earth,
		Link: d.Link, Torque: d.Torque, Warmth: d.Warmth * 100, Winding: d.Winding, Sink: d.Sink,
		Turns: d.Travel, Count: d.Count, Encoder: d.Encoder, Coupled: d.P.Coupled, Hand: b.in.Hand, KeyHz: b.in.KeyHz,
		Net: Net(b.in.Net), Analog: b.in.Analog,
		AnalogTop: d.C.Full, AnalogIs: "V", ChannelA: b.in.A, ChannelB: b.in.B,
		Inputs: []Pin{}, Relays: []Pin{}, Broken: []string{}, Trips: []Trip{}, Control: d.C.Control, Command: d.C.Command,
		Source: d.C.Speed, Samples: []Sample{}, Tuned: d.C.Tuned}
	if a := b.armed; a != nil {
		s.Armed = fmt.Sprintf("%s is set for a tune: press %s within %.0f s.", a.recipe.Setting, a.recipe.Start, math.Ceil(a.until-d.Time))
	}
	s.Brake, s.BrakeBy = b.brake()
	s.LoadSpeed = d.LoadW * 30 / math.Pi
	if b.tune != nil {
		t := b.tune.shown
		s.Tune = &t
	}
	s.around(d)
	if d.C.Loop.On {
		v := d.Measured() * 100
		s.Measured = &v
	}
	s.FaultCode, s.FaultText = b.FaultWords(d.Fault)
	b.terminals(&s)
	for _, f := range Faults {
		switch {
		case b.hidden[f.Key]:
			s.Hidden++
		case b.broken[f.Key]:
			s.Broken = append(s.Broken, f.Key)
		}
	}
	for i := range min(d.TripCount, len(d.Trips)) {
		t := d.Trips[i]
		code, text := b.FaultWords(t.Code)
		s.Trips = append(s.Trips, Trip{code, t.Code, text, t.At, t.Hz, t.Current, t.Speed, t.Link})
	}
	i, _ := slices.BinarySearchFunc(b.samples, after, func(x Sample, t float64) int {
		if x.Time <= t+1e-9 {
			return -1
		}
		return 1
	})
	s.Samples = append(s.Samples, b.samples[i:]...)
	return s
}

// around is what is measured about the drive: the leads of the mains, the link, the resistor; and in what the reference counts.
func (s *Shown) around(d *drive.Drive) {
	mains := d.Mains()
	s.Ripple, s.Caps, s.Lines = mains.Ripple, mains.Caps, append(s.Lines, mains.Lines[:]...)
	if d.C.Live {
		s.AnalogIs = "mA"
	}
	if d.P.Link.Chopper > 0 {
		hot := d.Resistor
		s.Resistor = &hot
	}
}

// Nothing is what a screen shows where there is no bench.
func Nothing() Shown {
	return Shown{
		Phase:    drive.Off,
		Phases:   []float64{0, 0, 0},
		Lines:    []float64{0, 0, 0},
		Brake:    "none",
		AnalogIs: "V",
		Inputs:   []Pin{},
		Relays:   []Pin{},
		Broken:   []string{},
		Trips:    []Trip{},
		Samples:  []Sample{},
	}
}

// FaultWords are a fault's in the family's language.
func (b *Bench) FaultWords(fault string) (code, text string) {
	family := fault
	if fault == "torque-off" {
		family = "torque-off-channel"
	}
	for _, f := range b.Setup.Family.Faults {
		if f.Family == family && f.Severity == "fault" {
			return f.Code, f.Text
		}
	}
	return "", strings.ReplaceAll(fault, "-", " ") // a family whose list has no such fault
}

// brake is how the brake stands, and who opens it.
func (b *Bench) brake() (stands, by string) {
	x := b.sim.P.Brake
	if x.Torque <= 0 {
		return "none", ""
	}
	by = "apart"
	if x.Follows {
		by = "drive"
	}
	switch b.sim.Gripping {
	case 0:
		return "open", by
	case 1:
		return "closed", by
	}
	return "moving", by
}

// terminals are the digital inputs with their functions, and the relays as they stand.
func (b *Bench) terminals(s *Shown) {
	f := b.Setup.Family
	values := map[string]int64{}
	turned := map[string]int64{}
	alive := b.sim.STO.State != safety.Unpowered // without its supply every relay lets go
	for _, t := range f.Terminals {
		if set, ok := f.Setting(t.Setting); ok && set.Register != 0 {
			values[t.Setting] = b.Stand.Steps(set)
		}
		if set, ok := f.Setting(t.Turned); ok && set.Register != 0 {
			turned[t.Turned] = b.Stand.Steps(set)
		}
	}
	for _, t := range f.Terminals {
		does := t.Delivery
		means := ""
		if set, ok := f.Setting(t.Setting); ok {
			for _, c := range set.Choices {
				if c.Value == values[t.Setting] {
					does, means = c.Text, c.Means
				}
			}
		}
		switch t.Kind {
		case "digital-in":
			if n := len(s.Inputs); n < drive.MaxInputs {
				s.Inputs = append(s.Inputs, Pin{t.Name, does, b.in.Terminals>>n&1 == 1})
			}
		case "relay", "digital-out":
			s.Relays = append(s.Relays, Pin{t.Name, does, alive && b.relay(means) != f.TurnedOver(t, turned)})
		}
	}
}

// relay tells whether what a relay stands for holds.
func (b *Bench) relay(means string) bool {
	d := &b.sim
	switch means {
	case "ready":
		return d.Fault == "" && d.Device.State != drive.NotReady
	case "running":
		return d.Running
	case "fault":
		return d.Fault != ""
	case "warning":
		return d.Warning != ""
	case "current-limit":
		return d.Limiting == "current"
	case "torque-off":
		return !d.STO.Torque() && d.STO.State != "ready"
	case "hand":
		return d.HandOn
	case "at-speed":
		return d.Running && d.Phase == drive.Running && d.Ramp() != 0 && math.Abs(d.Ramp()-d.Aim) < .01*d.C.Highest
	case "below-lowest":
		return math.Abs(d.Hz) < d.C.Lower
	case "brake-open":
		return d.P.Brake.Torque > 0 && d.Gripping < 1
	case "interlock-open":
		return d.Blocked == "interlock"
	}
	return false
}
