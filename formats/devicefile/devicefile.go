// Package devicefile reads and writes electronic data sheets and device configuration files of CANopen devices (CiA 306-1: EDS, DCF).
package devicefile

import (
	"bytes"
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"gopkg.in/ini.v1"
)

// MostObjects is how many sections a file may have: a large drive has two thousand.
const MostObjects = 8000

// Device is what a file says of a device.
type Device struct {
	File     string // its name, as the file gives it
	Vendor   string
	Product  string
	Revision string
	Node     int  // of a DCF: the node's number; 0: none
	Config   bool // a DCF
	Planned  bool // it is a plan as Write wrote it: nobody has read it out of a device
	Objects  []Object
	// Notes are what is not as the standard wants it, and was read all the same.
	Notes []string
}

// Object is a variable of the object dictionary, or a member of an array or a record.
type Object struct {
	Index   uint16
	Sub     uint8
	Member  bool   // of an array or record
	Of      string // name of that
	Name    string
	Type    uint16 // data type, by its index
	Access  string // ro, wo, rw, rwr, rww, const
	Default string // as written
	Low     string
	High    string
	Value   string // of a DCF: what the device is to hold
}

// Code is the object's index and subindex as people write them.
func (o Object) Code() string {
	if o.Member {
		return fmt.Sprintf("%04X:%02X", o.Index, o.Sub)
	}
	return fmt.Sprintf("%04X", o.Index)
}

// Data types of CiA 301 that a setting can have.
const (
	Boolean    = 0x01
	Integer8   = 0x02
	Integer16  = 0x03
	Integer32  = 0x04
	Unsigned8  = 0x05
	Unsigned16 = 0x06
	Unsigned32 = 0x07
	Text       = 0x09
)

// Bounds are what an integer type holds; false for another type.
func Bounds(t uint16) (low, high int64, ok bool) {
	switch t {
	case Boolean:
		return 0, 1, true
	case Integer8:
		return math.MinInt8, math.MaxInt8, true
	case Integer16:
		return math.MinInt16, math.MaxInt16, true
	case Integer32:
		return math.MinInt32, math.MaxInt32, true
	case Unsigned8:
		return 0, math.MaxUint8, true
	case Unsigned16:
		return 0, math.MaxUint16, true
	case Unsigned32:
		return 0, math.MaxUint32, true
	}
	return 0, 0, false
}

// Number reads an integer as the standard writes it: decimal, hexadecimal with 0x, octal with a leading 0, or with the node's number
// in front
// ($NODEID+0x180).
func Number(t string, node int) (int64, bool) {
	t = strings.ToUpper(strings.TrimSpace(t))
	sum := int64(0)
	if rest, has := strings.CutPrefix(t, "$NODEID"); has {
		sum = int64(node)
		if rest = strings.TrimSpace(rest); rest == "" {
			return sum, true
		}
		if t, has = strings.CutPrefix(rest, "+"); !has {
			return 0, false
		}
		t = strings.TrimSpace(t)
	}
	if strings.Contains(t, "_") {
		return 0, false
	}
	n, err := strconv.ParseInt(strings.ReplaceAll(t, "0X", "0x"), 0, 64)
	return sum + n, err == nil
}

// Is tells whether a file seems to be one.
func Is(raw []byte) bool {
	l := bytes.ToLower(raw[:min(len(raw), 1<<16)])
	return bytes.Contains(l, []byte("[deviceinfo]")) || bytes.Contains(l, []byte("[fileinfo]")) ||
		bytes.Contains(l, []byte("[mandatoryobjects]"))
}

// lists are the sections that name the objects.
var lists = []string{"mandatoryobjects", "optionalobjects", "manufacturerobjects"}

// planned is by what a plan is known again.
const planned = "Planned settings, not read out of a device"

