package gate

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/safety"
	"tingate/core/stops"
)

// StopState is gate Stop as a screen needs it at once; circuit, table and suspects have an answer of their own.
type StopState struct {
	Ready   bool   `json:"ready" doc:"everything before the tests is answered"`
	Tests   int    `json:"tests"`
	Done    int    `json:"done"`
	Fails   int    `json:"fails"`
	Circuit string `json:"circuit" doc:"tells one circuit with its table from another"`
}

// Beginnings of the keys of tests and of measurements that part suspects.
const (
	TestPrefix  = "stop/test/"
	voltsPrefix = "stop/volts/"
	ohmsPrefix  = "stop/ohms/"
)

// VoltsKey and OhmsKey name measurements that part suspects.
func VoltsKey(m stops.Measure) string {
	return voltsPrefix + strings.Join([]string{m.Test, strconv.Itoa(m.Step), m.At}, "~")
}

// OhmsKey is VoltsKey for a resistance.
func OhmsKey(c stops.Continuity) string {
	return strings.TrimSuffix(ohmsPrefix+strings.Join([]string{c.A, c.B, c.Held}, "~"), "~")
}

// stopCircuit is the place's circuit that acts on the drive.
func stopCircuit(j Job) (drivefile.StopCircuit, bool) {
	c, ok := j.Place.Circuits[j.Drive.Stop.Circuit]
	return c, ok
}

// seconds is a time as entered, in ms; 0 when it is not.
func millis(q drivefile.Q) int {
	v := num(q, quantity.Seconds, "s")
	if math.IsNaN(v) {
		return 0
	}
	return int(math.Round(v * 1000))
}

// StopDrives are the drives of a circuit in its order, and the number of the job's own among them.
func StopDrives(j Job) (tags []string, own int) {
	c, _ := stopCircuit(j)
	own = -1
	for _, t := range strings.Split(c.Drives, ",") {
		if t = strings.TrimSpace(t); t != "" {
			if strings.EqualFold(t, j.Drive.Tag) {
				own = len(tags)
			}
			tags = append(tags, t)
		}
	}
	if own < 0 {
		own, tags = 0, append([]string{j.Drive.Tag}, tags...)
	}
	return tags, own
}

// StopSpec says how the drive's stop circuit is drawn.
func StopSpec(j Job) stops.Spec {
	c, _ := stopCircuit(j)
	s := stops.Spec{Kind: c.Kind, Reset: c.Reset, Feed: c.Feed, Lamps: c.Lamps, Delay: millis(c.Delay), Discrepancy: millis(c.Discrepancy), FromDrive: c.Supply == "drive", Split: c.Commons == "split", Jumper: c.Jumper, Status: c.Status, StartDelay: millis(c.StartDelay), Strip: true}
	s.Contactors, _ = strconv.Atoi(c.Contactors)
	ids := slices.Collect(maps.Keys(c.Devices))
	sort.Slice(ids, func(i, k int) bool { return natural(ids[i], ids[k]) })
	for _, id := range ids {
		s.Devices = append(s.Devices, stops.SpecDevice{ID: id, Name: c.Devices[id].Name, Kind: c.Devices[id].Kind})
	}
	tags, own := StopDrives(j)
	for i, tag := range tags {
		d := stops.SpecDrive{ID: fmt.Sprintf("T%d", i+1), Name: tag}
		if i == own {
			ownTerminals(j, &d)
			st := j.Drive.Stop
			d.Discrepancy, d.Filter, d.Latched = millis(st.Discrepancy), millis(st.Filter), st.Latched == "yes"
			d.Brake = j.Drive.Turn.Brake == "drive"
		}
		s.Drives = append(s.Drives, d)
	}
	return s
}

// ownTerminals gives the drive's torque-off terminals the names of its papers.
func ownTerminals(j Job, d *stops.SpecDrive) {
	if j.Family == nil {
		return
	}
	var l []dialect.Terminal
	for _, t := range j.Family.Terminals {
		if t.Kind == "torque-off" {
			l = append(l, t)
		}
	}
	if len(l) < 2 {
		return
	}
	end := func(t dialect.Terminal) [2]string {
		ends := t.Ends()
		if len(ends) > 1 {
			return [2]string{ends[0], ends[1]}
		}
		return [2]string{ends[0], t.Common}
	}
	a, b := end(l[0]), end(l[1])
	if a[1] == "" || b[1] == "" {
		return
	}
	d.A, d.B = a, b
	d.OhmA, d.OhmB = 24000/math.Max(l[0].Current, 1), 24000/math.Max(l[1].Current, 1)
}

