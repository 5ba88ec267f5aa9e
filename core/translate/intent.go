package translate

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/quantity"
	"tingate/core/signal"
)

// Plan translates the whole intent for the dialect. poles are those of the judged plate; line is the supply's frequency
// in Hz, NaN when not stated.
func Plan(d drivefile.Drive, poles int, line float64) dialect.Plan {
	m, in := d.Motor, d.Intent
	p := dialect.Plan{Motor: missingRow, Poles: poles, ServiceFactor: m.ServiceFactor.Num(quantity.Ratio, ""),
		DriveCurrent: d.Rating.Current.Num(quantity.Current, "A"),
		Load:         in.Load, LoadTorque: in.LoadTorque.Num(quantity.Percent, "%") / 100,
		LoadFriction: friction(in)}
	linked := LinkedRow(m)
	for _, id := range RowIDs(m) {
		if id == linked {
			p.Motor = dialectRow(m, m.Rows[id])
		} else {
			p.OtherRows = append(p.OtherRows, dialectRow(m, m.Rows[id]))
		}
	}
	p.Numbers = map[string]float64{"current_limit": in.CurrentLimit.Num(quantity.Percent, "%") / 100}
	for name, q := range map[string]drivefile.Q{"lowest_speed": in.LowestSpeed, "highest_speed": in.HighestSpeed, "jog": in.Jog,
		"preset_1": in.Preset1,
		"preset_2": in.Preset2, "preset_3": in.Preset3, "reference_low": in.ReferenceLow, "reference_high": in.ReferenceHigh} {
		p.Numbers[name] = q.Num(quantity.Speed, "r/min")
	}
	p.Numbers["rise"], p.Numbers["fall"] = Slope(in.Rise, p.Numbers["highest_speed"], poles),
		Slope(in.Fall, p.Numbers["highest_speed"], poles)
	p.Choices = map[string]string{"control": in.Control, "slip_compensation": in.Slip, "load_pattern": in.Pattern,
		"direction": in.Direction, "stop_mode": in.StopMode,
		"overload_class": in.OverloadClass, "automatic_restart": in.Restart, "command_source": in.CommandSource,
		"speed_source":   in.SpeedSource,
		"reference_loss": in.ReferenceLoss, "torque_off_shows": in.TorqueOffShows}
	if in.SpeedSource == "voltage" || in.SpeedSource == "current" {
		p.Choices["reference_signal"] = in.SpeedSource
	}
	if f := p.Motor.Frequency; math.IsNaN(line) && (f == 50 || f == 60) {
		line = f // no supply states it: a motor for 50 or 60 Hz stands on such a supply
	}
	if !math.IsNaN(line) {
		p.Choices["line_frequency"] = quantity.Format(line)
	}
	return p
}

// friction is what rubs beside the load, as a share of the rated torque; 0: nothing is said of it, or nothing that can be.
func friction(in drivefile.Intent) float64 {
	return max(0, quantity.OrZero(in.LoadFriction.Num(quantity.Percent, "%")/100))
}

// Slope is a ramp in r/min per s. Seconds count from 0 to the highest speed (r/min); Hz/s by 120 over poles.
func Slope(q drivefile.Q, highest float64, poles int) float64 {
	if q.Value == nil || !(*q.Value > 0) {
		return math.NaN()
	}
	v := *q.Value
	switch q.Unit {
	case "r/min/s":
		return v
	case "Hz/s":
		if poles == 0 {
			return math.NaN()
		}
		return v * 120 / float64(poles)
	}
	if s, ok := q.In(quantity.Slope, "s"); ok {
		return highest / s
	}
	return math.NaN()
}

// LineFrequency is the frequency of the supplies that feed the drive, Hz; NaN when none states it.
func LineFrequency(d drivefile.Drive, p drivefile.Place) float64 {
	for _, id := range slices.Sorted(maps.Keys(d.Supplies)) {
		if f := p.Supplies[id].Frequency.Num(quantity.Frequency, "Hz"); !math.IsNaN(f) {
			return f
		}
	}
	return math.NaN()
}

// UsualBoost is the share of the motor's voltage at standstill where no wish says otherwise. Common practice: families deliver about as
// much.
const UsualBoost = .02

// Boost is the boost that is wished, or the usual one, as a share of the motor's voltage.
func Boost(in drivefile.Intent) float64 {
	if boost := in.Boost.Num(quantity.Percent, "%") / 100; !math.IsNaN(boost) {
		return boost
	}
	return UsualBoost
}

// plainly is a role that one field of the intent wishes, with where that field lies.
type plainly struct {
	dialect.WishedField
	index []int
	kind  quantity.Kind
}

// plain are all of them. A row without its field would be a fault of this program: it does not start with one.
var plain = func() []plainly {
	byName := map[string]reflect.StructField{}
	for _, f := range reflect.VisibleFields(reflect.TypeFor[drivefile.Intent]()) {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		byName[name] = f
	}
	var l []plainly
	for _, w := range dialect.WishedFields() {
		f, ok := byName[w.Field]
		field, err := drivefile.Lookup(drivefile.KindDrive, "intent."+w.Field)
		if !ok || err != nil {
			panic("no field of the intent for role " + w.Role)
		}
		l = append(l, plainly{w, f.Index, field.Kind})
	}
	return l
}()

