package demo

import (
	"context"
	"fmt"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/store"
)

// snapshotsPerDrive times some thirty settings make 300 values a drive.
const snapshotsPerDrive = 10

// Generate makes a place with many drives of made-up figures, each with ten snapshots, for measuring.
func Generate(ctx context.Context, a *app.App, name string, drives int) error {
	placeID, person := base.NewID(), base.NewID()
	if err := a.CreatePlace(ctx, placeID, name, drivefile.Simulated, "UTC",
		map[string]drivefile.Person{person: {Initials: "RH", Trade: "technician"}}); err != nil {
		return err
	}
	who := base.Signer{Actor: base.Actor{Person: person}, Initials: "RH"}
	machines := []string{"Drum dryer", "Bucket elevator", "Hammer mill", "Screw press", "Exhaust fan", "Brine pump", "Landing winch",
		"Blade sorter", "Soak tank stirrer"}
	areas := []string{"drying hall", "intake", "milling", "press row", "slip"}
	const batch = 500
	for from := 0; from < drives; from += batch {
		err := a.InTx(ctx, func(tx *store.Tx) error {
			for i := from; i < min(from+batch, drives); i++ {
				if err := generateDrive(a, tx, who, placeID, i, machines[i%len(machines)], areas[i%len(areas)]); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func generateDrive(a *app.App, tx *store.Tx, who base.Signer, placeID string, i int, machine, area string) error {
	kw := []string{"0.37", "1.5", "4", "7.5", "15", "30"}[i%6]
	amps := []string{"1.1", "3.3", "8.1", "15.5", "28.5", "55"}[i%6]
	rpm := []string{"1395", "1440", "1455", "1455", "1465", "1475"}[i%6]
	row := base.NewID()
	body := drivefile.FromStruct(drivefile.Drive{Schema: drivefile.Schema, Place: placeID})
	sets := []drives.Set{}
	set := func(path, text string) { sets = append(sets, drives.Set{Path: path, Text: text}) }
	set("tag", fmt.Sprintf("M-%05d", i+1))
	set("machine", machine)
	set("where", area)
	set("rating.dialect", []string{"Brae", "Tarn"}[i%2])
	set("rating.current", []string{"2.5", "5", "10", "16", "32", "61"}[i%6])
	set("rating.serial", fmt.Sprintf("S%07d", i*7919%9999991))
	for f, v := range map[string]string{"connection": "star", "voltage": "400", "frequency": "50", "power": kw, "current": amps,
		"speed": rpm, "power_factor": "0.83"} {
		set("motor.rows."+row+"."+f, v)
	}
	set("motor.linked", row)
	for f, v := range map[string]string{"load": "constant", "lowest_speed": "360", "highest_speed": "1450", "rise": "8 s", "fall": "10 s",
		"control": "volts-per-hertz", "overload_class": "10",
		"current_limit": "150", "stop_mode": "ramp", "direction": "forward", "command_source": "terminals", "speed_source": "presets",
		"preset_1": fmt.Sprint(400 + i%900)} {
		set("intent."+f, v)
	}
	ops, err := a.Operations(drivefile.KindDrive, body, drives.Edit{Sets: sets}, tx)
	if err != nil {
		return err
	}
	if err := body.Apply(ops); err != nil {
		return err
	}
	doc := store.Document{ID: base.NewID(), Kind: drivefile.KindDrive, Place: placeID, Version: 1, Body: body.JSON()}
	if err := tx.PutDocument(doc); err != nil {
		return err
	}
	seq, err := tx.NextSeq(1)
	if err != nil {
		return err
	}
	if err := tx.AddChange(store.Change{Seq: seq, ID: base.NewID(), Doc: doc.ID, Version: 1, By: who.Person, At: a.Stamp(),
		Edit: base.OfProgram, Why: "new drive", Ops: body.Leaves(), Initials: who.Initials}); err != nil {
		return err
	}
	if err := generateSnapshots(a, tx, who, doc); err != nil {
		return err
	}
	return a.PutGlance(tx, doc)
}

func generateSnapshots(a *app.App, tx *store.Tx, who base.Signer, doc store.Document) error {
	j, _, err := a.Job(tx.Reader, doc)
	if err != nil {
		return err
	}
	lines := gate.Evaluate(j, a.Now()).Lines
	for k := range snapshotsPerDrive {
		snap := drivefile.Snapshot{
			Name:    "as-left",
			Dialect: j.Family.Name,
			Version: j.Family.Version,
			Hash:    j.Family.Hash,
			How:     drivefile.OverLink,
			Values:  map[string]drivefile.Value{},
		}
		if k == 0 {
			snap.Name = "as-found"
		}
		for i := range j.Family.Settings {
			s := &j.Family.Settings[i]
			snap.Values[s.Code] = drivefile.Value{Steps: s.DeliverySteps(), Text: s.Text(s.DeliverySteps())}
		}
		for _, l := range lines[:min(len(lines), 4*k)] {
			if s, ok := j.Family.Setting(l.Code); ok && l.Planned {
				snap.Values[l.Code] = drivefile.Value{Steps: l.Steps, Text: s.AsRead(l.Steps, l.SetTo)}
			}
		}
		if err := a.AddEntry(tx, who, doc.ID, base.NewID(), drivefile.EntrySnapshot, base.OfDrive(snap, j.Drive)); err != nil {
			return err
		}
	}
	return nil
}
