// Package familyfile reads drive families from YAML and carries the ones that ship.
package familyfile

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/formats/strictyaml"
)

// Read reads and checks a family file. Unknown keys, wrong types and every fault of the family are errors with
// the line and the place in the file.
func Read(raw []byte) (*dialect.Family, error) {
	if len(raw) > drivefile.MaxDialect {
		return nil, fmt.Errorf("family file: got %d bytes, want at most %d", len(raw), drivefile.MaxDialect)
	}
	var f dialect.Family
	if err := strictyaml.Decode(raw, &f); err != nil {
		if errors.Is(err, io.EOF) {
			return nil, errors.New("family file: got nothing, want a family")
		}
		return nil, plainWords(err)
	}
	if errs := f.Compile(); len(errs) > 0 {
		number(raw, errs)
		return nil, errors.Join(errs...)
	}
	sum := sha256.Sum256(raw)
	f.Hash = hex.EncodeToString(sum[:8])
	return &f, nil
}

var unknownKey = regexp.MustCompile(`field (\S+) not found in type dialect\.(\w+)`)
var wrongType = regexp.MustCompile("cannot unmarshal !!(\\w+) (`.*?` )?into \\S+")

// plainWords says what a file got wrong without the program's own names.
func plainWords(err error) error {
	t := strings.TrimPrefix(err.Error(), "yaml: ")
	t = strings.ReplaceAll(t, "unmarshal errors:\n  ", "")
	t = unknownKey.ReplaceAllString(t, `got an unknown key "$1", want one of docs/formats/dialect.md`)
	t = wrongType.ReplaceAllString(t, "got a $1 ${2}where another kind of value is wanted")
	return errors.New(strings.ReplaceAll(t, "\n  ", "\n"))
}

// Write writes a family as a file that Read takes. Comments of an earlier file are not kept.
func Write(f *dialect.Family) ([]byte, error) {
	lean := *f
	lean.Settings = slices.Clone(f.Settings)
	for i := range lean.Settings {
		if lean.Settings[i].List != "" {
			lean.Settings[i].Choices = nil // they stand in the shared list
		}
	}
	f = &lean
	var out bytes.Buffer
	enc := yaml.NewEncoder(&out)
	enc.SetIndent(2)
	err := enc.Encode(f)
	return out.Bytes(), errors.Join(err, enc.Close())
}

// number finds the line of each fault. A field that is missing has the line of what it is missing in.
func number(raw []byte, errs []error) {
	var doc yaml.Node
	if yaml.Unmarshal(raw, &doc) != nil || len(doc.Content) == 0 {
		return
	}
	for _, err := range errs {
		var fe *dialect.FieldError
		if errors.As(err, &fe) {
			fe.Line = lineOf(doc.Content[0], strings.TrimPrefix(fe.At, "$."))
		}
	}
}

var pathStep = regexp.MustCompile(`[^.\[\]]+|\[\d+\]`)

// lineOf walks a path like settings[3].register as far as it goes.
func lineOf(node *yaml.Node, path string) int {
	line := node.Line
	for _, step := range pathStep.FindAllString(path, -1) {
		var next *yaml.Node
		if n, err := strconv.Atoi(strings.Trim(step, "[]")); err == nil && node.Kind == yaml.SequenceNode {
			if n < len(node.Content) {
				next = node.Content[n]
			}
		} else if node.Kind == yaml.MappingNode {
			for i := 0; i+1 < len(node.Content); i += 2 {
				if node.Content[i].Value == step {
					next = node.Content[i+1]
				}
			}
		}
		if next == nil {
			return line
		}
		node, line = next, next.Line
	}
	return line
}
