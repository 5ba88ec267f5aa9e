package drives

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/store"
)

// sameOnly lets a repeat of a change be answered, and nothing else use its id: not another person, not another document, not another edit.
func sameOnly(c store.Change, who base.Actor, docID, edit string) error {
	if c.Doc != docID || c.By != who.Person || edit != "" && c.Edit != edit {
		return base.Bad("id", c.ID, "an id that is not taken: another edit has it")
	}
	return nil
}

// again answers a change that is stored already; ours tells whether it is.
func again(r store.Reader, id string, who base.Actor, docID, edit string) (ours bool, err error) {
	c, err := r.Change(id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	return true, sameOnly(c, who, docID, edit)
}

// joins lets a person enter themselves at a place before anybody is chosen: with their initials, which stand on it at once.
func joins(doc store.Document, e Edit, who base.Actor, not error) (base.Signer, error) {
	s := base.Signer{Actor: who}
	if doc.Kind != drivefile.KindPlace || base.ValidID("person", who.Person) != nil {
		return s, not
	}
	mine := "people." + who.Person + "."
	for _, x := range e.Sets {
		if !strings.HasPrefix(x.Path, mine) {
			return s, not
		}
		switch x.Path {
		case mine + "initials":
			s.Initials = strings.TrimSpace(x.Text)
		case mine + "name":
			s.Name = strings.TrimSpace(x.Text)
		}
	}
	if s.Initials == "" {
		return s, base.Bad(mine+"initials", "nothing", "the initials of who enters themselves")
	}
	return s, nil
}

// Sendable says whether an edit is one that a person may send.
func (e Edit) Sendable() error {
	if e.Edit == base.OfProgram {
		return base.Bad("edit", e.Edit, "an id made by the client")
	}
	return nil
}

// visitOf wants one visit of a field to be one person's: what another groups with it would stand under the wrong name.
func visitOf(r store.Reader, docID, edit string, who base.Actor) error {
	if edit == "" || edit == base.OfProgram {
		return nil
	}
	if len(edit) > 100 {
		return base.Bad("edit", fmt.Sprint(len(edit), " characters"), "at most 100")
	}
	changes, err := r.RecentChanges(docID, base.UndoLooksBack)
	if err != nil {
		return err
	}
	for _, c := range changes {
		if c.Edit == edit && c.By != who.Person {
			return base.Bad("edit", edit, "an id that is not taken: "+base.OrBlank(c.Initials)+" has it for another edit")
		}
	}
	return nil
}

// typedAt is when something was typed, where that was more than a few seconds before it came. A time to come is none.
func (a *Drives) typedAt(text string) (string, error) {
	if text == "" {
		return "", nil
	}
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return "", base.Bad("typed", text, "a time in UTC, like 2026-11-25T10:00:00Z")
	}
	if late := a.Now().Sub(t); late < 10*time.Second || t.Year() < 2000 {
		return "", nil
	}
	return t.UTC().Format("2006-01-02T15:04:05.000Z"), nil
}

// blame fills in who made the value that is in the way.
func (a *Drives) blame(tx *store.Tx, docID string, c *base.ConflictError) {
	changes, err := tx.Changes(docID)
	if err != nil {
		return
	}
	for _, ch := range changes {
		for _, op := range ch.Ops {
			if op.Path == c.Path {
				c.By, c.At = a.nameOf(tx.Reader, docID, ch.By), ch.At
			}
		}
	}
}

func (a *Drives) nameOf(r store.Reader, docID, personID string) string {
	doc, err := r.Document(docID)
	if err != nil {
		return personID
	}
	_, p, err := base.PlaceOf(r, doc.Place)
	if err != nil {
		return personID
	}
	if per, ok := p.People[personID]; ok && per.Initials != "" {
		return per.Initials
	}
	return "somebody"
}
