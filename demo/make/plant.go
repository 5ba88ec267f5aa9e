package main

import (
	"time"

	"tingate/app/base"
	"tingate/core/drivefile"
)

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
