package bench

import (
	"math"
	"slices"

	"tingate/core/drive"
)

// Breakage is one thing that can be wrong on a bench: a closed word, in the words of people, with what shows it and what mends it.
type Breakage struct {
	Key   string
	Where string // mains, motor, shaft, signals
	Text  string
	Fault string // the family of faults by which a drive shows it, where it does
	Reads string // what a technician reads or hears
	Mends string
	// cannot says why it cannot be on a machine; empty: it can. nil: it always can.
	cannot func(b *Bench) string
	put    func(b *Bench, x *drive.Broken)
}

// Where breakages are, in the order of the power's way.
var Wheres = []struct{ Key, Text string }{
	{"mains", "Mains and DC link"}, {"motor", "Cable and motor"}, {"shaft", "Shaft and load"}, {"signals", "Signals"},
}

// Faults that a bench can have.
var Faults = slices.Concat(mainsFaults, motorFaults, shaftFaults, signalFaults)

var mainsFaults = []Breakage{
	{Key: "phase-lost", Where: "mains", Text: "one phase of the mains lost", Fault: "input-phase",
		Reads:  "one input current is nothing, the others nearly twice as large; ripple of the link with the load, a light one hides it",
		Mends:  "fuse, contactor, terminal: measure all three, phase to phase",
		cannot: onePhase, put: func(_ *Bench, x *drive.Broken) { x.PhaseLost = true }},
	{Key: "line-uneven", Where: "mains", Text: "one phase of the mains 4 % lower", Fault: "input-phase",
		Reads:  "the input currents differ far more than the voltages; at a light load one is nothing",
		Mends:  "a single-phase load on that phase, a bad joint; a choke evens the currents",
		cannot: onePhase, put: func(_ *Bench, x *drive.Broken) { x.Unbalance = .04 }},
	{Key: "line-low", Where: "mains", Text: "mains a fifth too low", Fault: "bus-under-voltage",
		Reads: "the link is a fifth lower; near rated speed the current rises, for the voltage is missing",
		Mends: "tap of the transformer, long feeder, what starts beside it",
		put:   func(_ *Bench, x *drive.Broken) { x.Sag = .2 }},
	{Key: "supply-swapped", Where: "mains", Text: "two supply leads swapped",
		Reads: "nothing: a rectifier knows no order. A bypass and the fans on the mains turn backward",
		Mends: "swap two supply leads"},
	{Key: "resistor-off", Where: "mains", Text: "wire of the braking resistor off", Fault: "bus-over-voltage",
		Reads:  "the resistor stays cold, the link rises in every fall",
		Mends:  "wire, fuse or thermal contact of the resistor",
		cannot: noResistor, put: func(_ *Bench, x *drive.Broken) { x.ResistorOpen = true }},
	{Key: "chopper-shorted", Where: "mains", Text: "braking chopper conducts always",
		Reads:  "the resistor is hot without braking, input current flows at standstill; switched on anew the link does not charge",
		Mends:  "mains off at once; the drive goes to repair",
		cannot: noResistor, put: func(_ *Bench, x *drive.Broken) { x.ChopperShorted = true }},
	{Key: "fan-dead", Where: "mains", Text: "the drive's fan stands", Fault: "drive-temperature",
		Reads: "the heat sink warms at a load that it bore before",
		Mends: "fan, its plug, its filter",
		put:   func(_ *Bench, x *drive.Broken) { x.FanDead = true }},
	{Key: "clogged", Where: "mains", Text: "filter and heat sink clogged", Fault: "drive-temperature",
		Reads: "the heat sink is warmer than last year at the same load; little air comes out",
		Mends: "filter and fins cleaned, with the drive dead",
		put:   func(_ *Bench, x *drive.Broken) { x.Clogged = true }},
}

