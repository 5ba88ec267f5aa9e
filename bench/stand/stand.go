// Package stand is a stand-in drive: it holds a family's settings and answers over Modbus TCP as a drive would, with
// ranges, run lock and access enforced. It turns nothing. It is commanded by calls in this process only.
package stand

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
)

// Drive is a stand-in of one family.
type Drive struct {
	Unit  uint8
	Delay time.Duration // how long each answer takes, as slow drives do; set before Serve
	// Rating and Firmware are what the drive says of itself; set before Serve.
	Rating   uint16
	Firmware uint16 // major × 256 + minor
	// Stale makes it answer with what it held when it was started, as a gateway that has lost its drive.
	Stale bool
	// RebootOnWrite makes the write of that number (1 and up) end in a restart, without an answer; RebootTakes says
	// whether the value was taken before. 0: never.
	RebootOnWrite int
	RebootTakes   bool
	RebootFor     time.Duration

	mu       sync.Mutex
	family   *dialect.Family
	byReg    map[uint16]*dialect.Setting
	regs     map[uint16]uint16
	old      map[uint16]uint16
	started  time.Time
	running  bool
	channels [2]bool // closed
	figures  Figures
	writes   int
	written  bool              // something was written since it was last asked
	unkept   map[uint16]uint16 // what registers held before values that nothing has kept yet were written
	asked    int
	server   *modbus.ModbusServer
	front    *front
	late     time.Duration // of a poor network
	lost     float64       // share of answers, the same
	address  string
}

// New makes a stand-in at delivery state, standing still, torque-off channels closed.
func New(f *dialect.Family) *Drive {
	d := &Drive{Unit: 1, family: f, byReg: map[uint16]*dialect.Setting{}, regs: map[uint16]uint16{}, channels: [2]bool{true, true},
		started: time.Now(), RebootFor: time.Second}
	for i := range f.Settings {
		s := &f.Settings[i]
		if s.Register == 0 {
			continue
		}
		d.byReg[s.Register] = s
		d.put(s, dialect.Held{Steps: s.DeliverySteps(), Text: s.Delivery})
	}
	return d
}

func (d *Drive) put(s *dialect.Setting, v dialect.Held) {
	for i, r := range d.family.Encode(s, v) {
		d.regs[s.Register+uint16(i)] = r
	}
}

func (d *Drive) get(s *dialect.Setting) dialect.Held {
	regs := make([]uint16, s.Words())
	for i := range regs {
		regs[i] = d.regs[s.Register+uint16(i)]
	}
	v, _ := d.family.Decode(s, regs)
	return v
}

// Put puts a value into a setting without anything following from it.
func (d *Drive) Put(s *dialect.Setting, v dialect.Held) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.put(s, v)
}

// Enter puts a value into a setting as somebody who enters it would: what a tune has learnt may be void by that. It gives the steps that
// stood before.
func (d *Drive) Enter(s *dialect.Setting, v dialect.Held) (was int64) {
	d.mu.Lock()
	defer d.mu.Unlock()
	was = d.get(s).Steps
	d.change(s, v, d.family.Kept.Keypad)
	return was
}

// Steps is what a setting holds.
func (d *Drive) Steps(s *dialect.Setting) int64 {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.get(s).Steps
}

// Values are all settings in steps, by code.
func (d *Drive) Values() map[string]int64 {
	d.mu.Lock()
	defer d.mu.Unlock()
	out := make(map[string]int64, len(d.byReg))
	for _, s := range d.byReg {
		out[s.Code] = d.get(s).Steps
	}
	return out
}

