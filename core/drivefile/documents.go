// Package drivefile holds the stored documents: place and drive, their paths, changes and schema steps.
//
// Every field has a json name; its path is the names joined by dots, members of a collection by their id:
// motor.rows.0190….current. Quantities are leaves. The tag `kind` names the quantity, `choices` a closed list.
package drivefile

import (
	"tingate/core/quantity"
)

// Schema is the number of the document schema this program writes.
const Schema = 10

// Q is short for a quantity typed by a person.
type Q = quantity.Quantity

// Kinds of place, fixed when it is made.
const (
	Real      = "real"
	Simulated = "simulated"
)

// Place is a site with its people, supplies and instruments.
type Place struct {
	Schema      int                    `json:"schema"`
	Name        string                 `json:"name"`
	Kind        string                 `json:"kind" choices:"real,simulated" doc:"for good: in a real place nothing simulated proves anything"`
	Zone        string                 `json:"zone" doc:"IANA time zone"`
	People      map[string]Person      `json:"people,omitempty" doc:"by id"`
	Supplies    map[string]Supply      `json:"supplies,omitempty" doc:"by id"`
	Practice    string                 `json:"practice,omitempty" doc:"practice of drives that name none"`
	Circuits    map[string]StopCircuit `json:"circuits,omitempty" doc:"stop circuits, by id"`
	Shifts      string                 `json:"shifts,omitempty" doc:"times of day at which a shift changes, like 06:00, 14:00, 22:00, in the place's zone"`
	Instruments map[string]Instrument  `json:"instruments,omitempty" doc:"by id"`
	Permit      string                 `json:"permit,omitempty" doc:"how live work is permitted here: who gives the permit, its number or paper"`
}

// Roles of an instrument.
const (
	RoleMeter      = "meter"
	RoleInsulation = "insulation-tester"
	RoleTorque     = "torque-wrench"
)

// Instrument is what people measure with at the place.
type Instrument struct {
	Number   string `json:"number,omitempty" doc:"on it: M3"`
	Name     string `json:"name,omitempty" doc:"what it is"`
	Role     string `json:"role,omitempty" choices:"meter,insulation-tester,torque-wrench,other"`
	Measures string `json:"measures,omitempty" choices:"ac,dc,ac-and-dc,automatic" doc:"voltage that a meter measures: by a range for each, or by one that finds it out by itself"`
}

// Person works on drives. Chosen once in the browser; accounts come later.
type Person struct {
	Initials string `json:"initials"`
	Name     string `json:"name,omitempty"`
	Trade    string `json:"trade,omitempty" choices:"technician,fitter,engineer,learner,other"`
}

// Supply is a source of energy at the place: not only the mains.
type Supply struct {
	Name      string `json:"name"`
	Voltage   Q      `json:"voltage,omitzero" kind:"voltage"`
	Frequency Q      `json:"frequency,omitzero" kind:"frequency"`
	Kind      string `json:"kind,omitempty" choices:"mains,control,dc-link,brake,heater,relay-contact,motor" doc:"blank: mains"`
	Phases    string `json:"phases,omitempty" choices:"1,3"`
	Earthing  string `json:"earthing,omitempty" choices:"tn,tt,it,corner-earthed"`
	Fault     Q      `json:"fault_current,omitzero" kind:"prospective" doc:"short-circuit current at the drive's terminals"`
	FedFrom   string `json:"fed_from,omitempty" doc:"id of the supply that feeds this one"`
	Isolator  string `json:"isolator,omitempty" doc:"what opens it: switch, fuses, plug"`
	At        string `json:"isolator_at,omitempty" doc:"where that stands"`
	Arc       string `json:"arc,omitempty" doc:"arc energy at the drive's terminals and at which distance, as the place's study says"`
}

