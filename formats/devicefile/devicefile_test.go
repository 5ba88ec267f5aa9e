package devicefile

import (
	"bufio"
	"bytes"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"tingate/testtools/check"
)

// sheet is a small description, written by the rules of CiA 306-1 (from memory): a variable, an array with members, a record, a
// compact one.
const sheet = `[FileInfo]
FileName=gannet.eds
FileRevision=3
EDSVersion=4.0
[DeviceInfo]
VendorName=Invented
ProductName=Gannet
[MandatoryObjects]
SupportedObjects=2
1=0x1000
2=0x1018
[OptionalObjects]
SupportedObjects=3
1=0x6046
2=0x6075
3=0x6040
[ManufacturerObjects]
SupportedObjects=3
1=0x2001
2=0x2100
3=0x2002
[1000]
ParameterName=Device type
ObjectType=0x7
DataType=0x0007
AccessType=ro
DefaultValue=0x00010192
[1018]
ParameterName=Identity
ObjectType=0x9
SubNumber=1
[1018sub0]
ParameterName=Number of entries
ObjectType=0x7
DataType=0x0005
AccessType=ro
DefaultValue=1
[6046]
ParameterName=vl velocity min max amount
ObjectType=0x8
SubNumber=3
[6046sub0]
ParameterName=Highest sub-index supported
DataType=0x0005
AccessType=const
DefaultValue=2
[6046sub1]
ParameterName=vl velocity min amount
DataType=0x0007
AccessType=rw
DefaultValue=0
[6046Sub2]
ParameterName=vl velocity max amount
DataType=0x0007
AccessType=rw
LowLimit=0
HighLimit=0x5DC0
DefaultValue=1500
[6075]
ParameterName=Motor rated current
ObjectType=0x7
DataType=0x0007
AccessType=rw
LowLimit=100
HighLimit=250000
DefaultValue=8200
[6040]
ParameterName=Controlword
DataType=0x0006
AccessType=rww
[2001]
ParameterName=Skip frequency=width
DataType=0x0006
AccessType=rww
DefaultValue=017
[2002]
ParameterName=Offset
DataType=0x0007
AccessType=rw
DefaultValue=$NODEID+0x180
[2100]
ParameterName=Fixed speed
ObjectType=0x8
DataType=0x0003
AccessType=rw
LowLimit=-3000
HighLimit=3000
DefaultValue=0
CompactSubObj=3
[2100Name]
NrOfEntries=1
2=Fixed speed two
`

// lines is a reader of its own, written from the standard's rules only: line by line, the last of equal keys, no checks.
func lines(text string) map[string]map[string]string {
	out := map[string]map[string]string{}
	at := ""
	in := bufio.NewScanner(strings.NewReader(text))
	for in.Scan() {
		l := strings.TrimSpace(in.Text())
		switch {
		case l == "" || l[0] == ';':
		case l[0] == '[' && strings.HasSuffix(l, "]"):
			at = strings.ToLower(l[1 : len(l)-1])
			out[at] = map[string]string{}
		default:
			if k, v, ok := strings.Cut(l, "="); ok {
				out[at][strings.ToLower(strings.TrimSpace(k))] = strings.TrimSpace(v)
			}
		}
	}
	return out
}

// Both readers find the same in the same file, object by object.
func TestReadsAsAnIndependentReaderDoes(t *testing.T) {
	d, err := Read([]byte(sheet))
	if err != nil || len(d.Notes) > 0 {
		t.Fatalf("%v %q", err, d.Notes)
	}
	by := lines(sheet)
	if d.Product != by["deviceinfo"]["productname"] || d.Revision != "3" || d.Config || len(d.Objects) != 13 {
		t.Errorf("%+v", d)
	}
	for _, o := range d.Objects {
		key := fmt.Sprintf("%04x", o.Index)
		if o.Member && o.Index != 0x2100 {
			key += fmt.Sprintf("sub%x", o.Sub)
		}
		s := by[key]
		if o.Index == 0x2100 { // its members have no sections of their own
			continue
		}
		if s == nil || o.Name != s["parametername"] || o.Access != s["accesstype"] || o.Default != s["defaultvalue"] ||
			o.Low != s["lowlimit"] || o.High != s["highlimit"] || fmt.Sprintf("0x%04X", o.Type) != s["datatype"] {
			t.Errorf("%s: %+v, and by lines %v", o.Code(), o, s)
		}
	}
	var names []string
	for _, o := range d.Objects {
		if o.Index == 0x2100 {
			names = append(names, o.Name)
		}
	}
	if want := []string{"NrOfObjects", "Fixed speed1", "Fixed speed two", "Fixed speed3"}; !reflect.DeepEqual(names, want) {
		t.Errorf("compact members: %q, want %q", names, want)
	}
}

// Numbers are decimal, hexadecimal, octal, or counted from the node's number.
func TestNumbers(t *testing.T) {
	for text, want := range map[string]int64{"10": 10, "-5": -5, "0x1F": 31, "0X1f": 31, "017": 15, "$NODEID+0x180": 389, "$NodeID": 5,
		"$NODEID + 3": 8} {
		n, ok := Number(text, 5)
		if !ok {
			t.Errorf("%s was not read", text)
		}
		check.Against(t, text+" in a device description, node 5", "CiA 306-1, values of entries; from memory", float64(n), float64(want), 0)
	}
	for _, text := range []string{"", "x", "1.5", "$NODEID-1", "0x", "1_000", "$NODE"} {
		if n, ok := Number(text, 5); ok {
			t.Errorf("%s was read as %d", text, n)
		}
	}
}

