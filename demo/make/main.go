// Command make builds the demo plant through the same actions that people use, and writes it as a bundle:
//
//	go run ./demo/make demo/skerrow-kelp-works.tingate.zip
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"sort"
	"strconv"
	"strings"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/drives"
	"tingate/app/exchange"
	"tingate/core/circuit"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/stops"
	"tingate/core/supply"
	"tingate/demo/walk"
	"tingate/store"
)

type builder struct {
	ctx     context.Context
	a       *app.App
	clock   time.Time
	place   string
	rh      base.Actor
	tk      base.Actor
	err     error
	serials int
	old     []byte // of a family file with which one drive was commissioned
}

func (b *builder) must(err error) {
	if err != nil && b.err == nil {
		b.err = err
	}
	b.clock = b.clock.Add(37 * time.Second)
}

type fields map[string]string

func (b *builder) set(who base.Actor, drive, why string, f fields) {
	keys := make([]string, 0, len(f))
	for k := range f {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	e := drives.Edit{ID: base.NewID(), Edit: base.NewID(), Why: why}
	for _, k := range keys {
		e.Sets = append(e.Sets, drives.Set{Path: k, Text: f[k]})
	}
	b.must(b.a.Change(b.ctx, who, drive, e))
}

// motor is one plate row with its connection.
type motor struct{ link, v, hz, p, a, n, pf string }

func (b *builder) drive(at, tag, machine, where, family, amps string, rows []motor, plate, intent fields) string {
	t, err := time.Parse(time.RFC3339, at)
	b.must(err)
	b.clock = t
	id := base.NewID()
	_, err = b.a.CreateDrive(b.ctx, b.rh,
		drives.NewDrive{ID: id, Place: b.place,
			Sets: []drives.Set{{Path: "tag", Text: tag}, {Path: "machine", Text: machine}, {Path: "where", Text: where}}})
	b.must(err)
	b.set(b.rh, id, "", fields{"rating.dialect": family, "rating.current": amps, "rating.duty": "heavy", "supplies.mcc-1": "true",
		"supplies.ctl-1": "true"})
	b.serials++
	for part, made := range map[string]string{"rating": fmt.Sprintf("T00%05d", 41870+3*b.serials),
		"motor": fmt.Sprintf("22%02d-%04d", b.serials%12+1, 411+97*b.serials)} {
		if _, given := plate[part+".serial"]; !given && len(rows) > 0 {
			plate[part+".serial"] = made
		}
	}
	first := ""
	for _, r := range rows {
		row := base.NewID()
		if first == "" {
			first = row
		}
		p := "motor.rows." + row + "."
		b.set(b.rh, id, "", fields{p + "connection": r.link, p + "voltage": r.v, p + "frequency": r.hz, p + "power": r.p,
			p + "current": r.a, p + "speed": r.n, p + "power_factor": r.pf})
	}
	if first != "" {
		plate["motor.linked"] = first
	}
	if len(plate) > 0 {
		b.set(b.rh, id, "", plate)
	}
	full := fields{}
	for k, v := range intent {
		full["intent."+k] = v
	}
	if len(full) > 0 {
		b.set(b.rh, id, "", full)
	}
	return id
}

// readBack types every planned setting of some gates as the keypad would show it; wrong replaces a text.
func (b *builder) readBack(id string, gates []string, wrong fields) {
	v, err := b.a.Drive(b.ctx, b.rh, id)
	b.must(err)
	for _, l := range v.State.Lines {
		for _, g := range gates {
			if l.Gate != g || !l.Planned {
				continue
			}
			text := strings.TrimSpace(strings.TrimSuffix(l.SetTo, l.Unit))
			if w, ok := wrong[l.Code]; ok {
				text = w
			}
			b.must(b.a.Read(b.ctx, b.rh, id, base.NewID(), l.Code, text))
		}
	}
}

func (b *builder) confirm(id string) {
	b.must(b.a.Confirm(b.ctx, b.rh, id, base.NewID(), "plate/poles/confirmed"))
}

func (b *builder) pass(who base.Actor, id string, gates ...string) {
	for _, g := range gates {
		if err := b.a.Pass(b.ctx, who, id, base.NewID(), g); err != nil {
			v, _ := b.a.Drive(b.ctx, who, id)
			b.must(fmt.Errorf("%s %s: %w", v.Drive.Tag, g, err))
		}
		b.clock = b.clock.Add(time.Minute)
	}
}

// live records both supplies on.
func (b *builder) live() {
	for id, volts := range map[string][]string{"mcc-1": {"398", "401", "399"}, "ctl-1": {"231"}} {
		b.must(b.a.RecordEnergy(b.ctx, b.rh, b.place, base.NewID(), drivefile.Energy{Supply: id, State: drivefile.Live, Volts: volts}))
	}
}

// walked takes a drive through gates as far as named, Match, Dead and Wake.
func (b *builder) walked(id string, gates ...string) {
	v, err := b.a.Drive(b.ctx, b.rh, id)
	b.must(err)
	ordered := v.Drive.Rating.Type
	if f := strings.LastIndex(ordered, "-"); f > 0 && v.Drive.Rating.Dialect == "Tarn" {
		ordered = ordered[:f]
	}
	f := site(fields{"site.ordered": ordered})
	if v.Drive.Motor.Cooling == "" {
		f["motor.cooling"] = "forced"
	}
	d := v.Drive
	amps, err := strconv.ParseFloat(strings.TrimSuffix(d.Rating.Current.Text, " A"), 64)
	b.must(err)
	fuse := 6
	for _, x := range []int{10, 16, 20, 25, 32, 40, 50, 63, 80} {
		if float64(fuse) < amps {
			fuse = x
		}
	}
	size, _ := supply.Sizing{Code: "iec B2", Current: float64(fuse)}.Smallest()
	reference := map[string]string{"voltage": "voltage", "current": "current", "presets": "presets"}[d.Intent.SpeedSource]
	for k, x := range (fields{"site.cable": "6 m", "motor.leads": "6", "power.code": "iec-b2", "power.input": d.Rating.Current.Text,
		"power.line_area": size.Name, "power.motor_area": size.Name, "power.line_length": "12 m",
		"power.protection": strconv.Itoa(fuse), "power.protection_most": strconv.Itoa(fuse), "power.torque": "1.5",
		"power.earth_torque": "2", "power.motor_torque": "2.6", "power.control_torque": "0.5", "wiring.command": "two-wire",
		"wiring.reset": "true", "wiring.reference": reference,
		"wiring.safety": "contacts", "wiring.logic": "source", "wiring.supply": "drive", "wiring.run_lamp": "true"}) {
		f[k] = x
	}
	for k, x := range (fields{"turn.forward": "as the arrow on the guard shows", "turn.from": "drive-end", "turn.sense": "clockwise",
		"turn.stands": "uncoupled", "turn.uncouple": "yes"}) {
		f[k] = x
	}
	if d.Turn.Brake == "" {
		f["turn.brake"] = "none"
	}
	circuit := map[string]string{"EF-04": "drying", "SP-03": "press", "CV-06": "press", "WN-01": "slip", "BP-02": "intake"}[d.Tag]
	for k, x := range (fields{"stop.circuit": circuit, "stop.still": "no-run", "stop.as": "coast", "stop.latched": "no",
		"stop.speed": d.Intent.HighestSpeed.Text, "stop.allowed": "3 s", "stop.guarding": "locking"}) {
		f[k] = x
	}
	if d.Turn.Hanging {
		f["stop.drop"] = "15"
	}
	b.set(b.rh, id, "", f)
	b.gates(id, gates...)
}

// gates answers and passes gates, one after the other.
func (b *builder) gates(id string, gates ...string) {
	w := walk.Walker{App: b.a, Who: b.rh, Second: b.tk, Tick: func(d time.Duration) { b.clock = b.clock.Add(d) }}
	for _, g := range gates {
		if g == "dead" {
			b.must(w.Dead(b.ctx, id, "T. Kvernes and the shift"))
			continue
		}
		if err := w.Gate(b.ctx, id, g, map[string]string{"tune/ready/temperature": "18"}); err != nil {
			b.must(fmt.Errorf("%s %s: %w", id, g, err))
		}
		b.pass(b.rh, id, g)
	}
}

// kept takes a drive through all gates.
func (b *builder) kept(id string) {
	v, err := b.a.Drive(b.ctx, b.rh, id)
	b.must(err)
	for _, l := range v.State.Lines { // as found: the drive came as delivered
		b.must(b.a.Read(b.ctx, b.rh, id, base.NewID(), l.Code, strings.TrimSpace(strings.TrimSuffix(l.Delivery, l.Unit))))
	}
	b.must(b.a.Snapshot(b.ctx, b.rh, id, base.NewID(), "as-found", "typed from the keypad"))
	b.walked(id, "match", "dead", "wake")
	b.must(b.a.Snapshot(b.ctx, b.rh, id, base.NewID(), "as-planned", ""))
	b.confirm(id)
	b.readBack(id, []string{"plate", "span", "signal"}, nil)
	b.pass(b.rh, id, "plate")
	b.gates(id, "stop", "turn", "tune")
	b.pass(b.rh, id, "span")
	b.gates(id, "signal")
	b.must(b.a.Snapshot(b.ctx, b.rh, id, base.NewID(), "as-left", ""))
	b.pass(b.tk, id, "keep")
}

// circuits are the plant's stop circuits.
func (b *builder) circuits() {
	for id, c := range map[string]fields{
		"drying": {"name": "Drying hall, line stop", "devices.S1.name": "feed end", "devices.S2.name": "discharge",
			"devices.S3.name": "drum door", "devices.S3.kind": "guard", "reset_at": "outside of the door, with a view of the drum"},
		"press": {"name": "Press row", "devices.S1.name": "aisle", "devices.S2.name": "platform", "devices.S3.name": "hatch",
			"devices.S3.kind": "guard", "reset_at": "at the row's end", "lamps": "three"},
		"slip": {"name": "Landing winch", "devices.S1.name": "winch house", "devices.S2.name": "quay",
			"devices.S3.name": "operator's key", "devices.S3.kind": "key"},
		"intake": {"name": "Intake pumps", "devices.S1.name": "pump floor", "contactors": "1"},
	} {
		all := fields{"kind": "two-channel", "feed": "pulsed", "reset": "let-go", "lamps": "two", "by": "I. Brekke",
			"paper": "SK-114, issue 3", "category": "3", "required": "d", "reached": "d", "mttfd": "60", "dc": "90 %", "ccf": "70",
			"next": "2027-05"}
		f := fields{}
		for _, l := range []fields{all, c} {
			for k, v := range l {
				f["circuits."+id+"."+k] = v
			}
		}
		for k := range c {
			if d, _, ok := strings.Cut(strings.TrimPrefix(k, "devices."), "."); ok && strings.HasPrefix(k, "devices.") &&
				c["devices."+d+".kind"] == "" {
				f["circuits."+id+".devices."+d+".kind"] = "emergency-stop"
			}
		}
		b.set(b.rh, b.place, "", f)
	}
}

// stopFound tests a stop circuit until a test shows something else: the second contact on the platform does not open.
func (b *builder) stopFound(id string) {
	w := walk.Walker{App: b.a, Who: b.rh, Second: b.tk, Tick: func(d time.Duration) { b.clock = b.clock.Add(d) }}
	v, err := b.a.Stop(b.ctx, id)
	b.must(err)
	hidden := []circuit.Mistake{{Kind: stops.Stuck, At: "S2.2"}}
	answers := map[string]string{}
	for _, t := range v.Tests {
		answers[gate.TestPrefix+t.Key], err = b.a.PractiseStop(b.ctx, id, t.Key, hidden)
		b.must(err)
	}
	b.must(w.Until(b.ctx, id, "stop", answers, func(v base.View) bool { return v.State.Stop.Fails > 0 }))
}

func main() {
	if err := run(os.Args[1]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(to string) error {
	dir, err := os.MkdirTemp("", "tingate-demo")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	s, err := store.Open(dir)
	if err != nil {
		return err
	}
	defer s.Close()
	b := &builder{ctx: context.Background(), clock: time.Date(2026, 5, 1, 8, 0, 0, 0, time.UTC), place: base.NewID(),
		rh: base.Actor{Person: base.NewID()}, tk: base.Actor{Person: base.NewID()}}
	b.a = app.New(s, func() time.Time { return b.clock }, "0.1.0")
	// One drive was commissioned in June with an earlier file of its family.
	if b.old, err = os.ReadFile("formats/familyfile/testdata/tarn-1.yaml"); err != nil {
		return err
	}
	b.build()
	if b.err != nil {
		return b.err
	}
	f, err := os.Create(to)
	if err != nil {
		return err
	}
	return errors.Join(b.a.ExportTo(b.ctx, f, b.place, exchange.Selection{}), f.Close())
}