// Drive is the file of one installed drive.
type Drive struct {
	Schema   int             `json:"schema"`
	Place    string          `json:"place" doc:"id of the place"`
	Tag      string          `json:"tag,omitempty"`
	Machine  string          `json:"machine,omitempty"`
	Where    string          `json:"where,omitempty"`
	Notes    string          `json:"notes,omitempty"`
	Archived bool            `json:"archived,omitempty"`
	Supplies map[string]bool `json:"supplies,omitempty" doc:"ids of the supplies that feed it"`
	Practice string          `json:"practice,omitempty" doc:"a named set of choices and an order; blank: the place's"`
	Rating   Rating          `json:"rating,omitzero"`
	Site     Site            `json:"site,omitzero"`
	Link     Link            `json:"link,omitzero"`
	Motor    Motor           `json:"motor,omitzero"`
	Intent   Intent          `json:"intent,omitzero"`
	Wiring   Wiring          `json:"wiring,omitzero"`
	Power    Power           `json:"power,omitzero"`
	Turn     Turn            `json:"turn,omitzero"`
	Stop     Stop            `json:"stop,omitzero"`
	Signal   Signal          `json:"signal,omitzero"`
	Ran      Ran             `json:"ran,omitzero"`
}

// Ran is what the real machine did, as somebody read it: held against what was predicted.
type Ran struct {
	Rise Q `json:"rise,omitzero" kind:"seconds" doc:"to 97 % of the highest speed"`
	Fall Q `json:"fall,omitzero" kind:"seconds"`
	Top  Q `json:"top,omitzero" kind:"speed"`
	Peak Q `json:"peak,omitzero" kind:"current" doc:"highest while it rose"`
	Held Q `json:"held,omitzero" kind:"current" doc:"at the highest speed"`
}

// Rating is the drive's own label and family.
type Rating struct {
	Dialect        string `json:"dialect,omitempty" doc:"drive family"`
	DialectVersion string `json:"dialect_version,omitempty"`
	Type           string `json:"type,omitempty"`
	Serial         string `json:"serial,omitempty"`
	NoSerial       bool   `json:"no_serial,omitempty" doc:"the number on the label is not legible; a photo of it is kept"`
	Firmware       string `json:"firmware,omitempty"`
	Current        Q      `json:"current,omitzero" kind:"current" doc:"rated output current at the duty wanted"`
	Voltage        Q      `json:"voltage,omitzero" kind:"voltage" doc:"output voltage"`
	Duty           string `json:"duty,omitempty" choices:"heavy,normal"`
	Withstand      Q      `json:"short_circuit,omitzero" kind:"prospective" doc:"short-circuit rating on its label, with the protection that it names"`
}

// Site is where the drive stands and what it is to do there, for gate Match.
type Site struct {
	Ordered      string `json:"ordered,omitempty" doc:"type as ordered"`
	Altitude     Q      `json:"altitude,omitzero" kind:"length" doc:"above sea level"`
	Ambient      Q      `json:"ambient,omitzero" kind:"temperature" doc:"highest, inside the enclosure"`
	Enclosure    string `json:"enclosure,omitempty" choices:"wall,vented,filtered,closed,heated"`
	Height       Q      `json:"height,omitzero" kind:"length" doc:"of the cabinet"`
	Width        Q      `json:"width,omitzero" kind:"length"`
	Depth        Q      `json:"depth,omitzero" kind:"length"`
	Against      string `json:"against,omitempty" choices:"free,wall" doc:"what its back stands against"`
	Outside      Q      `json:"outside,omitzero" kind:"temperature" doc:"of the air around the cabinet, highest"`
	Heat         Q      `json:"heat,omitzero" kind:"power" doc:"lost inside the cabinet by everything; blank: 3 % of the drive's power"`
	Mounting     string `json:"mounting,omitempty" choices:"upright,side-by-side,on-its-side"`
	Switching    Q      `json:"switching,omitzero" kind:"kilohertz"`
	InputPhases  string `json:"input_phases,omitempty" choices:"1,3"`
	FilterLinks  string `json:"filter_links,omitempty" choices:"in,out" doc:"earth links of filter and varistors"`
	Cable        Q      `json:"cable,omitzero" kind:"length" doc:"motor cable"`
	Motors       Q      `json:"motors,omitzero" kind:"count" doc:"motors on this drive"`
	MotorFit     string `json:"motor_fit,omitempty" choices:"inverter-duty,plain,not-known" doc:"insulation and bearings"`
	Choke        string `json:"choke,omitempty" choices:"none,line,dc-link"`
	Inputs       Q      `json:"inputs,omitzero" kind:"count" doc:"digital inputs wanted"`
	Outputs      Q      `json:"outputs,omitzero" kind:"count" doc:"relays and digital outputs wanted"`
	AnalogInputs Q      `json:"analog_inputs,omitzero" kind:"count"`
	Encoder      string `json:"encoder,omitempty" choices:"none,wanted"`
	EncoderType  string `json:"encoder_type,omitempty" choices:"ttl,htl,sine" doc:"its signals: 5 V differential, 10 to 30 V push-pull, 1 V sine"`
	EncoderVolts Q      `json:"encoder_supply,omitzero" kind:"voltage" doc:"that it is fed with"`
	EncoderAmps  Q      `json:"encoder_current,omitzero" kind:"current" doc:"that it takes at that voltage"`
}

