// Package link speaks to a drive over Modbus TCP by its family's register map. It reads, and writes single settings
// that are read back. It has no function that commands: run, jog, tune and fault reset cannot be sent with it, to any
// address.
package link

import (
	"context"
	"errors"
	"fmt"
	"net"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
)

// Conn is a connection to one drive.
type Conn struct {
	client *modbus.ModbusClient
	family *dialect.Family
	unit   uint8
}

// Error is a failure of the link in words, with the library's error.
type Error struct {
	What string
	Err  error
}

func (e *Error) Error() string { return e.What }
func (e *Error) Unwrap() error { return e.Err }

// Refusal is a write that the link does not do, with the reason.
type Refusal struct{ Reason string }

func (e *Refusal) Error() string { return e.Reason }

// ParseAddress checks an address that a person entered: host:port, port 1 to 65535.
func ParseAddress(text string) (string, error) {
	host, port, err := net.SplitHostPort(strings.TrimSpace(text))
	n, perr := strconv.Atoi(port)
	if err != nil || perr != nil || host == "" || n < 1 || n > 65535 || strings.ContainsAny(host, "/?#@ ") {
		return "", fmt.Errorf("address: got %q, want host:port, like 192.0.2.10:502", text)
	}
	return net.JoinHostPort(host, port), nil
}

// Dial connects to an address and makes sure that the family answers there. timeout is for each request.
func Dial(ctx context.Context, address string, unit uint8, f *dialect.Family, timeout time.Duration) (*Conn, error) {
	addr, err := ParseAddress(address)
	if err != nil {
		return nil, &Error{err.Error(), err}
	}
	client, err := modbus.NewClient(&modbus.ClientConfiguration{URL: "tcp://" + addr, Timeout: timeout})
	if err != nil {
		return nil, &Error{err.Error(), err}
	}
	c := &Conn{client, f, unit}
	if err := client.Open(); err != nil {
		return nil, &Error{fmt.Sprintf("No answer from %s. Is the drive on, the address right, the cable in?", addr), err}
	}
	_ = client.SetUnitId(unit) // a byte always fits
	id, err := c.read(ctx, f.Link.Identity.Register, 1)
	if err != nil {
		c.Close()
		var e *Error
		if errors.As(err, &e) && exception(e.Err) != "" {
			return nil, &Error{fmt.Sprintf("The drive at %s is not of family %s, or not at unit %d: %s Nothing was read or written.", addr, f.Name, unit, e.What), e.Err}
		}
		return nil, err
	}
	if id[0] != f.Link.Identity.Value {
		c.Close()
		return nil, &Error{fmt.Sprintf("The drive at %s is not of family %s: register %d reads %d, want %d. Nothing was read or written.", addr, f.Name, f.Link.Identity.Register, id[0], f.Link.Identity.Value), nil}
	}
	return c, nil
}

// Close ends the connection.
func (c *Conn) Close() { _ = c.client.Close() } // nothing can be done about it

// tries is how often a request is repeated after a silence or a broken answer; an exception is an answer.
const tries = 3

func (c *Conn) read(ctx context.Context, register uint16, n uint16) ([]uint16, error) {
	var last error
	for range tries {
		if err := ctx.Err(); err != nil {
			return nil, &Error{"Stopped.", err}
		}
		regs, err := c.client.ReadRegisters(register, n, modbus.HOLDING_REGISTER)
		if err == nil && len(regs) == int(n) {
			return regs, nil
		}
		if err == nil {
			err = modbus.ErrProtocolError
		}
		last = err
		if exception(err) != "" {
			return nil, &Error{fmt.Sprintf("Reading registers %d to %d: %s", register, register+n-1, exception(err)), err}
		}
		c.reopen()
	}
	return nil, &Error{fmt.Sprintf("No whole answer for registers %d to %d after %d tries. The connection may be gone.", register, register+n-1, tries), last}
}

// reopen makes a new connection: the client never reconnects by itself, and a late answer must not be taken for the next one.
func (c *Conn) reopen() {
	_ = c.client.Close()
	if c.client.Open() == nil {
		_ = c.client.SetUnitId(c.unit)
	}
}

// exception tells a drive's refusal in words; empty when the error is none.
func exception(err error) string {
	switch {
	case errors.Is(err, modbus.ErrIllegalFunction):
		return "the drive does not take this request. Is its access level high enough?"
	case errors.Is(err, modbus.ErrIllegalDataAddress):
		return "the drive has no such register."
	case errors.Is(err, modbus.ErrIllegalDataValue):
		return "the drive refuses the value: out of its range."
	case errors.Is(err, modbus.ErrServerDeviceBusy):
		return "the drive is busy or running, and refuses now."
	case errors.Is(err, modbus.ErrServerDeviceFailure):
		return "the drive reports a failure of its own."
	case errors.Is(err, modbus.ErrAcknowledge), errors.Is(err, modbus.ErrMemoryParityError), errors.Is(err, modbus.ErrGWPathUnavailable), errors.Is(err, modbus.ErrGWTargetFailedToRespond):
		return "the drive answers with an exception: " + err.Error() + "."
	}
	return ""
}

