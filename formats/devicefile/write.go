package devicefile

import (
	"fmt"
	"slices"
	"strings"
)

// Write writes a DCF: every object with its value, in the order of the index, lists and members counted. Texts lose line ends, so that
// none can become a line of its own.
func Write(d Device) []byte {
	var b strings.Builder
	section := func(name string, pairs ...string) {
		fmt.Fprintf(&b, "[%s]\r\n", name)
		for i := 0; i+1 < len(pairs); i += 2 {
			fmt.Fprintf(&b, "%s=%s\r\n", pairs[i], oneLine(pairs[i+1]))
		}
		b.WriteString("\r\n")
	}
	section(
		"FileInfo",
		"FileName",
		d.File,
		"FileVersion",
		"1",
		"FileRevision",
		d.Revision,
		"EDSVersion",
		"4.0",
		"Description",
		planned,
	)
	section("DeviceInfo", "VendorName", d.Vendor, "ProductName", d.Product)
	section("DeviceCommissioning", "NodeID", fmt.Sprint(d.Node), "NodeName", d.Product)
	byIndex := map[uint16][]Object{}
	var order []uint16
	for _, o := range d.Objects {
		if byIndex[o.Index] == nil {
			order = append(order, o.Index)
		}
		byIndex[o.Index] = append(byIndex[o.Index], o)
	}
	slices.Sort(order)
	for i, name := range []string{"MandatoryObjects", "OptionalObjects", "ManufacturerObjects"} {
		pairs := []string{"SupportedObjects", ""}
		for _, index := range order {
			if listOf(index) == i {
				pairs = append(pairs, fmt.Sprint(len(pairs)/2), fmt.Sprintf("0x%04X", index))
			}
		}
		pairs[1] = fmt.Sprint(len(pairs)/2 - 1)
		section(name, pairs...)
	}
	for _, index := range order {
		object(section, index, byIndex[index])
	}
	return []byte(b.String())
}

// object writes a variable, or a record with its members and how many they are.
func object(section func(name string, pairs ...string), index uint16, list []Object) {
	key := fmt.Sprintf("%04X", index)
	if !list[0].Member {
		section(key, variable(list[0])...)
		return
	}
	slices.SortFunc(list, func(a, b Object) int { return int(a.Sub) - int(b.Sub) })
	if list[0].Sub != 0 {
		list = append([]Object{{Index: index, Member: true, Name: "Highest sub-index supported", Type: Unsigned8, Access: "const",
			Default: fmt.Sprint(list[len(list)-1].Sub)}}, list...)
	}
	section(key, "ParameterName", list[0].Of+orOf(list), "ObjectType", "0x9", "SubNumber", fmt.Sprint(len(list)))
	for _, o := range list {
		section(fmt.Sprintf("%ssub%X", key, o.Sub), variable(o)...)
	}
}

// orOf is the record's name when only its members know it.
func orOf(list []Object) string {
	if list[0].Of != "" || len(list) < 2 {
		return ""
	}
	return list[1].Of
}

func variable(o Object) []string {
	out := []string{
		"ParameterName",
		o.Name,
		"ObjectType",
		"0x7",
		"DataType",
		fmt.Sprintf("0x%04X", o.Type),
		"AccessType",
		o.Access,
		"PDOMapping",
		"0",
	}
	for _, p := range [][2]string{{"LowLimit", o.Low}, {"HighLimit", o.High}, {"DefaultValue", o.Default}, {"ParameterValue", o.Value}} {
		if p[1] != "" {
			out = append(out, p[0], p[1])
		}
	}
	return out
}

// listOf is the list that names an index: mandatory, optional, the maker's (CiA 306-1).
func listOf(index uint16) int {
	switch {
	case index == 0x1000 || index == 0x1001 || index == 0x1018:
		return 0
	case index >= 0x2000 && index <= 0x5fff:
		return 2
	}
	return 1
}

func oneLine(t string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' {
			return ' '
		}
		return r
	}, t)
}
