package gate

import (
	"slices"
	"sort"
	"strings"

	"tingate/core/drivefile"
	"tingate/core/isolation"
)

func (f *Facts) session() string { return isolation.Session(f.sources, f.job.Energy) }

// neverOpened stands in a basis while nothing was ever opened for work at a drive.
const neverOpened = "never opened"

// energised names the last isolation of this drive: the openings of its supplies for work here, or for work that nobody said where, and the
// last proof that was begun here. A basis with it is void once it is isolated again. Opened for work at another drive, the same feeder asks
// for nothing here. What was recorded by rules that did not ask for it counts as long as it is later than the last proof, and than the last
// opening for work here.
func (f *Facts) energised(key string) map[string]string {
	var last drivefile.Entry
	var parts []string
	proof := ""
	for k, en := range f.rec.EvidenceEntries {
		if id := f.rec.Evidence[k].Basis["isolation"]; strings.HasPrefix(k, "dead/") && id != "" && en.Seq > last.Seq {
			last, proof = en, id
		}
	}
	at := last.At
	for _, s := range f.sources {
		for _, id := range []string{s.ID, s.Point} {
			for _, where := range []string{f.job.ID, ""} {
				if o, ok := f.job.Energy[id].OpenedFor(where); ok && !slices.Contains(parts, o.ID) {
					parts = append(parts, o.ID)
					if where != "" {
						at = max(at, o.At)
					}
				}
			}
		}
	}
	if ev, ok := f.rec.Evidence[key]; ok && ev.Basis["isolation"] == "" && f.rec.EvidenceEntries[key].At > at {
		return map[string]string{}
	}
	sort.Strings(parts)
	if proof != "" {
		parts = append(parts, proof)
	}
	if parts == nil {
		parts = []string{neverOpened}
	}
	return map[string]string{"isolation": strings.Join(parts, " ")}
}
