package drives

import (
	"context"
	"maps"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/store"
)

// CreatePlace makes a place with its first person. Whether it is real or simulated is said now, and for good.
func (a *Drives) CreatePlace(ctx context.Context, id, name, kind, zone string, people map[string]drivefile.Person) error {
	if err := base.ValidID("id", id); err != nil {
		return err
	}
	if strings.TrimSpace(name) == "" {
		return base.Bad("name", "nothing", "the name of the place")
	}
	if len(people) == 0 {
		return base.Bad("people", "nobody", "the person who makes the place")
	}
	if err := a.Takes(kind); err != nil {
		return err
	}
	p := drivefile.Place{Schema: drivefile.Schema, Name: name, Kind: kind, Zone: zone, People: people}
	body := drivefile.FromStruct(p)
	if err := drivefile.ValidateDocument(drivefile.KindPlace, body.JSON()); err != nil {
		return err
	}
	first := slices.Sorted(maps.Keys(people))[0]
	if strings.TrimSpace(people[first].Initials) == "" {
		return base.Bad("people."+first+".initials", "nothing", "the initials of the person who makes the place")
	}
	by, err := base.PersonOf(p, base.Actor{Person: first})
	if err != nil {
		return err
	}
	return a.create(ctx, by, store.Document{ID: id, Kind: drivefile.KindPlace, Place: id}, body, "new place")
}

// Takes refuses a kind of place that this data folder does not take: one that was made for simulation never takes a real one.
func (a *Drives) Takes(kind string) error {
	switch {
	case kind != drivefile.Real && kind != drivefile.Simulated:
		return base.Bad("kind", base.OrBlank(kind), "real or simulated")
	case kind == drivefile.Real && a.Store.Simulated():
		return base.Refuse("This data folder was made for simulation: it never takes a real place. Start the program on another folder " +
			"for one.")
	}
	return nil
}

// create stores a new document with the change that made it. An id that is there already is answered, not done again.
func (a *Drives) create(ctx context.Context, who base.Signer, doc store.Document, body drivefile.Body, why string) error {
	return a.InTx(ctx, func(tx *store.Tx) error {
		if have, err := tx.Document(doc.ID); err == nil {
			if have.Kind != doc.Kind || have.Place != doc.Place {
				return base.Bad("id", doc.ID, "an id that is not taken")
			}
			return nil
		}
		seq, err := tx.NextSeq(1)
		if err != nil {
			return err
		}
		doc.Version, doc.Body = 1, body.JSON()
		if err := tx.PutDocument(doc); err != nil {
			return err
		}
		if err := tx.AddChange(store.Change{Seq: seq, ID: base.NewID(), Doc: doc.ID, Version: 1, By: who.Person, Device: who.Device,
			At: a.Stamp(), Edit: base.OfProgram, Why: why, Ops: body.Leaves(), Initials: who.Initials, Name: who.Name,
			Clock: a.Clock}); err != nil {
			return err
		}
		if doc.Kind == drivefile.KindDrive {
			return a.PutGlance(tx, doc)
		}
		return nil
	})
}

// NewDrive describes a drive to be made.
type NewDrive struct {
	ID       string `json:"id"`
	Place    string `json:"place"`
	CopyFrom string `json:"copy_from,omitempty" doc:"id of a like drive: family, motor type, intent are taken over; serials, readings and decisions are not"`
	Sets     []Set  `json:"sets"`
}

// CreateDrive makes a drive, empty or like another.
func (a *Drives) CreateDrive(ctx context.Context, who base.Actor, n NewDrive) (base.View, error) {
	if err := base.ValidID("id", n.ID); err != nil {
		return base.View{}, err
	}
	r := a.Store.Read(ctx)
	_, p, err := base.PlaceOf(r, n.Place)
	if err != nil {
		return base.View{}, base.Bad("place", n.Place, "the id of a place")
	}
	by, err := base.PersonOf(p, who)
	if err != nil {
		return base.View{}, err
	}
	body := drivefile.FromStruct(drivefile.Drive{Schema: drivefile.Schema, Place: n.Place})
	if n.CopyFrom != "" {
		src, err := base.DriveDoc(r, n.CopyFrom)
		if err != nil {
			return base.View{}, base.Bad("copy_from", n.CopyFrom, "the id of a drive")
		}
		b, err := drivefile.ParseBody(src.Body)
		if err != nil {
			return base.View{}, err
		}
		for _, op := range b.Leaves() {
			if !belongsToOne(op.Path) {
				_ = body.Apply([]drivefile.Op{op}) // a stored leaf is JSON
			}
		}
	}
	ops, err := a.Operations(drivefile.KindDrive, body, Edit{Sets: n.Sets}, nil)
	if err != nil {
		return base.View{}, err
	}
	if err := body.Apply(ops); err != nil {
		return base.View{}, err
	}
	why := "new drive"
	if n.CopyFrom != "" {
		why = "copied from a like drive"
	}
	if err := a.create(ctx, by, store.Document{ID: n.ID, Kind: drivefile.KindDrive, Place: n.Place}, body, why); err != nil {
		return base.View{}, err
	}
	return a.Drive(ctx, who, n.ID)
}

// belongsToOne are the fields of one drive that a copy must not take over: what it is called, what was measured, found, landed or seen of
// it. A copy takes the plan.
func belongsToOne(path string) bool {
	switch path {
	case "schema", "place", "tag", "notes", "archived", "rating.serial", "rating.no_serial", "motor.no_serial", "rating.firmware",
		"motor.serial", "motor.fitted_joins", "motor.fitted_lines", "turn.phases", "stop.fall", "stop.alone", "stop.inside_checksum":
		return true
	}
	for _, found := range []string{"ran.", "signal.points.", "link."} {
		if strings.HasPrefix(path, found) {
			return true
		}
	}
	return false
}