// Link is the address a person entered for reading the drive.
type Link struct {
	Address string `json:"address,omitempty" doc:"host:port of Modbus TCP"`
	Unit    string `json:"unit,omitempty" doc:"Modbus unit identifier, 0 to 255"`
}

// Motor is the motor's plate.
type Motor struct {
	Kind           string         `json:"kind,omitempty" choices:"induction,permanent-magnet"`
	MakersType     string         `json:"makers_type,omitempty"`
	Serial         string         `json:"serial,omitempty"`
	NoSerial       bool           `json:"no_serial,omitempty" doc:"the number on the plate is not legible; a photo of it is kept"`
	Frame          string         `json:"frame,omitempty"`
	Insulation     string         `json:"insulation,omitempty"`
	Duty           string         `json:"duty,omitempty"`
	Cooling        string         `json:"cooling,omitempty" choices:"own-fan,forced,none,liquid"`
	HorsepowerKind string         `json:"horsepower_kind,omitempty" choices:"mechanical,metric"`
	ServiceFactor  Q              `json:"service_factor,omitzero" kind:"ratio"`
	Efficiency     Q              `json:"efficiency,omitzero" kind:"percent"`
	Poles          Q              `json:"poles,omitzero" kind:"poles"`
	Ambient        Q              `json:"ambient,omitzero" kind:"temperature"`
	Rows           map[string]Row `json:"rows,omitempty" doc:"by id, in the order of the ids"`
	Linked         string         `json:"linked,omitempty" doc:"id of the row that is linked"`
	Leads          string         `json:"leads,omitempty" choices:"3,6,9,12" doc:"that come out into the terminal box"`
	Winding        string         `json:"winding,omitempty" choices:"star,delta" doc:"inside, of nine and twelve leads"`
	Marking        string         `json:"marking,omitempty" choices:"uvw,t"`
	FittedJoins    string         `json:"fitted_joins,omitempty" doc:"links as found: U2-V2-W2, …"`
	FittedLines    string         `json:"fitted_lines,omitempty" doc:"leads on L1, L2, L3 as found"`
}