// natural orders marks as people do: S2 before S10.
func natural(a, b string) bool {
	x, y := marks.FindStringSubmatch(a), marks.FindStringSubmatch(b)
	if x != nil && y != nil && x[1] == y[1] {
		m, _ := strconv.Atoi(x[2])
		n, _ := strconv.Atoi(y[2])
		if m != n {
			return m < n
		}
	}
	return a < b
}

var marks = regexp.MustCompile(`^(\D*)(\d+)$`)

// StopDrawing is the drive's stop circuit with its table; nil while none is chosen.
func StopDrawing(j Job) *stops.Drawing {
	c, ok := stopCircuit(j)
	if !ok || len(c.Devices) == 0 && j.OwnCircuit == nil {
		return nil
	}
	run := j.Drive.Stop.Still != "no-run"
	if j.OwnCircuit != nil {
		return stops.Draw(*j.OwnCircuit, run)
	}
	return stops.Draw(stops.Draft(StopSpec(j)), run)
}

// stop is the gate: the circuit as drawn, who is responsible, every test with the shaft still, the sign-off.
func (e *evaluation) stop() {
	st := e.job.Drive.Stop
	c, chosen := stopCircuit(e.job)
	d := StopDrawing(e.job)
	missing := lacking("how the shaft is kept still", st.Still, "how it stops", st.As, "whether torque off asks for a reset of the drive", st.Latched, "worst speed", st.Speed.Text, "time allowed to standstill", st.Allowed.Text, "what keeps hands away while it coasts", st.Guarding)
	if e.job.Drive.Turn.Hanging {
		missing = append(missing, lacking("drop of the load that is allowed", st.Drop.Text)...)
	}
	if !chosen {
		missing = append([]string{"stop circuit"}, missing...)
	}
	stated := e.entered("stop", "stop/circuit/stated", "The circuit", "The circuit, and how this drive stops", missing, c.Name)
	sound := Check{Key: "stop/circuit/sound", Group: "The circuit", Title: "As drawn it can be tested", Verdict: NotDone, Detail: "Name the devices of the circuit."}
	switch {
	case d == nil:
	case !d.Sound():
		sound.Verdict, sound.Detail = Stops, d.Faults[0].Error()
	default:
		sound.Verdict, sound.Detail = Holds, fmt.Sprintf("%d parts, %d wires, %d tests.", len(d.Circuit.Parts), len(d.Circuit.Wires), len(d.Table))
		e.state.Stop.Circuit = d.Hash
	}
	e.check("stop", sound)
	if chosen {
		e.stopFindings(c, d)
		e.responsible(c)
	}
	e.beforeStop(stated && sound.Verdict == Holds)
	if d != nil && d.Sound() {
		e.stopTests(d)
		e.parting(d)
		e.stopMeasured(d)
	}
	e.check("stop", e.findingsCheck("stop", "Findings answered"))
	e.signed(c, d)
	e.close(e.gates["stop"])
}

