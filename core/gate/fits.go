package gate

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"tingate/core/dialect"
	"tingate/core/finding"
	"tingate/core/quantity"
	"tingate/core/translate"
)

// smallShare is the share of a drive's rated current below which a motor is small for it: many overloads reach no lower, and the current is
// measured as coarsely as for the largest motor. Common practice: a fifth to a third.
const smallShare = .3

// listOff is how far the nearest of a drive's own list may lie off the plate before somebody is to look at it.
const listOff = .05

// sameTag finds that another drive of the place bears this one's tag: what is locked, proved or set of the one is taken for the other's.
func (g *matchGate) sameTag() {
	if len(g.job.SameTag) == 0 {
		return
	}
	tag := strings.TrimSpace(g.job.Drive.Tag)
	var l []string
	for _, m := range g.job.SameTag {
		if m == "" {
			m = "one without a machine's name"
		}
		l = append(l, m)
	}
	g.finding("match", finding.Finding{Code: "same-tag", Severity: finding.Look, Field: "tag",
		Title:  "Another drive here bears the tag " + tag,
		Detail: fmt.Sprintf("%s as well. A lock, a proof or a setting of the one would be taken for the other's.", strings.Join(l, "; ")),
		Action: "Give one of them another tag, or keep it with a reason"}, map[string]string{"tag": tag, "others": strings.Join(l, "; ")})
}

// smallMotor finds a motor that is small for its drive.
func (g *plateGate) smallMotor() {
	s := g.site()
	motor := g.plan.Motor.Current
	if s.Motors > 1 {
		motor *= s.Motors
	}
	share := motor / s.Rated
	if !(share > 0 && share < smallShare) {
		return
	}
	detail := fmt.Sprintf("It takes %s A, %s %% of the drive's %s A: the drive measures its current as coarsely as that of a full-sized "+
		"one, "+
		"and many overloads and tunes reach no lower than a fifth to a third.", f4(motor), quantity.Digits(share*100, 2), f4(s.Rated))
	for _, l := range g.lines {
		if l.Problem == "" || g.job.Family == nil {
			continue
		}
		if x, ok := g.job.Family.Setting(l.Code); ok && x.Intent == "overload.current" {
			detail += fmt.Sprintf(" %s: %s.", l.Name, l.Problem)
		}
	}
	g.finding("plate", finding.Finding{Code: "motor-small-for-drive", Severity: finding.Look, Field: "motor",
		Title:  "A small motor on a large drive",
		Detail: detail, Action: "A smaller drive, a motor protection of its own, or keep it with a reason"},
		map[string]string{"motor": f4(motor), "rated": f4(s.Rated)})
}

// farFromList finds a choice out of the drive's own list that lies far off the plate.
func (g *plateGate) farFromList() {
	if g.job.Family == nil {
		return
	}
	for _, l := range g.lines {
		x, ok := g.job.Family.Setting(l.Code)
		if !ok || x.Convention != "power-list" || !l.Planned {
			continue
		}
		at := slices.IndexFunc(x.Choices, func(c dialect.Choice) bool { return c.Value == l.Steps })
		if at < 0 {
			continue
		}
		kw, err := strconv.ParseFloat(x.Choices[at].Means, 64)
		want := g.plan.Motor.Power / 1000
		if off := kw/want - 1; err == nil && math.Abs(off) > listOff {
			g.finding("plate", finding.Finding{Code: "list-off-plate", Severity: finding.Look, Field: "motor",
				Title: fmt.Sprintf("The drive's list has no %s kW", f4(want)),
				Detail: fmt.Sprintf("The nearest, %s, is %s kW: %+.0f %%. What the drive works out from it (slip, magnetising, losses) is "+
					"that far off until it is tuned.", l.SetTo, f4(kw), off*100),
				Action: "Tune it, or keep it with a reason"}, map[string]string{"power": f4(want), "list": x.Choices[at].Means})
		}
	}
}

// coasts says that a fall is not used where it coasts to a stop.
func (g *spanGate) coasts() {
	in := g.job.Drive.Intent
	if in.StopMode != "coast" || in.Fall.Value == nil {
		return
	}
	g.finding("span", finding.Finding{Code: "fall-unused", Severity: finding.Note, Field: "intent.fall",
		Title: "The fall is not used to stop",
		Detail: "It coasts: the fall holds only where the reference goes down while it runs. How long it takes to stand is the machine's " +
			"own."},
		map[string]string{"mode": in.StopMode})
}

// best is the power factor of a drive's input at its best, with a choke, and kept what leaves the drive of what goes in. Common practice:
// 0.9 to 0.95 with a choke, 0.6 to 0.75 without; 97 to 98 %.
const best, kept = .95, .97

// inputFits holds the input current that was stated against what the shaft's power takes at this supply.
func (g *powerGate) inputFits(s translate.Site) {
	input, shaft := g.job.Drive.Power.Input.Num(quantity.Current, "A"), g.plan.Motor.Power
	if s.Motors > 1 {
		shaft *= s.Motors
	}
	eta := g.result.Efficiency
	if !(eta > .3 && eta < 1) {
		eta = .9
	}
	phases := math.Sqrt(3)
	if s.PhasesIn == "1" {
		phases = 1
	}
	need := shaft / (eta * kept * best * phases * s.Volts)
	if !(input < need*.95) {
		return
	}
	g.finding("power", finding.Finding{Code: "input-below-shaft", Severity: finding.Look, Field: "power.input",
		Title: "The input current is too little for the shaft's power",
		Detail: fmt.Sprintf("%s A is entered; %s kW at the shaft take at least %s A at %s V, with a choke and all at its best.", f4(input),
			f4(shaft/1000), f4(need), f4(s.Volts)),
		Action: "Read the label again: the row of this supply and these phases. Or keep it with a reason"},
		map[string]string{"input": g.job.Drive.Power.Input.Text, "power": f4(shaft), "volts": f4(s.Volts), "phases": s.PhasesIn})
}
