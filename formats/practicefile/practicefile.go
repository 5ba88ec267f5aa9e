// Package practicefile reads practices from YAML and carries the ones that ship.
package practicefile

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"tingate/core/practice"
	"tingate/formats/strictyaml"
)

//go:embed practices/*.yaml
var shipped embed.FS

// Read reads and checks a practice. Unknown keys and every fault are errors.
func Read(raw []byte) (*practice.Practice, error) {
	var p practice.Practice
	if err := strictyaml.Decode(raw, &p); err != nil {
		return nil, errors.New(strings.TrimPrefix(err.Error(), "yaml: "))
	}
	return &p, errors.Join(p.Compile()...)
}

var load = sync.OnceValue(func() []*practice.Practice {
	var out []*practice.Practice
	entries, _ := shipped.ReadDir("practices")
	for _, e := range entries {
		raw, _ := shipped.ReadFile("practices/" + e.Name())
		p, err := Read(raw)
		if err != nil {
			panic("a shipped practice is broken: " + e.Name() + ": " + err.Error())
		}
		out = append(out, p)
	}
	return out
})

// Default is the practice of a job that names none.
const Default = "stop-first"

// Set is the practices that a data folder knows: the shipped ones and those that people added.
type Set struct {
	mu   sync.RWMutex
	list []*practice.Practice
	raws map[string][]byte // of those that people added
}

// Shipped makes a set of the practices that ship.
func Shipped() *Set { return &Set{list: slices.Clone(load()), raws: map[string][]byte{}} }

// Find returns a practice by name; nil when there is none.
func (s *Set) Find(name string) *practice.Practice {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for _, p := range s.list {
		if p.Name == name {
			return p
		}
	}
	return nil
}

// All lists the practices, the default first.
func (s *Set) All() []*practice.Practice {
	s.mu.RLock()
	defer s.mu.RUnlock()
	out := slices.Clone(s.list)
	slices.SortStableFunc(out, func(a, b *practice.Practice) int {
		switch {
		case a.Name == Default && b.Name != Default:
			return -1
		case b.Name == Default && a.Name != Default:
			return 1
		}
		return strings.Compare(a.Name, b.Name)
	})
	return out
}

// Raw is the file of a practice that somebody added, as a bundle carries it; nil for those that ship.
func (s *Set) Raw(name string) []byte {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.raws[name]
}

var word = regexp.MustCompile(`^[A-Za-z0-9_-]{1,40}$`)

// Check reads a practice's file and says what keeps it from being added, as Add does. Nothing is added.
func (s *Set) Check(raw []byte) error {
	_, _, err := s.fits(raw)
	return err
}

// Add reads, checks and adds a practice. The very same again is fine; another file under a name that is taken is an error,
// since drives follow the first.
func (s *Set) Add(raw []byte) (*practice.Practice, error) {
	p, here, err := s.fits(raw)
	if err != nil || here {
		return p, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.list = append(s.list, p)
	s.raws[p.Name] = slices.Clone(raw)
	return p, nil
}

func (s *Set) fits(raw []byte) (p *practice.Practice, here bool, err error) {
	p, err = Read(raw)
	if err != nil {
		return nil, false, err
	}
	if !word.MatchString(p.Name) {
		return nil, false, &practice.FieldError{Path: "name", Got: p.Name, Want: "1 to 40 letters, digits, - or _"}
	}
	if known := s.Find(p.Name); known != nil {
		if bytes.Equal(s.Raw(p.Name), raw) {
			return known, true, nil
		}
		return nil, false, &practice.FieldError{Path: "name", Got: p.Name, Want: "a name that is not taken"}
	}
	return p, false, nil
}

// Hash changes whenever a practice is added.
func (s *Set) Hash() string {
	h := sha256.New()
	for _, p := range s.All() {
		fmt.Fprintln(h, p.Name, p.Version)
		h.Write(s.Raw(p.Name)) // a hash never fails
	}
	return hex.EncodeToString(h.Sum(nil)[:6])
}
