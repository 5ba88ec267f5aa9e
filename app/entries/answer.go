package entries

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"tingate/app/base"
	"tingate/app/circuits"
	"tingate/app/energy"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/quantity"
	"tingate/core/record"
)

// CheckAnswer is a person's answer to a check: confirmed, a choice, or a measurement as typed.
type CheckAnswer struct {
	ID     string `json:"id"`
	Key    string `json:"key"`
	Value  string `json:"value"`
	With   string `json:"with,omitempty" doc:"meter and its range"`
	Reason string `json:"reason,omitempty"`
	// Seen is what the check rested on as it was shown. It may be a part of the check's basis.
	Seen map[string]string `json:"seen,omitempty" doc:"what the check rested on as it was shown (its basis, or a part of it): an answer to another question is refused"`
}

// Confirm answers a check that a person confirms.
func (a *Entries) Confirm(ctx context.Context, who base.Actor, driveID, id, key string) error {
	return a.AnswerCheck(ctx, who, driveID, CheckAnswer{ID: id, Key: key, Value: "confirmed"})
}

// AnswerCheck records an answer with the values it rests on. What cannot be read is kept as typed. Work at the equipment is
// refused in the wrong state of energy, with what to do first.
func (a *Entries) AnswerCheck(ctx context.Context, who base.Actor, driveID string, in CheckAnswer) error {
	return a.Put(ctx, who, driveID, in.ID, drivefile.EntryEvidence, func(s base.Situation) (any, error) {
		c, err := a.asked(s, in)
		if err != nil {
			return nil, err
		}
		do := answeredBy(c)
		if err := mayAnswer(s, who, c, do); err != nil {
			return nil, err
		}
		ev := drivefile.Evidence{Key: in.Key, Value: strings.TrimSpace(in.Value), Instrument: strings.TrimSpace(in.With),
			Reason: strings.TrimSpace(in.Reason), Basis: c.Basis, Unit: c.Unit}
		if do == "test" {
			return ev, circuits.TestAnswer(s.Job, s.State, ev)
		}
		if in.Key == "stop/set/chosen" && ev.Value == "smallest" {
			keys, _ := json.Marshal(gate.StopDrawing(s.Job).Smallest().Keys)
			ev.Reason = string(keys)
		}
		if len(ev.Value) > 200 || len(ev.Instrument) > 200 || len(ev.Reason) > 2000 && in.Key != "stop/set/chosen" {
			return nil, base.Bad("value", fmt.Sprint(len(ev.Value), " characters"), "at most 200")
		}
		if err := base.WithInstrument(s.Job.Place, c, &ev); err != nil {
			return nil, err
		}
		err = complete(c, do, &ev)
		return ev, err
	})
}

// asked is the check that an answer is to, as it was shown.
func (a *Entries) asked(s base.Situation, in CheckAnswer) (*gate.Check, error) {
	c, _ := base.FindCheck(s.State, in.Key)
	if c == nil { // a measurement that parts suspects of a stop circuit becomes a check as it is asked for
		asked := s.Job
		asked.Asked = in.Key
		c, _ = base.FindCheck(a.Evaluate(asked), in.Key)
	}
	if c == nil {
		return nil, base.Bad("key", in.Key, "a check of this drive")
	}
	if !asShown(c, in.Seen) {
		return nil, notAsShown(c.Title)
	}
	return c, nil
}

// asShown tells whether a check rests on what it rested on as it was shown.
func asShown(c *gate.Check, seen map[string]string) bool {
	for k, v := range seen {
		if c.Basis[k] != v {
			return false
		}
	}
	return true
}

// answeredBy is the way in which a check is answered; one that holds already may be answered again.
func answeredBy(c *gate.Check) gate.Way {
	switch {
	case c.Do != "" || c.Verdict != gate.Holds || c.Value == "" && c.Unit == "":
		return c.Do
	case c.Options != nil:
		return "choose"
	case strings.HasPrefix(c.Key, gate.TestPrefix):
		return "test"
	}
	return "measure"
}

// mayAnswer refuses an answer that this person cannot give now.
func mayAnswer(s base.Situation, who base.Actor, c *gate.Check, do gate.Way) error {
	switch {
	case gate.WorkedOn(s.Job, c.Key, who.Person):
		return base.Refuse("You have done some of it yourself: a second person looks, and records it under their own initials.")
	case c.Work == gate.Live && s.State.Energy.State != drivefile.Live:
		return base.Refuse(c.Title + " is live work, and " + energy.BandWords(s.State.Energy) +
			" Record the supply live first, when it is.")
	case c.Work == gate.Dead && s.State.Energy.State != drivefile.Dead:
		return base.Refuse(c.Title + " is dead work, and " + energy.BandWords(s.State.Energy) + " Isolate, and prove it dead at gate Dead.")
	case !s.State.Takes(who.Person, *c):
		return base.Refuse("Take the dangers of this job first, by name, at gate Dead: " + c.Title + " is work at the equipment.")
	case do == "" || do == "attach" || do == "lock":
		return base.Refuse(c.Title + " is not answered like this. " + c.Detail)
	}
	return nil
}

// complete makes evidence of an answer in its way, or says what it lacks.
func complete(c *gate.Check, do gate.Way, ev *drivefile.Evidence) error {
	switch do {
	case "confirm":
		ev.Value = "confirmed"
		if ev.Instrument != record.OnBench {
			ev.Instrument = "" // a person's word is not measured
		}
	case "choose":
		i := slices.IndexFunc(c.Options, func(o gate.Option) bool { return o.Value == ev.Value })
		if i < 0 {
			return base.Bad("value", ev.Value, "one of the choices")
		}
		if want, asks := strings.CutPrefix(c.Options[i].Why, "Give the reason: "); asks {
			return base.Substance("reason", ev.Reason, strings.TrimSuffix(want, "."))
		}
	case "measure":
		if ev.Value == "" {
			return base.Bad("value", "nothing", "a value in "+c.Unit)
		}
		if v, ok := measured(ev.Value, c.Unit); ok {
			ev.Reading = &v
		}
	}
	return nil
}

// openOhms stands for a meter that shows no continuity: JSON has no infinity.
const openOhms = 1e9

// measured reads what a meter shows, in a check's unit. For continuity a lamp or a beep is an answer too.
func measured(text, unit string) (float64, bool) {
	kind, base := quantity.Voltage, "V"
	if unit != "V" && unit != "V DC" && unit != "Ω" { // the unit may be typed along; a bare number is in it
		text = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), unit))
	}
	switch unit {
	case "Ω":
		kind, base = quantity.Resistance, "Ω"
		switch strings.ToLower(text) {
		case "lamp", "beep", "lights", "ok", "joined":
			return 0, true
		case "open", "ol", "o.l", "o.l.", "dark", "no", "∞", "inf":
			return openOhms, true
		}
	case "MΩ":
		kind, base = quantity.Megohm, "MΩ"
	case "N·m":
		kind, base = quantity.Torque, "N·m"
	case "°C":
		kind, base = quantity.Temperature, "°C"
	case "r/min":
		kind, base = quantity.Speed, "r/min"
	case "ms", "min", "mm", "A", "mA", "mΩ", "mH", "µH", "counts": // figures as a keypad shows them: no thousands in them
		v, err := strconv.ParseFloat(strings.Replace(text, ",", ".", 1), 64)
		return v, err == nil && !math.IsInf(v, 0) && !math.IsNaN(v)
	}
	q, problem := kind.Parse(text)
	if problem != nil {
		return 0, false
	}
	return q.In(kind, base)
}