// Read reads an EDS or a DCF. What is listed and missing, counted wrongly or written twice is told in Notes; an object written twice with
// different contents is refused, since nobody can say which of them the device follows.
func Read(raw []byte) (Device, error) {
	if n := bytes.Count(raw, []byte("\n[")); n > MostObjects {
		return Device{}, fmt.Errorf("device description: got %d sections, want at most %d", n, MostObjects)
	}
	if bytes.IndexByte(raw, 0) >= 0 {
		return Device{}, fmt.Errorf("device description: got binary data, want text")
	}
	if !utf8.Valid(raw) {
		r := make([]rune, len(raw))
		for i, b := range raw {
			r[i] = rune(b)
		}
		raw = []byte(string(r))
	}
	f, err := ini.LoadSources(ini.LoadOptions{IgnoreInlineComment: true, PreserveSurroundedQuote: true, IgnoreContinuation: true,
		KeyValueDelimiters: "=", InsensitiveSections: true, InsensitiveKeys: true, AllowNonUniqueSections: true, AllowShadows: true,
		SkipUnrecognizableLines: true}, raw)
	if err != nil {
		return Device{}, fmt.Errorf("device description: %w", err)
	}
	r := reader{sections: map[string]*ini.Section{}}
	for _, s := range f.Sections() {
		name := strings.ToLower(strings.TrimSpace(s.Name()))
		if other, twice := r.sections[name]; twice {
			if !same(other, s) {
				return Device{}, fmt.Errorf("device description: got section [%s] twice with different contents, want it once", s.Name())
			}
			r.note("Section [%s] stands there twice, with the same contents.", s.Name())
		}
		r.sections[name] = s
	}
	d := &r.device
	d.File, d.Vendor = r.get("fileinfo", "filename"), r.get("deviceinfo", "vendorname")
	d.Planned = r.get("fileinfo", "description") == planned
	d.Product, d.Revision = r.get("deviceinfo", "productname"), r.get("fileinfo", "filerevision")
	if _, has := r.sections["devicecommissioning"]; has {
		d.Config = true
		if n, ok := Number(r.get("devicecommissioning", "nodeid"), 0); ok && n > 0 && n < 128 {
			d.Node = int(n)
		}
	}
	listed := map[uint16]string{}
	for _, l := range lists {
		r.list(l, listed)
	}
	if len(listed) == 0 {
		return Device{}, fmt.Errorf(
			"device description: got no object in [MandatoryObjects], [OptionalObjects] or [ManufacturerObjects], " +
				"want the lists of CiA 306",
		)
	}
	for _, index := range slices.Sorted(maps.Keys(listed)) {
		if err := r.object(index); err != nil {
			return Device{}, err
		}
	}
	r.unlisted(listed)
	return r.device, nil
}

type reader struct {
	device   Device
	sections map[string]*ini.Section
}

func (r *reader) note(format string, a ...any) {
	const most = 40
	switch n := len(r.device.Notes); {
	case n < most:
		r.device.Notes = append(r.device.Notes, fmt.Sprintf(format, a...))
	case n == most:
		r.device.Notes = append(r.device.Notes, "… and more of the kind.")
	}
}

func same(a, b *ini.Section) bool { return maps.Equal(a.KeysHash(), b.KeysHash()) }

// get is a key's text; of one that stands twice the first, and a word of it.
func (r *reader) get(section, key string) string {
	s, has := r.sections[section]
	if !has || !s.HasKey(key) {
		return ""
	}
	all := s.Key(key).ValueWithShadows()
	if len(all) > 1 && slices.ContainsFunc(all, func(v string) bool { return v != all[0] }) {
		r.note("[%s] gives %s twice, as %s: the first is taken.", s.Name(), key, strings.Join(all, " and "))
	}
	if len(all) == 0 {
		return ""
	}
	return strings.TrimSpace(all[0])
}

