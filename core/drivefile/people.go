package drivefile

import (
	"encoding/json"
)

// InitialsOf are a person's initials at the place; a dash for somebody who is not known there.
func (p Place) InitialsOf(id string) string {
	if per, ok := p.People[id]; ok && per.Initials != "" {
		return per.Initials
	}
	return "–"
}

// SignedBy are the initials that stand on an entry: those that were written then, whatever has become of the person since.
func (p Place) SignedBy(e Entry) string {
	if e.Initials != "" {
		return e.Initials
	}
	return p.InitialsOf(e.By)
}

// TextOf is a stored value as a person sees it in its field.
func TextOf(raw json.RawMessage) string {
	var q Q
	if json.Unmarshal(raw, &q) == nil && q.Text != "" {
		return q.Text
	}
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	if string(raw) == "true" {
		return "true"
	}
	return ""
}