// stopFindings are what a circuit of this kind must not be, or be known for.
func (e *evaluation) stopFindings(c drivefile.StopCircuit, d *stops.Drawing) {
	st := e.job.Drive.Stop
	basis := map[string]string{"kind": c.Kind, "reset": c.Reset, "feed": c.Feed, "category": c.Category, "delay": c.Delay.Text, "fall": st.Fall.Text, "guarding": st.Guarding, "latched": st.Latched}
	say := func(code string, sev finding.Severity, title, detail, action string) {
		e.finding("stop", finding.Finding{Code: code, Severity: sev, Field: "stop", Title: title, Detail: detail, Action: action}, basis)
	}
	guards, people := 0, 0
	for _, x := range c.Devices {
		switch x.Kind {
		case stops.Guard, stops.ResetGuard, stops.LightCurtain:
			guards++
		case stops.EmergencyStop, "":
			people++
		}
	}
	if c.Reset == "automatic" && guards+people > 0 {
		say("circuit-starts-by-itself", finding.Stop, "The relay starts by itself", "After an emergency stop or a guard that one can pass through, a manual reset is asked for (ISO 13850, 4.1.4; ISO 13849-1:2015, 5.2.2).", "A reset that acts when let go")
	}
	if c.Reset == "pressed" {
		say("reset-when-pressed", finding.Look, "The reset acts when it is pressed", "A button that is jammed would start it: the reset of a safety function acts when let go (ISO 13849-1:2015, 5.2.2).", "Set the relay so, or keep it with a reason")
	}
	if e.job.Drive.Intent.Restart == "on" && guards+people > 0 {
		say("drive-restarts-by-itself", finding.Stop, "The drive is to restart by itself", "Refused after emergency stops and guards (ISO 13850, IEC 60204-1).", "Turn it off at gate Span")
	}
	if c.Jumper {
		say("links-still-in", finding.Stop, "The factory links are still in", "They feed both channels past every device: the circuit does nothing.", "Dead work: take them out")
	}
	two := c.Category == "3" || c.Category == "4"
	if c.Kind == "one-channel" {
		sev := finding.Look
		if two {
			sev = finding.Stop
		}
		say("one-channel", sev, "One channel only", "A single fault takes the whole function away; category 3 and 4 want two channels (ISO 13849-1:2015, 6.2).", "The responsible person decides")
	}
	if c.Kind != "one-channel" && c.Feed != "two" && c.Feed != "pulsed" && two {
		say("cross-short-not-seen", finding.Look, "Both channels come from one potential", "A short between them is not seen, and both do nothing together. Test pulses, or the two potentials of the supply, show it.", "The responsible person excludes it by how cables are laid, or it is fed otherwise")
	}
	if guards > 1 && c.Kind == "two-channel" {
		say("masking", finding.Look, "Guards in series hide one another's faults", "Opening a second guard can clear a fault that was found in the first: the coverage that may be claimed is limited (ISO/TR 24119). The table tests two open.", "The responsible person knows, or give each inputs of its own")
	}
	if st.As == "ramped" {
		delay, fall := millis(c.Delay), millis(st.Fall)
		switch {
		case delay == 0:
			say("ramp-without-delay", finding.Stop, "Torque goes at once, and a ramp is wanted", "A stop of category 1 keeps torque until it stands (IEC 60204-1, 9.2.2).", "Delayed outputs, or a stop by coasting")
		case fall == 0:
			say("fall-not-measured", finding.Do, "How long does the longest ramped stop take?", "The ramp is no safety function: the delay must exceed the longest fall that was measured.", "Enter it when gate Run has measured it; until then it is worked from the plan")
		case delay <= fall:
			say("delay-too-short", finding.Stop, "Torque goes before it stands", fmt.Sprintf("The delay is %s s, the longest fall %s s.", f4(float64(delay)/1000), f4(float64(fall)/1000)), "A longer delay that still keeps the distance, or a shorter fall")
		}
	}
	if st.As == "coast" && st.Guarding == "none" && guards > 0 {
		say("coast-without-locking", finding.Look, "Nothing keeps hands away while it coasts", "A long coast wants guard locking, a brake or a ramped stop; distance alone seldom does.", "The responsible person decides")
	}
	if st.Latched == "no" && c.Reset == "automatic" {
		say("nothing-latches", finding.Stop, "Neither the drive nor the relay latches", "Torque would be free as soon as the device is put back.", "A reset in one of them")
	}
	if num(st.Discrepancy, quantity.Seconds, "s") > 3 {
		say("discrepancy-long", finding.Look, "The drive bears channels that disagree for long", "Longer than a device of two contacts ever needs (common practice: below 1 s).", "Set it shorter, or keep it with a reason")
	}
	if e.job.Drive.Motor.Kind == "permanent-magnet" && e.result.Poles > 0 {
		say("magnets-may-jerk", finding.Note, "Two shorted switches can jerk the shaft", fmt.Sprintf("By up to %s° with %d poles, even with torque off (IEC 61800-5-2, 4.2.2.2).", f4(720/float64(e.result.Poles)), e.result.Poles), "")
	}
	if d != nil && d.Sound() {
		for _, r := range d.Ladder() {
			if r.From == "" || r.To == "" {
				say("leads-nowhere-"+r.Load, finding.Stop, "Drawn so, "+r.Name+" is never fed", "Its "+r.Label()+" is joined to no source on one side, whatever is closed.", "Put the drawing right")
			}
		}
	}
	if d != nil && d.Sound() && len(d.Table) == 0 {
		say("nothing-to-test", finding.Stop, "The circuit has no device", "There is nothing to test.", "Name its devices")
	}
}

