package familyfile

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"sync"

	"tingate/core/dialect"
)

// Every version of a family that was shipped stays: drives were planned with it.
//
//go:embed families/*.yaml
var shipped embed.FS

// kept is one version of a family with its file.
type kept struct {
	family *dialect.Family
	raw    []byte
}

var load = sync.OnceValue(func() map[string][]kept {
	out := map[string][]kept{}
	entries, _ := shipped.ReadDir("families")
	for _, e := range entries {
		raw, _ := shipped.ReadFile("families/" + e.Name())
		f, err := Read(raw)
		if err != nil {
			panic("a shipped family is broken: " + e.Name() + ": " + err.Error())
		}
		key := strings.ToLower(f.Name)
		out[key] = append(out[key], kept{f, raw})
	}
	for _, l := range out {
		newestFirst(l)
	}
	return out
})

func newestFirst(l []kept) {
	slices.SortStableFunc(l, func(a, b kept) int { return dialect.CompareVersions(b.family.Version, a.family.Version) })
}

// Set is the families that a data folder knows, in all their versions: the shipped ones and those that people added.
type Set struct {
	mu sync.RWMutex
	// by name in lower case; the newest version first
	fams map[string][]kept
	hash string // of all of them; empty: to be worked out
}

// Shipped makes a set of the families that ship.
func Shipped() *Set {
	out := maps.Clone(load())
	for k, l := range out {
		out[k] = slices.Clone(l)
	}
	return &Set{fams: out}
}

func (s *Set) find(name, version string) (kept, bool) {
	s.mu.RLock()
	defer s.mu.RUnlock()
	for _, k := range s.fams[strings.ToLower(name)] {
		if version == "" || k.family.Version == version {
			return k, true
		}
	}
	return kept{}, false
}

// Find returns the newest version of a family by name, in any case of letters; nil when there is none.
func (s *Set) Find(name string) *dialect.Family {
	k, _ := s.find(name, "")
	return k.family
}

// Version returns one version of a family; nil when it is not known here.
func (s *Set) Version(name, version string) *dialect.Family {
	k, _ := s.find(name, version)
	return k.family
}

// Raw is the file of the newest version of a family, RawVersion that of one version, as a bundle carries it.
func (s *Set) Raw(name string) []byte {
	k, _ := s.find(name, "")
	return k.raw
}

// RawVersion is the file of one version; nil when it is not known here.
func (s *Set) RawVersion(name, version string) []byte {
	k, _ := s.find(name, version)
	return k.raw
}

// Names lists the families in alphabetical order.
func (s *Set) Names() []string {
	s.mu.RLock()
	defer s.mu.RUnlock()
	var l []string
	for _, k := range s.fams {
		l = append(l, k[0].family.Name)
	}
	slices.Sort(l)
	return l
}

// Versions lists the versions of a family, the newest first.
func (s *Set) Versions(name string) []string {
	s.mu.RLock()
	defer s.mu.RUnlock()
	var l []string
	for _, k := range s.fams[strings.ToLower(name)] {
		l = append(l, k.family.Version)
	}
	return l
}

var word = regexp.MustCompile(`^[A-Za-z0-9_-][A-Za-z0-9_.-]{0,39}$`)

// Check reads a family's file and says what keeps it from being added, as Add does. Nothing is added.
func (s *Set) Check(raw []byte, strict bool) error {
	s.mu.RLock()
	defer s.mu.RUnlock()
	_, _, err := s.fits(raw, strict)
	return err
}

// Add reads, checks and adds a family, or a further version of one. The very same again is fine; another file under a known name and
// version is an error, since drives were planned with the first. A file with registers to write that does not name the registers that
// command, or names fewer than an earlier version of the family, is an error when strict, and is otherwise for reading only over the link.
func (s *Set) Add(raw []byte, strict bool) (*dialect.Family, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	f, here, err := s.fits(raw, strict)
	if err != nil || here {
		return f, err
	}
	key := strings.ToLower(f.Name)
	s.fams[key] = append(s.fams[key], kept{f, slices.Clone(raw)})
	newestFirst(s.fams[key])
	s.hash = ""
	return f, nil
}

// fits reads a file and holds it against what is known. It is called with the lock held.
func (s *Set) fits(raw []byte, strict bool) (f *dialect.Family, here bool, err error) {
	f, err = Read(raw)
	if err != nil {
		return nil, false, err
	}
	for _, w := range []struct{ path, got string }{{"name", f.Name}, {"version", f.Version}} {
		if !word.MatchString(w.got) {
			return nil, false, &dialect.FieldError{Path: w.path, Got: w.got, Want: "1 to 40 letters, digits, dots, - or _"}
		}
	}
	for _, k := range s.fams[strings.ToLower(f.Name)] {
		switch {
		case k.family.Version != f.Version:
		case k.family.Hash == f.Hash:
			return k.family, true, nil
		default:
			return nil, false, &dialect.FieldError{Path: "version", Got: f.Version,
				Want: fmt.Sprintf("a version that is not taken: %s %s is here already, with other contents", k.family.Name,
					k.family.Version)}
		}
		if k.family.Name != f.Name {
			return nil, false, &dialect.FieldError{Path: "name", Got: f.Name, Want: k.family.Name + ", as the family is written here"}
		}
		if why := f.Narrows(k.family); why != "" && f.ReadOnly == "" {
			f.ReadOnly = why
		}
	}
	if strict && f.ReadOnly != "" {
		return nil, false, &dialect.FieldError{Path: "link.forbidden", Got: f.ReadOnly,
			Want: "every register that commands (control word, run, jog, tune, fault reset, restore), with all that earlier versions of " +
				"the family name"}
	}
	return f, false, nil
}

// Hash changes whenever a family or a version is added.
func (s *Set) Hash() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.hash == "" {
		h := sha256.New()
		for _, key := range slices.Sorted(maps.Keys(s.fams)) {
			for _, k := range s.fams[key] {
				fmt.Fprintln(h, k.family.Name, k.family.Version, k.family.Hash)
			}
		}
		s.hash = hex.EncodeToString(h.Sum(nil)[:6])
	}
	return s.hash
}

// Find returns a shipped family by name, in any case of letters; nil when there is none.
func Find(name string) *dialect.Family { return Shipped().Find(name) }

// Raw is the file of a shipped family.
func Raw(name string) []byte { return Shipped().Raw(name) }

// Names lists the shipped families in alphabetical order.
func Names() []string { return Shipped().Names() }
