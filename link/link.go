// Package link speaks to a drive over Modbus TCP by its family's register map. It reads, and writes single settings
// that are read back. It has no function that commands: run, jog, tune and fault reset cannot be sent with it, to any
// address.
package link

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log"
	"net"
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
	// unreached: nothing was connected to.
	unreached bool
}

// Unreached tells whether nothing answered at all: no address, or no connection.
func (e *Error) Unreached() bool { return e.unreached }

func (e *Error) Error() string { return e.What }
func (e *Error) Unwrap() error { return e.Err }

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
	c, addr, err := open(address, unit, f, timeout)
	if err != nil {
		return nil, err
	}
	id, err := c.read(ctx, f.Link.Identity.Register, 1)
	if err != nil {
		c.Close()
		var e *Error
		switch {
		case errors.As(err, &e) && exception(e.Err) != "":
			return nil, &Error{What: fmt.Sprintf("The drive at %s is not of family %s, or not at unit %d: %s Nothing was read or written.",
				addr, f.Name, unit, e.What), Err: e.Err}
		case f.Link.Clients == 1:
			return nil, &Error{What: err.Error() + " This family takes one connection at a time: does another program hold it?", Err: err}
		}
		return nil, err
	}
	if got := f.ByteSwapped(id[0]); got != f.Link.Identity.Value {
		c.Close()
		return nil, &Error{What: fmt.Sprintf("The drive at %s is not of family %s: register %d reads %d, want %d. Nothing was read or "+
			"written.", addr, f.Name, f.Link.Identity.Register, got, f.Link.Identity.Value), Err: nil}
	}
	return c, nil
}

// quiet takes what the library would print: what went wrong is said in an error, to the person who asked.
var quiet = log.New(io.Discard, "", 0)

func open(address string, unit uint8, f *dialect.Family, timeout time.Duration) (*Conn, string, error) {
	addr, err := ParseAddress(address)
	if err != nil {
		return nil, "", &Error{What: err.Error(), Err: err}
	}
	if unit == 0 {
		return nil, "", &Error{What: "Unit 0 is every drive on the line at once: nothing is read from it or written to it. Enter the " +
			"drive's own unit, 1 to 255.", Err: nil}
	}
	client, err := modbus.NewClient(&modbus.ClientConfiguration{URL: "tcp://" + addr, Timeout: timeout, Logger: quiet})
	if err != nil {
		return nil, "", &Error{What: err.Error(), Err: err}
	}
	if err := client.Open(); err != nil {
		return nil, "", &Error{What: fmt.Sprintf("No answer from %s. Is the drive on, the address right, the cable in?", addr), Err: err}
	}
	_ = client.SetUnitId(unit) // a byte always fits
	return &Conn{client, f, unit}, addr, nil
}

// Found is what answers at an address.
type Found struct {
	Family   *dialect.Family
	Rating   dialect.Size // zero when the family has no rating register, or the code is not in its list
	Code     uint16       // what the rating register holds
	Firmware string       // as major.minor; empty when the family does not tell
}

// Probe asks which of the families answers at an address, and of which size: their identity, rating and firmware
// registers are read, nothing else. More than one may answer to the same number; all are given.
func Probe(ctx context.Context, address string, unit uint8, families []*dialect.Family, timeout time.Duration) ([]Found, error) {
	var out []Found
	for _, f := range families {
		if f.Link.Identity.Register == 0 {
			continue
		}
		c, _, err := open(address, unit, f, timeout)
		if err != nil {
			return out, err
		}
		id, err := c.read(ctx, f.Link.Identity.Register, 1)
		if err == nil && f.ByteSwapped(id[0]) == f.Link.Identity.Value {
			found := Found{Family: f}
			if r := f.Link.Rating; r != 0 {
				if v, err := c.read(ctx, r, 1); err == nil {
					found.Code = f.ByteSwapped(v[0])
					found.Rating, _ = f.RatingByCode(found.Code)
				}
			}
			if r := f.Link.Firmware; r != 0 {
				if v, err := c.read(ctx, r, 1); err == nil {
					n := f.ByteSwapped(v[0])
					found.Firmware = fmt.Sprintf("%d.%d", n>>8, n&0xff)
				}
			}
			out = append(out, found)
		}
		c.Close()
		var e *Error
		if err != nil && (!errors.As(err, &e) || exception(e.Err) == "") {
			return out, err
		}
	}
	return out, nil
}

// Close ends the connection.
func (c *Conn) Close() { _ = c.client.Close() } // nothing can be done about it

// tries is how often a request is sent in all; a silence or a broken answer is repeated, an exception is an answer.
func (c *Conn) tries() int {
	if n := c.family.Link.Retries; n > 0 {
		return n + 1
	}
	return 3
}

// pause before a request is repeated: a drive that restarts or a gateway that is slow gets time to come back.
const pause = 250 * time.Millisecond

// sleep waits, or less when the person stops.
func sleep(ctx context.Context, d time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(d):
	}
}

