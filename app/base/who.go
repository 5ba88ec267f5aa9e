package base

import (
	"strings"

	"github.com/google/uuid"

	"tingate/core/drivefile"
	"tingate/core/isolation"
	"tingate/store"
)

// Actor is who acts, from which browser. Name is of one who is no person of the place: the account of a command line.
type Actor struct{ Person, Device, Name string }

// StampLayout is how times are written on records.
const StampLayout = "2006-01-02T15:04:05.000Z"

func (a *Base) Stamp() string { return a.Now().UTC().Format(StampLayout) }

// NewID makes a UUIDv7, for acts that have no edge to make one.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

func ValidID(field, id string) error {
	if err := uuid.Validate(id); err != nil || len(id) != 36 {
		return Bad(field, id, "a UUID made by the client")
	}
	return nil
}

// Signer is who acts, with the name that stands on what is done: as it is written now, whatever becomes of the person.
type Signer struct {
	Actor
	Initials, Name string
}

// PersonOf checks that whoever acts is known at the place.
func PersonOf(p drivefile.Place, who Actor) (Signer, error) {
	if per, ok := p.People[who.Person]; ok && who.Person != "" {
		return Signer{who, per.Initials, per.Name}, nil
	}
	return Signer{}, Refuse("Say who works first: choose your initials at the top right.")
}

// BroughtBy is who brings something in that is not of one place only: a person of the place, or who started the program.
func BroughtBy(p drivefile.Place, who Actor) Signer {
	if s, err := PersonOf(p, who); err == nil {
		return s
	}
	s := Signer{who, "–", who.Name}
	s.Person = "this-computer"
	if s.Name == "" {
		s.Name = "somebody at this computer, before a person was chosen"
	}
	return s
}

// SignerAt is a place, and who acts there.
func SignerAt(r store.Reader, placeID string, who Actor) (drivefile.Place, Signer, error) {
	_, p, err := PlaceOf(r, placeID)
	if err != nil {
		return p, Signer{}, err
	}
	by, err := PersonOf(p, who)
	return p, by, err
}

func Owners(p drivefile.Place, l []isolation.Locked) string {
	var names []string
	for _, x := range l {
		names = append(names, p.People[x.Owner].Initials)
	}
	return strings.Join(names, ", ")
}
