package exchange

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"tingate/app/base"
	"tingate/core/drivefile"
	"tingate/store"
)

// named says of which document of a bundle something is wrong.
func named(name string, err error) error {
	var fe *drivefile.FieldError
	var newer *drivefile.NewerSchemaError
	switch {
	case errors.As(err, &newer):
		return err
	case errors.As(err, &fe):
		return base.Bad(name+" "+fe.Field, fe.Got, fe.Want)
	}
	return base.Bad(name, err.Error(), "a document of docs/formats/bundle.md")
}

// followsFrom makes the document again from its changes, and looks at each of them.
func followsFrom(p packed) error {
	body := drivefile.Body{}
	for _, c := range p.Changes {
		bad := func(field, got, want string) error {
			return &drivefile.FieldError{Field: fmt.Sprintf("change %d %s", c.N, field), Got: got, Want: want}
		}
		switch {
		case !drivefile.ValidID(c.ID):
			return bad("id", c.ID, "a UUID in lower case")
		case !drivefile.ValidTime(c.At):
			return bad("at", c.At, "a time in UTC, like 2026-11-25T10:00:00.000Z")
		case c.By == "" && (c.Edit != base.OfProgram || p.Place != p.ID): // an earlier version made places without a name
			return bad("by", "nothing", "the id of the person who did it")
		case c.Edit == "" || len(c.Edit) > 100 || len(c.By) > 100 || len(c.Device) > 200 || len(c.Why) > 4000 || len(c.Initials) > 100 ||
			len(c.Name) > 200 || len(c.Clock) > 200:
			return bad("edit, by, device or why", "nothing, or a long text", "texts as the program writes them")
		case c.Typed != "" && !drivefile.ValidTime(c.Typed):
			return bad("typed", c.Typed, "a time in UTC")
		}
		if err := body.Apply(c.Ops); err != nil {
			return err
		}
	}
	var doc any
	if err := json.Unmarshal(p.Document, &doc); err != nil {
		return err
	}
	if !reflect.DeepEqual(map[string]any(body), doc) {
		return &drivefile.FieldError{Field: "document", Got: "one that does not follow from its changes", Want: "one that does"}
	}
	return nil
}

// compare holds a document of a bundle against the one of its id here, by contents: whether there is one, and what differs.
func compare(r store.Reader, p packed, kind string) (here bool, differs string, err error) {
	d, err := r.Document(p.ID)
	if errors.Is(err, store.ErrNotFound) {
		return false, "", nil
	}
	if err != nil {
		return false, "", err
	}
	if d.Kind != kind || d.Place != p.Place {
		return true, "its id is that of something else", nil
	}
	is, _, err := pack(r, d)
	if err != nil {
		return true, "", err
	}
	var parts []string
	tell := func(what string, mine, theirs, other int) {
		for n, words := range map[int]string{0: fmt.Sprintf("%d %s only here", mine, what),
			1: fmt.Sprintf("%d %s only in the bundle", theirs, what), 2: fmt.Sprintf("%d %s with other contents", other, what)} {
			if []int{mine, theirs, other}[n] > 0 {
				parts = append(parts, words)
			}
		}
	}
	mine, theirs, other := parted(is.Changes, p.Changes, func(c store.Change) string { return c.ID }, sameChange)
	tell("changes", mine, theirs, other)
	mine, theirs, other = parted(is.Entries, p.Entries, func(e drivefile.Entry) string { return e.ID }, drivefile.Entry.Same)
	tell("entries", mine, theirs, other)
	var a, b any
	if json.Unmarshal(is.Document, &a) != nil || json.Unmarshal(p.Document, &b) != nil || !reflect.DeepEqual(a, b) {
		parts = append(parts, "other fields")
	}
	slices.Sort(parts)
	return true, strings.Join(parts, ", "), nil
}

// parted counts what stands only in the one list, only in the other, and in both otherwise.
func parted[T any](a, b []T, id func(T) string, same func(T, T) bool) (onlyA, onlyB, other int) {
	have := make(map[string]T, len(a))
	for _, x := range a {
		have[id(x)] = x
	}
	for _, y := range b {
		x, ok := have[id(y)]
		switch {
		case !ok:
			onlyB++
		case !same(x, y):
			other++
		}
		delete(have, id(y))
	}
	return len(have), onlyB, other
}

func sameChange(a, b store.Change) bool {
	if a.By != b.By || a.Device != b.Device || a.At != b.At || a.Edit != b.Edit || a.Undoes != b.Undoes || a.Why != b.Why ||
		a.Version != b.Version || a.Initials != b.Initials || a.Name != b.Name || len(a.Ops) != len(b.Ops) {
		return false
	}
	for i := range a.Ops {
		if a.Ops[i].Path != b.Ops[i].Path || !drivefile.Same(a.Ops[i].Old, b.Ops[i].Old) || !drivefile.Same(a.Ops[i].New, b.Ops[i].New) {
			return false
		}
	}
	return true
}