func (c *Conn) read(ctx context.Context, register uint16, n uint16) ([]uint16, error) {
	var last error
	for try := range c.tries() {
		if try > 0 {
			sleep(ctx, time.Duration(try)*pause)
			c.reopen()
		}
		if err := ctx.Err(); err != nil {
			return nil, &Error{What: "Stopped.", Err: err}
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
			return nil, &Error{What: fmt.Sprintf("Reading registers %d to %d: %s", register, register+n-1, exception(err)), Err: err}
		}
	}
	return nil, &Error{What: fmt.Sprintf("No whole answer for registers %d to %d after %d tries. The connection may be gone.", register,
		register+n-1, c.tries()), Err: last}
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
	case errors.Is(err, modbus.ErrAcknowledge), errors.Is(err, modbus.ErrMemoryParityError), errors.Is(err, modbus.ErrGWPathUnavailable),
		errors.Is(err, modbus.ErrGWTargetFailedToRespond):
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
	word := c.family.ByteSwapped(r[0])
	bit := func(n uint) bool { return word>>n&1 == 1 }
	return Status{bit(s.Standstill), bit(s.ChannelA), bit(s.ChannelB)}, nil
}

// clock is the drive's counter, when its family has one.
func (c *Conn) clock(ctx context.Context) (ticks uint16, ok bool, err error) {
	if c.family.Link.Clock == 0 {
		return 0, false, nil
	}
	r, err := c.read(ctx, c.family.Link.Clock, 1)
	if err != nil {
		return 0, false, err
	}
	return c.family.ByteSwapped(r[0]), true, nil
}

// fresh refuses answers that do not come from the drive now: a gateway may go on giving what it read yesterday.
func (c *Conn) fresh(ctx context.Context, before uint16) error {
	for range 5 {
		sleep(ctx, 30*time.Millisecond)
		now, ok, err := c.clock(ctx)
		if err != nil || !ok || now != before {
			return err
		}
	}
	return &Error{What: fmt.Sprintf("The drive's counter (register %d) stands still: what answers gives old values. Nothing of this "+
		"read is kept. Is there a gateway in between?", c.family.Link.Clock), Err: nil}
}

// ReadAll reads every setting, in blocks. progress is called after each. What was read before a failure is returned
// with the error, unless it is old: then nothing is. A drive that restarts in the middle is read again from the start,
// once: its values from before and after need not belong together.
func (c *Conn) ReadAll(ctx context.Context, progress func(done, total int)) (map[string]dialect.Held, error) {
	for again := false; ; again = true {
		begun := time.Now()
		start, has, err := c.clock(ctx)
		if err != nil {
			return nil, err
		}
		if has {
			if err := c.fresh(ctx, start); err != nil {
				return nil, err
			}
		}
		out, err := c.readBlocks(ctx, progress)
		if err != nil {
			return out, err
		}
		if err := c.sameDrive(ctx); err != nil {
			return nil, err
		}
		if !has {
			return out, nil
		}
		end, _, err := c.clock(ctx)
		if err != nil {
			return out, err
		}
		if !restarted(start, end, time.Since(begun)) {
			return out, nil
		}
		if again {
			return nil, &Error{What: "The drive restarted twice while it was read. Nothing of this read is kept. Look at its supply " +
				"first.", Err: nil}
		}
	}
}

// sameDrive makes sure that the family still answers: another device at the same address, or answers that belong to other questions, would
// have been taken for this drive's.
func (c *Conn) sameDrive(ctx context.Context) error {
	id, err := c.read(ctx, c.family.Link.Identity.Register, 1)
	if err != nil {
		return err
	}
	if got := c.family.ByteSwapped(id[0]); got != c.family.Link.Identity.Value {
		return &Error{What: fmt.Sprintf("What answers changed while it was read: register %d reads %d now, want %d. Nothing of this "+
			"read is kept. Is another device at this address?", c.family.Link.Identity.Register, got, c.family.Link.Identity.Value),
			Err: nil}
	}
	return nil
}

// restarted tells whether a counter of a hundred a second went otherwise than the time that has passed, by more than
// two seconds and a tenth.
func restarted(start, end uint16, passed time.Duration) bool {
	want := int(passed / (10 * time.Millisecond))
	got := int(end - start) // counts round
	slack := 200 + want/10
	return got < want%65536-slack || got > want%65536+slack
}

func (c *Conn) readBlocks(ctx context.Context, progress func(done, total int)) (map[string]dialect.Held, error) {
	out := map[string]dialect.Held{}
	blocks := c.family.Blocks()
	for i, b := range blocks {
		regs, err := c.read(ctx, b.From, b.Count)
		if err != nil {
			return out, err
		}
		for k := range c.family.Settings {
			s := &c.family.Settings[k]
			if at := int(s.Register) - int(b.From); s.Register >= b.From && s.Register != 0 && at+s.Words() <= len(regs) {
				out[s.Code], _ = c.family.Decode(s, regs[at:at+s.Words()])
			}
		}
		progress(i+1, len(blocks))
	}
	return out, nil
}

// value reads one setting in steps.
func (c *Conn) value(ctx context.Context, s *dialect.Setting) (v dialect.Held, err error) {
	regs, err := c.read(ctx, s.Register, uint16(s.Words()))
	if err != nil {
		return v, err
	}
	v, _ = c.family.Decode(s, regs)
	return v, nil
}
