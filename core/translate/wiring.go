package translate

import (
	"maps"
	"slices"
	"strings"

	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/wiring"
)

// Wants is what is to be connected, with the end at which screens are landed.
func Wants(drive drivefile.Drive, screens string) wiring.Wants {
	d := drive.Wiring
	w := wiring.Wants{Command: d.Command, Reverse: d.Reverse, Jog: d.Jog, Reset: d.Reset, Interlock: d.Interlock, Second: d.Second,
		Hand: d.Hand, Reference: d.Reference,
		RunLamp: d.RunLamp, FaultLamp: d.FaultLamp, Meter: d.Meter, Brake: drive.Turn.Brake == "drive", Encoder: encoder(drive.Site),
		Sensor: d.Sensor, Safety: d.Safety, Logic: d.Logic, Supply: d.Supply, Code: d.Code, Numbers: d.Numbers, Screens: screens}
	for _, id := range slices.Sorted(maps.Keys(d.Devices)) {
		x := d.Devices[id]
		p := circuit.Part{ID: id, Kind: x.Kind, Name: x.Name}
		for _, t := range strings.Split(x.Terminals, ",") {
			if t = strings.TrimSpace(t); t != "" {
				p.Terminals = append(p.Terminals, t)
			}
		}
		w.Parts = append(w.Parts, p)
	}
	for _, id := range slices.Sorted(maps.Keys(d.Wires)) {
		x := d.Wires[id]
		w.Own = append(w.Own, circuit.Wire{ID: id, From: x.From, To: x.To, Colour: x.Colour, Area: x.Area, Screen: x.Screen, Why: x.Why})
	}
	return w
}

// Modules are those that are meant to be in the drive: those chosen, and the one that an encoder goes to.
func Modules(f *dialect.Family, d drivefile.Drive) []dialect.Module {
	if f == nil {
		return nil
	}
	l, _ := f.ModulesOf(d.Wiring.Modules)
	m, ok := f.EncoderModule()
	own := slices.ContainsFunc(f.Terminals, func(t dialect.Terminal) bool { return t.Kind == "encoder" })
	if ok && !own && d.Site.Encoder == "wanted" && !slices.ContainsFunc(l, func(x dialect.Module) bool { return x.Code == m.Code }) {
		l = append(l, m)
	}
	return l
}

// Fitted is the family as this drive is meant to have it: with the modules that are to be in it, its speeds counted as they are wished.
func Fitted(f *dialect.Family, d drivefile.Drive) *dialect.Family {
	return f.Fitted(Modules(f, d)).CountedIn(d.Intent.SpeedUnit)
}

// encoder is the encoder that is to be connected; nil: none is wanted.
func encoder(s drivefile.Site) *wiring.Encoder {
	if s.Encoder != "wanted" {
		return nil
	}
	return &wiring.Encoder{Signals: s.EncoderType, Volts: s.EncoderVolts.Num(quantity.Voltage, "V"),
		Amps: s.EncoderAmps.Num(quantity.Current, "A")}
}