// Wished are a job's wishes that no intent of the closed list carries.
func Wished(d drivefile.Drive) dialect.Wished {
	in := d.Intent
	w := dialect.Wished{Numbers: map[string]float64{}, On: map[string]bool{}, Means: map[string]string{}, Texts: map[string]string{}}
	put := func(name string, v float64) {
		if !math.IsNaN(v) {
			w.Numbers[name] = v
		}
	}
	for _, r := range plain {
		x := reflect.ValueOf(in).FieldByIndex(r.index).Interface()
		text, _ := x.(string)
		q, _ := x.(drivefile.Q)
		switch r.Unit {
		case dialect.WishOn:
			if text != "" {
				w.On[r.Role] = text == "on"
			}
		case dialect.WishSense:
			if text != "" {
				w.Means[r.Role] = text
			}
		case dialect.WishText:
			w.Texts[r.Role] = strings.TrimSpace(text)
		case dialect.WishSpeed:
			put(r.Role, q.Num(quantity.Speed, "r/min"))
		case dialect.WishShare:
			put(r.Role, q.Num(quantity.Percent, "%")/100)
		case dialect.WishTime:
			put(r.Role, q.Num(quantity.Seconds, "s"))
		default:
			put(r.Role, q.Num(r.kind, r.kind.Base))
		}
	}
	w.Texts["drive-name"] = cmp.Or(w.Texts["drive-name"], strings.TrimSpace(d.Tag))
	supplied(d, put, &w)
	put("brake-delay", opensOf(d.Turn).Num(quantity.Seconds, "s"))
	if _, fitted := w.Numbers["resistor-ohm"]; fitted {
		w.On["resistor"] = true
	}
	if d.Turn.Brake == "drive" || d.Turn.Brake == "apart" { // without a brake nothing is asked of the drive
		w.On["brake"] = d.Turn.Brake == "drive"
	}
	if d.Motor.Kind != "" {
		w.Means["motor-kind"] = d.Motor.Kind
	}
	// What a reaction depends on is planned and read back, also where it stays as delivered.
	if in.CommandSource == "terminals" || in.CommandSource == "network" {
		w.Reacts = append(w.Reacts, "stop-key")
		if in.StopKey == "quick-stop" {
			w.Reacts = append(w.Reacts, "quick-stop-dv", "quick-stop-dt")
		}
	}
	if d.Wiring.Interlock {
		w.Reacts = append(w.Reacts, "interlock", "interlock-back")
	}
	if d.Wiring.Sensor == "thermistor" {
		w.On["sensor"] = true
	}
	return w
}

// supplied are wishes that follow from elsewhere than a field of their own.
func supplied(d drivefile.Drive, put func(string, float64), w *dialect.Wished) {
	in := d.Intent
	var bends []signal.Bend
	if in.SpeedSource == "voltage" || in.SpeedSource == "current" {
		c, _ := Chain(d)
		put("dead-band", c.DeadBand/(c.High-c.Low))
		bends = c.Bends
	}
	bent(bends, put, w)
	if _, said := w.Numbers["lost-below"]; in.SpeedSource != "current" {
		delete(w.Numbers, "lost-below") // of a voltage from zero nothing can be told
	} else if !said && in.ReferenceLoss != "" {
		put("lost-below", dialect.UsualLost)
	}
	if cooled := map[string]string{"own-fan": "own-fan", "none": "own-fan", "forced": "forced",
		"liquid": "forced"}[d.Motor.Cooling]; cooled != "" {
		w.Means["motor-cooling"] = cooled
	}
	if _, said := w.On["auto-ramp"]; !said && (in.Rise.Value != nil || in.Fall.Value != nil) {
		w.On["auto-ramp"] = false // a time that is wanted is kept
	}
	if d.Turn.Brake != "drive" {
		delete(w.Numbers, "brake-opens-at")
		delete(w.Numbers, "brake-closes-below")
	}
}

// bent are the points between the ends as the drive is to hold them: only whole ones that rise, and behind the last of them none, so that
// no half point bends the reference to standstill.
func bent(bends []signal.Bend, put func(string, float64), w *dialect.Wished) {
	for i := range 3 {
		name := fmt.Sprint("bend-", i+1)
		delete(w.Numbers, name)
		delete(w.Numbers, name+"-at")
		switch {
		case i < len(bends):
			put(name+"-at", bends[i].Share)
			put(name, bends[i].Speed)
		case len(bends) > 0:
			put(name+"-at", 0)
		}
	}
}

// opensOf is how long a brake that the drive opens takes to open.
func opensOf(t drivefile.Turn) drivefile.Q {
	if t.Brake != "drive" {
		return drivefile.Q{}
	}
	return t.Opens
}
