package dialect

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// objectCode is how a family whose settings are objects of CiA 301 writes them: 6046h:01.
var objectCode = regexp.MustCompile(`^([0-9A-F]{4})h:([0-9A-F]{2})$`)

// ObjectCode is an object's index and subindex as a code.
func ObjectCode(index uint16, sub uint8) string { return fmt.Sprintf("%04Xh:%02X", index, sub) }

// Object is the index and subindex of a setting whose code is such; false for any other.
func (s *Setting) Object() (index uint16, sub uint8, ok bool) {
	m := objectCode.FindStringSubmatch(s.Code)
	if m == nil {
		return 0, 0, false
	}
	i, err1 := strconv.ParseUint(m[1], 16, 16)
	n, err2 := strconv.ParseUint(m[2], 16, 8)
	return uint16(i), uint8(n), err1 == nil && err2 == nil
}

// DataType is the object's data type: what the file says, or what its register holds.
func (s *Setting) DataType() string {
	switch {
	case s.ObjectType != "":
		return s.ObjectType
	case s.Kind == "text":
		return "text"
	}
	return s.registerType()
}

// Counts is a value as the object holds it: a number of counts, or the text.
func (s *Setting) Counts(v Held) string {
	if s.Kind == "text" {
		return v.Text
	}
	return strconv.FormatInt(v.Steps*s.perStep, 10)
}

// FromCounts is Counts backwards; an error says why a text cannot be what the object holds.
func (s *Setting) FromCounts(text string) (Held, error) {
	text = strings.TrimSpace(text)
	if s.Kind == "text" {
		return Held{TextSteps(text), text}, nil
	}
	n, err := strconv.ParseInt(text, 0, 64)
	if err != nil {
		return Held{}, fmt.Errorf("got %q, want a whole number", text)
	}
	steps := n / s.perStep
	if steps*s.perStep != n || !s.Inside(steps) {
		return Held{}, fmt.Errorf("got %d counts, want a value of %s", n, s.Span())
	}
	return Held{steps, s.Text(steps)}, nil
}

// CountRange are the ends of the range in counts; false for a text, whose ends are signs.
func (s *Setting) CountRange() (low, high int64, ok bool) {
	return s.min * s.perStep, s.max * s.perStep, s.Kind == "number" || s.Kind == "choice"
}

// Words say where a row comes from; empty for one of the family's author.
func (s Source) Words() string {
	if s.Kind == "" {
		return ""
	}
	t := map[string]string{"list": "from a list", "device": "from a device description", "typed": "typed",
		"learnt": "learnt from a drive"}[s.Kind]
	if s.From != "" {
		t += ", " + s.From
	}
	if s.By != "" {
		t += ", by " + s.By
	}
	if s.Second != "" {
		t += "; compared by " + s.Second
	}
	return t
}
