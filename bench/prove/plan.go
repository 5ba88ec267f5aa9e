package prove

import (
	"fmt"
	"math"

	"tingate/bench/ride"
	"tingate/core/drive"
)

// link: it charges to what the line gives.
func (p *prover) link() {
	want := p.B.Setup.Line * math.Sqrt2
	got := p.D.Link
	verdict := "holds"
	if math.Abs(got/want-1) > .06 {
		verdict = "look-again"
	}
	p.note("link", "Line on: the DC link", fmt.Sprintf("about %.0f V", want), fmt.Sprintf("%.0f V", got), verdict, "")
}

// ramps: from standstill to the highest speed by the planned command and reference, and the stop.
func (p *prover) ramps() {
	c := &p.D.C
	if c.Speed == "presets" { // its fastest preset
		fastest := 0
		for i := 1; i < 4; i++ {
			if c.Presets[i] > c.Presets[fastest] {
				fastest = i
			}
		}
		p.preset(fastest)
	}
	p.ask(1)
	if !p.run(true, false) {
		p.note("start", "Start by the planned command", "it runs", "no input has that function", "look-again",
			"Give an input the run command at gate Control.")
		return
	}
	began := p.Time()
	p.Phase = ride.Rise
	if !p.settle() {
		p.note("rise", "Rise to the highest speed", seconds(p.w.Rise), "", "stops", "")
		return
	}
	top := math.Abs(p.D.Speed)
	if top < 1 {
		p.note("start", "Start by the planned command", "it runs", "it stands: "+p.blocked(), "look-again", "")
		return
	}
	rise := began
	for _, s := range p.Samples {
		if s.T >= began && math.Abs(s.Speed) < .97*top {
			rise = s.T
		}
	}
	want := math.NaN()
	if p.w.Highest > 0 {
		want = p.w.Rise * .97 * top / p.w.Highest
	}
	p.judgeTime("rise", "Rise, to 97 % of the speed", want, rise-began)
	highest := p.w.Highest
	if c.Speed == "analog" && !math.IsNaN(p.w.RefHigh) {
		highest = math.Min(p.w.RefHigh, p.w.Highest)
	}
	if c.Speed == "presets" {
		highest = math.Max(p.w.Presets[1], math.Max(p.w.Presets[2], p.w.Presets[3]))
	}
	p.Phase = ride.Hold
	p.Rider.Out.Warmth = 0
	if p.steps(5) {
		detail := fmt.Sprintf("%.1f A of the motor's %.1f A.", p.D.Current, p.B.Setup.Motor.Current)
		p.speed("highest", "Highest speed by the full reference", highest, detail)
	} else {
		p.note("highest", "Highest speed by the full reference", rpm(highest), "", "stops", "")
		return
	}
	p.Phase = ride.Fall
	p.Rider.Out.Top = top
	stopped := p.Time()
	p.run(false, false)
	if !p.stand() {
		p.note("fall", "Stop", seconds(p.w.Fall), "", "stops", "")
		return
	}
	fell := math.NaN()
	for _, s := range p.Samples {
		if s.T > stopped && math.Abs(s.Speed) < .03*top {
			fell = s.T - stopped
			break
		}
	}
	if p.w.Coast {
		p.note("fall", "Stop: it coasts", "not by the drive", seconds(fell), "holds", "How long depends on the load alone.")
		return
	}
	want = math.NaN()
	if p.w.Highest > 0 {
		want = p.w.Fall * .97 * top / p.w.Highest
	}
	p.judgeTime("fall", "Fall, to standstill", want, fell)
}

// slowest: with no reference it turns at the lowest speed, or stands.
func (p *prover) slowest() {
	c := &p.D.C
	if c.Speed == "presets" {
		return
	}
	p.Phase = ride.Rise
	p.ask(0)
	if !p.run(true, false) || !p.settle() {
		p.note("lowest", "Lowest speed, no reference", rpm(p.w.Lowest), "", "look-again", p.blocked())
		return
	}
	want := p.w.Lowest
	if c.Speed == "analog" && p.w.RefLow > want {
		want = p.w.RefLow
	}
	p.speed("lowest", "Lowest speed, no reference", want, "With run given it turns so even without a signal.")
}

// sweep: the reference from end to end.
func (p *prover) sweep() {
	if p.D.C.Speed != "analog" {
		return
	}
	for _, share := range []float64{.25, .5, .75} {
		p.ask(share)
		if !p.settle() {
			p.note(fmt.Sprintf("reference-%.0f", share*100), fmt.Sprintf("Reference at %.0f %%", share*100), "", "", "stops", "")
			return
		}
		want := p.w.RefLow + (p.w.RefHigh-p.w.RefLow)*share
		want = math.Min(math.Max(want, p.w.Lowest), p.w.Highest)
		p.speed(fmt.Sprintf("reference-%.0f", share*100),
			fmt.Sprintf("Reference at %.0f %%: %.1f %s", share*100, p.In.Analog, map[bool]string{true: "mA", false: "V"}[p.D.C.Full > 10]),
			want, "")
	}
}

// preset puts the inputs of a preset; false when there are none.
func (p *prover) preset(n int) bool {
	ok := true
	for bit := range 3 {
		in := p.has(fmt.Sprintf("preset-%d", bit))
		if n>>bit&1 == 1 && in == 0 {
			ok = false
		}
		p.put(in, n>>bit&1 == 1)
	}
	return ok
}

