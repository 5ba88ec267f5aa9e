// Package sample builds documents for tests, in one place.
package sample

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"strings"
	"time"

	"tingate/core/drivefile"
)

// Q reads a text as a field's quantity, as a person would type it there.
func Q(path, text string) drivefile.Q {
	f, err := drivefile.Lookup(drivefile.KindDrive, path)
	if err != nil {
		panic(err)
	}
	raw, _, err := f.Entry(text)
	if err != nil {
		panic(err)
	}
	var q drivefile.Q
	if err := json.Unmarshal(raw, &q); err != nil {
		panic(err)
	}
	return q
}

// Rows' ids, in order.
const (
	Star  = "01900000-0000-7000-8000-000000000001"
	Delta = "01900000-0000-7000-8000-000000000002"
	Me    = "01900000-0000-7000-8000-0000000000aa"
)

func row(connection, v, hz, kw, a, n, pf string) drivefile.Row {
	p := "motor.rows.x."
	return drivefile.Row{Connection: connection, Voltage: Q(p+"voltage", v), Frequency: Q(p+"frequency", hz),
		Power: Q(p+"power", kw+" kW"), Current: Q(p+"current", a), Speed: Q(p+"speed", n), PowerFactor: Q(p+"power_factor", pf)}
}

// Dryer is a sound 7.5 kW drum dryer on a 16 A Tarn, everything entered, nothing read back.
func Dryer() drivefile.Drive {
	q := func(path, text string) drivefile.Q { return Q("intent."+path, text) }
	slope := func(text string, v float64) drivefile.Q { return drivefile.Q{Text: text, Value: &v, Unit: "r/min/s"} }
	return drivefile.Drive{
		Schema: drivefile.Schema, Place: "01900000-0000-7000-8000-00000000000f", Tag: "DD-02", Machine: "Drum dryer", Where: "drying hall",
		Supplies: map[string]bool{"p1": true},
		Rating:   drivefile.Rating{Dialect: "Tarn", Serial: DriveSerial, Current: Q("rating.current", "16 A")},
		Motor: drivefile.Motor{Linked: Star, Serial: MotorSerial, ServiceFactor: Q("motor.service_factor", "1.15"),
			Rows: map[string]drivefile.Row{Star: row("star", "400", "50", "7.5", "15.5", "1455", "0.83"),
				Delta: row("delta", "230", "50", "7.5", "26.8", "1455", "0.83")}},
		Intent: drivefile.Intent{Load: "constant", LoadTorque: q("load_torque", "100"), LowestSpeed: q("lowest_speed", "360"),
			HighestSpeed: q("highest_speed", "1455"),
			Rise:         slope("8 s", 1455./8), Fall: slope("10 s", 145.5), StopMode: "ramp", Control: "volts-per-hertz", Slip: "off",
			Pattern: "constant", Direction: "forward", OverloadClass: "10",
			CurrentLimit: q("current_limit", "150"), Restart: "off", CommandSource: "terminals", SpeedSource: "voltage",
			ReferenceLow: q("reference_low", "0"), ReferenceHigh: q("reference_high", "1455"),
			ReferenceLoss: "stop", Jog: q("jog", "150"), TorqueOffShows: "stop"},
		Turn: drivefile.Turn{Forward: "drum carries to the outlet", From: "drive-end", Sense: "clockwise", Stands: "uncoupled",
			Uncouple: "yes", Brake: "none"},
		Stop: drivefile.Stop{Circuit: "line-1", Still: "no-run", As: "coast", Latched: "no", Speed: Q("stop.speed", "1455"),
			Allowed: Q("stop.allowed", "3 s"), Guarding: "locking"},
	}
}

// Meter is the id of the place's meter, M3, which finds out by itself what it measures.
const Meter = "m3"

// Place is simulated, and has one person, one supply and one meter.
func Place() drivefile.Place {
	return drivefile.Place{Schema: drivefile.Schema, Name: "Skerrow Kelp Works", Kind: drivefile.Simulated, Zone: "UTC",
		Instruments: map[string]drivefile.Instrument{Meter: {Number: "M3", Role: drivefile.RoleMeter, Measures: "automatic"}},
		People:      map[string]drivefile.Person{Me: {Initials: "RH", Trade: "technician"}},
		Supplies: map[string]drivefile.Supply{"p1": {Name: "Panel P1", Voltage: Q("rating.voltage", "400"),
			Frequency: Q("motor.rows.x.frequency", "50")}},
		Circuits: map[string]drivefile.StopCircuit{"line-1": {Name: "Drying hall", Kind: "two-channel", Feed: "pulsed", Reset: "let-go",
			Lamps: "two", By: "I. Brekke", Paper: "SK-114", Category: "3", Required: "d", Reached: "d", Next: "2027-05",
			Devices: map[string]drivefile.StopDevice{"S1": {Name: "feed end", Kind: "emergency-stop"},
				"S2": {Name: "discharge", Kind: "emergency-stop"}}}}}
}

// Serials of the sample's drive and motor.
const (
	DriveSerial = "TN-0417"
	MotorSerial = "M-2231"
)

// OfDryer writes the sample's serials on what is recorded of it, where nothing else stands.
func OfDryer(body any) any {
	switch b := body.(type) {
	case drivefile.Reading:
		b.Serial = cmp.Or(b.Serial, DriveSerial)
		return b
	case drivefile.Entered:
		b.Serial = cmp.Or(b.Serial, DriveSerial)
		return b
	case drivefile.Write:
		b.Serial = cmp.Or(b.Serial, DriveSerial)
		return b
	case drivefile.Snapshot:
		b.Serial = cmp.Or(b.Serial, DriveSerial)
		return b
	case drivefile.Evidence:
		if strings.HasPrefix(b.Key, "dead/") || strings.HasPrefix(b.Key, "match/") {
			return b
		}
		basis := map[string]string{"drive serial": DriveSerial, "motor serial": MotorSerial}
		maps.Copy(basis, b.Basis)
		b.Basis = basis
		return b
	}
	return body
}

// Entry makes an entry of a kind with the next number, of the sample's drive and motor.
func Entry(list []drivefile.Entry, kind string, body any) []drivefile.Entry {
	raw, err := json.Marshal(OfDryer(body))
	if err != nil {
		panic(err)
	}
	n := int64(len(list) + 1)
	at := time.Date(2026, 11, 25, 9, int(n), 0, 0, time.UTC).Format("2006-01-02T15:04:05.000Z")
	return append(list, drivefile.Entry{ID: fmt.Sprintf("01900000-0000-7000-9000-%012d", n), Seq: n, Kind: kind, By: Me, At: at, Body: raw})
}