// responsible is what the responsible person gave, with its arithmetic checked; the assessment is theirs.
func (e *evaluation) responsible(c drivefile.StopCircuit) {
	const group = "As the responsible person gave it"
	missing := lacking("who is responsible", c.By, "their document", c.Paper, "category", c.Category, "level required", c.Required, "level reached", c.Reached, "date of the next proof test", c.Next)
	if c.Kind == "controller" {
		missing = append(missing, lacking("its program", c.Program, "the program's checksum", c.Checksum)...)
	}
	e.entered("stop", "stop/given/stated", group, "Category, level, document, next proof test", missing, fmt.Sprintf("%s, category %s, PL %s of %s required; %s.", c.By, c.Category, c.Reached, c.Required, c.Paper))
	if c.Required != "" && c.Reached != "" {
		verdict := Holds
		if c.Reached < c.Required {
			verdict = Stops
		}
		e.computed("stop", "stop/given/level", group, "The level reached is at least the one required", verdict, fmt.Sprintf("PL %s reached, PL %s required.", c.Reached, c.Required))
	}
	years, dc, ccf := num(c.MTTFD, quantity.Count, ""), num(c.DC, quantity.Percent, "%"), num(c.CCF, quantity.Count, "")
	if c.Category != "" && c.Reached != "" && years > 0 && dc >= 0 && ccf >= 0 {
		l := safety.LevelOf(c.Category, years, dc/100, ccf)
		verdict, detail := Holds, fmt.Sprintf("Category %s, MTTFd %s years (%s), DC %s %% (%s), %s points: PL %s.", c.Category, f4(years), l.MTTFdBand, f4(dc), l.DCBand, f4(ccf), l.Performance)
		if l.Performance == "" || l.Performance < c.Reached {
			verdict = Again
			if l.Performance == "" {
				detail = strings.TrimSuffix(detail, "PL .") + "no level by table 6."
			}
		}
		for _, f := range l.Findings {
			detail += " " + f.Title + "."
		}
		e.computed("stop", "stop/given/arithmetic", group, "The figures give that level (ISO 13849-1:2015, table 6)", verdict, detail)
	}
	mm, s := num(c.Distance, quantity.Length, "m")*1000, num(c.StopTime, quantity.Seconds, "s")
	if c.Approach != "" && mm > 0 && s > 0 {
		a := safety.Approach{Device: c.Approach, Resolution: num(c.Resolution, quantity.Count, ""), K: math.NaN(), C: math.NaN()}
		need := safety.StopDistance(a, s)
		verdict := Holds
		if !(mm >= need.MM) {
			verdict = Stops
		}
		e.computed("stop", "stop/given/distance", group, "The device stands far enough away (ISO 13855:2010)", verdict, fmt.Sprintf("%s mm; %s s at %s mm/s and %s mm give %s mm.", f4(mm), f4(s), f4(need.K), f4(need.C), f4(need.MM)))
	}
}