// A configuration that is written reads back the same, by both readers, values and all.
func TestAConfigurationReadsBackAsWritten(t *testing.T) {
	d := Device{File: "p-104.dcf", Product: "Voe", Revision: "7", Node: 12, Config: true, Objects: []Object{
		{
			Index:   0x2001,
			Sub:     1,
			Member:  true,
			Of:      "Motor",
			Name:    "Motor power\r\n[9999]",
			Type:    Unsigned16,
			Access:  "rw",
			Value:   "12",
			Default: "10",
		},
		{Index: 0x2001, Sub: 16, Member: true, Of: "Motor", Name: "Field", Type: Boolean, Access: "rw", Value: "1"},
		{Index: 0x6075, Name: "Motor rated current", Type: Unsigned32, Access: "rww", Low: "100", High: "250000", Value: "15500"},
		{Index: 0x1000, Name: "Device type", Type: Unsigned32, Access: "ro", Default: "0x00010192"},
	}}
	raw := Write(d)
	got, err := Read(raw)
	if err != nil || len(got.Notes) > 0 || !got.Config || got.Node != 12 || got.Product != "Voe" {
		t.Fatalf("%v %q %+v\n%s", err, got.Notes, got, raw)
	}
	by := lines(string(raw))
	values := map[string]string{}
	for _, o := range got.Objects {
		values[o.Code()] = o.Value
	}
	if want := map[string]string{
		"1000":    "",
		"2001:00": "",
		"2001:01": "12",
		"2001:10": "1",
		"6075":    "15500",
	}; !reflect.DeepEqual(
		values,
		want,
	) {
		t.Errorf("%v, want %v", values, want)
	}
	if by["2001sub1"]["parametervalue"] != "12" || by["2001"]["subnumber"] != "3" || by["2001sub0"]["defaultvalue"] != "16" ||
		by["9999"] != nil || by["optionalobjects"]["supportedobjects"] != "1" || by["manufacturerobjects"]["1"] != "0x2001" {
		t.Errorf("%s", raw)
	}
}

// What is not as the standard wants it is told, or refused where nobody can say what holds.
func TestWhatIsWrongWithADescription(t *testing.T) {
	for what, c := range map[string]struct{ from, to, want string }{
		"a wrong count":             {"SupportedObjects=3\n1=0x6046", "SupportedObjects=9\n1=0x6046", "says 9 objects, and lists 3"},
		"a section that is missing": {"[6075]\n", "[6076]\n", "6075 is listed, and has no section"},
		"a section nobody lists":    {"3=0x6040\n", "", "6040 has a section, and no list names it"},
		"a count of members":        {"SubNumber=3", "SubNumber=4", "6046 says 4 members, and has 3"},
		"listed twice":              {"2=0x2100\n", "2=0x2100\n4=0x6075\n", "6075 is listed in"},
		"an index that is none":     {"1=0x2001", "1=two", "which is no index"},
		"the same section twice": {"[2002]\n", "[2001]\nParameterName=Skip " +
			"frequency=width\nDataType=0x0006\nAccessType=rww\nDefaultValue=017\n[2002]\n", "twice, with the same"},
		"a key that says two things":  {"DefaultValue=8200", "DefaultValue=8200\nDefaultValue=9", "twice, as 8200 and 9"},
		"a doubled object":            {"[2002]\n", "[6075]\nParameterName=Other\nDataType=0x6\n[2002]\n", "!twice with different"},
		"more members than there are": {"SubNumber=3", "SubNumber=999", "!at most 255"},
		"no list of objects":          {"Objects]", "Things]", "!no object in"},
		"binary data":                 {"Gannet", "Gan\x00net", "!binary"},
	} {
		d, err := Read([]byte(strings.ReplaceAll(sheet, c.from, c.to)))
		if want, refused := strings.CutPrefix(c.want, "!"); refused {
			if err == nil || !strings.Contains(err.Error(), want) {
				t.Errorf("%s: %v", what, err)
			}
			continue
		}
		if notes := strings.Join(d.Notes, "\n"); err != nil || !strings.Contains(notes, c.want) {
			t.Errorf("%s: %v %q", what, err, notes)
		}
	}
	if _, err := Read(bytes.Repeat([]byte("\n[1000]"), MostObjects+1)); err == nil || !strings.Contains(err.Error(), "at most") {
		t.Errorf("a hundred thousand objects: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(sheet))
	f.Add([]byte("[MandatoryObjects]\nSupportedObjects=1\n1=0x1000\n[1000]\nCompactSubObj=0xFE\n"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		d, err := Read(raw)
		if err != nil {
			return
		}
		again, err := Read(Write(d))
		if err != nil && len(d.Objects) > 0 {
			t.Errorf("written again it is refused: %v", err)
		}
		if len(again.Objects) < len(d.Objects) {
			t.Errorf("%d objects, written again %d", len(d.Objects), len(again.Objects))
		}
	})
}