// Power is how the drive is fed and protected, and how the motor's cable is laid.
type Power struct {
	Code           string `json:"code,omitempty" choices:"iec-b2,iec-c,nec" doc:"code and way of laying by which conductors are chosen"`
	Input          Q      `json:"input,omitzero" kind:"current" doc:"rated input current on the label"`
	LineArea       string `json:"line_area,omitempty" doc:"mm² or AWG"`
	MotorArea      string `json:"motor_area,omitempty"`
	LineLength     Q      `json:"line_length,omitzero" kind:"length"`
	Ambient        Q      `json:"ambient,omitzero" kind:"temperature" doc:"where the cables lie"`
	Protection     Q      `json:"protection,omitzero" kind:"current" doc:"fuse or breaker"`
	ProtectionMost Q      `json:"protection_most,omitzero" kind:"current" doc:"that the drive's papers allow"`
	Torque         Q      `json:"torque,omitzero" kind:"torque" doc:"of power terminals, on the label"`
	EarthTorque    Q      `json:"earth_torque,omitzero" kind:"torque"`
	MotorTorque    Q      `json:"motor_torque,omitzero" kind:"torque" doc:"of the studs in the motor's terminal box; blank: its paper gives none"`
	ControlTorque  Q      `json:"control_torque,omitzero" kind:"torque" doc:"of control terminals, on the label; blank: they clamp by spring"`
}

// Turn is what the shaft turns, which way is called forward, and how the first turn is made.
type Turn struct {
	Forward  string `json:"forward,omitempty" doc:"what the machine does when it goes forward"`
	From     string `json:"from,omitempty" choices:"drive-end,fan-end" doc:"where the shaft is looked at from"`
	Sense    string `json:"sense,omitempty" choices:"clockwise,counter-clockwise" doc:"of forward, seen from there"`
	Stands   string `json:"stands,omitempty" choices:"uncoupled,coupled,tester" doc:"how the first turn is made: the load off, on, or a rotation tester without power"`
	Uncouple string `json:"uncouple,omitempty" choices:"yes,no" doc:"whether the coupling can be taken apart"`
	Backstop bool   `json:"backstop,omitempty" doc:"the machine must not turn backward"`
	Hanging  bool   `json:"hanging,omitempty" doc:"a load that falls when torque goes"`
	Brake    string `json:"brake,omitempty" choices:"none,drive,apart" doc:"who opens it"`
	Opens    Q      `json:"brake_opens,omitzero" kind:"seconds" doc:"from its command until it is open"`
	Closes   Q      `json:"brake_closes,omitzero" kind:"seconds"`
	PerTurn  Q      `json:"per_turn,omitzero" kind:"length" doc:"travel of the machine for one turn of the motor's shaft"`
	Speed    Q      `json:"speed,omitzero" kind:"speed" doc:"of the first turn; blank: a tenth of the plate's"`
	Lines    Q      `json:"lines,omitzero" kind:"count" doc:"of the encoder, on its label"`
	Phases   string `json:"phases,omitempty" choices:"as-wired,turned" doc:"phase order by the drive's setting"`
	Counting string `json:"counting,omitempty" choices:"as-wired,turned" doc:"encoder direction by the drive's setting"`
}

// Wiring is what is connected to the drive's control side. The connection list is made from it.
type Wiring struct {
	Command   string             `json:"command,omitempty" choices:"two-wire,three-wire,keypad,network"`
	Reverse   bool               `json:"reverse,omitempty"`
	Jog       bool               `json:"jog,omitempty"`
	Reset     bool               `json:"reset,omitempty"`
	Interlock bool               `json:"interlock,omitempty" doc:"a process interlock, closed while it may run"`
	Second    bool               `json:"second,omitempty" doc:"a second enable: opens, and the drive coasts"`
	Hand      bool               `json:"hand,omitempty" doc:"hand and auto by a selector at a local panel"`
	Reference string             `json:"reference,omitempty" choices:"pot,voltage,current,presets,buttons,none"`
	RunLamp   bool               `json:"run_lamp,omitempty"`
	FaultLamp bool               `json:"fault_lamp,omitempty"`
	Meter     bool               `json:"meter,omitempty"`
	Sensor    string             `json:"sensor,omitempty" choices:"thermistor,none"`
	Safety    string             `json:"safety,omitempty" choices:"jumper,contacts,relay"`
	Logic     string             `json:"logic,omitempty" choices:"source,sink"`
	Supply    string             `json:"supply,omitempty" choices:"drive,outside" doc:"of the 24 V"`
	Code      string             `json:"code,omitempty" choices:"iec,nfpa" doc:"colours and sizes by IEC 60204-1 or NFPA 79"`
	Numbers   string             `json:"numbers,omitempty" choices:"by-function,running" doc:"of wires and terminals; blank: by function"`
	Modules   string             `json:"modules,omitempty" doc:"codes of the modules that are meant to be in the drive, with commas"`
	Wires     map[string]OwnWire `json:"wires,omitempty" doc:"added or changed, by number"`
	Devices   map[string]Device  `json:"devices,omitempty" doc:"that added wires go to, by id"`
}

