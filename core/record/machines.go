package record

import (
	"fmt"
	"maps"
	"strings"

	"tingate/core/drivefile"
)

// OnBench is the instrument of what was seen on the bench: in a real place it proves nothing of the machine.
const OnBench = "bench"

// Keys under which a basis names the machines that evidence was taken on.
const (
	DriveSerial = "drive serial"
	MotorSerial = "motor serial"
)

// NotLegible stands for a serial number that cannot be read; a photo is kept in its place.
const NotLegible = "not legible"

// Keys of what a person says of serial numbers.
const (
	SerialKeys      = "match/serial/"
	SerialBefore    = SerialKeys + "before"
	SerialSameDrive = SerialKeys + "same-drive"
	SerialSameMotor = SerialKeys + "same-motor"
)

// Mistyped tells whether an answer says that a serial number was mistyped: it wants a reason of substance.
func Mistyped(key, value string) bool {
	return (key == SerialSameDrive || key == SerialSameMotor) && value == "same"
}

// Machines are the drive and the motor of a job, and of which kind their place is: what evidence must be of, to count.
type Machines struct {
	Simulated bool
	Now       map[string]string          // serial as entered, by its key in a basis
	Carried   bool                       // a person said that what was recorded without a serial is of these
	same      map[string]map[string]bool // by key: serials under which this very machine was recorded before, by mistake
	Without   bool                       // something counts that was recorded without a serial, or would
	Foreign   map[string]string          // by key: the last serial of another machine that something was recorded with
	foreignAt map[string]int64           // when that was, by the number of its entry
}

func serialOf(text string, illegible bool) string {
	if text = strings.TrimSpace(text); text == "" && illegible {
		return NotLegible
	}
	return text
}

// SerialOf is the serial number of a drive as entered, or that it is not legible; empty when neither is said.
func SerialOf(d drivefile.Drive) string { return serialOf(d.Rating.Serial, d.Rating.NoSerial) }

// plainSerial is a serial number without what people write otherwise from day to day.
func plainSerial(s string) string { return strings.ToUpper(strings.Join(strings.Fields(s), "")) }

// machinesOf gathers them, with what people said of their serials. Withdrawn entries are left out by the caller.
func machinesOf(d drivefile.Drive, p drivefile.Place, entries []drivefile.Entry) *Machines {
	m := &Machines{Simulated: p.Kind == drivefile.Simulated,
		Now: map[string]string{DriveSerial: serialOf(d.Rating.Serial, d.Rating.NoSerial),
			MotorSerial: serialOf(d.Motor.Serial, d.Motor.NoSerial)},
		same: map[string]map[string]bool{}, Foreign: map[string]string{}, foreignAt: map[string]int64{}}
	mistyped := map[string][][2]string{}
	for _, en := range entries {
		ev, ok := drivefile.Contents[drivefile.Evidence](en)
		if !ok || !strings.HasPrefix(ev.Key, SerialKeys) {
			continue
		}
		part := map[string]string{SerialSameDrive: DriveSerial, SerialSameMotor: MotorSerial}[ev.Key]
		switch {
		case ev.Key == SerialBefore:
			m.Carried = maps.Equal(ev.Basis, m.Now)
		case part != "" && ev.Value == "same":
			mistyped[part] = append(mistyped[part], [2]string{plainSerial(ev.Basis["from"]), plainSerial(ev.Basis["to"])})
		}
	}
	for part, list := range mistyped { // a number that was corrected twice leads back to the first
		m.same[part] = map[string]bool{}
		for range list {
			for _, x := range list {
				if x[1] == plainSerial(m.Now[part]) || m.same[part][x[1]] {
					m.same[part][x[0]] = true
				}
			}
		}
	}
	return m
}

// note keeps what is to be asked at Match of something that was recorded with a serial, or with none.
func (m *Machines) note(seq int64, part, recorded string) {
	ok, _ := m.of(part, recorded)
	m.Without = m.Without || recorded == "" && !same(m.Now[part], "")
	if !ok && recorded != "" && m.Now[part] != "" && seq >= m.foreignAt[part] {
		m.Foreign[part], m.foreignAt[part] = recorded, seq
	}
}

