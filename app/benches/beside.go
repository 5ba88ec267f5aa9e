package benches

import (
	"context"
	"fmt"
	"math"
	"strings"

	"tingate/app/base"
	"tingate/bench"
	"tingate/bench/ride"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/gate"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// BesideWant is which two benches are to ride the plan, and how.
type BesideWant struct {
	A        Variant `json:"a"`
	B        Variant `json:"b"`
	OneShaft bool    `json:"one_shaft,omitempty" doc:"both motors turn one shaft, with the load between them"`
	Knock    float64 `json:"knock_pct,omitempty" doc:"by which the load is heavier for two seconds at speed, percent"`
}

// Variant is the plan with something changed; what is empty stays as planned.
type Variant struct {
	Family   string         `json:"family,omitempty" doc:"another family: its smallest drive that fits"`
	Control  string         `json:"control,omitempty" enum:"volts-per-hertz,vector,encoder"`
	Pattern  string         `json:"pattern,omitempty" enum:"constant,quadratic,automatic-boost" doc:"volts over hertz"`
	Settings []TypedSetting `json:"settings,omitempty" doc:"typed as the keypad shows them" maxItems:"40"`
}

// TypedSetting is a setting with what was typed for it.
type TypedSetting struct {
	Code string `json:"code"`
	Text string `json:"text"`
}

// Beside is two benches laid over one another.
type Beside struct {
	Missing string      `json:"missing" doc:"what is needed before it can be worked out"`
	Assumed []string    `json:"assumed"`
	Of      []BesideOne `json:"of" doc:"both; none while something is missing"`
	Differs []Differing `json:"differs" doc:"settings that differ between two drives of one family"`
	Says    []string    `json:"says"`
}

// BesideOne is one of the two.
type BesideOne struct {
	Title   string    `json:"title"`
	Drive   string    `json:"drive" doc:"family and type"`
	Missing string    `json:"missing" doc:"why it cannot ride"`
	Does    ride.Laid `json:"does"`
}

// Differing is a setting that the two have otherwise.
type Differing struct {
	Code string `json:"code"`
	Name string `json:"name"`
	A    string `json:"a"`
	B    string `json:"b"`
}

// mostKnock is the heaviest knock of a load, percent.
const mostKnock = 300

// Beside rides a drive's plan on two benches.
func (a *Benches) Beside(ctx context.Context, driveID string, in BesideWant) (Beside, error) {
	out := Beside{Of: []BesideOne{}, Assumed: []string{}, Differs: []Differing{}, Says: []string{}}
	if !(in.Knock >= 0 && in.Knock <= mostKnock) {
		return out, base.Bad("how much heavier the load is", fmt.Sprint(in.Knock), fmt.Sprintf("0 to %d %%", mostKnock))
	}
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return out, err
	}
	f := gate.FiguresOf(j, gate.Evaluate(j, a.Now()))
	if out.Missing, out.Assumed = f.Missing, f.Assumed; f.Missing != "" {
		return out, nil
	}
	if j.Family == nil {
		out.Missing = "the drive's family"
		return out, nil
	}
	var setups [2]bench.Setup
	cannot := false
	for i, v := range []Variant{in.A, in.B} {
		one := BesideOne{Does: ride.Laid{Ride: ride.Ride{Samples: []ride.RideSample{}}}}
		if setups[i], err = a.varied(j, f, v, &one, [2]string{"the first", "the second"}[i]); err != nil {
			return out, err
		}
		cannot = cannot || one.Missing != ""
		out.Of = append(out.Of, one)
	}
	out.Differs = differing(setups)
	if cannot || ctx.Err() != nil {
		return out, ctx.Err()
	}
	laid, err := ride.Beside(setups, ride.Want{Knock: in.Knock / 100}, in.OneShaft)
	if err != nil {
		return out, base.Refuse(err.Error())
	}
	for i := range laid {
		out.Of[i].Does = laid[i]
	}
	out.Says = besideSays(out.Of, in.OneShaft)
	return out, nil
}