// OwnWire is one that a person added to the list, or changed.
type OwnWire struct {
	From   string `json:"from,omitempty" doc:"part:terminal"`
	To     string `json:"to,omitempty"`
	Colour string `json:"colour,omitempty"`
	Area   string `json:"area,omitempty"`
	Screen string `json:"screen,omitempty"`
	Why    string `json:"why,omitempty"`
}

// Device is a part in the field that the list does not make itself.
type Device struct {
	Name      string `json:"name,omitempty"`
	Kind      string `json:"kind,omitempty"`
	Terminals string `json:"terminals,omitempty" doc:"separated by commas"`
}

// Row is one row of the plate.
type Row struct {
	Connection  string `json:"connection,omitempty" choices:"star,delta,double-star,double-delta"`
	Voltage     Q      `json:"voltage,omitzero" kind:"voltage"`
	Frequency   Q      `json:"frequency,omitzero" kind:"frequency"`
	Power       Q      `json:"power,omitzero" kind:"power"`
	Current     Q      `json:"current,omitzero" kind:"current"`
	Speed       Q      `json:"speed,omitzero" kind:"speed"`
	PowerFactor Q      `json:"power_factor,omitzero" kind:"pf"`
}

// Intent is what is wanted, in engineering units. Speeds are shaft speeds; ramps are slopes of shaft speed.
type Intent struct {
	Load           string `json:"load,omitempty" choices:"constant,linear,quadratic,constant-power"`
	LoadInertia    Q      `json:"load_inertia,omitzero" kind:"inertia" doc:"at the motor's shaft; blank: usual for the kind of load"`
	InertiaBand    Q      `json:"inertia_band,omitzero" kind:"percent" doc:"by which it may be off; blank: 20 %, or what an estimate has"`
	LoadTorque     Q      `json:"load_torque,omitzero" kind:"percent" doc:"of rated torque, at plate speed"`
	LoadFriction   Q      `json:"load_friction,omitzero" kind:"percent" doc:"of rated torque: what rubs beside a fan, a pump or a hoist, at every speed; blank: none"`
	LowestSpeed    Q      `json:"lowest_speed,omitzero" kind:"speed"`
	HighestSpeed   Q      `json:"highest_speed,omitzero" kind:"speed"`
	Rise           Q      `json:"rise,omitzero" kind:"slope"`
	Fall           Q      `json:"fall,omitzero" kind:"slope"`
	StopMode       string `json:"stop_mode,omitempty" choices:"ramp,coast"`
	Control        string `json:"control,omitempty" choices:"volts-per-hertz,vector"`
	Slip           string `json:"slip_compensation,omitempty" choices:"off,on"`
	Pattern        string `json:"pattern,omitempty" choices:"constant,quadratic,automatic-boost"`
	Direction      string `json:"direction,omitempty" choices:"forward,both"`
	OverloadClass  string `json:"overload_class,omitempty" choices:"10,20,30"`
	CurrentLimit   Q      `json:"current_limit,omitzero" kind:"percent" doc:"of motor current"`
	Restart        string `json:"automatic_restart,omitempty" choices:"off,on"`
	RestartsMost   Q      `json:"restarts_most,omitzero" kind:"count" doc:"by itself after faults, until it has run well"`
	CommandSource  string `json:"command_source,omitempty" choices:"keypad,terminals,network"`
	SpeedSource    string `json:"speed_source,omitempty" choices:"keypad,voltage,current,presets,motor-potentiometer,network"`
	ReferenceLow   Q      `json:"reference_low,omitzero" kind:"speed" doc:"shaft speed at the low end of the reference"`
	ReferenceHigh  Q      `json:"reference_high,omitzero" kind:"speed"`
	ReferenceLoss  string `json:"reference_loss,omitempty" choices:"stop,hold,fault,lowest,preset"`
	PotTime        Q      `json:"pot_time,omitzero" kind:"seconds" doc:"of a motor potentiometer: from standstill to the highest speed while faster is held"`
	PotKeeps       string `json:"pot_keeps,omitempty" choices:"stop,power,always" doc:"until when it keeps its speed"`
	Jog            Q      `json:"jog,omitzero" kind:"speed"`
	Preset1        Q      `json:"preset_1,omitzero" kind:"speed"`
	Preset2        Q      `json:"preset_2,omitzero" kind:"speed"`
	Preset3        Q      `json:"preset_3,omitzero" kind:"speed"`
	TorqueOffShows string `json:"torque_off_shows,omitempty" choices:"stop,fault"`
	Preset4        Q      `json:"preset_4,omitzero" kind:"speed"`
	Preset5        Q      `json:"preset_5,omitzero" kind:"speed"`
	HandSpeed      Q      `json:"hand_speed,omitzero" kind:"speed" doc:"kept in the drive, asked for in hand"`
	Filter         Q      `json:"filter,omitzero" kind:"seconds" doc:"of the analog reference"`
	Skip1From      Q      `json:"skip_1_from,omitzero" kind:"speed" doc:"a band that is passed through and never stayed in"`
	Skip1To        Q      `json:"skip_1_to,omitzero" kind:"speed"`
	Skip2From      Q      `json:"skip_2_from,omitzero" kind:"speed"`
	Skip2To        Q      `json:"skip_2_to,omitzero" kind:"speed"`
	Rounding       Q      `json:"rounding,omitzero" kind:"percent" doc:"of a ramp's time, at each of its ends; blank: none"`
	ReverseWait    Q      `json:"reverse_wait,omitzero" kind:"seconds" doc:"at standstill before it turns back"`
	DCBrake        string `json:"dc_brake,omitempty" choices:"off,on" doc:"at the end of a stop"`
	DCBrakeCurrent Q      `json:"dc_brake_current,omitzero" kind:"percent" doc:"of motor current"`
	DCBrakeTime    Q      `json:"dc_brake_time,omitzero" kind:"seconds"`
	BusControl     string `json:"bus_control,omitempty" choices:"off,on" doc:"lengthens the fall rather than trip on the DC link"`
	Resistor       Q      `json:"resistor,omitzero" kind:"resistance" doc:"braking resistor that is fitted; blank: none"`
	ResistorLeast  Q      `json:"resistor_least,omitzero" kind:"resistance" doc:"lowest that the drive's papers allow"`
	Boost          Q      `json:"boost,omitzero" kind:"percent" doc:"of motor voltage at standstill"`
	FlyingStart    string `json:"flying_start,omitempty" choices:"off,on" doc:"catches a shaft that turns"`
	TorqueLimit    Q      `json:"torque_limit,omitzero" kind:"percent" doc:"of rated torque, driving"`
	TorqueBraking  Q      `json:"torque_limit_braking,omitzero" kind:"percent" doc:"of rated torque, giving back"`
	Loop           string `json:"loop,omitempty" choices:"off,on" doc:"the drive's own process controller gives the speed"`
	LoopGain       Q      `json:"loop_gain,omitzero" kind:"ratio"`
	LoopTime       Q      `json:"loop_time,omitzero" kind:"seconds"`
	LoopSetpoint   Q      `json:"loop_setpoint,omitzero" kind:"percent" doc:"of the measured value's range"`
	LoopAtTop      Q      `json:"loop_at_top,omitzero" kind:"percent" doc:"measured value at the highest speed, of its range"`
	LoopGrows      string `json:"loop_grows,omitempty" choices:"speed,square" doc:"the measured value grows with the speed, or with its square"`
	LoopLag        Q      `json:"loop_lag,omitzero" kind:"seconds" doc:"by which the measured value follows the speed"`
	Sleep          Q      `json:"sleep,omitzero" kind:"speed" doc:"below which it stops, until the loop asks for more"`
	PowerUp        string `json:"power_up,omitempty" choices:"off,on" doc:"a run command that is held starts it when power comes"`
	StopKey        string `json:"stop_key,omitempty" choices:"obeyed,ignored,quick-stop" doc:"the keypad's stop key while the command comes from elsewhere; blank: as delivered"`
	Interlock      string `json:"interlock,omitempty" choices:"coast,ramp" doc:"what an open process interlock does; blank: as delivered"`
	InterlockBack  string `json:"interlock_back,omitempty" choices:"fresh,goes-on" doc:"when it closes again, with run held; blank: as delivered"`
	MachineUnit    string `json:"machine_unit,omitempty" doc:"in which the machine counts: m/s, m³/h, strokes a minute"`
	MachineAt      Q      `json:"machine_at,omitzero" kind:"figure" doc:"of that unit at the motor's plate speed"`
	RotorMost      Q      `json:"rotor_most,omitzero" kind:"speed" doc:"mechanical limit of the motor's rotor, as its maker says"`
	GearMost       Q      `json:"gear_most,omitzero" kind:"speed" doc:"most that gearbox, coupling or machine bear, at the motor's shaft"`
	DriveName      string `json:"drive_name,omitempty" doc:"that its keypad shows; blank: its tag, as much of it as fits"`
	SpeedUnit      string `json:"speed_unit,omitempty" choices:"hz,percent,rpm" doc:"in which the drive's speeds are entered; blank: as it is delivered"`
	NetAddress     Q      `json:"network_address,omitzero" kind:"count" doc:"of the drive on its bus"`
	NetSpeed       string `json:"network_speed,omitempty" choices:"9600,19200,38400,57600,115200,125000,250000,500000,1000000" doc:"bits a second"`
	NetParity      string `json:"network_parity,omitempty" choices:"none,even,odd"`
	NetWait        Q      `json:"network_wait,omitzero" kind:"seconds" doc:"of silence after which the network counts as lost"`
	NetLost        string `json:"network_lost,omitempty" choices:"stop,hold,fault,goes-on" doc:"what the drive does then; blank: not said"`
	Curve1At       Q      `json:"curve_1_at,omitzero" kind:"percent" doc:"of the signal's span: a point between its ends"`
	Curve1         Q      `json:"curve_1_speed,omitzero" kind:"speed" doc:"at that point"`
	Curve2At       Q      `json:"curve_2_at,omitzero" kind:"percent"`
	Curve2         Q      `json:"curve_2_speed,omitzero" kind:"speed"`
	Curve3At       Q      `json:"curve_3_at,omitzero" kind:"percent"`
	Curve3         Q      `json:"curve_3_speed,omitzero" kind:"speed"`
	LostBelow      Q      `json:"lost_below,omitzero" kind:"figure" doc:"mA of a live zero below which the reference counts as lost; blank: 3.6"`
	Preheat        Q      `json:"preheat,omitzero" kind:"percent" doc:"of motor current, at standstill, against condensation"`
	Magnetise      string `json:"magnetise,omitempty" choices:"off,on" doc:"the motor stays magnetised while it stands"`
	AutoRamp       string `json:"auto_ramp,omitempty" choices:"off,on" doc:"the drive ramps as fast as its limits let it; blank: off where a rise or a fall is wanted"`
	BrakeOpensAt   Q      `json:"brake_opens_at,omitzero" kind:"percent" doc:"of motor current, from which the drive lets its brake open"`
	BrakeClosesAt  Q      `json:"brake_closes_below,omitzero" kind:"speed" doc:"on the way down, below which the drive closes its brake"`
	StaticHead     Q      `json:"static_head,omitzero" kind:"percent" doc:"of a pump or fan: static part of the pressure at plate speed"`
}

