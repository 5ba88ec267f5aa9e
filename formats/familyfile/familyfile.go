// Package familyfile reads drive families from YAML and carries the ones that ship.
package familyfile

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/goccy/go-yaml"

	"tingate/core/dialect"
	"tingate/core/drivefile"
)

//go:embed families/*.yaml
var shipped embed.FS

// Read reads and checks a family file. Unknown keys, wrong types and every fault of the family are errors with
// the place in the file.
func Read(raw []byte) (*dialect.Family, error) {
	if len(raw) > drivefile.MaxDialect {
		return nil, fmt.Errorf("family file: got %d bytes, want at most %d", len(raw), drivefile.MaxDialect)
	}
	var f dialect.Family
	if err := yaml.NewDecoder(bytes.NewReader(raw), yaml.Strict()).Decode(&f); err != nil {
		return nil, errors.New(yaml.FormatError(err, false, true))
	}
	if errs := f.Compile(); len(errs) > 0 {
		return nil, errors.Join(errs...)
	}
	sum := sha256.Sum256(raw)
	f.Hash = hex.EncodeToString(sum[:8])
	return &f, nil
}

var load = sync.OnceValues(func() (map[string]*dialect.Family, map[string][]byte) {
	fams, raws := map[string]*dialect.Family{}, map[string][]byte{}
	entries, _ := shipped.ReadDir("families")
	for _, e := range entries {
		raw, _ := shipped.ReadFile("families/" + e.Name())
		f, err := Read(raw)
		if err != nil {
			panic("a shipped family is broken: " + e.Name() + ": " + err.Error())
		}
		fams[f.Name], raws[f.Name] = f, raw
	}
	return fams, raws
})

// Set is the families that a data folder knows: the shipped ones and those that people added.
type Set struct {
	mu   sync.RWMutex
	fams map[string]*dialect.Family
	raws map[string][]byte
}

// Shipped makes a set of the families that ship.
func Shipped() *Set {
	fams, raws := load()
	return &Set{fams: maps.Clone(fams), raws: maps.Clone(raws)}
}

// Find returns a family by name, in any case of letters; nil when there is none.
func (s *Set) Find(name string) *dialect.Family {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for n, f := range s.fams {
		if strings.EqualFold(n, name) {
			return f
		}
	}
	return nil
}

// Raw is the file of a family, as a bundle carries it.
func (s *Set) Raw(name string) []byte {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.raws[name]
}

// Names lists the families in alphabetical order.
func (s *Set) Names() []string {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return slices.Sorted(maps.Keys(s.fams))
}

var name = regexp.MustCompile(`^[A-Za-z0-9_-]{1,40}$`)

// Add reads, checks and adds a family. The very same again is fine; another file under a known name is an error, since
// drives were planned with the first.
func (s *Set) Add(raw []byte) (*dialect.Family, error) {
	f, err := Read(raw)
	if err != nil {
		return nil, err
	}
	if !name.MatchString(f.Name) {
		return nil, &dialect.FieldError{Path: "name", Got: f.Name, Want: "1 to 40 letters, digits, - or _"}
	}
	if here := s.Find(f.Name); here != nil {
		if here.Hash == f.Hash {
			return here, nil
		}
		return nil, &dialect.FieldError{Path: "name", Got: f.Name, Want: "a name that is not taken: " + here.Name + " " + here.Version + " is here already, with other contents"}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.fams[f.Name], s.raws[f.Name] = f, raw
	return f, nil
}

// Find returns a shipped family by name, in any case of letters; nil when there is none.
func Find(name string) *dialect.Family { return Shipped().Find(name) }

// Raw is the file of a shipped family.
func Raw(name string) []byte { return Shipped().Raw(name) }

// Names lists the shipped families in alphabetical order.
func Names() []string { return Shipped().Names() }