// buttons: a motor potentiometer up from the lowest speed to the highest and down again, and where it begins after a stop.
func (p *prover) buttons() {
	c := &p.D.C
	if !p.pot {
		return
	}
	faster, slower := p.has("faster"), p.has("slower")
	if faster == 0 || slower == 0 {
		p.note("pot", "Faster and slower", "both wired", "no input has that function", "look-again",
			"Give inputs faster and slower at gate Control.")
		return
	}
	p.Phase = ride.Hold
	was := c.Speed
	c.Speed = "motor-potentiometer"
	defer func() { c.Speed = was }()
	p.run(false, false)
	if !p.stand() || !p.run(true, false) || !p.settle() {
		p.note("pot-begin", "Begins at the lowest speed", rpm(p.w.Lowest), "", "stops", "")
		return
	}
	p.speed("pot-begin", "Begins at the lowest speed", p.w.Lowest, "")
	moved := func(key, title string, bits uint16, from, to float64) bool {
		if !(c.PotSlope > 0) {
			p.note(key, title, "", "it does not move", "look-again", "")
			return false
		}
		began, last := p.Time(), p.Time()
		p.put(bits, true)
		for most := p.Time() + 3*math.Abs(to-from)/c.PotSlope + 10; p.Time() < most && math.Abs(p.D.Ramp()-to) > .02; last = p.Time() {
			if !p.Step() {
				return false
			}
		}
		p.put(bits, false)
		// Its own time, or the ramp's where that is the slower.
		slope := math.Min(c.PotSlope, map[bool]float64{true: c.Rise, false: c.Fall}[to > from])
		p.judgeTime(key, title, math.Abs(to-from)/slope, last-began)
		return true
	}
	top := math.Min(c.Upper, c.Highest)
	if !moved("pot-faster", "Faster held, to the highest speed", faster, c.Lower, top) ||
		!moved("pot-slower", "Slower held, to the lowest", slower, top, c.Lower) {
		return
	}
	p.put(faster, true)
	p.steps(.3 * (top - c.Lower) / c.PotSlope)
	p.put(faster, false)
	p.settle()
	left := math.Abs(p.D.Speed)
	p.run(false, false)
	if !p.stand() || !p.run(true, false) || !p.settle() {
		return
	}
	title, want := "Started again, it begins at the lowest", p.w.Lowest
	if c.PotKeeps == "power" || c.PotKeeps == "always" {
		title, want = "Started again, it goes back to where it was", left
	}
	p.speed("pot-again", title, want, "")
	p.steps(.1)
}

// presets: each of them.
func (p *prover) presets() {
	if p.D.C.Speed != "presets" {
		return
	}
	if !p.run(true, false) {
		return
	}
	for n := 1; n < 4; n++ {
		if math.IsNaN(p.w.Presets[n]) {
			continue
		}
		key, title := fmt.Sprintf("preset-%d", n), fmt.Sprintf("Preset %d", n)
		if !p.preset(n) {
			p.note(key, title, rpm(p.w.Presets[n]), "no input has that function", "look-again",
				"Give inputs the preset bits at gate Control.")
			continue
		}
		if !p.settle() {
			p.note(key, title, rpm(p.w.Presets[n]), "", "stops", "")
			return
		}
		p.speed(key, title, p.w.Presets[n], "")
	}
	p.preset(0)
}

// reverse: it turns both ways, or refuses to.
func (p *prover) reverse() {
	p.run(false, false)
	if !p.stand() {
		return
	}
	p.ask(.3)
	if p.D.C.Speed == "presets" {
		p.preset(1)
	}
	if !p.run(true, true) {
		if p.w.Both {
			p.note("reverse", "Reverse", "it turns back", "no input asks for it", "look-again",
				"Give an input the reverse command at gate Control.")
		}
		return
	}
	ok := p.settle()
	back := p.D.Speed < -1
	verdict := "holds"
	if back != p.w.Both {
		verdict = "look-again"
	}
	words := map[bool]string{true: "it turns back", false: "it does not turn back"}
	if ok || p.Rider.Out.Trip != nil {
		p.note("reverse", "Reverse asked", words[p.w.Both], words[back], verdict, "")
	}
	p.run(false, false)
	p.stand()
}

// lost: the wire of a signal with live zero breaks.
func (p *prover) lost() {
	c := &p.D.C
	if c.Speed != "analog" || !c.Live {
		return
	}
	p.ask(.6)
	if !p.run(true, false) || !p.settle() {
		return
	}
	before := p.D.Speed
	p.In.Analog = 0
	for range int(6 / (ride.Fine * drive.Tick)) {
		p.B.Advance(ride.Fine)
	}
	d := p.D
	did := "stop"
	switch {
	case d.TripCount > p.Trips:
		did = "fault"
	case math.Abs(d.Speed-before) < .1*math.Abs(before):
		did = "hold"
	case p.reached(d.C.Lower):
		did = "lowest"
	case p.reached(d.C.Presets[1]):
		did = "preset"
	}
	verdict := "holds"
	if p.w.Lost != "" && did != p.w.Lost {
		verdict = "look-again"
	}
	p.note("lost", "Signal lost: its wire open", p.w.Lost, did, verdict, "")
}

// reached tells whether the shaft turns at an output frequency, Hz, give or take the slip.
func (p *prover) reached(hz float64) bool {
	sync := hz * 120 / float64(p.D.C.Motor.Poles)
	return hz > 0 && math.Abs(math.Abs(p.D.Speed)-sync) < .05*sync+10
}
