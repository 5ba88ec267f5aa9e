package link

import (
	"context"
	"fmt"
	"math"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
)

// Moment is what a running drive says of itself at one moment.
type Moment struct {
	T          float64   // s since the watch began, by its clock: the middle between question and answer
	Figures    []float64 // in the order of the family's actual figures, each in its kind's unit; NaN: not answered
	Standstill bool
	Open       [2]bool // torque-off channels A and B
	Missed     bool    // it did not answer
}

// Glance reads the family's actual figures and its status once.
func (c *Conn) Glance(ctx context.Context) (Moment, error) {
	w, err := c.watching(ctx)
	if err != nil {
		return Moment{}, err
	}
	m, _, err := w.moment()
	if err != nil {
		return m, &Error{What: "The drive did not answer whole. Try again.", Err: err}
	}
	return m, nil
}

// Value reads one setting.
func (c *Conn) Value(ctx context.Context, s *dialect.Setting) (dialect.Held, error) {
	return c.value(ctx, s)
}

// stale is for how long a drive's counter may stand still before what answers gives old values.
const stale = time.Second

// Watch reads the family's actual figures again and again, as quickly as the drive answers but no quicker than every, until each returns
// false, ctx ends, or no answer has come for the time of patience. It only reads. A missed answer is told and gone on after. clock, s, is
// that by which what answers lives (a bench's); nil: this machine's.
func (c *Conn) Watch(ctx context.Context, every, patience time.Duration, clock func() float64, each func(Moment) bool) error {
	if len(c.family.Link.Actuals) == 0 {
		return &Error{What: "The file of family " + c.family.Name + " names no registers of actual figures: read its display instead.",
			Err: nil}
	}
	w, err := c.watching(ctx)
	if err != nil {
		return err
	}
	begun := time.Now()
	answered, changed := begun, begun
	if clock == nil {
		clock = func() float64 { return time.Since(begun).Seconds() }
	}
	from := clock()
	var counter uint16
	counted := false
	for {
		asked, before := time.Now(), clock()
		m, ticks, err := w.moment()
		m.T = (before+clock())/2 - from
		now := time.Now()
		switch {
		case err != nil:
			m.Missed = true
			c.reopen()
		case w.clock && counted && restarted(counter, ticks, now.Sub(answered)):
			return &Error{What: "The drive restarted while it was watched.", Err: nil}
		case w.clock && counted && ticks == counter && now.Sub(changed) > stale:
			return &Error{What: fmt.Sprintf("The drive's counter (register %d) stands still: what answers gives old values. Is there a "+
				"gateway in between?", c.family.Link.Clock), Err: nil}
		}
		if err == nil {
			if ticks != counter || !counted {
				changed = now
			}
			counter, counted, answered = ticks, true, now
		}
		if !each(m) {
			return nil
		}
		if now.Sub(answered) > patience {
			return &Error{What: fmt.Sprintf("The drive has not answered for %.0f s.", patience.Seconds()), Err: err}
		}
		wait := max(0, every-time.Since(asked))
		if err != nil {
			wait = max(wait, pause)
		}
		sleep(ctx, wait)
		if ctx.Err() != nil {
			return nil
		}
	}
}

// watching is a watch that is under way.
type watching struct {
	c     *Conn
	spans []dialect.Span
	full  []float64 // what the whole of each figure is
	clock bool
}

// watching readies a watch: what shares are of is read first.
func (c *Conn) watching(ctx context.Context) (*watching, error) {
	list := c.family.Link.Actuals
	w := &watching{c: c, spans: c.family.Watched(), full: make([]float64, len(list)), clock: c.family.Link.Clock != 0}
	for i := range list {
		w.full[i] = 1
		if s, ok := c.family.Setting(list[i].Of); ok {
			v, err := c.value(ctx, s)
			if err != nil {
				return nil, err
			}
			w.full[i] = c.family.Full(&list[i], v.Steps)
		}
	}
	return w, nil
}

// moment asks once for everything; what could not be read whole is an error.
func (w *watching) moment() (m Moment, ticks uint16, err error) {
	f := w.c.family
	m.Figures = make([]float64, len(w.full))
	for i := range m.Figures {
		m.Figures[i] = math.NaN()
	}
	for _, s := range w.spans {
		regs, rerr := w.c.client.ReadRegisters(s.From, s.Count, modbus.HOLDING_REGISTER)
		if rerr == nil && len(regs) != int(s.Count) {
			rerr = modbus.ErrProtocolError
		}
		if rerr != nil {
			return m, 0, rerr
		}
		in := func(register uint16, words int) []uint16 {
			at := int(register) - int(s.From)
			if register == 0 || at < 0 || at+words > len(regs) {
				return nil
			}
			return regs[at : at+words]
		}
		for i := range f.Link.Actuals {
			a := &f.Link.Actuals[i]
			if r := in(a.Register, a.Words()); r != nil {
				m.Figures[i] = f.Figure(a, r, w.full[i])
			}
		}
		if r := in(f.Link.Status.Register, 1); r != nil {
			word, s := f.ByteSwapped(r[0]), f.Link.Status
			m.Standstill, m.Open = word>>s.Standstill&1 == 1, [2]bool{word>>s.ChannelA&1 == 1, word>>s.ChannelB&1 == 1}
		}
		if r := in(f.Link.Clock, 1); r != nil {
			ticks = f.ByteSwapped(r[0])
		}
	}
	return m, ticks, nil
}
