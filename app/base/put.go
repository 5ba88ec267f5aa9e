package base

import (
	"context"
	"encoding/json"
	"errors"

	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/record"
	"tingate/store"
)

// Situation is what an act on a drive sees, inside its transaction.
type Situation struct {
	Job   gate.Job
	State gate.State
	tx    *store.Tx
}

// Put adds an entry to a drive. make sees what holds now and gives the body. A repeated id is answered, not done again.
func (a *Base) Put(ctx context.Context, who Actor, driveID, id, kind string, make func(Situation) (any, error)) error {
	return a.PutAll(ctx, who, driveID, id, kind, func(s Situation) ([]any, error) {
		body, err := make(s)
		return []any{body}, err
	})
}

// PutAll adds several entries that belong together: all of them, or none. The first has the id.
func (a *Base) PutAll(ctx context.Context, who Actor, driveID, id, kind string, make func(Situation) ([]any, error)) error {
	if err := ValidID("id", id); err != nil {
		return err
	}
	return a.InTx(ctx, func(tx *store.Tx) error {
		if done, err := Recorded(tx.Reader, id, who, driveID, kind); err != nil || done {
			return err
		}
		doc, err := DriveDoc(tx.Reader, driveID)
		if err != nil {
			return err
		}
		j, _, err := a.Job(tx.Reader, doc)
		if err != nil {
			return err
		}
		by, err := PersonOf(j.Place, who)
		if err != nil {
			return err
		}
		bodies, err := make(Situation{j, a.Evaluate(j), tx})
		if err != nil {
			return err
		}
		for _, body := range bodies {
			if err := a.AddEntry(tx, by, doc.ID, id, kind, OfDrive(body, j.Drive)); err != nil {
				return err
			}
			id = NewID()
		}
		return a.PutGlance(tx, doc)
	})
}

// OfDrive writes the drive's serial on what is read from it, set in it or kept of it.
func OfDrive(body any, d drivefile.Drive) any {
	serial := record.SerialOf(d)
	switch b := body.(type) {
	case drivefile.Reading:
		b.Serial = serial
		return b
	case drivefile.Entered:
		b.Serial = serial
		return b
	case drivefile.Write:
		b.Serial = serial
		return b
	case drivefile.Snapshot:
		b.Serial = serial
		return b
	}
	return body
}

// Recorded answers an entry that is stored already, and lets nothing else use its id.
func Recorded(r store.Reader, id string, who Actor, docID, kind string) (ours bool, err error) {
	e, err := r.Entry(id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err == nil && (e.Doc != docID || e.By != who.Person || e.Kind != kind) {
		err = Bad("id", id, "an id that is not taken: another entry has it")
	}
	return err == nil, err
}

func (a *Base) AddEntry(tx *store.Tx, who Signer, docID, id, kind string, body any) error {
	if who.Person == "" {
		return Refuse("Say who works first: choose your initials at the top right.")
	}
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	seq, err := tx.NextSeq(1)
	if err != nil {
		return err
	}
	return tx.AddEntry(drivefile.Entry{ID: id, Seq: seq, Doc: docID, Kind: kind, By: who.Person, Device: who.Device, At: a.Stamp(),
		Body: raw, Initials: who.Initials, Name: who.Name, Clock: a.Clock})
}

func AsShown(v any) json.RawMessage {
	raw, _ := json.Marshal(v) // what is shown was made to be JSON
	return raw
}
