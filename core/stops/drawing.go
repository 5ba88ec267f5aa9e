package stops

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"sync"

	"tingate/core/circuit"
)

// Drawing is a circuit with its table, made once. Faults holds what is wrong with it; then there is no table.
type Drawing struct {
	*Played
	Circuit Circuit
	Table   []Test
	Faults  []error
	// Hash tells one circuit and its table from another.
	Hash string
	set  func() Smallest
	sent func() Trained
}

// drawings keeps the last ones: every look at a drive asks for its own.
var drawings struct {
	sync.Mutex
	by    map[string]*Drawing
	order []string
}

// mostDrawings are kept.
const mostDrawings = 32

// Draw checks a circuit and works out its table; run: with a run command given. The same circuit is drawn once.
func Draw(c Circuit, run bool) *Drawing {
	raw, _ := json.Marshal(struct {
		C   Circuit
		Run bool
	}{c, run})
	sum := sha256.Sum256(raw)
	hash := hex.EncodeToString(sum[:6])
	drawings.Lock()
	defer drawings.Unlock()
	if d := drawings.by[hash]; d != nil {
		return d
	}
	d := &Drawing{Circuit: c, Hash: hash}
	if d.Played, d.Faults = Compile(c); d.Played != nil {
		for _, src := range d.Net.Solve(nil).Shorts {
			d.Faults = append(d.Faults, &circuit.FieldError{Path: "wires", Got: "a short across " + src,
				Want: "a circuit whose two ends are not joined as drawn"})
		}
		table, err := d.TableOf(run)
		if err != nil {
			d.Faults = append(d.Faults, err)
		} else {
			d.Table = table
		}
	}
	d.set = sync.OnceValue(func() Smallest { return d.SmallestSet(d.Table, nil) })
	d.sent = sync.OnceValue(func() Trained {
		t, err := d.Train(trainedPeriods)
		if err != nil {
			t.Problems = append(t.Problems, err.Error())
		}
		return t
	})
	if drawings.by == nil {
		drawings.by = map[string]*Drawing{}
	}
	drawings.by[hash] = d
	if drawings.order = append(drawings.order, hash); len(drawings.order) > mostDrawings {
		delete(drawings.by, drawings.order[0])
		drawings.order = drawings.order[1:]
	}
	return d
}

// Sound tells whether there is a table.
func (d *Drawing) Sound() bool { return d.Played != nil && d.Faults == nil }

// Smallest is the smallest set of the table, worked out once.
func (d *Drawing) Smallest() Smallest {
	if !d.Sound() {
		return Smallest{Keys: []string{}, Hidden: []string{}}
	}
	return d.set()
}

// trainedPeriods is how many periods of test pulses are played.
const trainedPeriods = 3

// Trained is what test pulses do to the circuit, worked out once.
func (d *Drawing) Trained() Trained {
	if !d.Sound() {
		return Trained{Sends: []string{}, Problems: []string{}}
	}
	return d.sent()
}

// Prepare works out what every search for a fault asks for first. It is kept with the drawing; not to be called from a place where
// somebody waits.
func (d *Drawing) Prepare() {
	if d.Sound() {
		_ = d.prepare(d.Table) // what fails here is said when it is asked for
	}
}

// Test finds a test of the table.
func (d *Drawing) Test(key string) (Test, bool) {
	for _, t := range d.Table {
		if t.Key == key {
			return t, true
		}
	}
	return Test{}, false
}
