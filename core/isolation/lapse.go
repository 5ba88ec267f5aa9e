package isolation

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"tingate/core/drivefile"
)

// Clock is the time at which something is looked at, and the zone of the place; no zone: UTC.
type Clock struct {
	Now  time.Time
	Zone *time.Location
}

// Show is a time of day in the place's zone, with the date when it is not today's. What is no time stays as it is.
func (c Clock) Show(at string) string {
	t, err := time.Parse(time.RFC3339, at)
	if err != nil {
		return at
	}
	zone := c.Zone
	if zone == nil {
		zone = time.UTC
	}
	t = t.In(zone)
	if t.Format("2006-01-02") == c.Now.In(zone).Format("2006-01-02") {
		return t.Format("15:04")
	}
	return t.Format("2 Jan 15:04")
}

// Lapsed is a supply's state now: what was recorded dead lapses at a change of shift, and when the clock went back.
func (s SupplyState) Lapsed(c Clock, shifts string) SupplyState {
	at, err := time.Parse(time.RFC3339, s.Since)
	switch {
	case s.State == "":
		return SupplyState{State: drivefile.NotKnown, Why: "Nothing is recorded.", Locks: s.Locks, mark: s.mark}
	case err != nil || at.After(c.Now):
		s.State, s.Why = drivefile.NotKnown, "The clock stepped back since the record."
	case s.State == drivefile.Dead:
		next, why := DeadUntil(at, shifts, c.Zone)
		if !next.After(c.Now) {
			s.State, s.Why = drivefile.NotKnown, why
		}
	}
	return s
}

// longestDead is how long a proof of dead stands where no shifts are named: the length of a shift.
const longestDead = 8 * time.Hour

// DeadUntil is when what was proved dead at a time lapses, and the words for it: at the next change of shift, or after the length of one.
func DeadUntil(at time.Time, shifts string, zone *time.Location) (time.Time, string) {
	until, why := at.Add(longestDead), fmt.Sprintf("It was proved dead more than %.0f hours ago.", longestDead.Hours())
	if next := nextShift(at, shifts, zone); !next.IsZero() {
		return next, "The shift has changed since it was proved dead."
	}
	return until, why
}

// ParseShifts reads the times of day at which shifts change, like "06:00, 14:00"; ok is false when one cannot be read.
func ParseShifts(text string) (minutes []int, ok bool) {
	ok = true
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == ' ' }) {
		h, m, two := strings.Cut(t, ":")
		hour, err := strconv.Atoi(h)
		minute, err2 := strconv.Atoi(m)
		if !two || err != nil || err2 != nil || hour < 0 || hour > 23 || minute < 0 || minute > 59 {
			ok = false
			continue
		}
		minutes = append(minutes, hour*60+minute)
	}
	return minutes, ok
}

// nextShift is the first change of shift after a time; the zero time when the place names none.
func nextShift(at time.Time, shifts string, zone *time.Location) time.Time {
	if zone == nil {
		zone = time.UTC
	}
	at = at.In(zone)
	var next time.Time
	minutes, _ := ParseShifts(shifts)
	for day := range 2 {
		for _, m := range minutes {
			t := time.Date(at.Year(), at.Month(), at.Day()+day, m/60, m%60, 0, 0, zone)
			if t.After(at) && (next.IsZero() || t.Before(next)) {
				next = t
			}
		}
	}
	return next
}
