package link

import (
	"context"
	"encoding/binary"
	"errors"
	"io"
	"net"
	"strings"
	"time"
)

// Identity is what a device says of itself by Modbus device identification (function 43/14).
type Identity struct{ Vendor, Product, Revision string }

// Simulated tells whether it says that it is a stand-in of a drive.
func (i Identity) Simulated() bool { return strings.Contains(strings.ToUpper(i.Product), "SIMULATED") }

// ErrUnidentified: a device answered, and does not say what it is. Most drives do not.
var ErrUnidentified = errors.New("the device does not say what it is")

// Identify asks a device what it is: the basic objects of Modbus device identification. It is the one request that the library has no word
// for. One that refuses, or answers otherwise, gives ErrUnidentified; one that is silent gives the error of the time-out.
func Identify(ctx context.Context, address string, unit uint8, timeout time.Duration) (Identity, error) {
	addr, err := ParseAddress(address)
	if err != nil {
		return Identity{}, &Error{err.Error(), err, true}
	}
	c, err := (&net.Dialer{Timeout: timeout}).DialContext(ctx, "tcp", addr)
	if err != nil {
		return Identity{}, &Error{"No answer from " + addr + ". Is the drive on, the address right, the cable in?", err, true}
	}
	defer c.Close()
	_ = c.SetDeadline(time.Now().Add(timeout))
	const transaction = 0x5447
	ask := []byte{0, 0, 0, 0, 0, 5, unit, 0x2b, 0x0e, 0x01, 0x00}
	binary.BigEndian.PutUint16(ask, transaction)
	if _, err := c.Write(ask); err != nil {
		return Identity{}, &Error{"The question what it is could not be sent to " + addr + ".", err, false}
	}
	head := make([]byte, 7)
	if _, err := io.ReadFull(c, head); err != nil {
		return Identity{}, &Error{addr + " gave no answer to the question what it is.", err, false}
	}
	n := int(binary.BigEndian.Uint16(head[4:]))
	if binary.BigEndian.Uint16(head) != transaction || n < 2 || n > 254 {
		return Identity{}, ErrUnidentified
	}
	pdu := make([]byte, n-1)
	if _, err := io.ReadFull(c, pdu); err != nil {
		return Identity{}, &Error{addr + " gave no whole answer to the question what it is.", err, false}
	}
	return identityOf(pdu)
}

// identityOf takes an answer apart: function, kind, code, conformity, more, next, number of objects, and each with its id and length.
func identityOf(pdu []byte) (Identity, error) {
	if len(pdu) < 7 || pdu[0] != 0x2b || pdu[1] != 0x0e {
		return Identity{}, ErrUnidentified
	}
	var id Identity
	rest := pdu[7:]
	for range pdu[6] {
		if len(rest) < 2 || len(rest) < 2+int(rest[1]) {
			break
		}
		text := string(rest[2 : 2+int(rest[1])])
		switch rest[0] {
		case 0:
			id.Vendor = text
		case 1:
			id.Product = text
		case 2:
			id.Revision = text
		}
		rest = rest[2+int(rest[1]):]
	}
	if id == (Identity{}) {
		return id, ErrUnidentified
	}
	return id, nil
}
