package gate

import (
	"fmt"
	"maps"
	"slices"

	"tingate/core/record"
)

// serials asks for the numbers of drive and motor, and for whom that is which was recorded with another number or without one.
func (g *matchGate) serials() {
	const group = "What arrived"
	d, m := g.job.Drive, g.rec.Machines
	photo := func(of string) bool {
		return slices.ContainsFunc(g.rec.Attached, func(a record.AttachmentHead) bool { return a.Of == of })
	}
	for _, x := range []struct{ key, part, title, of, photo string }{
		{"match/serial/drive", record.DriveSerial, "Serial number of the drive", "drive-label", "the drive's label"},
		{"match/serial/motor", record.MotorSerial, "Serial number of the motor", "motor-plate", "the motor's plate"},
	} {
		c := Check{Key: x.key, Group: group, Title: x.title, Verdict: NotDone, Work: Either,
			Detail: "Type it, or say that it is not legible and keep a photo: what is measured and set rests on it."}
		switch now := m.Now[x.part]; {
		case now == record.NotLegible && !photo(x.of):
			c.Detail = "Not legible: keep a photo of " + x.photo + "."
		case now != "":
			c.Verdict, c.Detail = Holds, now
		}
		g.check(c)
	}
	for _, x := range []struct{ key, part, of, what string }{{record.SerialSameDrive, record.DriveSerial, "drive-label", "drive"},
		{record.SerialSameMotor, record.MotorSerial, "motor-plate", "motor"}} {
		from := m.Foreign[x.part]
		if from == "" {
			continue
		}
		c := Check{Key: x.key, Group: group, Title: "The serial of the " + x.what + " was changed", Work: Either,
			Basis: map[string]string{"from": from, "to": m.Now[x.part]},
			Detail: fmt.Sprintf("It was %s, and is %s. ", from, m.Now[x.part]) + "Another " + x.what +
				" is asked for everything again. A number that was mistyped is not: with a reason, and a photo of it."}
		options := []Option{{"another", "another " + x.what, ""}}
		if photo(x.of) {
			options = append(options, Option{"same", "the same " + x.what + ": the number was mistyped",
				"Give the reason: how the wrong number came to be typed."})
		}
		g.choose(c, options, true)
	}
	if _, said := g.rec.Evidence[record.SerialBefore]; m.Without || said && m.Carried {
		basis := maps.Clone(m.Now)
		g.confirm(Check{Key: record.SerialBefore, Group: group,
			Title: "What was recorded before the serial numbers were is of this drive and this motor", Work: Either, Basis: basis,
			Detail: fmt.Sprintf("Drive %s, motor %s.", blank(d.Rating.Serial), blank(d.Motor.Serial))},
			m.Now[record.DriveSerial] != "" && m.Now[record.MotorSerial] != "")
	}
}
