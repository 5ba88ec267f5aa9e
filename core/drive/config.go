package drive

import (
	"math"

	"tingate/core/machine"
	"tingate/core/signal"
)

// Config is a drive as its settings make it, in engineering units. Hz are output frequencies, amperes rms.
type Config struct {
	// The drive itself.
	Rated      float64 // A
	LineVolts  float64 // the class of its supply, V
	Overvolts  float64 // DC link trip, V
	Undervolts float64
	Switching  float64 // kHz

	// The motor as it was entered, and as it is known: from a tune, or estimated from the entries.
	Motor Entered
	Known machine.Induction
	Tuned bool
	// KnownMagnet is the machine that the entries stand for when they have no slip; Psi 0: it has a cage.
	KnownMagnet machine.Magnet
	Inertia     float64 // kg·m² as known from a tune; 0: usual for the size

	Control   string  // volts-per-hertz, vector, encoder
	Quadratic bool    // volts over hertz
	Boost     float64 // share of the motor's voltage at 0 Hz
	SlipComp  bool
	Swap      bool // phase order turned over by a setting

	Highest, Upper, Lower float64 // Hz
	Rise, Fall            float64 // Hz/s
	Rise2, Fall2          float64
	JogRamp               float64 // Hz/s
	SStart, SEnd          float64 // share of a ramp, 0..1
	Skip                  [2]float64
	SkipWidth             float64
	ReverseWait           float64 // s

	CurrentLimit  float64 // A
	TorqueLimit   float64 // driving, share of the entered motor's torque; 0: none. In vector control only
	TorqueBraking float64 // the same, giving back
	Overload      float64 // A; 0: off
	OverloadClass float64 // s to trip at 7.2 times, cold
	SelfCooled    bool    // its overload counts with a fan on the motor's own shaft: less is borne when it turns slowly
	// WarmthForgotten: without its own supply the drive forgets how warm it took the motor for.
	WarmthForgotten bool
	Sensor          bool   // winding sensor wired and watched
	BusControl      bool   // holds the fall, or lets the frequency rise, before the link trips
	Stall           string // off, warning, fault
	PhaseLoss       string // of the line: off, warning, fault
	OutputLoss      string // of the motor: the same
	EarthFault      string // current to earth behind the drive: off, warning, fault
	FlyingStart     bool
	RideThrough     bool // what turns feeds the link while the mains is away

	// What stops it and what starts it again, by the family's settings.
	StopKey       string   // the keypad's stop key while the command comes from elsewhere: obeyed, ignored, quick-stop; empty: not known
	Interlock     string   // coast, ramp; empty: as the stop mode
	InterlockBack string   // goes-on; else a fresh command is asked for
	QuickFall     float64  // Hz/s; 0: as the fall
	PowerClears   []string // faults that stand until the drive has been without power, beside that of a torque-off channel
	LowClears     bool     // a link that was too low clears its fault when it is back

	Coast       bool // stop mode
	BrakeHz     float64
	BrakeAmps   float64 // DC brake, A; 0: none
	BrakeTime   float64 // s
	HoldAmps    float64 // of direct current before a start, A
	HoldTime    float64 // s of it; 0: none
	BrakeShut   bool    // its setting for a mechanical brake is off: it opens none
	BrakeWait   float64 // s that the ramp waits until a brake is open
	BrakeFrom   float64 // A from which on the drive lets its brake open; 0: as soon as it gives torque
	BrakeTorque float64 // N·m, the same by torque
	BrakeBelow  float64 // Hz on the way down below which the drive closes its brake; 0: when it lets go
	BothWays    bool    // reverse allowed
	AutoRestart bool
	Restarts    float64 // by itself after faults, at most, until it has run well; below 0: no setting bounds them
	RunAtPower  bool    // run held at power-up starts
	OffFault    bool    // torque off shows as a fault

	Command, Speed string // keypad, terminals, network; keypad, analog, presets, motor-potentiometer
	ThreeWire      bool
	Magnetise      bool              // direct current of its magnetising keeps a motor ready that stands
	Preheat        float64           // A (RMS) of direct current that keeps a motor warm that stands; 0: none
	NetWait        float64           // s of silence after which the network counts as lost; 0: nobody watches
	NetLost        string            // what it does then: stop, hold, goes-on, fault
	Inputs         [MaxInputs]string // what each digital input does
	Inverted       uint16
	InputFilter    float64        // s for which an input must stand to be taken for on or off
	Live           bool           // 4-20 mA
	Full           float64        // the analog input's top: 10 V, 20 mA
	Low, High      float64        // Hz at its ends
	Bends          [3]signal.Bend // points between them, at Hz
	DeadBand       float64        // share of the analog input above its low end in which the speed stays at that of the low end
	LostBelow      float64        // mA of a live zero below which it counts as lost
	Filter         float64        // s
	Lost           string         // stop, hold, fault, lowest, preset
	Presets        [8]float64
	Jog, Hand      float64
	Loop           Controller
	PotSlope       float64 // Hz/s of a reference that inputs make faster and slower
	PotKeeps       string  // until when it is kept: stop, power, always
	KeyHz          float64 // the speed that the keypad asks for

	Lines     float64 // of the encoder as set; 0: none
	Backwards bool    // its direction as set

	STO Channels
}

// Channels are how the torque-off function is set.
type Channels struct {
	Discrepancy float64 // s
	Latched     bool
}

// Entered is a motor's plate as the drive holds it.
type Entered struct {
	Voltage, Frequency, Current, Speed, Power, Factor float64
	Poles                                             int
}

// MaxInputs is how many digital inputs a drive has at most, those of its modules among them: a bit each.
const MaxInputs = 16

// Torque is the entered motor's rated torque, N·m; 0 when it was not entered.
func (m Entered) Torque() float64 {
	if !(m.Speed > 0) {
		return 0
	}
	return m.Power * 30 / (math.Pi * m.Speed)
}

// slip is the slip frequency at the entered speed, Hz.
func (m Entered) slip() float64 { return m.Frequency - m.Speed*float64(m.Poles)/120 }
