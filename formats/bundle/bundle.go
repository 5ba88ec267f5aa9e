// Package bundle writes and reads the open exchange format of Tin Gate: a zip with stored, sorted entries, fixed times and a manifest of
// hashes. docs/formats/bundle.md describes it. Both ways go entry by entry: a bundle of any size takes the memory of its largest entry.
package bundle

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"hash"
	"io"
	"regexp"
	"sort"
	"strings"
	"time"
)

// Format and Number identify a bundle of this program.
const (
	Format = "tingate-bundle"
	Number = 1
)

// Manifest lists every other entry with its hash. It carries no export time: the same content is the same bytes.
type Manifest struct {
	Format  string            `json:"format"`
	Schema  int               `json:"schema"`
	Files   map[string]string `json:"files"`
	Missing []string          `json:"missing,omitempty"` // kept files that an entry names and that were lost before the bundle was made
}

// Limits of what is taken in.
type Limits struct {
	Entries  int              // files in a bundle
	Largest  map[string]int64 // bytes of one file, by the first part of its name ("": all others)
	Unpacked int64            // bytes in all
}

// mostManifest is the size of a manifest of the largest bundle.
const mostManifest = 64 << 20

// Names of entries. Anything else, and so any path that climbs out, is refused.
var allowed = regexp.MustCompile(
	`^(place\.json|drives/[0-9a-f-]{36}\.json|families/[A-Za-z0-9_-][A-Za-z0-9_.-]{0,80}\.yaml|practices/[A-Za-z0-9_-]{1,40}\.yaml|attachments/[0-9a-f]{64}|schema/(place|drive)\.json)$`,
)

// Writer writes a bundle, entry by entry in the order of their names.
type Writer struct {
	zip      *zip.Writer
	manifest Manifest
	last     string
	later    map[string][]byte
}

// NewWriter begins a bundle. later are the entries whose names come after manifest.json, whose hashes it holds: place, practices, schemas.
func NewWriter(to io.Writer, later map[string][]byte) (*Writer, error) {
	w := &Writer{zip: zip.NewWriter(to), manifest: Manifest{Format: Format, Schema: Number, Files: map[string]string{}}, later: later}
	for n, b := range later {
		if !allowed.MatchString(n) || n < "manifest.json" {
			return nil, badName(n)
		}
		sum := sha256.Sum256(b)
		w.manifest.Files[n] = hex.EncodeToString(sum[:])
	}
	return w, nil
}

func badName(n string) error {
	return fmt.Errorf("bundle entry: got %q, want a name of docs/formats/bundle.md, in order", n)
}

// Add writes an entry whose name comes before manifest.json.
func (w *Writer) Add(name string, b []byte) error {
	if !allowed.MatchString(name) || name <= w.last || name > "manifest.json" {
		return badName(name)
	}
	sum := sha256.Sum256(b)
	w.manifest.Files[name] = hex.EncodeToString(sum[:])
	w.last = name
	return w.put(name, b)
}

// Lost notes a kept file that is named and not there.
func (w *Writer) Lost(sha string) { w.manifest.Missing = append(w.manifest.Missing, sha) }

func (w *Writer) put(name string, b []byte) error {
	e, err := w.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)})
	if err != nil {
		return err
	}
	_, err = e.Write(b)
	return err
}

// Close writes the manifest and what comes after it.
func (w *Writer) Close() error {
	sort.Strings(w.manifest.Missing)
	raw, err := json.MarshalIndent(w.manifest, "", " ")
	if err != nil {
		return err
	}
	if err := w.put("manifest.json", raw); err != nil {
		return err
	}
	names := make([]string, 0, len(w.later))
	for n := range w.later {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		if err := w.put(n, w.later[n]); err != nil {
			return err
		}
	}
	return w.zip.Close()
}

// Reader reads a bundle, entry by entry.
type Reader struct {
	Manifest Manifest
	files    map[string]*zip.File
	limits   Limits
	left     int64
}

