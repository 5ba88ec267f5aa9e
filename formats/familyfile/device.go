package familyfile

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/devicefile"
)

// typeWords are the data types of objects as a family's file writes them.
var typeWords = map[uint16]string{devicefile.Boolean: "bool", devicefile.Integer8: "s8", devicefile.Integer16: "s16",
	devicefile.Integer32: "s32", devicefile.Unsigned8: "u8", devicefile.Unsigned16: "u16", devicefile.Unsigned32: "u32",
	devicefile.Text: "text"}

// FromDevice reads a device description or a device's configuration: its objects that hold settings become rows. Objects of the drive
// profile are known from the standard; of the others a description says neither unit nor how fine they count, which is marked.
func FromDevice(raw []byte) (List, error) {
	if len(raw) > drivefile.MaxDialect {
		return List{}, fmt.Errorf("device description: got %d bytes, want at most %d", len(raw), drivefile.MaxDialect)
	}
	d, err := devicefile.Read(raw)
	if err != nil {
		return List{}, err
	}
	l := List{Columns: []string{}, Mapping: map[string]int{}, Preview: [][]string{}, Total: len(d.Objects), Left: []string{},
		Mended: []string{}, Notes: append([]string{}, d.Notes...), Device: cmp.Or(strings.TrimSpace(d.Product+" "+d.Revision), "a device"),
		Draft: Draft{Version: cmp.Or(d.Revision, "1"), Name: d.Product, Rows: []DraftRow{}, Parts: partsIn(blank())},
		has:   map[string]string{}}
	for _, o := range d.Objects {
		row, why := objectRow(o, d)
		if why != "" {
			l.Left = append(l.Left, o.Code()+" "+o.Name+": "+why)
			continue
		}
		if other, ok := l.has[row.Intent]; ok && row.Intent != "" {
			row.Why, row.Intent, row.Convention, row.Sure = "seems to carry the same as "+other, "", "", false
		}
		l.has[row.Intent] = row.Code
		l.Draft.Rows = append(l.Draft.Rows, row)
	}
	return l, nil
}

// objectRow makes a row of an object; why says what keeps it from being a setting.
func objectRow(o devicefile.Object, d devicefile.Device) (r DraftRow, why string) {
	kind, fits := typeWords[o.Type]
	switch what, commands := commanding[profileIndex(o.Index)]; {
	case commands:
		return r, what + ": a command, never a setting"
	case o.Index < 0x2000:
		return r, "communication, not the drive's settings"
	case o.Member && o.Sub == 0:
		return r, "counts its members"
	case o.Access == "ro" || o.Access == "const":
		return r, "read only: it is no setting"
	case o.Access == "wo":
		return r, "write only: what it holds cannot be read back"
	case !fits:
		return r, fmt.Sprintf("data type %04Xh holds no setting", o.Type)
	}
	r = DraftRow{
		Code:       dialect.ObjectCode(o.Index, o.Sub),
		Name:       strings.TrimSpace(o.Name),
		Group:      fmt.Sprintf("%04Xh", o.Index),
		Kind:       "number",
		Step:       "1",
		ObjectType: kind,
		Running:    o.Access == "rww",
		From:       "object " + o.Code(),
	}
	if o.Of != "" && o.Of != o.Name {
		r.Name = o.Of + ": " + r.Name
	}
	r.Name = cmp.Or(r.Name, r.Code)
	if kind == "text" {
		r.Kind, r.Step, r.Max, r.Delivery = "text", "", "24", o.Default
		r.Max = strconv.Itoa(max(24, min(64, len(o.Default))))
		return r, ""
	}
	numbers(&r, o, d)
	if k, ok := profile[profileCode(o)]; ok {
		ofProfile(&r, k)
	} else {
		guess(&r)
	}
	return r, ""
}

// profileIndex is the index in the first axis' range: CiA 402 gives eight axes 800h objects each.
func profileIndex(index uint16) uint16 {
	if index >= 0x6800 && index < 0xa000 {
		return 0x6000 + (index-0x6000)%0x800
	}
	return index
}