// Status is what the drive says of its motor.
type Status struct {
	Standstill, ChannelAOpen, ChannelBOpen bool
}

// Status reads whether the motor stands and whether both torque-off channels are open.
func (c *Conn) Status(ctx context.Context) (Status, error) {
	s := c.family.Link.Status
	r, err := c.read(ctx, s.Register, 1)
	if err != nil {
		return Status{}, err
	}
	bit := func(n uint) bool { return r[0]>>n&1 == 1 }
	return Status{bit(s.Standstill), bit(s.ChannelA), bit(s.ChannelB)}, nil
}

// Block is a run of registers read at once.
type Block struct{ From, Count uint16 }

// Blocks plans the reads of all settings: runs without gaps, none longer than the family's limit.
func Blocks(f *dialect.Family) []Block {
	regs := make([]int, 0, len(f.Settings))
	for i := range f.Settings {
		regs = append(regs, int(f.Settings[i].Register))
	}
	sort.Ints(regs)
	var out []Block
	for _, r := range regs {
		if n := len(out); n > 0 && int(out[n-1].From+out[n-1].Count) == r && int(out[n-1].Count) < f.Link.Block {
			out[n-1].Count++
			continue
		}
		out = append(out, Block{uint16(r), 1})
	}
	return out
}

// ReadAll reads every setting, in blocks. progress is called after each. What was read before a failure is returned
// with the error.
func (c *Conn) ReadAll(ctx context.Context, progress func(done, total int)) (map[string]int64, error) {
	byRegister := map[uint16]string{}
	for i := range c.family.Settings {
		byRegister[c.family.Settings[i].Register] = c.family.Settings[i].Code
	}
	out := map[string]int64{}
	blocks := Blocks(c.family)
	for i, b := range blocks {
		regs, err := c.read(ctx, b.From, b.Count)
		if err != nil {
			return out, err
		}
		for k, v := range regs {
			out[byRegister[b.From+uint16(k)]] = int64(v)
		}
		progress(i+1, len(blocks))
	}
	return out, nil
}

// Clearance is a named person's word that the area is clear, for settings that could start motion.
type Clearance struct{ Person string }

// Outcomes of a write.
const (
	Held    = "held"    // reads back as asked
	Differs = "differs" // taken, but reads back otherwise
	Refused = "refused" // the drive or the link did not take it; the drive holds what it held
	Unknown = "unknown" // sent, and not read back: it may or may not be there
)

// Result is what became of a write.
type Result struct {
	Outcome  string
	Before   *int64
	ReadBack *int64
	Message  string
}

// Write sets one setting and reads it back. It is refused unless the drive reports standstill; a setting that could
// start motion also needs both torque-off channels open and a clearance. Registers that command are refused always.
// sending is called just before the value goes out; when it fails nothing is sent.
func (c *Conn) Write(ctx context.Context, s *dialect.Setting, steps int64, clear *Clearance, sending func(before int64) error) Result {
	refused := func(why string) Result { return Result{Outcome: Refused, Message: why} }
	for _, f := range c.family.Link.Forbidden {
		if s.Register >= f.From && s.Register <= f.To {
			return refused("This register commands (" + f.Why + "). It is never written over a link.")
		}
	}
	if !s.Inside(steps) || steps < 0 || steps > 65535 {
		return refused(s.WithUnit(steps) + " is outside the range of " + s.Code + ".")
	}
	st, err := c.Status(ctx)
	if err != nil {
		return refused(err.Error() + " Nothing was written.")
	}
	if !st.Standstill {
		return refused("The drive does not report standstill. Stop it and wait, then write again.")
	}
	if s.Acts == "motion" {
		if !st.ChannelAOpen || !st.ChannelBOpen {
			return refused(s.Code + " could start the motor: open both torque-off channels first, and see the drive say so.")
		}
		if clear == nil || clear.Person == "" {
			return refused(s.Code + " could start the motor: somebody must confirm by name that the area is clear.")
		}
	}
	was, err := c.read(ctx, s.Register, 1)
	if err != nil {
		return refused(err.Error() + " Nothing was written.")
	}
	before := int64(was[0])
	if err := sending(before); err != nil {
		return Result{Outcome: Refused, Before: &before, Message: "Not sent, since it could not be recorded first: " + err.Error()}
	}
	werr := c.client.WriteRegister(s.Register, uint16(steps))
	if why := exception(werr); why != "" {
		return Result{Outcome: Refused, Before: &before, ReadBack: &before, Message: "Refused by the drive: " + why}
	}
	if werr != nil {
		c.reopen()
	}
	// From here on the value may be in the drive: read back even when the person has stopped.
	now, err := c.read(context.WithoutCancel(ctx), s.Register, 1)
	if err != nil {
		return Result{Outcome: Unknown, Before: &before, Message: "Sent, but it could not be read back: " + err.Error()}
	}
	back := int64(now[0])
	r := Result{Outcome: Held, Before: &before, ReadBack: &back}
	if back != steps {
		r.Outcome = Differs
		r.Message = fmt.Sprintf("Asked for %s, reads back %s.", s.WithUnit(steps), s.WithUnit(back))
	}
	return r
}
