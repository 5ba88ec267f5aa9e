package gate

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tingate/core/drivefile"
)

// Keys under which a basis names the machines that evidence was taken on.
const (
	driveSerial = "drive serial"
	motorSerial = "motor serial"
)

// notLegible stands for a serial number that cannot be read; a photo is kept in its place.
const notLegible = "not legible"

// Keys of what a person says of serial numbers.
const (
	serialKeys      = "match/serial/"
	serialBefore    = serialKeys + "before"
	serialSameDrive = serialKeys + "same-drive"
	serialSameMotor = serialKeys + "same-motor"
)

// Mistyped tells whether an answer says that a serial number was mistyped: it wants a reason of substance.
func Mistyped(key, value string) bool {
	return (key == serialSameDrive || key == serialSameMotor) && value == "same"
}

// machines are the drive and the motor of a job, and of which kind their place is: what evidence must be of, to count.
type machines struct {
	simulated bool
	now       map[string]string          // serial as entered, by its key in a basis
	carried   bool                       // a person said that what was recorded without a serial is of these
	same      map[string]map[string]bool // by key: serials under which this very machine was recorded before, by mistake
	without   bool                       // something counts that was recorded without a serial, or would
	foreign   map[string]string          // by key: the last serial of another machine that something was recorded with
}

func serialOf(text string, illegible bool) string {
	if text = strings.TrimSpace(text); text == "" && illegible {
		return notLegible
	}
	return text
}

// SerialOf is the serial number of a drive as entered, or that it is not legible; empty when neither is said.
func SerialOf(d drivefile.Drive) string { return serialOf(d.Rating.Serial, d.Rating.NoSerial) }

// plainSerial is a serial number without what people write otherwise from day to day.
func plainSerial(s string) string { return strings.ToUpper(strings.Join(strings.Fields(s), "")) }

// machinesOf gathers them, with what people said of their serials. Withdrawn entries are left out by the caller.
func machinesOf(j Job, entries []drivefile.Entry) *machines {
	d := j.Drive
	m := &machines{simulated: j.Place.Kind == drivefile.Simulated, now: map[string]string{driveSerial: serialOf(d.Rating.Serial, d.Rating.NoSerial), motorSerial: serialOf(d.Motor.Serial, d.Motor.NoSerial)},
		same: map[string]map[string]bool{}, foreign: map[string]string{}}
	mistyped := map[string][][2]string{}
	for _, en := range entries {
		var ev drivefile.Evidence
		if en.Kind != drivefile.EntryEvidence || !bytes.Contains(en.Body, []byte(serialKeys)) || json.Unmarshal(en.Body, &ev) != nil {
			continue
		}
		part := map[string]string{serialSameDrive: driveSerial, serialSameMotor: motorSerial}[ev.Key]
		switch {
		case ev.Key == serialBefore:
			m.carried = maps.Equal(ev.Basis, m.now)
		case part != "" && ev.Value == "same":
			mistyped[part] = append(mistyped[part], [2]string{plainSerial(ev.Basis["from"]), plainSerial(ev.Basis["to"])})
		}
	}
	for part, list := range mistyped { // a number that was corrected twice leads back to the first
		m.same[part] = map[string]bool{}
		for range list {
			for _, x := range list {
				if x[1] == plainSerial(m.now[part]) || m.same[part][x[1]] {
					m.same[part][x[0]] = true
				}
			}
		}
	}
	return m
}

// note looks at every answer that stands, so that what is to be asked at Match is known before the gates after it are looked at.
func (m *machines) note(answers map[string]drivefile.Evidence) {
	for key, ev := range answers {
		gate, _, _ := strings.Cut(key, "/")
		for part, recorded := range m.recordedOn(m.basisFor(gate, Check{Key: key}), ev.Basis) {
			_, _ = m.of(part, recorded)
		}
	}
}

// of tells whether something that was recorded with a serial is of this machine, and if not, why. It notes what is to be asked.
func (m *machines) of(part, recorded string) (ok bool, why string) {
	now := m.now[part]
	what := strings.TrimSuffix(part, " serial")
	switch {
	case plainSerial(recorded) == plainSerial(now):
		return true, ""
	case recorded == "":
		m.without = true
		return m.carried, fmt.Sprintf("Serial not recorded: say at gate Match that it is of this %s.", what)
	case m.same[part][plainSerial(recorded)]:
		return true, ""
	case now == "":
		return false, fmt.Sprintf("Recorded with the %s of serial %s; no serial is entered now.", what, recorded)
	}
	m.foreign[part] = recorded
	return false, fmt.Sprintf("Recorded with another %s, serial %s; this is %s.", what, recorded, now)
}

// read tells whether a setting that was read, set or sent is of this drive.
func (m *machines) read(serial string) bool {
	ok, _ := m.of(driveSerial, serial)
	return ok
}

// restsOn tells which machines the evidence of a check rests on. Gate Match has its own words for what arrived, Dead rests on the isolation.
func restsOn(gate, key string) (drive, motor bool) {
	if key == "tune/kind/chosen" || key == "stop/set/chosen" { // a plan, not something found
		return false, false
	}
	switch gate {
	case "match", "dead":
		return false, false
	case "plate":
		return false, true
	case "turn", "tune":
		return true, true
	case "power":
		motor := strings.HasPrefix(key, "power/links/") || strings.HasPrefix(key, "power/insulation/") || strings.HasPrefix(key, "power/winding/") || strings.HasPrefix(key, "power/motor/")
		return !motor, motor
	}
	return true, false
}