func (r *reader) list(name string, listed map[uint16]string) {
	s, has := r.sections[name]
	if !has {
		return
	}
	n := 0
	for _, k := range s.Keys() {
		if _, err := strconv.Atoi(k.Name()); err != nil {
			continue
		}
		n++
		v, ok := Number(r.get(name, k.Name()), 0)
		if !ok || v < 0 || v > math.MaxUint16 {
			r.note("[%s] names %q, which is no index.", s.Name(), k.Value())
			continue
		}
		if other, twice := listed[uint16(v)]; twice {
			r.note("%04X is listed in [%s] and in [%s].", v, other, s.Name())
			continue
		}
		listed[uint16(v)] = s.Name()
	}
	if said, ok := Number(r.get(name, "supportedobjects"), 0); !ok || int(said) != n {
		r.note("[%s] says %s objects, and lists %d.", s.Name(), cmp.Or(r.get(name, "supportedobjects"), "no number of"), n)
	}
}

// object takes a variable, or the members of an array or a record.
func (r *reader) object(index uint16) error {
	key := fmt.Sprintf("%x", index)
	if _, has := r.sections[key]; !has {
		if key = fmt.Sprintf("%04x", index); r.sections[key] == nil {
			r.note("%04X is listed, and has no section.", index)
			return nil
		}
	}
	name := r.get(key, "parametername")
	kind, hasKind := Number(r.get(key, "objecttype"), 0)
	subs, hasSubs := Number(r.get(key, "subnumber"), 0)
	compact, hasCompact := Number(r.get(key, "compactsubobj"), 0)
	if hasSubs && subs > 255 || hasCompact && compact > 254 {
		return fmt.Errorf(
			"device description: %04X: got %s members, want at most 255",
			index,
			r.get(key, "subnumber")+r.get(key, "compactsubobj"),
		)
	}
	switch {
	case hasCompact && compact > 0:
		r.compact(index, key, name, int(compact))
	case hasSubs && subs > 0 || hasKind && (kind == 8 || kind == 9):
		r.members(index, key, name, int(subs))
	default:
		o := r.variable(key)
		o.Index = index
		r.device.Objects = append(r.device.Objects, o)
	}
	return nil
}

func (r *reader) variable(key string) Object {
	t, _ := Number(r.get(key, "datatype"), 0)
	return Object{
		Name:   r.get(key, "parametername"),
		Type:   uint16(t),
		Access: strings.ToLower(r.get(key, "accesstype")),
		Default: r.get(
			key,
			"defaultvalue",
		),
		Low:   r.get(key, "lowlimit"),
		High:  r.get(key, "highlimit"),
		Value: r.get(key, "parametervalue"),
	}
}

func (r *reader) members(index uint16, key, name string, said int) {
	n := 0
	for sub := range 256 {
		at := fmt.Sprintf("%ssub%x", key, sub)
		if _, has := r.sections[at]; !has {
			continue
		}
		n++
		o := r.variable(at)
		o.Index, o.Sub, o.Member, o.Of = index, uint8(sub), true, name
		r.device.Objects = append(r.device.Objects, o)
	}
	if n != said {
		r.note("%04X says %d members, and has %d.", index, said, n)
	}
}

// compact are members of one type without sections of their own; their names and values may stand in [2100Name], [2100Value].
func (r *reader) compact(index uint16, key, name string, n int) {
	r.device.Objects = append(r.device.Objects, Object{Index: index, Member: true, Of: name, Name: "NrOfObjects", Type: Unsigned8,
		Access: "ro", Default: strconv.Itoa(n)})
	for sub := 1; sub <= n; sub++ {
		o := r.variable(key)
		o.Index, o.Sub, o.Member, o.Of = index, uint8(sub), true, name
		o.Name = cmp.Or(r.get(key+"name", strconv.Itoa(sub)), fmt.Sprintf("%s%d", name, sub))
		o.Value = r.get(key+"value", strconv.Itoa(sub))
		r.device.Objects = append(r.device.Objects, o)
	}
}

// unlisted are sections of objects that no list names: they are not read, and told.
func (r *reader) unlisted(listed map[uint16]string) {
	for _, name := range slices.Sorted(maps.Keys(r.sections)) {
		if n, err := strconv.ParseUint(name, 16, 16); err == nil && len(name) == 4 {
			if _, known := listed[uint16(n)]; !known {
				r.note("%04X has a section, and no list names it: it was left out.", n)
			}
		}
	}
}