var motorFaults = []Breakage{
	{Key: "leads-swapped", Where: "motor", Text: "two motor leads swapped",
		Reads: "the shaft turns the other way",
		Mends: "swap two leads, or turn the order of phases by its setting",
		put:   func(_ *Bench, x *drive.Broken) { x.LeadsSwapped = true }},
	{Key: "wrong-link", Where: "motor", Text: "motor linked for the other voltage",
		Reads: "the current is three times too large without load, or the torque a third",
		Mends: "the links as the plate shows for this voltage",
		put: func(b *Bench, x *drive.Broken) {
			x.Relinked = 3 // star for delta
			if b.Setup.Linked == "star" {
				x.Relinked = 1. / 3
			}
		}},
	{Key: "wrong-plate", Where: "motor", Text: "another motor's current in the drive",
		Reads: "the overload warms too soon, torque is missing",
		Mends: "the plate typed anew"},
	{Key: "second-motor", Where: "motor", Text: "a second motor on the same output",
		Reads: "the drive shows the current of both, a clamp on one cable half of it; the overload guards neither, " +
			"vector control fits neither",
		Mends: "an overload relay for each, plate of the drive with the sum of currents, volts per hertz; never switched on while it runs",
		cannot: func(b *Bench) string {
			return unless(!b.Setup.Magnet, "motors with magnets are not fed in parallel: nothing keeps two rotors with their field")
		},
		put: func(_ *Bench, x *drive.Broken) { x.SecondMotor = true }},
	{Key: "buried", Where: "motor", Text: "magnets that lie inside the rotor: two inductances",
		Reads:  "it runs with another current than the plate says, and a moment past standstill; a tune by one inductance is off",
		Mends:  "a drive that knows both inductances, and a tune that finds them",
		cannot: func(b *Bench) string { return unless(b.Setup.Magnet, "this motor has no magnets") },
		put:    func(_ *Bench, x *drive.Broken) { x.Buried = 1.8 }},
	{Key: "output-lost", Where: "motor", Text: "one phase to the motor open", Fault: "output-phase",
		Reads: "one phase carries nothing, the two others more; it hums, and does not start by itself",
		Mends: "terminals, contactor between drive and motor, cable",
		put:   func(_ *Bench, x *drive.Broken) { x.OutputLost = true }},
	{Key: "earth", Where: "motor", Text: "one phase of the motor to earth", Fault: "earth-fault",
		Reads: "a clamp round all three phases reads the current; it trips as soon as it runs; the insulation reads nothing",
		Mends: "cable off at the motor, insulation of both measured: the one that reads low",
		put:   func(b *Bench, x *drive.Broken) { x.EarthOhms = b.earthOhms(.8) }},
	{Key: "damp", Where: "motor", Text: "motor winding damp", Fault: "earth-fault",
		Reads: "a little current round all three phases, below what trips; the insulation reads low and rises as the motor warms",
		Mends: "dry it, measure it again; look for the way of the water",
		put:   func(b *Bench, x *drive.Broken) { x.EarthOhms = b.earthOhms(.03) }},
	{Key: "long-cable", Where: "motor", Text: "much longer motor cable",
		Reads: "torque is missing at the lowest speeds",
		Mends: "tune with the cable that stays, or more copper",
		put:   func(b *Bench, x *drive.Broken) { x.CableOhms = .6 * b.sim.P.Motor.Rs }},
	{Key: "cable-charge", Where: "motor", Text: "200 m of screened motor cable",
		Reads: "the drive shows more current than a clamp at the motor does, most without load and with a quick carrier",
		Mends: "a slower carrier, a choke behind the drive, a shorter cable",
		put:   func(_ *Bench, x *drive.Broken) { x.CableMetres = 200 }},
	{Key: "sensor-open", Where: "motor", Text: "wire of the winding sensor off", Fault: "motor-overload",
		Reads:  "it trips cold, at once; the sensor's loop reads open",
		Mends:  "the loop through the motor's terminal box",
		cannot: noSensor, put: func(_ *Bench, x *drive.Broken) { x.Sensor = "open" }},
	{Key: "sensor-shorted", Where: "motor", Text: "winding sensor shorted",
		Reads:  "nothing, until the winding burns: a thermistor cold reads some 50 to 250 ohms, this one none",
		Mends:  "the loop, its clamps and its screen",
		cannot: noSensor, put: func(_ *Bench, x *drive.Broken) { x.Sensor = "shorted" }},
}

