package link

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
)

// Ear reads holding registers of a device of which nothing is known. It has no function that writes.
type Ear struct {
	conn *Conn
	addr string
}

// Listen connects to a device of no known family. timeout is for each request.
func Listen(address string, unit uint8, timeout time.Duration) (*Ear, error) {
	c, addr, err := open(address, unit, &dialect.Family{}, timeout)
	if err != nil {
		return nil, err
	}
	return &Ear{c, addr}, nil
}

// Close ends the connection.
func (e *Ear) Close() { e.conn.Close() }

// Heard is how a device answered to one request.
type Heard int

// The answers to a read.
const (
	Gave    Heard = iota // it gave them
	Denied               // one register at least is none
	TooMany              // it gives fewer at once
)

// Read asks once for registers, 1 to 125. An answer that says nothing of them, or none, is an error: it is not asked again by itself, for
// somebody else may use the line.
func (e *Ear) Read(ctx context.Context, from, count uint16) ([]uint16, Heard, error) {
	if err := ctx.Err(); err != nil {
		return nil, Gave, &Error{What: "Stopped.", Err: err}
	}
	regs, err := e.conn.client.ReadRegisters(from, count, modbus.HOLDING_REGISTER)
	switch {
	case err == nil && len(regs) == int(count):
		return regs, Gave, nil
	case errors.Is(err, modbus.ErrIllegalDataAddress):
		return nil, Denied, nil
	case errors.Is(err, modbus.ErrIllegalDataValue) && count > 1:
		return nil, TooMany, nil
	case errors.Is(err, modbus.ErrIllegalDataValue):
		return nil, Denied, nil // some devices say so of a register that they do not have
	case err == nil:
		err = modbus.ErrProtocolError
	}
	if said := exception(err); said != "" {
		return nil, Gave, &Error{What: fmt.Sprintf("Reading registers %d to %d at %s: %s", from, from+count-1, e.addr, said), Err: err}
	}
	return nil, Gave, &Error{What: fmt.Sprintf("No whole answer from %s for registers %d to %d (%v). Nothing more was asked.", e.addr, from,
		from+count-1, err), Err: err}
}
