package familyfile

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"tingate/core/dialect"
)

// overTheLine takes what a setting is in registers and objects, and what it does without an intent.
func overTheLine(s *dialect.Setting, r, was DraftRow) {
	if r.RegisterType != was.RegisterType {
		s.RegisterType = r.RegisterType
	}
	if r.Scale != was.Scale {
		s.Scale = plainNumber(r.Scale)
	}
	s.ObjectType = cmp.Or(r.ObjectType, s.ObjectType)
	if r.Drives != was.Drives {
		s.Drives, s.Serves = dialect.ActsOrServes(r.Drives)
	}
	if r.Voids != was.Voids {
		s.Voids = wordsOf(r.Voids)
	}
	if r.Moves != was.Moves {
		s.Moves = wordsOf(r.Moves)
	}
	s.Takes, s.OffValue = r.Takes, strings.TrimSpace(r.OffValue)
	if s.Intent != "" {
		s.Drives, s.Serves = "", ""
	}
}

// wordsOf are codes parted by commas.
func wordsOf(t string) (out dialect.Words) {
	for _, w := range strings.Split(t, ",") {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// sourceOf says where a row comes from: where it was read, or who typed it. A row that nobody changed keeps what stands there.
func sourceOf(d Draft, r, was DraftRow, old dialect.Source) dialect.Source {
	changed := was.Code == "" || r.typed() != was.typed()
	switch {
	case !changed:
	case r.From != "" && d.SourceKind != "":
		old = dialect.Source{Kind: d.SourceKind, From: strings.Trim(d.Source+", "+r.From, ", "), By: d.By}
	default:
		old = dialect.Source{Kind: "typed", From: r.From, By: d.By}
		if strings.HasPrefix(r.From, "register learnt") {
			old.Kind = "learnt"
		}
	}
	if r.Compared && old.Kind != "" && d.By != old.By {
		old.Second = d.By // one's own work is not compared by oneself
	}
	return old
}

// typed is what a person types of a row, without what is said about it.
func (r DraftRow) typed() DraftRow {
	r.Sure, r.Why, r.From, r.Read, r.Compared, r.Source = false, "", "", "", false, ""
	return r
}

// rowOf is a setting as a draft's row.
func rowOf(s *dialect.Setting) DraftRow {
	r := DraftRow{Code: s.Code, Group: s.Group, Name: s.Name, Short: s.Short, Kind: s.Kind, Unit: s.Unit, Step: s.Step, Min: s.Min,
		Max: s.Max, Delivery: s.Delivery,
		Running: s.Running, Full: s.Access == "full", Motion: s.Acts == "motion", Protects: s.Protects, Intent: s.Intent,
		Convention: s.Convention, Sure: true}
	if s.Register != 0 {
		r.Register = strconv.Itoa(int(s.Register))
	}
	r.Voids, r.Moves, r.Takes, r.OffValue = strings.Join(s.Voids, ", "), strings.Join(s.Moves, ", "), s.Takes, s.OffValue
	r.RegisterType, r.Scale, r.ObjectType, r.Drives, r.Source = s.RegisterType, s.Scale, s.ObjectType, cmp.Or(s.Drives, s.Serves),
		s.Source.Words()
	var parts []string
	for _, c := range s.Choices {
		p := fmt.Sprintf("%d = %s", c.Value, c.Text)
		if c.Means != "" {
			p += " → " + c.Means
		}
		parts = append(parts, p)
	}
	r.Choices = strings.Join(parts, "; ")
	return r
}

// DraftOf makes a draft of a family, to be changed and kept under another version.
func DraftOf(f *dialect.Family) Draft {
	d := Draft{Name: f.Name, Version: f.Version, About: f.About, Firmware: f.Firmware, BaseName: f.Name, BaseVersion: f.Version,
		Rows: make([]DraftRow, 0, len(f.Settings))}
	for i := range f.Settings {
		d.Rows = append(d.Rows, rowOf(&f.Settings[i]))
	}
	d.Parts = partsIn(f)
	return d
}