// Set puts a value into the drive, as its keypad would: as-found values of a stand. The text is as the keypad shows it.
func (d *Drive) Set(code, text string) error {
	s, ok := d.family.Setting(code)
	if !ok || s.Register == 0 {
		return fmt.Errorf("setting: got %q, want a setting of %s", code, d.family.Name)
	}
	steps, err := s.Read(text)
	if err != nil {
		return err
	}
	if !s.Inside(steps) {
		return fmt.Errorf("%s: got %s, want %s", code, text, s.Span())
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	d.put(s, dialect.Held{Steps: steps, Text: text})
	return nil
}

// Scatter changes some settings at random from a seed, as a drive looks that was used before.
func (d *Drive) Scatter(seed uint64) {
	rng := rand.New(rand.NewPCG(seed, 0x7461726e))
	d.mu.Lock()
	defer d.mu.Unlock()
	for i := range d.family.Settings {
		s := &d.family.Settings[i]
		if rng.Float64() > .3 || s.Register == 0 {
			continue
		}
		low, high := s.RangeSteps()
		switch s.Kind {
		case "choice":
			d.put(s, dialect.Held{Steps: s.Choices[rng.IntN(len(s.Choices))].Value})
		case "number":
			v := int64(float64(s.DeliverySteps()) * (.5 + rng.Float64()))
			d.put(s, dialect.Held{Steps: max(low, min(high, v))})
		}
	}
}

// Value is what a setting holds, in steps.
func (d *Drive) Value(code string) (int64, bool) {
	s, ok := d.family.Setting(code)
	if !ok || s.Register == 0 {
		return 0, false
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.get(s).Steps, true
}

// SetRunning makes the status say that the motor turns or stands.
func (d *Drive) SetRunning(on bool) { d.mu.Lock(); defer d.mu.Unlock(); d.running = on }

// SetChannels closes or opens the two torque-off channels.
func (d *Drive) SetChannels(a, b bool) { d.mu.Lock(); defer d.mu.Unlock(); d.channels = [2]bool{a, b} }

// Figures are what a running drive reads of itself.
type Figures struct {
	Speed     float64 // r/min, with its sign
	Frequency float64 // Hz, with its sign
	Current   float64 // A
	Torque    float64 // N·m, with its sign
	Link      float64 // V
}

// of is a figure by its kind's name.
func (x Figures) of(what string) float64 {
	switch what {
	case "speed":
		return x.Speed
	case "frequency":
		return x.Frequency
	case "current":
		return x.Current
	case "torque":
		return x.Torque
	}
	return x.Link
}

// SetFigures makes the registers of actual figures say this.
func (d *Drive) SetFigures(x Figures) { d.mu.Lock(); defer d.mu.Unlock(); d.figures = x }

// Writes counts the values taken over the link.
func (d *Drive) Writes() int { d.mu.Lock(); defer d.mu.Unlock(); return d.writes }

// TakeWritten tells, once, whether the link wrote since the last call.
func (d *Drive) TakeWritten() bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	w := d.written
	d.written = false
	return w
}

// take sets one whole setting: a write that covers less or more is refused.
func (d *Drive) take(r uint16, regs []uint16) error {
	s, ok := d.byReg[r]
	if !ok {
		return modbus.ErrIllegalDataAddress
	}
	if len(regs) != s.Words() {
		return modbus.ErrIllegalFunction
	}
	v, exact := d.family.Decode(s, regs)
	if !s.Inside(v.Steps) || !exact {
		return modbus.ErrIllegalDataValue
	}
	if d.running && !s.Running {
		return modbus.ErrServerDeviceBusy
	}
	if a, ok := d.family.Setting(d.family.Access.Setting); ok && s.Access == "full" && d.get(a).Steps != d.family.Access.Full {
		return modbus.ErrIllegalFunction
	}
	d.writes++
	d.written = true
	d.change(s, v, d.family.Kept.Link)
	return nil
}

// change puts a value into a setting, in a way that keeps it, keeps it on command, or never does. The stand-in's lock is held.
func (d *Drive) change(s *dialect.Setting, v dialect.Held, way string) {
	if k, steps := d.family.Keeps(); k != nil && k.Code == s.Code && v.Steps == steps {
		d.unkept = nil // it is done at once, and the setting stands as delivered again
		return
	}
	if d.unkept == nil {
		d.unkept = map[uint16]uint16{}
	}
	for i := range uint16(s.Words()) {
		r := s.Register + i
		if _, has := d.unkept[r]; way == "" {
			delete(d.unkept, r)
		} else if !has {
			d.unkept[r] = d.regs[r]
		}
	}
	d.voidTune(s)
	d.put(s, v)
}

// PowerOff takes back what was written and not kept. It tells whether that changed anything.
func (d *Drive) PowerOff() bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	lost := len(d.unkept) > 0
	for r, v := range d.unkept {
		d.regs[r] = v
	}
	d.unkept = nil
	return lost
}

// voidTune clears what a tune has learnt, as a change of the motor's entries does. The stand-in's lock is held.
func (d *Drive) voidTune(s *dialect.Setting) {
	if !slices.Contains(s.Voids, "tune") {
		return
	}
	for i := range d.family.Settings {
		switch x := &d.family.Settings[i]; x.Drives {
		case "stator-resistance", "rotor-resistance", "leakage", "magnetising-current":
			if x.Register != 0 {
				d.put(x, dialect.Held{Steps: 0})
			}
		}
	}
}
