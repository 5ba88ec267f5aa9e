// Package bundle writes and reads the open exchange format of Tin Gate: a zip with stored, sorted entries, fixed
// times and a manifest of hashes. docs/formats/bundle.md describes it.
package bundle

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"sort"
	"time"
)

// Format and Number identify a bundle of this program.
const (
	Format = "tingate-bundle"
	Number = 1
)

// Manifest lists every other entry with its hash. It carries no export time: the same content is the same bytes.
type Manifest struct {
	Format string            `json:"format"`
	Schema int               `json:"schema"`
	Files  map[string]string `json:"files"`
}

// Limits of what is read.
type Limits struct {
	Unpacked int64
	Entries  int
}

// names that may stand in a bundle; anything else, and so any path that climbs out, is refused.
var allowed = regexp.MustCompile(`^(place\.json|drives/[0-9a-f-]{36}\.json|families/[A-Za-z0-9_-][A-Za-z0-9_.-]{0,80}\.yaml|practices/[A-Za-z0-9_-]{1,40}\.yaml|attachments/[0-9a-f]{64}|schema/(place|drive)\.json)$`)

// Pack writes files as a bundle.
func Pack(files map[string][]byte) ([]byte, error) {
	m := Manifest{Format, Number, map[string]string{}}
	names := make([]string, 0, len(files)+1)
	for n, b := range files {
		if !allowed.MatchString(n) {
			return nil, fmt.Errorf("bundle entry: got %q, want a name of docs/formats/bundle.md", n)
		}
		sum := sha256.Sum256(b)
		m.Files[n] = hex.EncodeToString(sum[:])
		names = append(names, n)
	}
	raw, err := json.MarshalIndent(m, "", " ")
	if err != nil {
		return nil, err
	}
	names = append(names, "manifest.json")
	sort.Strings(names)
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, n := range names {
		w, err := z.CreateHeader(&zip.FileHeader{Name: n, Method: zip.Store, Modified: time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			return nil, err
		}
		b := files[n]
		if n == "manifest.json" {
			b = raw
		}
		if _, err := w.Write(b); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// Unpack checks a bundle whole and returns its files without the manifest.
func Unpack(raw []byte, lim Limits) (map[string][]byte, error) {
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, fmt.Errorf("bundle: got %d bytes that are no whole zip (%v); was the file cut off? Nothing was imported", len(raw), err)
	}
	if len(z.File) > lim.Entries {
		return nil, fmt.Errorf("bundle: got %d entries, want at most %d", len(z.File), lim.Entries)
	}
	files := map[string][]byte{}
	left := lim.Unpacked
	for _, f := range z.File {
		if f.Name != "manifest.json" && !allowed.MatchString(f.Name) {
			return nil, fmt.Errorf("bundle entry: got %q, want a name of docs/formats/bundle.md; nothing was imported", f.Name)
		}
		if _, twice := files[f.Name]; twice {
			return nil, fmt.Errorf("bundle entry: got %q twice, want it once", f.Name)
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("bundle entry %s: %w", f.Name, err)
		}
		b, err := io.ReadAll(io.LimitReader(r, left+1))
		r.Close()
		if err != nil {
			return nil, fmt.Errorf("bundle entry %s is damaged: %w; nothing was imported", f.Name, err)
		}
		if left -= int64(len(b)); left < 0 {
			return nil, fmt.Errorf("bundle: got more than %d bytes unpacked, want at most that; nothing was imported", lim.Unpacked)
		}
		files[f.Name] = b
	}
	return files, check(files)
}

func check(files map[string][]byte) error {
	var m Manifest
	raw, ok := files["manifest.json"]
	if !ok {
		return fmt.Errorf("bundle: got no manifest.json, want one; this is no Tin Gate bundle")
	}
	if err := json.Unmarshal(raw, &m); err != nil || m.Format != Format {
		return fmt.Errorf("manifest.json: got format %q, want %q", m.Format, Format)
	}
	if m.Schema > Number {
		return fmt.Errorf("manifest.json: got bundle schema %d, want at most %d; a newer Tin Gate wrote it", m.Schema, Number)
	}
	delete(files, "manifest.json")
	for n, want := range m.Files {
		b, ok := files[n]
		if !ok {
			return fmt.Errorf("bundle: %s stands in the manifest but is missing; nothing was imported", n)
		}
		if sum := sha256.Sum256(b); hex.EncodeToString(sum[:]) != want {
			return fmt.Errorf("bundle: %s is not as the manifest says; it was changed or damaged; nothing was imported", n)
		}
	}
	for n := range files {
		if _, ok := m.Files[n]; !ok {
			return fmt.Errorf("bundle: %s does not stand in the manifest; nothing was imported", n)
		}
	}
	return nil
}
