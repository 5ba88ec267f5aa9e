package motion

import "math"

// Train is what a motor turns: inertias and a gear. Speeds of the load are the motor's over Ratio.
type Train struct {
	MotorJ, LoadJ float64 // kg·m², each on its own shaft
	Ratio         float64 // motor turns per load turn; above 0
	// of the gear, 0..1: it divides the load's torque when driving, multiplies it when braking; inertia goes without it
	Efficiency float64
	Load       Load // on the load's shaft, Speed there
}

// Inertia is all of it at the motor's shaft, kg·m².
func (t Train) Inertia() float64 { return t.MotorJ + t.LoadJ/(t.Ratio*t.Ratio) }

// Torque is what the load asks of the motor's shaft at a speed of that shaft (rad/s), N·m; braking: what it gives towards stopping.
func (t Train) Torque(w float64, braking bool) float64 {
	torque, _ := t.Load.At(w / t.Ratio)
	if w == 0 && t.Load.Kind == "constant" {
		torque = t.Load.Torque // as it begins to turn
	}
	if w == 0 && t.Load.Kind == "constant-power" {
		torque = t.Load.Torque * 10
	}
	if braking {
		return torque / t.Ratio * t.Efficiency
	}
	return torque / t.Ratio / t.Efficiency
}

// Time is how long a constant torque of the motor (N·m) takes from one speed to another (rad/s at its shaft), s. Slowing, the torque brakes
// and the load helps. Infinite when the speed is never reached. By Simpson's rule, 2000 steps: within 1e-6 for smooth loads.
func (t Train) Time(torque, from, to float64) float64 {
	if from == to {
		return 0
	}
	braking := to < from
	j := t.Inertia()
	const n = 2000
	h := (to - from) / n
	sum := 0.0
	for i := range n + 1 {
		w := from + h*float64(i)
		net := torque - t.Torque(w, false)
		if braking {
			net = -(torque + t.Torque(w, true))
		}
		if !braking && net <= 0 || braking && net >= 0 {
			return math.Inf(1)
		}
		weight := 2.0
		switch {
		case i == 0 || i == n:
			weight = 1
		case i%2 == 1:
			weight = 4
		}
		sum += weight * j / net
	}
	return sum * h / 3
}

// Energy is the kinetic energy between two speeds (rad/s) of an inertia (kg·m²), J, never below 0.
func Energy(j, from, to float64) float64 { return math.Abs(j * (from*from - to*to) / 2) }

// Shapes of bodies whose inertia is worked out.
const (
	Cylinder = "cylinder" // about its axis, full or hollow
	Drum     = "drum"     // a thin shell with what it carries at its rim
	Belt     = "belt"     // a mass moved straight, by a drum's radius
	Screw    = "screw"    // a mass moved straight, by a lead
	Winch    = "winch"    // a mass on a rope around a drum, with the drum
	Fan      = "fan"      // an impeller: a disc of so much mass, its matter towards the rim
)

// Body is one of them. kg, m; what a shape does not need is not looked at.
type Body struct {
	Shape   string
	Mass    float64 // of the body itself
	Radius  float64 // outer, or of the drum
	Inner   float64 // radius of a hollow cylinder
	Carried float64 // mass that is moved along
	Lead    float64 // m per turn
	Band    float64 // share by which the figures may be off; 0: as usual for the shape
}

// Inertia of a body on its own shaft, kg·m², with the band in which it lies. Cylinder ½ m (r² + ri²), drum and rope m r², screw m
// (lead/2π)²; a fan's impeller as a disc with ½ to ¾ m r², common practice.
func (b Body) Inertia() (j, low, high float64) {
	band := b.Band
	usual := .05
	switch b.Shape {
	case Cylinder:
		j = b.Mass * (b.Radius*b.Radius + b.Inner*b.Inner) / 2
	case Drum:
		j = (b.Mass + b.Carried) * b.Radius * b.Radius
		usual = .1
	case Belt:
		j = b.Carried * b.Radius * b.Radius
		usual = .1
	case Winch:
		j = b.Carried*b.Radius*b.Radius + b.Mass*b.Radius*b.Radius/2
		usual = .1
	case Screw:
		r := b.Lead / (2 * math.Pi)
		j = b.Carried * r * r
		usual = .1
	case Fan:
		j = .62 * b.Mass * b.Radius * b.Radius
		usual = .2
	default:
		return math.NaN(), math.NaN(), math.NaN()
	}
	if band == 0 {
		band = usual
	}
	return j, j * (1 - band), j * (1 + band)
}

// FromChange is an inertia out of a measured change of speed: a torque (N·m) that changed it from one speed to another (rad/s) in a time,
// s. A coast-down has the load's own torque there.
func FromChange(torque, from, to, seconds float64) float64 {
	return math.Abs(torque) * seconds / math.Abs(from-to)
}

