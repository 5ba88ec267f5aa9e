package bundle

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"runtime"
	"strings"
	"testing"
)

var limits = Limits{Entries: 10, Unpacked: 3 << 20, Largest: map[string]int64{"": 1 << 20}}

// packed writes a bundle of one family and what comes after the manifest.
func packed(t *testing.T) []byte {
	t.Helper()
	var out bytes.Buffer
	w, err := NewWriter(&out, map[string][]byte{"place.json": []byte(`{"a":1}`), "schema/drive.json": []byte("{}")})
	if err != nil {
		t.Fatal(err)
	}
	w.Lost("00ff")
	if err := errors.Join(w.Add("families/Tarn.yaml", []byte("x")), w.Close()); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// unpackAll reads every entry of a bundle.
func unpackAll(raw []byte, lim Limits) (map[string][]byte, error) {
	r, err := NewReader(bytes.NewReader(raw), int64(len(raw)), lim)
	if err != nil {
		return nil, err
	}
	out := map[string][]byte{}
	for _, n := range r.Names("") {
		if out[n], err = r.Read(n); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func TestPackIsTheSameBytesAndComesBack(t *testing.T) {
	a := packed(t)
	if !bytes.Equal(a, packed(t)) {
		t.Fatal("packing twice gives other bytes")
	}
	back, err := unpackAll(a, limits)
	if err != nil || len(back) != 3 || string(back["place.json"]) != `{"a":1}` || string(back["families/Tarn.yaml"]) != "x" {
		t.Fatalf("unpacking: %v %v", back, err)
	}
	if r, _ := NewReader(bytes.NewReader(a), int64(len(a)), limits); len(r.Manifest.Missing) != 1 || r.Has("place.json") != true ||
		r.Has("x") {
		t.Errorf("%+v", r.Manifest)
	}
	for cut := range len(a) {
		if _, err := unpackAll(a[:cut], limits); err == nil {
			t.Fatalf("a bundle cut at %d of %d bytes was taken", cut, len(a))
		}
	}
	w, err := NewWriter(io.Discard, nil)
	if err != nil || w.Add("place.json", nil) == nil || w.Add("../evil", nil) == nil || w.Add("families/B.yaml", nil) != nil ||
		w.Add("families/A.yaml", nil) == nil {
		t.Error("names out of order, or none of a bundle's, are refused")
	}
}

// What a zip says of its sizes is not believed: 3 MB that would become 3 GB are refused after the first megabyte.
func TestASmallZipStaysSmall(t *testing.T) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	m, _ := z.Create("manifest.json")
	_, _ = m.Write([]byte(`{"format":"tingate-bundle","schema":1,"files":{"place.json":"00"}}`))
	w, _ := z.Create("place.json")
	zeros := make([]byte, 1<<20)
	for range 300 {
		_, _ = w.Write(zeros)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	if _, err := unpackAll(out.Bytes(), limits); err == nil || !strings.Contains(err.Error(), "unpacked in place.json") {
		t.Errorf("%v", err)
	}
	runtime.ReadMemStats(&after)
	if mb := (after.TotalAlloc - before.TotalAlloc) >> 20; mb > 16 {
		t.Errorf("%d MB for a zip of %d kB", mb, out.Len()>>10)
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
		{"does not stand in the manifest",
			map[string]string{"manifest.json": `{"format":"tingate-bundle","schema":1}`, "place.json": "{}"}},
		{"unpacked", map[string]string{"manifest.json": strings.Repeat("0", 4<<20)}},
	} {
		if _, err := unpackAll(zipOf(t, c.entries, zip.Deflate), limits); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("want %q, got %v", c.want, err)
		}
	}
}

// Whatever bytes come as a bundle, they are read whole by their manifest or refused.
func FuzzReader(f *testing.F) {
	var out bytes.Buffer
	w, err := NewWriter(&out, map[string][]byte{"place.json": []byte(`{}`)})
	if err != nil {
		f.Fatal(err)
	}
	if err := errors.Join(w.Add("families/Tarn.yaml", []byte("x")), w.Close()); err != nil {
		f.Fatal(err)
	}
	f.Add(out.Bytes())
	f.Fuzz(func(t *testing.T, raw []byte) {
		files, err := unpackAll(raw, limits)
		if err != nil && files != nil {
			t.Fatal("files and an error")
		}
	})
}
