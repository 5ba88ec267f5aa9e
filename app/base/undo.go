package base

import (
	"fmt"
	"strings"

	"tingate/core/drivefile"
	"tingate/store"
)

// OfProgram is the visit of what the program itself changes: no undo takes it back. Nobody's edit may take that name.
const OfProgram = "create"

// edited is one visit of a field: all its changes as one.
type edited struct {
	Edit string
	Ops  []drivefile.Op
	Seq  int64
}

// LastEdit finds a person's last edit that is not undone; nil when there is none.
func LastEdit(changes []store.Change, who Actor) *edited {
	undone := map[string]bool{}
	for _, c := range changes {
		if c.Undoes != "" {
			undone[c.Undoes] = true
		}
	}
	var e *edited
	for i := len(changes) - 1; i >= 0; i-- {
		c := changes[i]
		if c.By != who.Person || c.Undoes != "" || undone[c.Edit] || c.Edit == OfProgram {
			continue
		}
		if e == nil {
			e = &edited{Edit: c.Edit, Seq: c.Seq}
		}
		if c.Edit == e.Edit {
			e.Ops = append(append([]drivefile.Op{}, c.Ops...), e.Ops...)
		}
	}
	return e
}

func Describe(e *edited) string {
	seen, list := map[string]bool{}, []string{}
	for _, op := range e.Ops {
		if l := drivefile.Called(op.Path); !seen[l] {
			seen[l] = true
			list = append(list, l)
		}
	}
	if len(list) > 3 {
		return fmt.Sprintf("%s and %d more", list[0], len(list)-1)
	}
	return strings.Join(list, ", ")
}

// UndoLooksBack is how many changes a view looks through for the name of one's own last edit.
const UndoLooksBack = 200