func profileCode(o devicefile.Object) string { return dialect.ObjectCode(profileIndex(o.Index), o.Sub) }

// numbers takes the ends and the delivery value; what the description leaves out is what the type holds.
func numbers(r *DraftRow, o devicefile.Object, d devicefile.Device) {
	low, high, _ := devicefile.Bounds(o.Type)
	for _, n := range []struct {
		text string
		to   *int64
		what string
	}{{o.Low, &low, "lowest"}, {o.High, &high, "highest"}} {
		if n.text == "" {
			continue
		}
		if v, ok := devicefile.Number(n.text, d.Node); ok {
			*n.to = v
		} else {
			r.Why = fmt.Sprintf("the %s stands there as %s, which is no number", n.what, n.text)
		}
	}
	r.Min, r.Max = strconv.FormatInt(low, 10), strconv.FormatInt(high, 10)
	v, ok := devicefile.Number(o.Default, d.Node)
	if !ok || v < low || v > high {
		v = max(low, min(high, 0))
		r.Why = "the description gives no delivery value"
		if o.Default != "" {
			r.Why = fmt.Sprintf("the delivery value stands there as %s, which does not lie within %d to %d", o.Default, low, high)
		}
	}
	r.Delivery = strconv.FormatInt(v, 10)
}

func ofProfile(r *DraftRow, k known) {
	r.Unit, r.Intent, r.Convention, r.Drives, r.Motion, r.Protects = k.unit, k.intent, k.convention, k.drives, k.motion, k.protects
	r.Sure = r.Why == ""
	r.Read = "what it is: from the drive profile CiA 402"
	if k.choices != "" {
		r.Kind, r.Choices, r.Step, r.Min, r.Max = "choice", k.choices, "", "", ""
		list, err := parseChoices(k.choices, r.Intent)
		has := false
		for _, c := range list {
			has = has || err == nil && strconv.FormatInt(c.Value, 10) == r.Delivery
		}
		if !has { // a choice of the maker's own, that the profile leaves open
			r.Choices += "; " + r.Delivery + " = the maker's own"
			r.Why, r.Sure = "what "+r.Delivery+" means is not in the profile", false
		}
	}
}

func guess(r *DraftRow) {
	p := dialect.Propose(r.Name, "", r.Kind)
	r.Motion, r.Protects = p.Motion, p.Protects
	if r.Why == "" {
		r.Why = "the description says neither the unit nor how fine it counts"
		if p := dialect.Propose(r.Name, "Hz", r.Kind).Intent + dialect.Propose(r.Name, "A", r.Kind).Intent; p != "" {
			r.Why += "; it may carry " + strings.ReplaceAll(strings.TrimPrefix(p, "choice."), ".", " ")
		}
	}
}

// DeviceOf is a device with a family's settings that are objects, each with its value in values where it has one; left are codes that are
// no objects.
func DeviceOf(f *dialect.Family, values map[string]dialect.Held, name string, node int) (d devicefile.Device, left []string) {
	d = devicefile.Device{File: name, Vendor: "", Product: f.Name, Revision: f.Version, Node: node, Config: true}
	for i := range f.Settings {
		s := &f.Settings[i]
		index, sub, ok := s.Object()
		if !ok {
			if _, planned := values[s.Code]; planned {
				left = append(left, s.Code)
			}
			continue
		}
		o := devicefile.Object{Index: index, Sub: sub, Member: sub != 0, Name: s.Name, Access: "rw", Of: f.Group(s.Group).Name,
			Default: s.Counts(dialect.Held{Steps: s.DeliverySteps(), Text: s.Delivery})}
		if s.Running {
			o.Access = "rww"
		}
		for t, w := range typeWords {
			if w == s.DataType() {
				o.Type = t
			}
		}
		if low, high, ok := s.CountRange(); ok {
			o.Low, o.High = strconv.FormatInt(low, 10), strconv.FormatInt(high, 10)
		}
		if v, planned := values[s.Code]; planned {
			o.Value = s.Counts(v)
		}
		d.Objects = append(d.Objects, o)
	}
	return d, left
}
