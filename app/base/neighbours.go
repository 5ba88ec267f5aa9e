package base

import (
	"encoding/json"
	"errors"
	"strings"
	"sync"

	"tingate/core/drivefile"
	"tingate/core/stops"
	"tingate/core/translate"
	"tingate/store"
)

// ownCircuit finds the imported circuit that takes the place of the drawn one; nil when there is none.
func ownCircuit(r store.Reader, d drivefile.Drive, p drivefile.Place) *stops.Circuit {
	c := p.Circuits[d.Stop.Circuit]
	if c.Own == "" {
		return nil
	}
	if have, ok := owned.Load(c.Own); ok {
		return have.(*stops.Circuit)
	}
	_, raw, err := r.Attachment(c.Own)
	if err != nil {
		return nil // a bundle without its papers: the drawn circuit stands in
	}
	x, err := ReadStopCircuit(raw)
	if err != nil {
		return nil
	}
	owned.Store(c.Own, &x)
	return &x
}

// neighbours are the other drives on a drive's stop circuit. A place whose circuits name no drives is not looked through.
func (a *Base) neighbours(
	r store.Reader,
	doc store.Document,
	d drivefile.Drive,
	p drivefile.Place,
) (map[string]translate.Neighbour, error) {
	c := p.Circuits[d.Stop.Circuit]
	tags := map[string]bool{}
	for _, t := range strings.Split(c.Drives, ",") {
		if t = strings.ToLower(strings.TrimSpace(t)); t != "" && t != strings.ToLower(d.Tag) {
			tags[t] = true
		}
	}
	if len(tags) == 0 {
		return nil, nil
	}
	all, err := r.Documents(drivefile.KindDrive, doc.Place)
	if err != nil {
		return nil, err
	}
	out := map[string]translate.Neighbour{}
	for _, x := range all {
		var head struct {
			Tag string `json:"tag"`
		}
		if x.ID == doc.ID || json.Unmarshal(x.Body, &head) != nil || !tags[strings.ToLower(head.Tag)] {
			continue
		}
		n, err := drivefile.DecodeDrive(x.Body)
		if err != nil {
			return nil, err
		}
		f, _ := a.FamilyFor(n.Rating)
		out[strings.ToLower(n.Tag)] = translate.Neighbour{Drive: n, Family: translate.Fitted(f, n)}
	}
	return out, nil
}

// owned are imported circuits by their hash; the bytes of one never change.
var owned sync.Map

func ReadStopCircuit(raw []byte) (stops.Circuit, error) {
	var x stops.Circuit
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&x); err != nil {
		return x, Bad("file", err.Error(), "a stop circuit as Tin Gate writes it: parts, wires, devices")
	}
	if _, errs := stops.Compile(x); errs != nil {
		return x, Bad("file", errors.Join(errs...).Error(), "a circuit without faults")
	}
	return x, nil
}