// Braking is a fall of a drive.
type Braking struct {
	J, From, To   float64 // kg·m²; rad/s
	Seconds       float64
	Load          float64 // N·m that helps stopping
	Motor, Drive  float64 // efficiencies, 0..1
	C, Link, Trip float64 // F, V at the start, V
	Chopper       float64 // V at which the resistor is switched on
	Most          float64 // A of the chopper
	Resistor      float64 // Ω; NaN: not stated
	TorqueLimit   float64 // N·m; NaN: none
	Cycle         float64 // s; NaN: not stated
}

// Braked is what a fall does.
type Braked struct {
	Kinetic      float64 // J
	Torque       float64 // N·m that the motor must brake with; below 0: it must drive
	Returned     float64 // J that reach the link
	Peak         float64 // V of the link without a chopper
	Trips        bool
	Shortest     float64 // s without a trip and within the torque limit; NaN: none
	PeakPower    float64 // W into the resistor at the beginning of the fall
	Average      float64 // W over the cycle; NaN without one
	LeastOhm     float64 // that the chopper bears; NaN: not stated
	MostOhm      float64 // that takes the peak power at the chopper's voltage
	Regenerating bool
}

// Work works a fall out: speed falls evenly, so the torque is constant and the power falls with the speed.
func (b Braking) Work() Braked {
	dw := b.From - b.To
	mean := (b.From + b.To) / 2
	share := b.Motor * b.Drive
	r := Braked{Kinetic: Energy(b.J, b.From, b.To), Torque: b.J*dw/b.Seconds - b.Load, Peak: b.Link, LeastOhm: math.NaN(),
		MostOhm: math.NaN(), Average: math.NaN()}
	r.Regenerating = r.Torque > 0
	if r.Regenerating {
		r.Returned = r.Torque * mean * b.Seconds * share
		r.PeakPower = r.Torque * b.From * share
	}
	r.Peak = math.Sqrt(b.Link*b.Link + 2*r.Returned/b.C)
	r.Trips = r.Peak > b.Trip
	r.Shortest = b.shortest(dw, mean, share)
	if b.Most > 0 {
		r.LeastOhm = b.Chopper / b.Most
	}
	if r.PeakPower > 0 {
		r.MostOhm = b.Chopper * b.Chopper / r.PeakPower
	}
	if b.Cycle > 0 {
		r.Average = r.Returned / b.Cycle
	}
	return r
}

// shortest is the least time in which the link, without a chopper, bears what comes back, and the torque limit is kept.
func (b Braking) shortest(dw, mean, share float64) float64 {
	room := b.C * (b.Trip*b.Trip - b.Link*b.Link) / 2 / (mean * share) // N·m·s that the link takes
	least := 0.0
	if b.TorqueLimit >= 0 {
		if b.TorqueLimit+b.Load <= 0 {
			return math.NaN()
		}
		least = b.J * dw / (b.TorqueLimit + b.Load)
	}
	switch swing := b.J*dw - room; {
	case b.Load > 0:
		return math.Max(least, swing/b.Load)
	case swing-b.Load*least > 0: // nothing helps: a longer fall gives back as much, or more
		return math.NaN()
	}
	return least
}

// OwnFan is the torque that a motor with a fan on its own shaft bears for ever, as a share of the rated one, over its speed as a share of
// the rated one. Common practice for closed motors: 40 % at standstill, 85 % at half speed; above rated speed the field is weakened and
// torque falls with the speed. Cooled otherwise it is 1 up to rated speed.
func OwnFan(speed float64, own bool) float64 {
	speed = math.Abs(speed)
	if speed > 1 {
		return 1 / speed
	}
	if !own {
		return 1
	}
	for i := 1; i < len(ownFan); i++ {
		a, b := ownFan[i-1], ownFan[i]
		if speed <= b[0] {
			return a[1] + (b[1]-a[1])*(speed-a[0])/(b[0]-a[0])
		}
	}
	return 1
}

var ownFan = [][2]float64{{0, .4}, {.1, .5}, {.2, .6}, {.35, .75}, {.5, .85}, {.7, .94}, {1, 1}}

// LowestFor is the lowest share of the rated speed at which a torque (share of the rated one, over speed) is borne for ever; 1 when none
// below is.
func LowestFor(torque func(speed float64) float64, own bool) float64 {
	lowest := 1.0
	for i := 100; i >= 0; i-- {
		s := float64(i) / 100
		if torque(s) > OwnFan(s, own)+1e-9 {
			return lowest
		}
		lowest = s
	}
	return lowest
}
