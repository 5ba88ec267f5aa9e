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

// site is a place in a filtered cabinet at sea level.
func site(more fields) fields {
	f := fields{"site.altitude": "20 m", "site.ambient": "35", "site.enclosure": "filtered", "site.mounting": "upright",
		"site.filter_links": "in", "site.motor_fit": "inverter-duty", "site.choke": "dc-link", "site.outside": "25",
		"rating.short_circuit": "10"}
	for k, v := range more {
		f[k] = v
	}
	return f
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

func usual(more fields) fields {
	f := fields{"load": "constant", "load_torque": "100 %", "control": "volts-per-hertz", "slip_compensation": "off",
		"pattern": "constant", "direction": "forward", "stop_mode": "ramp",
		"overload_class": "10", "current_limit": "150 %", "automatic_restart": "off", "command_source": "terminals",
		"reference_loss": "stop", "torque_off_shows": "stop"}
	for k, v := range more {
		f[k] = v
	}
	return f
}

func (b *builder) build() {
	b.must(b.a.CreatePlace(b.ctx, b.place, "Skerrow Kelp Works", drivefile.Simulated, "UTC", map[string]drivefile.Person{
		b.rh.Person: {Initials: "RH", Name: "R. Holmar", Trade: "technician"},
		b.tk.Person: {Initials: "TK", Name: "T. Kvernes", Trade: "engineer"}}))
	_, err := b.a.AddFamily(b.ctx, b.rh, b.old)
	b.must(err)
	b.set(b.rh, b.place, "", fields{"supplies.mcc-1.name": "Panel P1, 400 V", "supplies.mcc-1.voltage": "400 V",
		"supplies.mcc-1.frequency": "50 Hz", "supplies.mcc-1.kind": "mains", "supplies.mcc-1.phases": "3",
		"supplies.mcc-1.earthing": "tn", "supplies.mcc-1.fault_current": "2 kA", "supplies.mcc-1.isolator": "switch Q1",
		"supplies.mcc-1.isolator_at": "panel P1, field 3", "supplies.mcc-1.arc": "2.1 cal/cm² at 455 mm",
		"permit": "form E-4, signed by T. Kvernes", "shifts": "06:00, 14:00, 22:00"})
	b.set(b.rh, b.place, "", fields{"supplies.ctl-1.name": "Control supply, 230 V", "supplies.ctl-1.voltage": "230 V",
		"supplies.ctl-1.frequency": "50 Hz", "supplies.ctl-1.kind": "control", "supplies.ctl-1.phases": "1",
		"supplies.ctl-1.isolator": "fuse F12", "supplies.ctl-1.isolator_at": "panel P0"})
	b.set(b.rh, b.place, "", fields{"instruments.m3.number": "M3", "instruments.m3.name": "multimeter, 1000 V, category III",
		"instruments.m3.role": "meter", "instruments.m3.measures": "automatic",
		"instruments.m5.number": "M5", "instruments.m5.name": "two-pole tester", "instruments.m5.role": "meter",
		"instruments.m5.measures": "ac-and-dc", "instruments.w1.number": "W1", "instruments.w1.name": "torque wrench, 0.5 to 5 N·m",
		"instruments.w1.role":   "torque-wrench",
		"instruments.r1.number": "R1", "instruments.r1.name": "insulation tester, 500 V", "instruments.r1.role": "insulation-tester"})
	b.circuits()
	b.clock = time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	b.live()

	b.drive("2026-11-24T08:05:00Z", "DD-02", "Drum dryer", "drying hall", "Tarn", "16 A",
		[]motor{{"star", "400", "50", "7.5 kW", "16.5", "1455", "0.83"}, {"delta", "230", "50", "7.5 kW", "26.8", "1455", "0.83"},
			{"star", "460", "60", "8.6 kW", "15.5", "1755", "0.83"}},
		fields{"motor.makers_type": "K7-4", "motor.serial": "2207-0418", "motor.frame": "132M", "motor.insulation": "F",
			"motor.duty": "S1", "motor.service_factor": "1.15", "motor.ambient": "40", "motor.cooling": "own-fan",
			"rating.type": "TN4-016-F2K", "rating.serial": "T0041873", "rating.firmware": "3.2"},
		usual(fields{"boost": "5 %", "lowest_speed": "360", "highest_speed": "1455", "rise": "8 s", "fall": "10 s", "jog": "150",
			"speed_source": "voltage", "reference_low": "0", "reference_high": "1455"}))

	// Walked by hand on the screens: nothing of it is answered yet.
	id := b.drive("2026-11-23T10:36:00Z", "BE-01", "Bucket elevator", "intake", "Tarn", "9 A",
		[]motor{{"star", "400", "50", "4 kW", "8.1", "1455", "0.82"}},
		fields{"motor.makers_type": "K4-4", "motor.serial": "2210-1177", "turn.backstop": "true", "rating.type": "TN4-009-F2"},
		usual(fields{"lowest_speed": "720", "highest_speed": "1440", "rise": "6 s", "fall": "6 s", "speed_source": "presets",
			"preset_1": "1080", "preset_2": "1440"}))
	b.confirm(id)
	b.readBack(id, []string{"plate"}, nil)
	b.pass(b.rh, id, "plate")
	b.must(b.a.Read(b.ctx, b.rh, id, base.NewID(), "6A", "50.0"))

	id = b.drive("2026-11-19T09:10:00Z", "HM-01", "Hammer mill", "milling", "Brae", "61 A",
		[]motor{{"delta", "400", "50", "30 kW", "55", "1475", "0.85"}},
		fields{"motor.makers_type": "K30-4", "motor.efficiency": "92.6", "rating.type": "BR 61 D 460 N"},
		usual(fields{"lowest_speed": "600", "highest_speed": "1475", "rise": "20 s", "fall": "60 s", "slip_compensation": "on",
			"stop_mode": "coast", "speed_source": "current", "reference_low": "600", "reference_high": "1475"}))
	b.confirm(id)
	b.readBack(id, []string{"plate"}, nil)
	b.pass(b.rh, id, "plate")
	b.readBack(id, []string{"span"}, fields{"protect.overload": "61.0", "ramp.down": "20.00"})

	id = b.drive("2026-11-20T13:00:00Z", "SP-03", "Screw press", "press row", "Voe", "25 A",
		[]motor{{"delta", "400", "50", "11 kW", "21.5", "1460", "0.84"}},
		fields{"motor.makers_type": "K11-4", "rating.type": "VOE.M.4.250/H"},
		usual(fields{"lowest_speed": "200", "highest_speed": "1460", "rise": "12 s", "fall": "8 s", "control": "vector",
			"slip_compensation": "on", "speed_source": "voltage", "reference_low": "200", "reference_high": "1460"}))
	b.confirm(id)
	b.readBack(id, []string{"plate", "span"}, nil)
	b.pass(b.rh, id, "plate", "span")
	b.walked(id, "match", "dead")
	b.stopFound(id)

	id = b.drive("2026-06-14T07:30:00Z", "EF-04", "Exhaust fan", "drying hall", "Tarn", "31 A",
		[]motor{{"delta", "400", "50", "15 kW", "28.5", "1465", "0.85"}, {"star", "690", "50", "15 kW", "16.5", "1465", "0.85"}},
		fields{"motor.makers_type": "K15-4", "rating.type": "TN4-031-F3", "rating.dialect_version": "1"},
		usual(fields{"load": "quadratic", "pattern": "quadratic", "lowest_speed": "500", "highest_speed": "1465", "rise": "30 s",
			"fall": "45 s", "current_limit": "110 %", "speed_source": "current", "reference_low": "0", "reference_high": "1465",
			"reference_loss": "hold"}))
	b.kept(id)
	b.clock = time.Date(2026, 11, 17, 3, 12, 0, 0, time.UTC)
	b.set(b.tk, id, "bearing noise above 1400", fields{"intent.highest_speed": "1400"})

	id = b.drive("2026-06-14T12:00:00Z", "BP-02", "Brine pump", "intake", "Brae", "13 A",
		[]motor{{"star", "400", "50", "5.5 kW", "11.2", "1455", "0.83"}},
		fields{"motor.makers_type": "K5-4", "rating.type": "BR 13 B 460 N"},
		usual(fields{"load": "quadratic", "pattern": "quadratic", "lowest_speed": "700", "highest_speed": "1455", "rise": "5 s",
			"fall": "5 s", "slip_compensation": "on", "current_limit": "120 %", "speed_source": "current", "reference_low": "0",
			"reference_high": "1455"}))
	b.kept(id)

	id = b.drive("2026-05-02T08:00:00Z", "WN-01", "Landing winch", "slip", "Tarn", "21 A",
		[]motor{{"star", "400", "50", "10 hp", "15.1", "1445", "0.84"}},
		fields{"motor.makers_type": "KW7-4", "motor.cooling": "forced", "turn.hanging": "true", "turn.brake": "drive",
			"turn.per_turn": "11 mm", "rating.type": "TN4-021-F3"},
		usual(fields{"lowest_speed": "150", "highest_speed": "1445", "rise": "3 s", "fall": "3 s", "boost": "5 %",
			"slip_compensation": "on", "direction": "both", "overload_class": "20", "current_limit": "170 %", "speed_source": "presets",
			"preset_1": "300", "preset_2": "900", "preset_3": "1445", "jog": "150"}))
	b.kept(id)

	id = b.drive("2026-08-11T09:00:00Z", "CV-06", "Blade sorter", "press row", "Tarn", "5.4 A",
		[]motor{{"star", "380", "90", "1.5 kW", "3.1", "1800", "0.92"}},
		fields{"motor.kind": "permanent-magnet", "motor.poles": "6", "motor.makers_type": "KP15-6", "rating.type": "TN4-005-F1"},
		usual(fields{"lowest_speed": "180", "highest_speed": "1800", "rise": "2 s", "fall": "2 s", "control": "vector",
			"speed_source": "voltage", "reference_low": "0", "reference_high": "1800"}))
	b.kept(id)

	b.drive("2026-11-23T15:20:00Z", "AG-01", "Soak tank stirrer", "intake", "Voe", "4.1 A", nil,
		fields{"rating.type": "VOE.S.4.041", "rating.serial": "V118-0203"}, nil)

	b.clock = time.Date(2026, 11, 25, 9, 41, 0, 0, time.UTC)
	b.live()
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