// varied is the bench of a plan with something changed. What it cannot be is said in one; what was typed wrongly is refused by its field.
func (a *Benches) varied(j gate.Job, f translate.Figures, v Variant, one *BesideOne, which string) (bench.Setup, error) {
	var title []string
	if v.Family != "" && v.Family != j.Family.Name {
		to := a.FamilySet.Find(v.Family)
		if to == nil {
			return bench.Setup{}, base.Bad("family of "+which, v.Family, "one of "+strings.Join(a.FamilySet.Names(), ", "))
		}
		title = append(title, to.Name)
		size, ok := fitting(to, f)
		if !ok {
			one.Title, one.Missing = to.Name, fmt.Sprintf("%s has no drive for this motor on this line", to.Name)
			return bench.Setup{}, nil
		}
		j.Family = translate.Fitted(to, j.Drive)
		j.Drive.Rating = drivefile.Rating{Dialect: to.Name, DialectVersion: to.Version, Type: size.Type, Duty: "heavy"}
		if q, err := quantity.Current.Parse(quantity.Digits(size.Heavy, 6) + " A"); err == nil {
			j.Drive.Rating.Current = q
		}
	}
	wanted := v.Control
	if wanted != "" {
		for _, c := range controlsOf {
			if c.key == wanted {
				j = withControl(j, c.control, c.encoder)
				title = append(title, strings.ToLower(c.title))
			}
		}
	}
	if v.Pattern != "" {
		j.Drive.Intent.Pattern = v.Pattern
		title = append(title, strings.ReplaceAll(v.Pattern, "-", " ")+" pattern")
	}
	s := base.SetupOf(j, gate.FiguresOf(j, gate.Evaluate(j, a.Now())))
	one.Drive = strings.TrimSpace(j.Family.Name + " " + s.Size.Type)
	if wanted == "encoder" && s.Magnet {
		one.Missing = "a motor with magnets is run here without an encoder"
	} else if wanted == "encoder" && lined(j.Family, s.Values, s.Lines) == "" {
		one.Missing = "this family has no setting for the lines of an encoder"
	} else if got := bench.Configure(j.Family, s.Values, s.Size).Control; wanted != "" && got != wanted {
		one.Missing = "this family has no setting for " + strings.ToLower(wanted)
	}
	for _, t := range v.Settings {
		set, ok := j.Family.Setting(strings.TrimSpace(t.Code))
		if !ok {
			return s, base.Bad("setting of "+which, asTyped(t.Code), "the code of a setting of "+j.Family.Name)
		}
		steps, err := set.Read(t.Text)
		if err != nil || !set.Inside(steps) {
			return s, base.Bad(fmt.Sprintf("%s of %s", set.Code, which), asTyped(t.Text), set.Span())
		}
		s.Values[set.Code] = steps
		title = append(title, set.Code+" "+set.WithUnit(steps))
	}
	if one.Title = strings.Join(title, ", "); one.Title == "" {
		one.Title = "as planned"
	}
	return s, nil
}

// asTyped is what was typed, for an error.
func asTyped(text string) string {
	if strings.TrimSpace(text) == "" {
		return "nothing"
	}
	return text
}

// fitting is a family's smallest drive for a motor on its line.
func fitting(f *dialect.Family, fig translate.Figures) (best dialect.Size, ok bool) {
	for _, x := range f.Ratings {
		single := x.Phases == 1
		if single != fig.Single || fig.Line < x.LineLow*.9 || fig.Line > x.LineHigh*1.1 || x.Heavy < fig.Motor.Current {
			continue
		}
		if !ok || x.Heavy < best.Heavy {
			best, ok = x, true
		}
	}
	return best, ok
}

// differing are the settings that two drives of one family have otherwise.
func differing(s [2]bench.Setup) []Differing {
	l := []Differing{}
	f := s[0].Family
	if f == nil || s[1].Family != f {
		return l
	}
	for i := range f.Settings {
		set := &f.Settings[i]
		value := func(values map[string]int64) int64 {
			if v, ok := values[set.Code]; ok {
				return v
			}
			return set.DeliverySteps()
		}
		if a, b := value(s[0].Values), value(s[1].Values); a != b {
			l = append(l, Differing{set.Code, set.Name, set.WithUnit(a), set.WithUnit(b)})
		}
	}
	return l
}

// besideSays is what is to be seen first.
func besideSays(of []BesideOne, oneShaft bool) []string {
	l := []string{}
	for _, x := range of {
		r := x.Does.Ride
		switch {
		case r.Trip != nil:
			l = append(l, fmt.Sprintf("%s trips after %.1f s: %s.", upper(x.Title), r.Trip.T, r.Trip.Word))
		case r.Stands != "":
			l = append(l, fmt.Sprintf("%s does not run: %s.", upper(x.Title), r.Stands))
		case r.Stalled:
			l = append(l, upper(x.Title)+" stalls.")
		}
	}
	if a, b := of[0].Does.Share, of[1].Does.Share; oneShaft && (a != 0 || b != 0) {
		l = append(l, fmt.Sprintf("At speed the first gives %.0f %% of the torque, the second %.0f %%.", a*100, b*100))
		if math.Abs(a-b) > .2 {
			l = append(l, "So unequal, one motor warms while the other idles, or brakes: one of them should follow the other's torque, "+
				"or both give way with the load (slip, droop).")
		}
	}
	return l
}

func upper(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}
