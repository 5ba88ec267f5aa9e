package drive

// Broken is what is wrong, as a bench can have it. The zero value is a whole machine, and costs a tick nothing.
type Broken struct {
	// Mains and link.
	PhaseLost      bool
	Unbalance      float64 // share by which the third phase of the mains is lower
	Sag            float64 // share that all of the mains lacks
	FanDead        bool
	Clogged        bool // filter and heat sink
	ResistorOpen   bool
	ChopperShorted bool // its transistor conducts always

	// Between drive and motor.
	LeadsSwapped bool
	OutputLost   bool    // one phase to the motor is open
	CableOhms    float64 // more of the motor cable, per phase
	CableMetres  float64 // of a screened motor cable that has to be charged; 0: none counts
	Relinked     float64 // the winding's impedance over the right link's: 3 star for delta, 1/3 the other way; 0: right
	EarthOhms    float64 // Ω between phase W and earth; 0: none
	SecondMotor  bool    // one more of the same make on the same output, its shaft free
	Buried       float64 // inductance across the magnets over that along them; 0: one in both
	Sensor       string  // the winding sensor's wires: open, shorted; empty: whole

	// At the shaft.
	Jammed     bool
	Loose      bool    // the coupling slips: nothing of the load hangs on the motor
	BeltSlips  float64 // N·m at the motor that the belt carries at most; 0: all
	Play       float64 // rad at the motor that coupling or gears have between the flanks
	Filled     float64 // the load's inertia over the stated one, a drum that has filled; 0: as stated
	Draught    float64 // rad/s at which a fan's air turns it when nothing else does; below 0 backward
	BrakeDrags float64 // share of its torque that the brake keeps while open
	BrakeLate  float64 // s more that it takes to open

	// Signals.
	EncoderSwapped bool
	EncoderDead    bool
	EncoderHalf    bool    // one of its two channels is off
	EncoderLines   float64 // other than the plate of the encoder says; 0: right
	EncoderSlips   float64 // share of the turns that its coupling does not take along
	EncoderDroops  bool    // its supply does not carry it above half of the rated speed
	ReferenceOff   bool    // the reference wire is off
	ReferenceFull  bool    // it is on the terminal that feeds a potentiometer: full scale always
	Hum            float64 // amplitude of the mains frequency on the reference, share of full scale
	Offset         float64 // of the reference, share of full scale
	FeedbackOff    bool    // the wire of the process's measured value is off
	Stuck          int     // torque-off channel that does not open: 1 or 2
	Noise          float64 // factor on what is measured
}
