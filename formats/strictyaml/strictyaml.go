// Package strictyaml reads YAML that somebody else wrote: known keys only, each once, every value written out, and no deeper than a person
// writes.
package strictyaml

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"go.yaml.in/yaml/v3"
)

// Limits of what is read.
const (
	mostDeep  = 24      // values within values
	mostNodes = 400_000 // keys and values in all; a family of 3,000 settings has some 150,000
)

// Decode reads one document into out. An alias is refused, since a few of them make a small file a large one; so is a key that stands
// twice, by its line. The decoder itself would tell of every pair of equal keys, which a file full of them makes very many.
func Decode(raw []byte, out any) error {
	var doc yaml.Node
	dec := yaml.NewDecoder(bytes.NewReader(raw))
	if err := dec.Decode(&doc); err != nil {
		return err
	}
	n := 0
	if err := look(&doc, 0, &n); err != nil {
		return err
	}
	if err := dec.Decode(new(yaml.Node)); !errors.Is(err, io.EOF) {
		return errors.New("got a second document, want one")
	}
	dec = yaml.NewDecoder(bytes.NewReader(raw))
	dec.KnownFields(true)
	return dec.Decode(out)
}

func look(n *yaml.Node, deep int, count *int) error {
	*count++
	switch {
	case deep > mostDeep:
		return fmt.Errorf("line %d: got values %d deep, want at most %d", n.Line, deep, mostDeep)
	case *count > mostNodes:
		return fmt.Errorf("line %d: got more than %d keys and values, want at most that", n.Line, mostNodes)
	case n.Kind == yaml.AliasNode || n.Anchor != "":
		return fmt.Errorf("line %d: got an anchor or alias (& or *), want every value written out", n.Line)
	}
	if n.Kind == yaml.MappingNode {
		seen := make(map[string]int, len(n.Content)/2)
		for i := 0; i+1 < len(n.Content); i += 2 {
			k := n.Content[i]
			if k.Kind != yaml.ScalarNode {
				return fmt.Errorf("line %d: got a key that is no word", k.Line)
			}
			if line, twice := seen[k.Value]; twice {
				return fmt.Errorf("line %d: got the key %.60q, which stands on line %d already, want it once", k.Line, k.Value, line)
			}
			seen[k.Value] = k.Line
		}
	}
	for _, c := range n.Content {
		if err := look(c, deep+1, count); err != nil {
			return err
		}
	}
	return nil
}