var shaftFaults = []Breakage{
	{Key: "jammed", Where: "shaft", Text: "load jammed", Fault: "motor-overload",
		Reads: "current at its limit, the shaft stands",
		Mends: "isolate, then look at the machine",
		put:   func(_ *Bench, x *drive.Broken) { x.Jammed = true }},
	{Key: "loose", Where: "shaft", Text: "coupling loose",
		Reads: "the motor turns with the current of no load, the load stands",
		Mends: "coupling, key, belt",
		put:   func(_ *Bench, x *drive.Broken) { x.Loose = true }},
	{Key: "belt-slips", Where: "shaft", Text: "belt slips",
		Reads:  "the load is slower than the motor; it squeals at the start, current and torque stay where the belt lets go",
		Mends:  "tension, alignment, a worn belt",
		cannot: noInertia, put: func(b *Bench, x *drive.Broken) { x.BeltSlips = b.beltCarries() }},
	{Key: "play", Where: "shaft", Text: "play in coupling or gears",
		Reads:  "it knocks at the start, and whenever the torque turns round; a quick speed loop never rests",
		Mends:  "coupling, key, gear",
		cannot: noInertia, put: func(_ *Bench, x *drive.Broken) { x.Play = .2 }},
	{Key: "drum-full", Where: "shaft", Text: "drum filled: three times the load's inertia",
		Reads:  "rise and fall take current or time, the link rises in the fall; empty it was in order",
		Mends:  "ramps for the full drum, a braking resistor; the inertia as it is at most",
		cannot: noInertia, put: func(_ *Bench, x *drive.Broken) { x.Filled = 3 }},
	{Key: "draught", Where: "shaft", Text: "the load turns the shaft backward at rest",
		Reads:  "the shaft turns backward before the start; the start takes current and time, or trips",
		Mends:  "flap or check valve; a flying start, or direct current before the start",
		cannot: noAir, put: func(b *Bench, x *drive.Broken) { x.Draught = -.3 * b.sim.P.Load.Speed }},
	{Key: "brake-drags", Where: "shaft", Text: "brake drags", Fault: "motor-overload",
		Reads:  "the current is higher by the same at every speed, the brake is hot",
		Mends:  "air gap and supply of the brake",
		cannot: noBrake, put: func(_ *Bench, x *drive.Broken) { x.BrakeDrags = .2 }},
	{Key: "brake-late", Where: "shaft", Text: "brake opens a second late", Fault: "motor-overload",
		Reads:  "the motor pulls against its brake at every start: current, a jerk, a smell",
		Mends:  "the brake's rectifier and contactor; its time in the drive",
		cannot: noBrake, put: func(_ *Bench, x *drive.Broken) { x.BrakeLate = 1 }},
}

