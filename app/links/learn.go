package links

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"tingate/app/base"
	"tingate/core/learn"
	"tingate/link"
)

// LearnAsk is one step of learning a drive's registers. What is known goes along with each: nothing is lost with a window, or with the
// program.
type LearnAsk struct {
	Chart learn.Chart `json:"chart"`
	// Read reads all that answers once more, instead of looking for what answers.
	Read   bool     `json:"read,omitempty"`
	Values []uint16 `json:"values,omitempty" doc:"of a reading under way: what was read so far"`
	Budget int      `json:"budget" minimum:"1" maximum:"70000" doc:"most requests of the search, in all"`
	Shared bool     `json:"shared,omitempty" doc:"a controller uses the line: fewer requests, and none after the first delay"`
	Owner  string   `json:"owner,omitempty" doc:"of a shared line: who answers for the controller, and agreed"`
	Usual  float64  `json:"usual_ms,omitempty" doc:"how long an answer usually takes there, as the last step told"`
}

// LearnStep is how far learning has come.
type LearnStep struct {
	Chart   learn.Chart `json:"chart"`
	Values  []uint16    `json:"values,omitempty"`
	Done    bool        `json:"done"`
	Left    int         `json:"left" doc:"of a reading: requests to come; of a search: what is left of the budget"`
	Stride  int         `json:"stride" doc:"of a search that ended: shorter runs than this may not have been met; 0: every address is known"`
	Stopped string      `json:"stopped,omitempty" doc:"why it ended before its end"`
	Usual   float64     `json:"usual_ms"`
}

// How fast a line is asked, and how long a step lasts.
const (
	ownPace    = 50 * time.Millisecond // between two requests on a line that nobody else uses
	sharedPace = 500 * time.Millisecond
	ownStep    = 2 * time.Second
	sharedStep = 8 * time.Second // a connection for every few requests would be a load of its own
)

// Learn asks a drive of no known family, for some seconds, which of its registers answer, or what they hold. It only reads.
func (a *Links) Learn(ctx context.Context, who base.Actor, driveID string, ask LearnAsk) (LearnStep, error) {
	out := LearnStep{Chart: ask.Chart, Values: ask.Values, Usual: ask.Usual}
	if err := badLearn(ask.Chart.Check()); err != nil {
		return out, err
	}
	if ask.Shared && strings.TrimSpace(ask.Owner) == "" {
		return out, base.Bad("owner", "nothing", "who answers for the controller on this line, and has agreed")
	}
	if len(ask.Values) > ask.Chart.Registers() {
		return out, base.Bad("values", fmt.Sprint(len(ask.Values)), fmt.Sprint("at most ", ask.Chart.Registers()))
	}
	j, err := a.AnyJob(ctx, driveID)
	if err != nil {
		return out, err
	}
	if _, err := base.PersonOf(j.Place, who); err != nil {
		return out, err
	}
	unit, err := unitOf(j.Drive.Link)
	if err != nil {
		return out, err
	}
	release, err := a.wires.take(driveID)
	if err != nil {
		return out, err
	}
	defer release()
	if err := a.belongs(ctx, j.Place, j.Drive.Link.Address, unit); err != nil {
		return out, err
	}
	ear, err := link.Listen(j.Drive.Link.Address, unit, requestTimeout)
	if err != nil {
		return out, base.Refuse(err.Error())
	}
	defer ear.Close()
	l := learning{ear: ear, ask: ask, out: &out, pace: ownPace, until: time.Now().Add(ownStep)}
	if ask.Shared {
		l.pace, l.until = sharedPace, time.Now().Add(sharedStep)
	}
	if ask.Read {
		l.read(ctx)
	} else {
		l.search(ctx)
	}
	out.Chart = out.Chart.Told()
	if len(l.took) > 0 && !a.benches.IsBench(j.Drive.Link.Address) {
		return out, a.answered(ctx, who, Wired{Job: j, State: a.Evaluate(j)})
	}
	return out, nil
}

// learning is one step under way.
type learning struct {
	ear   *link.Ear
	ask   LearnAsk
	out   *LearnStep
	pace  time.Duration
	until time.Time
	took  []float64 // ms, of each answer of this step
}

