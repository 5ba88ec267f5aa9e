// Package familyfile reads drive families from YAML and carries the ones that ship.
package familyfile

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"sort"
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

// Find returns a shipped family by name, in any case of letters; nil when there is none.
func Find(name string) *dialect.Family {
	fams, _ := load()
	for n, f := range fams {
		if strings.EqualFold(n, name) {
			return f
		}
	}
	return nil
}

// Raw is the file of a shipped family, as a bundle carries it.
func Raw(name string) []byte { _, raws := load(); return raws[name] }

// Names lists the shipped families in alphabetical order.
func Names() []string {
	fams, _ := load()
	var l []string
	for n := range fams {
		l = append(l, n)
	}
	sort.Strings(l)
	return l
}