// basisFor is a check's basis with the machines that it rests on.
func (m *machines) basisFor(gate string, c Check) map[string]string {
	b := map[string]string{}
	maps.Copy(b, c.Basis)
	drive, motor := restsOn(gate, c.Key)
	if drive {
		b[driveSerial] = m.now[driveSerial]
	}
	if motor {
		b[motorSerial] = m.now[motorSerial]
	}
	return b
}

// older are the names under which a basis held serials before they had one for all checks.
var older = []string{"serial", "drive", "motor"}

// stands tells whether evidence still answers a check of that basis, and if not, why.
func (m *machines) stands(basis map[string]string, ev drivefile.Evidence) (ok bool, why string) {
	const changed, isolated = "before a value changed", "before it was isolated again"
	if ev.Instrument == OnBench && !m.simulated {
		return false, "Seen on the bench: it proves nothing of a real machine."
	}
	want, have := maps.Clone(basis), maps.Clone(ev.Basis)
	recorded := m.recordedOn(basis, ev.Basis)
	for _, k := range []string{driveSerial, motorSerial} {
		delete(want, k)
		delete(have, k)
	}
	for _, k := range older {
		if _, mine := want[k]; !mine && len(recorded) > 0 {
			delete(have, k)
		}
	}
	if !maps.Equal(want, have) {
		if want["isolation"] != have["isolation"] {
			return false, isolated
		}
		return false, changed
	}
	for _, part := range []string{driveSerial, motorSerial} {
		if serial, asked := recorded[part]; asked {
			if ok, why := m.of(part, serial); !ok {
				return false, why
			}
		}
	}
	return true, ""
}

// recordedOn are the serials, of those that a basis asks for, that evidence was recorded with; empty: none.
func (m *machines) recordedOn(basis, have map[string]string) map[string]string {
	out := map[string]string{}
	_, hasDrive := basis[driveSerial]
	_, hasMotor := basis[motorSerial]
	for _, part := range []string{driveSerial, motorSerial} {
		if _, asked := basis[part]; asked {
			out[part] = have[part]
		}
	}
	for _, k := range older {
		v := have[k]
		if _, mine := basis[k]; mine || v == "" {
			continue
		}
		part := driveSerial
		if k == "motor" || k == "serial" && !hasDrive || k != "drive" && hasMotor && plainSerial(v) == plainSerial(m.now[motorSerial]) {
			part = motorSerial
		}
		if _, asked := out[part]; asked {
			out[part] = v
		}
	}
	return out
}

// serials asks for the numbers of drive and motor, and for whom that is which was recorded with another number or without one.
func (e *evaluation) serials() {
	const group = "What arrived"
	d, m := e.job.Drive, e.rec.machines
	photo := func(of string) bool {
		return slices.ContainsFunc(e.rec.attached, func(a AttachmentHead) bool { return a.Of == of })
	}
	for _, x := range []struct{ key, part, title, of, photo string }{
		{"match/serial/drive", driveSerial, "Serial number of the drive", "drive-label", "the drive's label"}, {"match/serial/motor", motorSerial, "Serial number of the motor", "motor-plate", "the motor's plate"},
	} {
		c := Check{Key: x.key, Group: group, Title: x.title, Verdict: NotDone, Work: "either", Detail: "Type it, or say that it is not legible and keep a photo: what is measured and set rests on it."}
		switch now := m.now[x.part]; {
		case now == notLegible && !photo(x.of):
			c.Detail = "Not legible: keep a photo of " + x.photo + "."
		case now != "":
			c.Verdict, c.Detail = Holds, now
		}
		e.check("match", c)
	}
	for _, x := range []struct{ key, part, of, what string }{{serialSameDrive, driveSerial, "drive-label", "drive"}, {serialSameMotor, motorSerial, "motor-plate", "motor"}} {
		from := m.foreign[x.part]
		if from == "" {
			continue
		}
		c := Check{Key: x.key, Group: group, Title: "The serial of the " + x.what + " was changed", Work: "either", Basis: map[string]string{"from": from, "to": m.now[x.part]},
			Detail: fmt.Sprintf("It was %s, and is %s. ", from, m.now[x.part]) + "Another " + x.what + " is asked for everything again. A number that was mistyped is not: with a reason, and a photo of it."}
		options := []Option{{"another", "another " + x.what, ""}}
		if photo(x.of) {
			options = append(options, Option{"same", "the same " + x.what + ": the number was mistyped", "Give the reason: how the wrong number came to be typed."})
		}
		e.choose("match", c, options, true)
	}
	if _, said := e.rec.evBody[serialBefore]; m.without || said && m.carried {
		basis := maps.Clone(m.now)
		e.confirm("match", Check{Key: serialBefore, Group: group, Title: "What was recorded before the serial numbers were is of this drive and this motor", Work: "either", Basis: basis, Detail: fmt.Sprintf("Drive %s, motor %s.", blank(d.Rating.Serial), blank(d.Motor.Serial))}, m.now[driveSerial] != "" && m.now[motorSerial] != "")
	}
}
