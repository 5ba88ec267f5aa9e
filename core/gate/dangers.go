package gate

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tingate/core/drivefile"
)

// DangersTaken is the check with which each person takes the dangers of a job by name.
const DangersTaken = "dead/dangers/taken"

// dangersSince are the rules from which on they are asked for. Who proved a drive dead by earlier ones is not asked after it.
const dangersSince = 12

// dangers are what can hurt at this job, in words, the usual first; a short list. They follow from what is entered, and say no figure that
// would change while the work goes on.
func (f *Facts) dangers() []string {
	d := f.job.Drive
	var l, mains, other []string
	driven := false
	for _, s := range f.sources {
		text := s.Name
		if volts := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(s.Volts), "V")) + " V"; s.Volts != "" &&
			!strings.Contains(s.Name, volts) {
			text += ", " + volts
		}
		switch s.Kind {
		case "mains":
			mains = append(mains, text)
		case "motor":
			driven = true
		default:
			if s.Point == s.ID { // one that is opened with what feeds it goes with that
				other = append(other, text)
			}
		}
	}
	if mains != nil {
		l = append(l, "Shock and arc: "+strings.Join(mains, "; "))
	}
	l = append(l, "The DC link stays charged after everything is open")
	if other != nil {
		l = append(l, "Opened by itself, and on when the mains is open: "+strings.Join(other, "; "))
	}
	switch magnets := d.Motor.Kind == "permanent-magnet"; {
	case magnets && driven:
		l = append(l, "Magnets: the motor is a source whenever its shaft turns, and the machine can turn it")
	case magnets:
		l = append(l, "Magnets: the motor is a source whenever its shaft turns")
	case driven:
		l = append(l, "The machine can turn the motor, and the motor feeds back")
	}
	if d.Turn.Hanging {
		l = append(l, "A hanging load falls when torque or brake goes")
	}
	switch {
	case d.Intent.Restart == "on" && d.Intent.PowerUp == "on":
		l = append(l, "Starts by itself: after a fault, and when power comes")
	case d.Intent.Restart == "on":
		l = append(l, "Starts by itself after a fault")
	case d.Intent.PowerUp == "on":
		l = append(l, "Starts by itself when power comes")
	}
	if d.Intent.Resistor.Text != "" {
		l = append(l, "The braking resistor: hot, and live with the DC link")
	}
	if c, ok := stopCircuit(f.job); ok && strings.TrimSpace(c.Drives) != "" {
		l = append(l, "The stop circuit acts on other drives too: "+c.Drives)
	}
	return l
}

// takeDangers asks whoever works here to take the dangers by name. Everybody who has a lock on must have, and at least one; what a person
// does at the equipment is refused before (Takes).
func (g *deadGate) takeDangers() {
	g.listed, g.takenBy = []string{}, []string{}
	if g.job.Drive.Stop.Alone || g.dangersBefore() {
		return
	}
	g.listed = g.dangers()
	basis := map[string]string{"dangers": strings.Join(g.listed, "; ")}
	var last drivefile.Entry
	for _, en := range g.rec.Series[DangersTaken] {
		if ev, ok := drivefile.Contents[drivefile.Evidence](en); ok && ev.Basis["dangers"] == basis["dangers"] &&
			!slices.Contains(g.takenBy, en.By) {
			g.takenBy, last = append(g.takenBy, en.By), en
		}
	}
	numbered := make([]string, len(g.listed))
	for i, d := range g.listed {
		numbered[i] = fmt.Sprintf("%d. %s.", i+1, d)
	}
	c := Check{Key: DangersTaken, Group: "Dangers", Title: "The dangers of this job, taken by name by everybody who works here",
		Work: Either, Do: Confirm, Verdict: NotDone, Basis: basis, Detail: strings.Join(numbered, " ")}
	if len(g.takenBy) > 0 {
		c.Verdict, c.By, c.At, c.Entry = Holds, last.By, last.At, last.ID
	} else if len(g.rec.Series[DangersTaken]) > 0 {
		c.Verdict, c.Detail = Again, "They are others now. "+c.Detail
	}
	var missing []string
	for _, s := range g.sources {
		for _, l := range s.Locks {
			name := g.job.Place.People[l.Owner].Initials
			if !slices.Contains(g.takenBy, l.Owner) && !slices.Contains(missing, name) {
				missing = append(missing, name)
			}
		}
	}
	if missing != nil && c.Verdict == Holds {
		c.Verdict, c.Detail = NotDone, "Not yet by "+strings.Join(missing, ", ")+", who has a lock on. "+c.Detail
	}
	c.Taken = g.takenBy
	g.check(c)
}

// dangersBefore tells whether gate Dead was passed by rules that did not ask for them, and nothing was opened since.
func (f *Facts) dangersBefore() bool {
	n, err := strconv.Atoi(f.rec.Decisions["passed dead"].Versions["rules"])
	return err == nil && n < dangersSince && len(f.rec.Series[DangersTaken]) == 0 && f.rested()
}

// atTheMachine are the beginnings of the keys of what is done at the equipment in whatever state it is: isolating, measuring dead, where
// the shaft turns.
var atTheMachine = []string{"dead/label/", "dead/ppe/", "dead/shaft/", "dead/motor-side/", "dead/reach/", "dead/covers/", "dead/meter/",
	"dead/measure/", "turn/before/", "turn/seen/", "turn/mend/", "tune/ready/", "tune/ended/"}

// Takes tells whether a person may answer a check as far as dangers go: work at the equipment wants them taken by name.
func (s State) Takes(person string, c Check) bool {
	if len(s.Dangers) == 0 || slices.Contains(s.DangersBy, person) {
		return true
	}
	return c.Work == Either && !slices.ContainsFunc(atTheMachine, func(p string) bool { return strings.HasPrefix(c.Key, p) })
}
