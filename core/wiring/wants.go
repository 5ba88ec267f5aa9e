// Package wiring makes the connection list of a drive's control side from what is wanted and from the family's terminals,
// and says what the drive would do were it built otherwise.
package wiring

import (
	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/finding"
)

// Wants is what is to be connected. Empty words mean nothing of the kind.
type Wants struct {
	Command   string // two-wire, three-wire, keypad, network
	Reverse   bool
	Jog       bool
	Reset     bool
	Interlock bool   // a contact that is closed while the process may run
	Second    bool   // a second enable: opens, and the drive coasts
	Hand      bool   // hand or auto, by a selector at a local panel
	Reference string // pot, voltage, current, presets, buttons, none
	RunLamp   bool
	FaultLamp bool
	Meter     bool // shows speed, from the analog output
	Brake     bool // a brake that the drive opens, by a relay of the panel
	Encoder   *Encoder
	Sensor    string // thermistor, none
	Safety    string // jumper, contacts, relay
	Logic     string // source, sink
	Supply    string // drive, outside
	Code      string // iec, nfpa: colours
	Screens   string // drive-end, both-ends: of analog and encoder cables
	Numbers   string // running, or by function
	// Own are wires that a person added or changed: one of a made wire's number takes its place.
	Own []circuit.Wire
	// Parts are the field devices of own wires that the list does not make itself.
	Parts []circuit.Part
}

// Encoder is one that is connected to the drive's module. NaN: not entered.
type Encoder struct {
	Signals     string // ttl, htl, sine
	Volts, Amps float64
}

// Assign gives a terminal its function.
type Assign struct {
	Terminal string `json:"terminal"`
	Setting  string `json:"setting"`
	Function string `json:"function" doc:"in the field's words: run-forward, reset"`
	Text     string `json:"text" doc:"in the family's words"`
	Steps    int64  `json:"steps"`
	Takes    string `json:"takes,omitempty" doc:"the delivered function that is gone then"`
}

// Position is a hardware switch with the position it must have.
type Position struct {
	Switch    string              `json:"switch"`
	Sign      string              `json:"sign"`
	Means     string              `json:"means"`
	Delivered bool                `json:"delivered" doc:"it stands so as delivered"`
	PowerOff  bool                `json:"power_off"`
	Changes   []dialect.SwitchAct `json:"changes" doc:"what the keypad calls otherwise then"`
}

// ListedWire is one wire of the list.
type ListedWire struct {
	circuit.Wire
	Rail     bool   `json:"rail"`
	Function string `json:"function,omitempty"`
	Link     bool   `json:"link" doc:"a factory link"`
	Own      bool   `json:"own" doc:"added or changed by a person"`
}

// Budget is what a supply of the drive must give, worst state.
type Budget struct {
	Name  string  `json:"name"`
	Draws float64 `json:"draws_ma"`
	Most  float64 `json:"most_ma"`
	Volts float64 `json:"volts"`
}

// Plan is the connection list with what follows from it.
type Plan struct {
	Circuit   circuit.Circuit   `json:"circuit"`
	Rows      []ListedWire      `json:"rows"`
	Assigns   []Assign          `json:"assigns"`
	Positions []Position        `json:"positions"`
	LinksOut  []string          `json:"links_out" doc:"factory links that come out"`
	Budgets   []Budget          `json:"budgets"`
	Paths     []RunPath         `json:"paths" doc:"terminals that must see a signal for the motor to run, with what can break each"`
	Findings  []finding.Finding `json:"findings"`
	Net       *circuit.Net      `json:"-"`
}

// Drive is the drive's part in every list; Strip the panel's terminal strip.
const (
	Drive = "T1"
	Strip = "X1"
)

// RelayDraws is what a lamp on a signal takes at 24 V, A. Common practice.
const lampAmps = .02

// coilAmps is what the coil of a panel's relay takes at 24 V, A. Common practice.
const coilAmps = .03

// encoderAmps is what an encoder takes while nobody knows it, A. Common practice.
const encoderAmps = .1

// mostEncoderAmps is more than any encoder takes, A. Common practice: 30 to 250 mA.
const mostEncoderAmps = 2

// potOhm is a usual speed potentiometer. Common practice.
const potOhm = 4700
