package bundle

import (
	"archive/zip"
	"bytes"
	"strings"
	"testing"
)

var limits = Limits{1 << 20, 10}

func TestPackIsTheSameBytesAndComesBack(t *testing.T) {
	files := map[string][]byte{"place.json": []byte(`{"a":1}`), "families/Tarn.yaml": []byte("x")}
	a, err := Pack(files)
	b, _ := Pack(files)
	if err != nil || !bytes.Equal(a, b) {
		t.Fatalf("packing twice: %v", err)
	}
	back, err := Unpack(a, limits)
	if err != nil || len(back) != 2 || string(back["place.json"]) != `{"a":1}` {
		t.Fatalf("unpacking: %v %v", back, err)
	}
	for cut := range len(a) {
		if _, err := Unpack(a[:cut], limits); err == nil {
			t.Fatalf("a bundle cut at %d of %d bytes was taken", cut, len(a))
		}
	}
}

func zipOf(t *testing.T, entries map[string]string, method uint16) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for n, b := range entries {
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: method})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(b)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func TestBadBundlesAreRefusedWithTheReason(t *testing.T) {
	for _, c := range []struct {
		want    string
		entries map[string]string
	}{
		{"../evil", map[string]string{"../evil": "x"}},
		{"/etc/passwd", map[string]string{"/etc/passwd": "x"}},
		{"no manifest.json", map[string]string{"place.json": "{}"}},
		{"schema 2, want at most 1", map[string]string{"manifest.json": `{"format":"tingate-bundle","schema":2}`}},
		{"got format", map[string]string{"manifest.json": `{"format":"other"}`}},
		{"not as the manifest says", map[string]string{"manifest.json": `{"format":"tingate-bundle","schema":1,"files":{"place.json":"00"}}`, "place.json": "{}"}},
		{"is missing", map[string]string{"manifest.json": `{"format":"tingate-bundle","schema":1,"files":{"place.json":"00"}}`}},
		{"does not stand in the manifest", map[string]string{"manifest.json": `{"format":"tingate-bundle","schema":1}`, "place.json": "{}"}},
		{"unpacked", map[string]string{"manifest.json": strings.Repeat("0", 2<<20)}},
	} {
		if _, err := Unpack(zipOf(t, c.entries, zip.Deflate), limits); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("want %q, got %v", c.want, err)
		}
	}
}
