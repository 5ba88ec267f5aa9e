package link

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
	"tingate/core/drivefile"
)

// Clearance is a named person's word that the area is clear, for settings that could start motion.
type Clearance struct{ Person string }

// Outcomes of a write. Each but Unknown, and Refused before anything was sent, is what was read after it.
const (
	Held    = drivefile.Held    // reads back as asked
	Differs = drivefile.Differs // reads back otherwise
	Refused = drivefile.Refused // not sent, or refused by the drive, which reads back what it held
	Unknown = drivefile.Unknown // sent, and not read back: it may or may not be there
)

// Result is what became of a write.
type Result struct {
	Outcome    drivefile.Outcome
	Before     *int64
	ReadBack   *int64 // as read after the write; nil: it could not be read, or nothing was sent
	BeforeText string // what it held before, as the keypad shows it
	BackText   string // what was read after it, the same
	Message    string
}

// Write sets one setting and reads it back. It is refused unless the drive reports standstill; a setting that could start motion also needs
// both torque-off channels open and a clearance; a drive whose counter stands still gets nothing. Registers that command are refused
// always. sending is called just before the value goes out; when it fails nothing is sent. All conditions are looked at once more after it,
// and once more after the write: a drive that is run meanwhile is told of. What the drive answers to the write is never taken for what it
// did: that is read.
func (c *Conn) Write(
	ctx context.Context,
	s *dialect.Setting,
	steps int64,
	clear *Clearance,
	sending func(before int64, raw []uint16) error,
) Result {
	return c.WriteHeld(ctx, s, dialect.Held{Steps: steps}, clear, sending)
}

// WriteHeld is Write of a value that may be a text.
func (c *Conn) WriteHeld(ctx context.Context, s *dialect.Setting, v dialect.Held, clear *Clearance,
	sending func(before int64, raw []uint16) error) Result {
	refused := func(why string) Result { return Result{Outcome: Refused, Message: why} }
	if why := c.never(s, v); why != "" {
		return refused(why)
	}
	if s.Acts == "motion" && (clear == nil || strings.TrimSpace(clear.Person) == "") {
		return refused(s.Code + " could start the motor: somebody must confirm by name that the area is clear.")
	}
	if why := c.mayWrite(ctx, s); why != "" {
		return refused(why)
	}
	held, err := c.value(ctx, s)
	before := held.Steps
	if err != nil {
		return refused(err.Error() + " Nothing was written.")
	}
	raw := c.family.Encode(s, v)
	if err := sending(before, raw); err != nil {
		return Result{Outcome: Refused, Before: &before, Message: "Not sent, since it could not be recorded first: " + err.Error()}
	}
	if why := c.mayWrite(ctx, s); why != "" {
		return Result{Outcome: Refused, Before: &before, Message: why}
	}
	begun := time.Now()
	tick, has, err := c.clock(ctx)
	if err != nil {
		return Result{Outcome: Refused, Before: &before, Message: err.Error() + " Nothing was written."}
	}
	said := c.send(s.Register, raw)
	// From here on the value may be in the drive: it is read back even when the person has stopped.
	ctx = context.WithoutCancel(ctx)
	r := c.readBack(ctx, s, v, held, said)
	c.after(ctx, s, &r, v.Steps, tick, has, begun)
	return r
}

// unsent is what a register of text cannot hold: each holds two signs of seven bits.
var unsent = regexp.MustCompile(`[^ -~]`)

// never says why a setting is not written over a link at all; empty when it may be.
func (c *Conn) never(s *dialect.Setting, v dialect.Held) string {
	switch {
	case len(c.family.Link.Forbidden) == 0:
		return "The file of family " + c.family.Name +
			" does not name the registers that command: this drive is read only over the link until it does."
	case c.family.Link.Status.Register == 0:
		return "The file of family " + c.family.Name +
			" names no status register: whether the motor stands cannot be read, so nothing is written."
	case s.Register == 0:
		return s.Code + " has no register. Set it on the keypad."
	}
	for r := int(s.Register); r < int(s.Register)+s.Words(); r++ {
		if why, yes := c.family.Commands(uint16(r)); yes || r > 65535 {
			return "This register commands (" + why + "). It is never written over a link."
		}
	}
	switch {
	case s.Kind == "text" && (v.Text == "" || unsent.MatchString(v.Text) || len(v.Text) > 2*s.Words()):
		return s.Code + " holds a text, and registers hold only so many plain letters, figures and signs. Set it on the keypad."
	case !s.Inside(v.Steps):
		return s.WithUnit(v.Steps) + " is outside the range of " + s.Code + "."
	}
	return ""
}

// mayWrite looks at the drive as it is now, and says why nothing is written; empty when it may be.
func (c *Conn) mayWrite(ctx context.Context, s *dialect.Setting) string {
	const not = " Nothing was written."
	tick, has, err := c.clock(ctx)
	if err == nil && has {
		err = c.fresh(ctx, tick)
	}
	if err != nil {
		return strings.Replace(err.Error(), " Nothing of this read is kept.", "", 1) + not
	}
	st, err := c.Status(ctx)
	switch {
	case err != nil:
		return err.Error() + not
	case !st.Standstill:
		return "The drive does not report standstill." + not + " Stop it and wait, then write again."
	case s.Acts == "motion" && (!st.ChannelAOpen || !st.ChannelBOpen):
		return s.Code + " could start the motor: open both torque-off channels first, and see the drive say so." + not
	}
	return ""
}

