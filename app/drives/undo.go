package drives

import (
	"context"
	"fmt"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/store"
)

// Undo takes back a person's own last edit of a document, as a new change. It is refused, with the name, where
// somebody changed the same path later.
func (a *Drives) Undo(ctx context.Context, who base.Actor, docID, changeID string) error {
	if err := base.ValidID("id", changeID); err != nil {
		return err
	}
	return a.InTx(ctx, func(tx *store.Tx) error {
		if done, err := again(tx.Reader, changeID, who, docID, ""); err != nil || done {
			return err
		}
		doc, err := tx.Document(docID)
		if err != nil {
			return err
		}
		p, by, err := base.SignerAt(tx.Reader, doc.Place, who)
		if err != nil {
			return err
		}
		changes, err := tx.Changes(docID)
		if err != nil {
			return err
		}
		e := base.LastEdit(changes, who)
		if e == nil {
			return base.Refuse("There is no edit of yours to undo.")
		}
		touched := map[string]bool{}
		for _, op := range e.Ops {
			touched[op.Path] = true
		}
		for _, c := range changes {
			if c.Seq <= e.Seq || c.Edit == e.Edit || c.By == who.Person {
				continue
			}
			for _, op := range c.Ops {
				if touched[op.Path] {
					return base.Refuse(fmt.Sprintf("%s changed %s after you: undo would lose it.", a.nameOf(tx.Reader, docID, c.By),
						drivefile.Called(op.Path)))
				}
			}
		}
		if err := a.staysTrue(tx, doc, p, drivefile.Invert(e.Ops)); err != nil {
			return err
		}
		doc, body, err := a.upgraded(tx, by, doc)
		if err != nil {
			return err
		}
		return a.apply(tx, by, doc, body, drivefile.Invert(e.Ops), Edit{ID: changeID, Edit: changeID, Why: "undo of " + base.Describe(e)},
			e.Edit)
	})
}
