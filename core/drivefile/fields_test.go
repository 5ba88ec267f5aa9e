package drivefile_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"tingate/core/drivefile"
)

// leaves lists the fields of a published schema, with a star for names that are given.
func leaves(t *testing.T, kind string) []string {
	t.Helper()
	type node struct {
		Type                 string           `json:"type"`
		Properties           map[string]*node `json:"properties"`
		AdditionalProperties json.RawMessage  `json:"additionalProperties"`
	}
	var root node
	if err := json.Unmarshal(drivefile.JSONSchema(kind), &root); err != nil {
		t.Fatal(err)
	}
	var out []string
	var walk func(prefix string, n *node)
	walk = func(prefix string, n *node) {
		_, quantity := n.Properties["text"]
		if n.Type != "object" || quantity {
			out = append(out, strings.TrimPrefix(prefix, "."))
			return
		}
		for k, sub := range n.Properties {
			walk(prefix+"."+k, sub)
		}
		var more node
		if json.Unmarshal(n.AdditionalProperties, &more) == nil && more.Type != "" {
			walk(prefix+".*", &more)
		}
	}
	walk("", &root)
	return out
}

// Every field has one label, in words; no label names a field that is not there.
func TestEveryFieldHasALabel(t *testing.T) {
	all := append(leaves(t, drivefile.KindDrive), leaves(t, drivefile.KindPlace)...)
	known := drivefile.Labelled()
	for _, path := range all {
		if !slices.Contains(known, path) {
			t.Errorf("%s has no label: a row in fields.go", path)
		}
		l := drivefile.Label(strings.ReplaceAll(path, "*", "01900000-0000-7000-8000-000000000001"))
		if l == "" || strings.ContainsAny(l, "_*") || strings.Contains(l, "01900000") {
			t.Errorf("%s is called %q", path, l)
		}
	}
	for _, path := range known {
		if !slices.Contains(all, path) {
			t.Errorf("%s is no field any more", path)
		}
	}
}