// NewReader looks at a bundle's list of entries and its manifest. Nothing else is unpacked yet.
func NewReader(from io.ReaderAt, size int64, lim Limits) (*Reader, error) {
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, fmt.Errorf("bundle: got %d bytes that are no whole zip (%w); was the file cut off? Nothing was imported", size, err)
	}
	if len(z.File) > lim.Entries {
		return nil, fmt.Errorf("bundle: got %d entries, want at most %d", len(z.File), lim.Entries)
	}
	r := &Reader{files: map[string]*zip.File{}, limits: lim, left: lim.Unpacked}
	for _, f := range z.File {
		if f.Name != "manifest.json" && !allowed.MatchString(f.Name) {
			return nil, fmt.Errorf("bundle entry: got %q, want a name of docs/formats/bundle.md; nothing was imported", f.Name)
		}
		if r.files[f.Name] != nil {
			return nil, fmt.Errorf("bundle entry: got %q twice, want it once", f.Name)
		}
		r.files[f.Name] = f
	}
	return r, r.readManifest()
}

func (r *Reader) readManifest() error {
	if r.files["manifest.json"] == nil {
		return fmt.Errorf("bundle: got no manifest.json, want one; this is no Tin Gate bundle")
	}
	raw, err := r.unpack("manifest.json", mostManifest, nil)
	if err != nil {
		return err
	}
	m := &r.Manifest
	if err := json.Unmarshal(raw, m); err != nil || m.Format != Format {
		return fmt.Errorf("manifest.json: got format %q, want %q", m.Format, Format)
	}
	if m.Schema > Number {
		return fmt.Errorf("manifest.json: got bundle schema %d, want at most %d; a newer Tin Gate wrote it", m.Schema, Number)
	}
	delete(r.files, "manifest.json")
	for n := range m.Files {
		if r.files[n] == nil {
			return fmt.Errorf("bundle: %s stands in the manifest but is missing; nothing was imported", n)
		}
	}
	for n := range r.files {
		if _, ok := m.Files[n]; !ok {
			return fmt.Errorf("bundle: %s does not stand in the manifest; nothing was imported", n)
		}
	}
	return nil
}

// Names lists the entries with a prefix, in order.
func (r *Reader) Names(prefix string) []string {
	var l []string
	for n := range r.files {
		if strings.HasPrefix(n, prefix) {
			l = append(l, n)
		}
	}
	sort.Strings(l)
	return l
}

// Has tells whether an entry is there.
func (r *Reader) Has(name string) bool { return r.files[name] != nil }

// Read unpacks one entry and holds it against the manifest.
func (r *Reader) Read(name string) ([]byte, error) {
	if r.files[name] == nil {
		return nil, fmt.Errorf("bundle: got no %s, want one; nothing was imported", name)
	}
	kind, _, _ := strings.Cut(name, "/")
	most, ok := r.limits.Largest[kind]
	if !ok {
		most = r.limits.Largest[""]
	}
	h := sha256.New()
	b, err := r.unpack(name, most, h)
	if err != nil {
		return nil, err
	}
	if hex.EncodeToString(h.Sum(nil)) != r.Manifest.Files[name] {
		return nil, fmt.Errorf("bundle: %s is not as the manifest says; it was changed or damaged; nothing was imported", name)
	}
	return b, nil
}

// unpack never holds more than most of an entry, whatever the zip says of its size.
func (r *Reader) unpack(name string, most int64, h hash.Hash) ([]byte, error) {
	f, err := r.files[name].Open()
	if err != nil {
		return nil, fmt.Errorf("bundle entry %s: %w", name, err)
	}
	defer f.Close()
	most = min(most, r.left)
	b, err := io.ReadAll(io.LimitReader(f, most+1))
	if err != nil {
		return nil, fmt.Errorf("bundle entry %s is damaged: %w; nothing was imported", name, err)
	}
	if int64(len(b)) > most {
		return nil, fmt.Errorf("bundle: got more than %d bytes unpacked in %s, want at most that; nothing was imported", most, name)
	}
	r.left -= int64(len(b))
	if h != nil {
		h.Write(b) // a hash never fails
	}
	return b, nil
}
