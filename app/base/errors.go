package base

import (
	"fmt"
	"strings"
	"tingate/store"
	"unicode"
)

// InputError is bad input: which field, what was read, what was expected.
type InputError struct{ Field, Got, Want string }

func (e *InputError) Error() string {
	return fmt.Sprintf("%s: got %s, want %s", e.Field, e.Got, e.Want)
}

// RefusedError is an act that is not done, with the reason in a sentence.
type RefusedError struct{ Reason string }

func (e *RefusedError) Error() string { return e.Reason }

// Bad is bad input.
func Bad(field, got, want string) error { return &InputError{field, got, want} }

// Refuse is an act that is not done.
func Refuse(reason string) error { return &RefusedError{reason} }

// ConflictError: somebody else changed the same value. Nothing is lost: both stand here.
type ConflictError struct {
	Path, Yours, Theirs, By, At string
}

func (e *ConflictError) Error() string {
	return fmt.Sprintf("%s was changed to %q by %s; you typed %q", e.Path, e.Theirs, e.By, e.Yours)
}

func OrBlank(s string) string {
	if s == "" {
		return "blank"
	}
	return s
}

func ReasonGiven(reason string) error {
	if strings.TrimSpace(reason) == "" {
		return Bad("reason", "nothing", "why, in your own words")
	}
	if len(reason) > 2000 {
		return Bad("reason", fmt.Sprint(len(reason), " characters"), "at most 2000")
	}
	return nil
}

// Substance wants a reason that says something: ten letters in two words at least.
func Substance(field, text, want string) error {
	words := 0
	for _, w := range strings.Fields(text) {
		if len([]rune(w)) > 1 {
			words++
		}
	}
	if Letters(text) < 10 || words < 2 {
		return Bad(field, OrBlank(strings.TrimSpace(text)), want+": ten letters in two words at least")
	}
	return ReasonGiven(text)
}

func Letters(text string) (n int) {
	for _, r := range text {
		if unicode.IsLetter(r) {
			n++
		}
	}
	return n
}

// ErrNotFound: there is no such thing in the data folder.
var ErrNotFound = store.ErrNotFound

// DiskError is one of the disk under the data folder.
type DiskError = store.DiskError