var signalFaults = []Breakage{
	{Key: "encoder-swapped", Where: "signals", Text: "encoder A and B swapped", Fault: "encoder",
		Reads:  "the count falls while the shaft turns forward",
		Mends:  "swap A and B, or turn its direction by its setting",
		cannot: noEncoder, put: func(_ *Bench, x *drive.Broken) { x.EncoderSwapped = true }},
	{Key: "encoder-dead", Where: "signals", Text: "encoder silent", Fault: "encoder",
		Reads:  "no count while the shaft turns",
		Mends:  "its supply, its pairs, its plug",
		cannot: noEncoder, put: func(_ *Bench, x *drive.Broken) { x.EncoderDead = true }},
	{Key: "encoder-half", Where: "signals", Text: "one channel of the encoder off", Fault: "encoder",
		Reads:  "the count goes one up and one down while the shaft turns",
		Mends:  "the pair of that channel, its clamps, its plug",
		cannot: noEncoder, put: func(_ *Bench, x *drive.Broken) { x.EncoderHalf = true }},
	{Key: "encoder-lines", Where: "signals", Text: "encoder with twice the lines",
		Reads:  "the drive reads twice the speed of the shaft",
		Mends:  "lines of the encoder as on its plate",
		cannot: noEncoder, put: func(b *Bench, x *drive.Broken) { x.EncoderLines = 2 * math.Max(b.Setup.Lines, 1) }},
	{Key: "encoder-slips", Where: "signals", Text: "the encoder's coupling slips", Fault: "encoder",
		Reads:  "the drive reads a tenth less than the shaft turns, and keeps it too fast",
		Mends:  "set screw and coupling of the encoder",
		cannot: noEncoder, put: func(_ *Bench, x *drive.Broken) { x.EncoderSlips = .1 }},
	{Key: "encoder-droops", Where: "signals", Text: "the encoder's supply droops", Fault: "encoder",
		Reads:  "right up to half of the speed, then the count stays behind: no more speed, all the current",
		Mends:  "supply at the encoder measured while it turns; wires for the supply",
		cannot: noEncoder, put: func(_ *Bench, x *drive.Broken) { x.EncoderDroops = true }},
	{Key: "reference-off", Where: "signals", Text: "reference wire off", Fault: "reference-lost",
		Reads: "nothing at the analog input",
		Mends: "wire, sender, its supply",
		put:   func(_ *Bench, x *drive.Broken) { x.ReferenceOff = true }},
	{Key: "reference-moved", Where: "signals", Text: "reference wire on the potentiometer's supply",
		Reads: "full speed, wherever the knob stands",
		Mends: "the wire on the wiper's terminal",
		put:   func(_ *Bench, x *drive.Broken) { x.ReferenceFull = true }},
	{Key: "reference-hum", Where: "signals", Text: "hum of the mains on the reference",
		Reads: "the frequency swings with the mains, the motor growls; a meter on DC reads it right",
		Mends: "screen on one end, away from power; the filter",
		put:   func(_ *Bench, x *drive.Broken) { x.Hum = .04 }},
	{Key: "reference-offset", Where: "signals", Text: "offset on the reference",
		Reads: "the speed is 3 % of the range too high at every setting, and not zero at zero",
		Mends: "one earth for both ends, or a galvanic separation",
		put:   func(_ *Bench, x *drive.Broken) { x.Offset = .03 }},
	{Key: "contact-bounces", Where: "signals", Text: "contacts at the inputs bounce",
		Reads: "one press counts several times, a run command starts, stops and starts; the sign of the input flickers",
		Mends: "a filter of the inputs that is longer; contacts made for 24 V and some milliamperes"},
	{Key: "network-late", Where: "signals", Text: "answers of the network late, each otherwise",
		Reads: "figures over the link come in jerks, reading a whole drive takes many times as long; in the end they are all there",
		Mends: "a switch or gateway that is too busy; fewer that ask, more slowly"},
	{Key: "network-lost", Where: "signals", Text: "one answer in five of the network lost",
		Reads: "what is asked over the link is asked again; a reading may have no whole answer, and says so, and what a write has " +
			"done may not be known",
		Mends: "plugs, ends and screens of the cable; addresses that are there twice"},
	{Key: "channel-stuck", Where: "signals", Text: "torque-off channel B does not open", Fault: "torque-off-channel",
		Reads: "the drive sees one channel alone",
		Mends: "contact, wire, relay of channel B",
		put:   func(_ *Bench, x *drive.Broken) { x.Stuck = 2 }},
	{Key: "noise", Where: "signals", Text: "noise on every signal",
		Reads: "every figure jumps",
		Mends: "screens, earths, distance",
		put:   func(_ *Bench, x *drive.Broken) { x.Noise = 20 }},
}