// Signal is the reference as the controller sends it, and what was measured of it.
type Signal struct {
	Points     map[string]MeasuredPoint `json:"points,omitempty" doc:"by id, in the order of the ids"`
	CountsLow  Q                        `json:"counts_low,omitzero" kind:"figure" doc:"of the controller's card at the low end of the signal"`
	CountsHigh Q                        `json:"counts_high,omitzero" kind:"figure"`
	Unit       string                   `json:"unit,omitempty" doc:"in which the controller asks: %, r/min, m³/h"`
	AsksLow    Q                        `json:"asks_low,omitzero" kind:"figure" doc:"what the controller asks for at the low end, in its unit"`
	AsksHigh   Q                        `json:"asks_high,omitzero" kind:"figure"`
	DeadBand   Q                        `json:"dead_band,omitzero" kind:"figure" doc:"above the low end, in V or mA, in which the speed stays at that of the low end"`
}

// MeasuredPoint is a signal at the drive's terminal, with the speed that it gave.
type MeasuredPoint struct {
	In  Q `json:"in,omitzero" kind:"ratio" doc:"V or mA, as the source is"`
	Out Q `json:"out,omitzero" kind:"speed" doc:"of the shaft"`
	// Spread is jitter; an offset is not.
	Spread Q `json:"spread,omitzero" kind:"figure" doc:"by how much it goes up and down meanwhile, from top to bottom"`
}