// beforeStop is what must hold before a device is touched.
func (e *evaluation) beforeStop(ready bool) {
	st, turn := e.job.Drive.Stop, e.job.Drive.Turn
	ask := func(key, title, detail string) {
		e.confirm("stop", Check{Key: "stop/before/" + key, Group: "Before the tests", Title: title, Detail: detail, Basis: map[string]string{"still": st.Still, "motor": e.job.Drive.Motor.Serial}}, ready)
	}
	switch st.Still {
	case "reference-zero":
		ask("still", "Reference at zero, lowest speed zero: the shaft stands with run given", "Seen once, before the first test.")
	case "motor-off":
		ask("still", "Motor cable off the drive, its ends safe", "Dead work, proved dead. It goes back before gate Turn.")
	case "no-run":
		ask("still", "No run command is given in any test", "That a restart asks for a fresh command is then seen at gate Run only.")
	}
	ask("people", "People clear, and told; two who hear each other: one at the device, one at the drive", "")
	ask("isolation", "Nobody takes torque off for isolation: terminals stay live", "")
	if turn.Hanging {
		ask("landed", "The load is landed, and cannot move when torque goes", "A hanging load falls unless the brake closes.")
	}
	if turn.Brake == "drive" || turn.Brake == "apart" {
		ask("brake", "The brake is closed, and seen to hold", "")
	}
	e.state.Stop.Ready = ready && e.answered("stop", "stop/before/")
}

// chosenTests are the tests that are to be done: all, or the smallest set as it was worked out when it was chosen.
func (e *evaluation) chosenTests(d *stops.Drawing, basis map[string]string) map[string]bool {
	c := Check{Key: "stop/set/chosen", Group: "Which tests", Title: "Which tests are done", Detail: "All; or the smallest set that still tells every single fault apart.", Basis: basis}
	set := e.choose("stop", c, []Option{{"all", "all of the table", ""}, {"smallest", "the smallest set", ""}}, e.state.Stop.Ready)
	out := map[string]bool{}
	var keys []string
	if set == "smallest" && json.Unmarshal([]byte(e.rec.evBody[c.Key].Reason), &keys) == nil {
		for _, k := range keys {
			out[k] = true
		}
		e.gates["stop"].Checks[len(e.gates["stop"].Checks)-1].Reason = ""
		return out
	}
	for _, t := range d.Table {
		out[t.Key] = true
	}
	return out
}

// stopBasis is what the tests rest on.
func stopBasis(d *stops.Drawing) map[string]string { return map[string]string{"circuit": d.Hash} }

// stopTests are the checks of the table.
func (e *evaluation) stopTests(d *stops.Drawing) {
	basis := stopBasis(d)
	chosen := e.chosenTests(d, basis)
	mended := false
	for _, t := range d.Table {
		key := TestPrefix + t.Key
		ev, answered := e.rec.evBody[key]
		if !chosen[t.Key] && !answered {
			continue
		}
		work := "live"
		if t.Dead {
			work = "either"
		}
		c := Check{Key: key, Group: "Tests", Title: t.Title, Work: work, Do: "test", Verdict: NotDone, Basis: basis, Detail: fmt.Sprintf("%d steps. If it were otherwise: %s", len(t.Steps), lower(t.Hazard))}
		if !e.state.Stop.Ready {
			c.Do = ""
		}
		e.state.Stop.Tests++
		if answered {
			entry := e.rec.evidence[key]
			c.By, c.At, c.Value, c.With = entry.By, entry.At, ev.Value, ev.Instrument
			shown, err := d.ReadShown(t, ev.Value)
			switch {
			case !maps.Equal(ev.Basis, basis):
				c.Verdict, c.Detail = Again, "The circuit has changed since: test it again."
			case err != nil:
				c.Verdict, c.Detail = Again, "What was shown cannot be read: "+err.Error()
			case d.Otherwise(t, shown) != "":
				c.Verdict, c.Detail = Stops, d.Otherwise(t, shown)
				e.state.Stop.Fails++
			default:
				c.Verdict, c.Detail = Holds, ""
				e.state.Stop.Done++
				mended = mended || e.failedBefore(d, t, key)
			}
		}
		e.check("stop", c)
	}
	if mended {
		e.confirm("stop", Check{Key: "stop/mended/again", Group: "Tests", Title: "What was mended is written down, and every device that it touches was tested again", Work: "either", Basis: basis}, true)
	}
}

