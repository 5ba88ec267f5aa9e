package drivefile

// StopCircuit is the circuit that takes torque off one drive or several, as it is drawn.
type StopCircuit struct {
	Name        string                `json:"name"`
	Kind        string                `json:"kind,omitempty" choices:"two-channel,one-channel,controller" doc:"contacts in series of both channels, of one, or every device on inputs of its own"`
	Devices     map[string]StopDevice `json:"devices,omitempty" doc:"by mark, like S1; in the order of the marks"`
	Reset       string                `json:"reset,omitempty" choices:"let-go,pressed,automatic" doc:"how the relay starts; blank: let-go"`
	ResetAt     string                `json:"reset_at,omitempty" doc:"where its button stands"`
	Feed        string                `json:"feed,omitempty" choices:"one,two,pulsed" doc:"of the channels: from one potential, from both, or with test pulses; blank: one"`
	Contactors  string                `json:"contactors,omitempty" choices:"0,1,2" doc:"with mirror contacts, fed back into the reset"`
	Lamps       string                `json:"lamps,omitempty" choices:"none,two,three" doc:"ready and tripped; and reset wanted"`
	Delay       Q                     `json:"delay,omitzero" kind:"seconds" doc:"of the outputs to the drive, while it ramps down; blank: none"`
	Discrepancy Q                     `json:"discrepancy,omitzero" kind:"seconds" doc:"within which both channels must close; blank: 1.5 s"`
	Supply      string                `json:"supply,omitempty" choices:"outside,drive" doc:"of the 24 V; blank: outside"`
	Commons     string                `json:"commons,omitempty" choices:"linked,split" doc:"0 V of the drives' channels; blank: linked"`
	Drives      string                `json:"drives,omitempty" doc:"tags of further drives on its outputs, separated by commas"`
	Status      bool                  `json:"status,omitempty" doc:"the drives' status contacts, closed with torque off, stand in the reset's way"`
	StartDelay  Q                     `json:"start_delay,omitzero" kind:"seconds" doc:"from the reset until the outputs close; blank: none"`
	Fuse        bool                  `json:"fuse,omitempty" doc:"in the plus of the circuit"`
	Aux         string                `json:"aux,omitempty" choices:"0,1,2,3,4" doc:"single enabling contacts on inputs of their own"`
	OutPulse    Q                     `json:"out_pulse,omitzero" kind:"seconds" doc:"width of test pulses on its outputs; blank: none, as of contacts"`
	Interlock   bool                  `json:"interlock,omitempty" doc:"the drives' interlock inputs stand behind a contact of its own"`
	Jumper      bool                  `json:"jumper,omitempty" doc:"the factory links are still in"`
	Own         string                `json:"own,omitempty" doc:"hash of an imported circuit that takes the place of the drawn one"`
	By          string                `json:"by,omitempty" doc:"who is responsible for the safety function"`
	Paper       string                `json:"paper,omitempty" doc:"their document, with its issue"`
	Category    string                `json:"category,omitempty" choices:"B,1,2,3,4" doc:"as given by the responsible person"`
	Required    string                `json:"required,omitempty" choices:"a,b,c,d,e" doc:"performance level required, as given"`
	Reached     string                `json:"reached,omitempty" choices:"a,b,c,d,e" doc:"performance level reached, as given"`
	MTTFD       Q                     `json:"mttfd,omitzero" kind:"count" doc:"years, of each channel, as given"`
	DC          Q                     `json:"dc,omitzero" kind:"percent" doc:"diagnostic coverage, as given"`
	CCF         Q                     `json:"ccf,omitzero" kind:"count" doc:"points against common causes, as given"`
	Distance    Q                     `json:"distance,omitzero" kind:"length" doc:"from the device to the hazard, as given"`
	Approach    string                `json:"approach,omitempty" choices:"vertical-field,parallel-field,two-hand,interlock-or-other" doc:"device by which ISO 13855 counts"`
	Resolution  Q                     `json:"resolution,omitzero" kind:"count" doc:"mm, of a light curtain"`
	StopTime    Q                     `json:"stop_time,omitzero" kind:"seconds" doc:"of everything from the device to standstill, as given"`
	Program     string                `json:"program,omitempty" doc:"of a configurable controller"`
	Checksum    string                `json:"checksum,omitempty"`
	Next        string                `json:"next,omitempty" doc:"date of the next proof test"`
}

// StopDevice is one device of a stop circuit.
type StopDevice struct {
	Name string `json:"name,omitempty" doc:"where it stands"`
	Kind string `json:"kind,omitempty" choices:"emergency-stop,guard,light-curtain,key,reset-guard" doc:"reset-guard: a guard whose own reset stands outside"`
}