// send sends the value once, and gives the drive's answer. A request to write is never repeated.
func (c *Conn) send(register uint16, raw []uint16) (said error) {
	if len(raw) == 1 {
		said = c.client.WriteRegister(register, raw[0])
	} else {
		said = c.client.WriteRegisters(register, raw)
	}
	if said != nil && exception(said) == "" {
		c.reopen() // a late answer must not be taken for the next one
	}
	return said
}

// settle is how often a value that reads back as before is read again: some drives and gateways answer late.
const settle = 4

// readBack reads what the setting holds after a write, and judges it. said is what the drive answered to the write.
func (c *Conn) readBack(ctx context.Context, s *dialect.Setting, v, before dialect.Held, said error) Result {
	r := Result{Before: &before.Steps, BeforeText: before.Text}
	answer := answered(said)
	for try := range settle {
		back, err := c.value(ctx, s)
		if err != nil {
			r.Outcome, r.Message = Unknown, strings.TrimSpace("Sent, but it could not be read back: "+err.Error()+" "+answer)
			return r
		}
		r.ReadBack, r.BackText = &back.Steps, back.Text
		if back.Steps == v.Steps || said == nil && c.doneAtOnce(s, back) {
			r.Outcome = Held
			switch {
			case answer != "":
				r.Message = fmt.Sprintf("%s %s holds %s all the same.", answer, s.Code, s.Shows(v))
			case try > 0:
				r.Message = fmt.Sprintf("%s holds %s; it answered with the old value %d times first.", s.Code, s.Shows(v), try)
			}
			return r
		}
		if back.Steps != before.Steps {
			break // taken otherwise: waiting does not change it
		}
		sleep(ctx, time.Duration(try+1)*100*time.Millisecond)
	}
	r.Outcome = Differs
	r.Message = fmt.Sprintf("Asked for %s, reads back %s.", s.Shows(v), s.Shows(dialect.Held{Steps: *r.ReadBack, Text: r.BackText}))
	switch {
	case *r.ReadBack != before.Steps:
	case denied(said):
		r.Outcome, r.Message = Refused, fmt.Sprintf("Still holds %s.", s.Shows(before))
	case errors.Is(said, modbus.ErrAcknowledge):
		r.Message += " It is not done with it yet, or never will be: read it again."
	default:
		r.Message += " That is what it held before: it was not taken, or what answers gives old values. Look on the keypad."
	}
	r.Message = strings.TrimSpace(answer + " " + r.Message)
	return r
}

// doneAtOnce tells of a setting that keeps everything on command: once it has, it stands as delivered again.
func (c *Conn) doneAtOnce(s *dialect.Setting, back dialect.Held) bool {
	k, _ := c.family.Keeps()
	return k != nil && k.Code == s.Code && back.Steps == s.DeliverySteps()
}

// denied tells whether an answer to a write means no. An acknowledgement means later, and a gateway that got no answer may have been heard.
func denied(said error) bool {
	return exception(said) != "" && !errors.Is(said, modbus.ErrAcknowledge) && !errors.Is(said, modbus.ErrGWTargetFailedToRespond)
}

// answered tells the drive's answer to a write in words; empty when it was a plain yes.
func answered(said error) string {
	switch {
	case said == nil:
		return ""
	case errors.Is(said, modbus.ErrAcknowledge):
		return "The drive answered that it has accepted the value and is working on it."
	case errors.Is(said, modbus.ErrGWTargetFailedToRespond):
		return "A gateway answered that the drive gave it no answer."
	case exception(said) != "":
		return "Refused by the drive: " + exception(said)
	case errors.Is(said, modbus.ErrRequestTimedOut):
		return "The drive gave no answer to the write."
	}
	return "The drive's answer to the write was not whole."
}

// after looks at the drive once more after a write: that it is the same one, that its answers are of now, that the value stayed, and that
// the motor still stands. What is not so is told in r, and takes the outcome back where it rests on it.
func (c *Conn) after(ctx context.Context, s *dialect.Setting, r *Result, steps int64, tick uint16, has bool, begun time.Time) {
	say := func(text string) { r.Message = strings.TrimSpace(r.Message + " " + text) }
	unknown := func(text string) {
		if r.Outcome != Unknown {
			r.Outcome = Unknown
			say(text + " What " + s.Code + " holds is not known: look on the keypad.")
		}
	}
	if r.Outcome != Unknown {
		if err := c.sameDrive(ctx); err != nil {
			unknown("After the write this could not be made sure: " + strings.Replace(err.Error(), " Nothing of this read is kept.", "", 1))
		}
	}
	if has && r.Outcome != Unknown {
		now, _, err := c.clock(ctx)
		if err == nil {
			err = c.fresh(ctx, now)
		}
		switch {
		case err != nil:
			unknown(strings.Replace(err.Error(), " Nothing of this read is kept.", "", 1))
		case restarted(tick, now, time.Since(begun)):
			say("The drive restarted with it: read all of it again.")
		}
	}
	if r.Outcome == Held {
		if back, err := c.value(ctx, s); err != nil {
			unknown("It read back as asked once, and then could not be read: " + err.Error())
		} else if back.Steps != steps && !c.doneAtOnce(s, back) {
			r.Outcome, r.ReadBack, r.BackText = Differs, &back.Steps, back.Text
			say(fmt.Sprintf("It read back as asked once, and then %s: it did not stay.", s.Shows(back)))
		}
	}
	st, err := c.Status(ctx)
	switch {
	case err != nil:
		say("Whether the motor still stands could not be read after the write.")
	case !st.Standstill:
		say("The drive no longer reports standstill: it was run while this was written.")
	case s.Acts == "motion" && (!st.ChannelAOpen || !st.ChannelBOpen):
		say("A torque-off channel was closed while this was written: " + s.Code + " could start the motor.")
	}
}
