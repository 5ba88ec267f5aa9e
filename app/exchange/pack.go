package exchange

import (
	"bytes"
	"encoding/json"

	"tingate/core/drivefile"
	"tingate/store"
)

// packed is a document with its history, as a bundle holds it. Order is the order of the lists.
type packed struct {
	ID       string            `json:"id"`
	Place    string            `json:"place"`
	Version  int64             `json:"version"`
	Document json.RawMessage   `json:"document"`
	Changes  []store.Change    `json:"changes"`
	Entries  []drivefile.Entry `json:"entries"`
}

func pack(r store.Reader, d store.Document) (packed, []byte, error) {
	changes, err := r.Changes(d.ID)
	if err != nil {
		return packed{}, nil, err
	}
	entries, err := r.Entries(d.ID)
	if err != nil {
		return packed{}, nil, err
	}
	travel := make([]drivefile.Entry, 0, len(entries))
	for _, e := range entries {
		if !drivefile.OfThisFolder(e.Kind) {
			travel = append(travel, e)
		}
	}
	entries = travel
	number(changes, entries)
	p := packed{d.ID, d.Place, d.Version, d.Body, changes, entries}
	// Through a tree, so that every key is sorted.
	raw, err := json.Marshal(p)
	if err != nil {
		return p, nil, err
	}
	var tree any
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	if err := dec.Decode(&tree); err != nil {
		return p, nil, err
	}
	raw, err = json.MarshalIndent(tree, "", " ")
	return p, append(raw, '\n'), err
}

// number says in what order changes and entries happened, from 1.
func number(changes []store.Change, entries []drivefile.Entry) {
	c, e := 0, 0
	for n := 1; n <= len(changes)+len(entries); n++ {
		if e == len(entries) || c < len(changes) && changes[c].Seq < entries[e].Seq {
			changes[c].N = n
			c++
		} else {
			entries[e].N = n
			e++
		}
	}
}

// inOrder checks that the numbers of a packed document are 1 to their count, each list rising.
func inOrder(p packed) bool {
	seen := map[int]bool{}
	last := 0
	for _, c := range p.Changes {
		if c.N <= last {
			return false
		}
		last = c.N
		seen[c.N] = true
	}
	last = 0
	for _, e := range p.Entries {
		if e.N <= last {
			return false
		}
		last = e.N
		seen[e.N] = true
	}
	total := len(p.Changes) + len(p.Entries)
	for n := 1; n <= total; n++ {
		if !seen[n] {
			return false
		}
	}
	return len(seen) == total
}