// Stop is how torque is taken off this drive.
type Stop struct {
	Circuit     string `json:"circuit,omitempty" doc:"id of the place's stop circuit that acts on it"`
	Still       string `json:"still,omitempty" choices:"reference-zero,motor-off,no-run" doc:"how the shaft is kept still while it is tested: zero reference, motor cable off the drive, or no run command at all"`
	As          string `json:"as,omitempty" choices:"coast,ramped" doc:"stop category 0 or 1 of IEC 60204-1"`
	Latched     string `json:"latched,omitempty" choices:"yes,no" doc:"torque off asks for a reset of the drive itself"`
	Discrepancy Q      `json:"discrepancy,omitzero" kind:"seconds" doc:"for which the drive lets its two channels disagree; blank: 0.5 s"`
	Filter      Q      `json:"filter,omitzero" kind:"seconds" doc:"gaps that the drive passes over; blank: 5 ms"`
	Speed       Q      `json:"speed,omitzero" kind:"speed" doc:"the worst from which it must stop"`
	Allowed     Q      `json:"allowed,omitzero" kind:"seconds" doc:"longest time to standstill from there that the responsible person allows"`
	Fall        Q      `json:"fall,omitzero" kind:"seconds" doc:"longest stop that was measured, of a ramped stop"`
	Drop        Q      `json:"drop,omitzero" kind:"count" doc:"mm, of a hanging load when torque goes, most that is allowed"`
	Guarding    string `json:"guarding,omitempty" choices:"locking,brake,ramped,none" doc:"what keeps hands away while it coasts"`
	None        bool   `json:"none,omitempty" doc:"no stop circuit here: the drive's torque-off inputs stay linked as ordered, and no safety function rests on them"`
	NoneBy      string `json:"none_by,omitempty" doc:"who is responsible for that, and their paper"`
	Inside      string `json:"inside,omitempty" doc:"safety functions inside the drive that are used beside torque off"`
	InsideSum   string `json:"inside_checksum,omitempty" doc:"of their settings, as the drive shows it"`
	InsideBy    string `json:"inside_holder,omitempty" doc:"who holds their password"`
	Alone       bool   `json:"alone,omitempty" doc:"a stop circuit by itself, whatever it works: of the gates only Stop is asked"`
}