// search asks for the addresses that are worth most, until the time, the budget or the range is used up.
func (l *learning) search(ctx context.Context) {
	c := &l.out.Chart
	for time.Now().Before(l.until) {
		s, stride, more := c.Next()
		l.out.Stride, l.out.Left = stride, max(0, l.ask.Budget-c.Asked)
		if !more {
			l.out.Stride = 0
		}
		if !more || c.Asked >= l.ask.Budget {
			l.out.Done = true
			return
		}
		_, heard, ok := l.one(ctx, s)
		if !ok {
			return
		}
		switch heard {
		case link.Gave:
			c.Answered(s)
		case link.Denied:
			c.Refused(s)
		case link.TooMany:
			c.TooMany(s.Len())
		}
	}
}

// read reads what answers, from where the last step came to.
func (l *learning) read(ctx context.Context) {
	for {
		block, left := l.next()
		l.out.Left, l.out.Done = left, left == 0
		if l.out.Done || !time.Now().Before(l.until) {
			return
		}
		regs, heard, ok := l.one(ctx, block)
		switch {
		case !ok:
			return
		case heard == link.TooMany && block.Len() > 1:
			l.out.Chart.TooMany(block.Len())
		case heard != link.Gave:
			l.out.Stopped = fmt.Sprintf("Registers %d to %d answered before and do not now: is another device at this address, or is a "+
				"level "+
				"locked that was open? Look again which addresses answer.", block.From, block.To)
			return
		default:
			l.out.Values = append(l.out.Values, regs...)
		}
	}
}

// next is what to read after the values that are there, and how many requests are left.
func (l *learning) next() (learn.Span, int) {
	done := len(l.out.Values)
	var first learn.Span
	left := 0
	for _, s := range l.out.Chart.Has {
		from := s.From + min(done, s.Len())
		done -= from - s.From
		if from > s.To {
			continue
		}
		if left == 0 {
			first = learn.Span{From: from, To: min(from+l.out.Chart.Most-1, s.To)}
		}
		left += (s.To - from + l.out.Chart.Most) / l.out.Chart.Most
	}
	return first, left
}

// one sends a request at the line's pace. ok false: nothing more is to be asked, and the step says why.
func (l *learning) one(ctx context.Context, s learn.Span) ([]uint16, link.Heard, bool) {
	begun := time.Now()
	regs, heard, err := l.ear.Read(ctx, uint16(s.From), uint16(s.Len()))
	took := time.Since(begun)
	if err != nil {
		l.out.Stopped = err.Error()
		return nil, heard, false
	}
	ms := float64(took) / float64(time.Millisecond)
	if l.ask.Shared && l.out.Usual > 0 && ms > 3*l.out.Usual+lateBy {
		l.out.Stopped = fmt.Sprintf("An answer took %.0f ms where %.0f ms is usual: the controller may have waited for this. Nothing more "+
			"was "+
			"asked. What is known is kept.", ms, l.out.Usual)
		return nil, heard, false
	}
	if l.took = append(l.took, ms); l.out.Usual == 0 && len(l.took) >= 3 {
		slices.Sort(l.took)
		l.out.Usual = max(1, l.took[len(l.took)/2])
	}
	select {
	case <-ctx.Done():
	case <-time.After(l.pace - took):
	}
	return regs, heard, true
}

// lateBy is what an answer on a shared line may take longer than three times the usual, ms: the jitter of a quiet network. Common practice.
const lateBy = 40

// CompareReadings tells what moved between readings of a drive, and in which registers what was shown can lie.
func (a *Links) CompareReadings(c learn.Chart, kind string, readings []learn.Pass) (learn.Learnt, error) {
	if err := badLearn(c.Check()); err != nil {
		return learn.Learnt{}, err
	}
	f, err := learn.Compare(&c, kind, readings)
	return f, badLearn(err)
}

// badLearn is a fault of what came in, as the API tells it.
func badLearn(err error) error {
	var f *learn.Fault
	if errors.As(err, &f) {
		return base.Bad(f.Field, f.Got, f.Want)
	}
	return err
}