func lower(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

// failedBefore tells whether an earlier answer to a test, of the same circuit, was otherwise.
func (e *evaluation) failedBefore(d *stops.Drawing, t stops.Test, key string) bool {
	for _, en := range e.rec.series[key] {
		var ev drivefile.Evidence
		if json.Unmarshal(en.Body, &ev) != nil || !maps.Equal(ev.Basis, stopBasis(d)) {
			continue
		}
		if shown, err := d.ReadShown(t, ev.Value); err == nil && d.Otherwise(t, shown) != "" {
			return true
		}
	}
	return false
}

// partingBasis is what measurements that part suspects rest on: the tests that fail. When one is mended they count no longer.
func (e *evaluation) partingBasis(d *stops.Drawing) map[string]string {
	b := stopBasis(d)
	for _, c := range e.gates["stop"].Checks {
		if strings.HasPrefix(c.Key, TestPrefix) && c.Verdict == Stops {
			b["fails"] += c.Key + "@" + e.rec.evidence[c.Key].ID + " "
		}
	}
	return b
}

// parting are the measurements that part suspects: those that were made, and the one that is asked for just now. Any reading is an
// answer.
func (e *evaluation) parting(d *stops.Drawing) {
	keys := slices.Collect(maps.Keys(e.rec.evBody))
	if e.job.Asked != "" && !slices.Contains(keys, e.job.Asked) {
		keys = append(keys, e.job.Asked)
	}
	sort.Strings(keys)
	basis := e.partingBasis(d)
	if basis["fails"] == "" {
		return
	}
	for _, key := range keys {
		c := Check{Key: key, Group: "To part the suspects", Basis: basis}
		switch l := strings.Split(strings.TrimPrefix(strings.TrimPrefix(key, voltsPrefix), ohmsPrefix), "~"); {
		case strings.HasPrefix(key, voltsPrefix) && len(l) == 3 && d.Net.Has(l[2]):
			t, ok := d.Test(l[0])
			n, err := strconv.Atoi(l[1])
			if !ok || err != nil || n < 0 || n >= len(t.Steps) {
				continue
			}
			c.Title, c.Unit, c.Work = fmt.Sprintf("%s, after %q: voltage at %s against %s", t.Title, t.Steps[n].Do, l[2], d.Minus()), "V DC", "live"
		case strings.HasPrefix(key, ohmsPrefix) && len(l) >= 2 && d.Net.Has(l[0]) && d.Net.Has(l[1]):
			c.Title, c.Unit, c.Work = fmt.Sprintf("%s to %s", l[0], l[1]), "Ω", "dead"
			if len(l) > 2 {
				c.Title += ", with " + l[2] + " worked"
			}
		default:
			continue
		}
		if ev, ok := e.rec.evBody[key]; ok && !maps.Equal(ev.Basis, basis) && key != e.job.Asked {
			continue // of a fault that is mended
		}
		e.measure("stop", c, math.NaN(), math.Inf(1), Holds, true)
	}
}

// StopReadings are the measurements that part suspects, as far as they count, and what the tests showed.
func StopReadings(j Job, s State, d *stops.Drawing) (shown []stops.Shown, readings []stops.Reading) {
	rec := newRecord(j.Entries)
	for _, g := range s.Gates {
		if g.Key != "stop" {
			continue
		}
		for _, c := range g.Checks {
			ev := rec.evBody[c.Key]
			switch {
			case strings.HasPrefix(c.Key, TestPrefix) && (c.Verdict == Holds || c.Verdict == Stops):
				if t, ok := d.Test(strings.TrimPrefix(c.Key, TestPrefix)); ok {
					l, _ := d.ReadShown(t, ev.Value)
					shown = append(shown, l...)
				}
			case strings.HasPrefix(c.Key, voltsPrefix) && c.Verdict == Holds && ev.Reading != nil:
				l := strings.Split(strings.TrimPrefix(c.Key, voltsPrefix), "~")
				n, _ := strconv.Atoi(l[1])
				readings = append(readings, stops.Reading{Test: l[0], Step: n, At: l[2], Volts: *ev.Reading})
			case strings.HasPrefix(c.Key, ohmsPrefix) && c.Verdict == Holds && ev.Reading != nil:
				l := append(strings.Split(strings.TrimPrefix(c.Key, ohmsPrefix), "~"), "")
				joined := *ev.Reading <= mostJoined
				readings = append(readings, stops.Reading{A: l[0], B: l[1], Held: l[2], Joined: &joined})
			}
		}
	}
	return shown, readings
}

// stopMeasured is what is read off besides: how far the channels are apart, what the drive shows, a drop.
func (e *evaluation) stopMeasured(d *stops.Drawing) {
	const group = "Measured"
	st, turn := e.job.Drive.Stop, e.job.Drive.Turn
	ready := e.state.Stop.Ready
	limit := num(st.Discrepancy, quantity.Seconds, "s") * 1000
	if math.IsNaN(limit) {
		limit = 500
	}
	basis := stopBasis(d)
	if c, _ := stopCircuit(e.job); c.Kind != "one-channel" {
		e.measure("stop", Check{Key: "stop/measured/apart", Group: group, Title: "Channels open apart by at most", Unit: "ms", Work: "live", Basis: basis, Detail: "As the drive or the relay shows it; well below the drive's limit."}, 0, limit, Stops, ready)
	}
	e.confirm("stop", Check{Key: "stop/measured/message", Group: group, Title: "With torque off the drive shows " + e.torqueOffWord(), Work: "live", Basis: map[string]string{"family": e.job.Drive.Rating.Dialect, "as": e.job.Drive.Intent.TorqueOffShows}, Detail: "A stop with its own message, or a fault: who works it must know which."}, ready)
	if turn.Hanging {
		e.measure("stop", Check{Key: "stop/measured/drop", Group: group, Title: "Drop of the load when torque goes, held by the brake", Unit: "mm", Work: "live", Basis: basis, Detail: "From the lowest height, once."}, 0, num(st.Drop, quantity.Count, ""), Stops, ready && st.Drop.Value != nil)
		e.measure("stop", Check{Key: "stop/measured/slip", Group: group, Title: "Slip of the closed brake in a minute", Unit: "mm", Work: "live", Basis: basis}, 0, 1, Stops, ready)
	}
}

// torqueOffWord is what the family shows with both channels open.
func (e *evaluation) torqueOffWord() string {
	f := e.job.Family
	if f == nil {
		return "torque off"
	}
	if w := StopWords(f)["torque-off"]; w != "" {
		return strconv.Quote(w)
	}
	return "torque off"
}

// StopWords are the states of torque off as a family shows them, where its file says so.
func StopWords(f *dialect.Family) map[string]string {
	out := map[string]string{}
	for _, r := range f.Keypad.Refused {
		if strings.Contains(strings.ToLower(r.When), "torque") {
			out["torque-off"] = r.Shows
		}
	}
	for _, x := range f.Faults {
		if x.Family != "torque-off-channel" {
			continue
		}
		if x.Clears == "power-cycle" {
			out["channel-fault"] = strings.TrimSpace(x.Code + " " + x.Text)
		}
	}
	for _, x := range f.Faults {
		if x.Family == "internal" && out["internal-fault"] == "" {
			out["internal-fault"] = strings.TrimSpace(x.Code + " " + x.Text)
		}
	}
	for _, w := range f.Keypad.Words {
		m := strings.ToLower(w.Means)
		switch {
		case out["ready"] == "" && strings.Contains(m, "able to run"):
			out["ready"] = w.Sign
		}
	}
	return out
}

// signed is the end: somebody says that what was built does what was drawn.
func (e *evaluation) signed(c drivefile.StopCircuit, d *stops.Drawing) {
	open := 0
	for _, x := range e.gates["stop"].Checks {
		if x.Verdict != Holds && x.Verdict != Waived {
			open++
		}
	}
	basis := map[string]string{"by": c.By, "paper": c.Paper, "level": c.Required + c.Reached, "program": c.Program + " " + c.Checksum, "next": c.Next}
	if d != nil {
		basis["circuit"] = d.Hash
	}
	who := "a qualified person"
	if c.By != "" {
		who = c.By
	}
	detail := "Its design, its level and its acceptance are for " + who + " and the local code."
	if open > 0 {
		detail = fmt.Sprintf("%d open before it. ", open) + detail
	}
	e.confirm("stop", Check{Key: "stop/signed/record", Group: "Signed", Title: "What was built does what was drawn", Detail: detail, Basis: basis}, open == 0)
}