// noteAnswers looks at every answer that stands.
func (m *Machines) noteAnswers(answers map[string]drivefile.Evidence, entries map[string]drivefile.Entry) {
	for key, ev := range answers {
		gate, _, _ := strings.Cut(key, "/")
		for part, recorded := range m.recordedOn(m.BasisFor(gate, key, nil), ev.Basis) {
			m.note(entries[key].Seq, part, recorded)
		}
	}
}

func same(a, b string) bool { return plainSerial(a) == plainSerial(b) }

// of tells whether something that was recorded with a serial is of this machine, and if not, why.
func (m *Machines) of(part, recorded string) (ok bool, why string) {
	now := m.Now[part]
	what := strings.TrimSuffix(part, " serial")
	switch {
	case same(recorded, now):
		return true, ""
	case recorded == "":
		return m.Carried, fmt.Sprintf("Serial not recorded: say at gate Match that it is of this %s.", what)
	case m.same[part][plainSerial(recorded)]:
		return true, ""
	case now == "":
		return false, fmt.Sprintf("Recorded with the %s of serial %s; no serial is entered now.", what, recorded)
	}
	return false, fmt.Sprintf("Recorded with another %s, serial %s; this is %s.", what, recorded, now)
}

// Read tells whether a setting that was read, set or sent is of this drive.
func (m *Machines) Read(serial string) bool {
	ok, _ := m.of(DriveSerial, serial)
	return ok
}

// restsOn tells which machines the evidence of a check rests on. Gate Match has its own words for what arrived, Dead rests on the
// isolation.
func restsOn(gate, key string) (drive, motor bool) {
	if key == "tune/kind/chosen" || key == "stop/set/chosen" { // a plan, not something found
		return false, false
	}
	switch gate {
	case "match": // what sits in a slot is in that drive only
		return strings.HasPrefix(key, "match/slot/"), false
	case "dead":
		return false, false
	case "plate":
		return false, true
	case "turn", "tune":
		return true, true
	case "power":
		motor := strings.HasPrefix(key, "power/links/") || strings.HasPrefix(key, "power/insulation/") ||
			strings.HasPrefix(key, "power/winding/") || strings.HasPrefix(key, "power/motor/")
		return !motor, motor
	}
	return true, false
}

// BasisFor is a check's basis with the machines that it rests on.
func (m *Machines) BasisFor(gate, key string, basis map[string]string) map[string]string {
	b := map[string]string{}
	maps.Copy(b, basis)
	drive, motor := restsOn(gate, key)
	if drive {
		b[DriveSerial] = m.Now[DriveSerial]
	}
	if motor {
		b[MotorSerial] = m.Now[MotorSerial]
	}
	return b
}

// Older are the names under which a basis held serials before they had one for all checks.
var Older = []string{"serial", "drive", "motor"}

// Stands tells whether evidence still answers a check of that basis, and if not, why.
func (m *Machines) Stands(basis map[string]string, ev drivefile.Evidence) (ok bool, why string) {
	const changed, isolated = "before a value changed", "before it was isolated again"
	if ev.Instrument == OnBench && !m.Simulated {
		return false, "Seen on the bench: it proves nothing of a real machine."
	}
	want, have := maps.Clone(basis), maps.Clone(ev.Basis)
	recorded := m.recordedOn(basis, ev.Basis)
	for _, k := range []string{DriveSerial, MotorSerial} {
		delete(want, k)
		delete(have, k)
	}
	for _, k := range Older {
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
	for _, part := range []string{DriveSerial, MotorSerial} {
		if serial, asked := recorded[part]; asked {
			if ok, why := m.of(part, serial); !ok {
				return false, why
			}
		}
	}
	return true, ""
}

// recordedOn are the serials, of those that a basis asks for, that evidence was recorded with; empty: none.
func (m *Machines) recordedOn(basis, have map[string]string) map[string]string {
	out := map[string]string{}
	_, hasDrive := basis[DriveSerial]
	_, hasMotor := basis[MotorSerial]
	for _, part := range []string{DriveSerial, MotorSerial} {
		if _, asked := basis[part]; asked {
			out[part] = have[part]
		}
	}
	for _, k := range Older {
		v := have[k]
		if _, mine := basis[k]; mine || v == "" {
			continue
		}
		part := DriveSerial
		if k == "motor" || k == "serial" && !hasDrive || k != "drive" && hasMotor && plainSerial(v) == plainSerial(m.Now[MotorSerial]) {
			part = MotorSerial
		}
		if _, asked := out[part]; asked {
			out[part] = v
		}
	}
	return out
}
