package csvx

import (
	"bytes"
	"reflect"
	"strings"
	"testing"
)

func known(s string) bool { return s == "code" || s == "value" }

func TestReadsEveryCommonShape(t *testing.T) {
	want := [][]string{{"4A", "7.5"}, {"4D", "15,5"}}
	for name, raw := range map[string]string{
		"semicolons, decimal comma, BOM": "\xef\xbb\xbfcode;value\r\n4A;7.5\r\n4D;15,5\r\n",
		"tabs, no header":                "4A\t7.5\n4D\t15,5",
		"commas, quoted":                 "code,value\n4A,7.5\n4D,\"15,5\"\n",
		"old line ends":                  "code;value\r4A;7.5\r4D;15,5",
		"sep line":                       "sep=;\ncode;value\n4A;7.5\n4D;15,5",
		"UTF-16":                         "\xff\xfe4\x00A\x00;\x007\x00.\x005\x00\n\x004\x00D\x00;\x001\x005\x00,\x005\x00",
	} {
		got, err := Read([]byte(raw), known)
		if err != nil || !reflect.DeepEqual(got.Rows, want) {
			t.Errorf("%s: %v %v", name, got, err)
		}
	}
	for _, bad := range []string{"", "\n\n", "a\x00b"} {
		if _, err := Read([]byte(bad), known); err == nil {
			t.Errorf("%q must be refused", bad)
		}
	}
}

func TestFormulasAreNeverExportedLive(t *testing.T) {
	var w bytes.Buffer
	cells := []string{"=cmd|' /C calc'!A0", "+1+1", "@SUM(1)", "-2+3", "-5.5", "7.5"}
	if err := Write(&w, [][]string{cells}); err != nil {
		t.Fatal(err)
	}
	for _, live := range []string{"\ufeff=", ",=", ",+1+", ",@", ",-2+"} {
		if strings.Contains(w.String(), live) {
			t.Errorf("%q stands live in %q", live, w.String())
		}
	}
	back, err := Read(w.Bytes(), known)
	if err != nil || !reflect.DeepEqual(back.Rows[0], cells) {
		t.Errorf("reading gives the same back: %v %v", back, err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("code;value\n4A;7.5"))
	f.Fuzz(func(t *testing.T, raw []byte) { _, _ = Read(raw, known) })
}
