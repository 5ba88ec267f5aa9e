package stand

import (
	"fmt"
	"io"
	"log"
	"maps"
	"net"
	"time"

	"github.com/simonvetter/modbus"
)

// actual is a register of actual figures as it reads now. It is called with the lock held.
func (d *Drive) actual(r uint16) (uint16, bool) {
	for i := range d.family.Link.Actuals {
		a := &d.family.Link.Actuals[i]
		if n := int(r) - int(a.Register); n >= 0 && n < a.Words() {
			full := 1.
			if s, ok := d.family.Setting(a.Of); ok {
				full = d.family.Full(a, d.get(s).Steps)
			}
			return d.family.Registers(a, d.figures.of(a.What), full)[n], true
		}
	}
	return 0, false
}

// Serve answers Modbus TCP on a loopback address; port 0 picks one. Address tells which.
func (d *Drive) Serve(listen string) error {
	host, _, err := net.SplitHostPort(listen)
	if err != nil {
		return fmt.Errorf("listen: got %q, want an address like 127.0.0.1:5020", listen)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("listen: got %q, want a loopback address: the stand-in is for this machine only", listen)
	}
	if d.Stale {
		d.mu.Lock()
		d.old = maps.Clone(d.regs)
		d.old[d.family.Link.Clock], _ = d.register(d.family.Link.Clock)
		for _, a := range d.family.Link.Actuals {
			for r := a.Register; r < a.Register+uint16(a.Words()); r++ {
				d.old[r], _ = d.register(r)
			}
		}
		d.mu.Unlock()
	}
	for try := 0; ; try++ {
		l, err := net.Listen("tcp", listen) // the server cannot pick a port: find one that is free
		if err != nil {
			return err
		}
		d.address = l.Addr().String()
		l.Close()
		if err = d.start(); err == nil || try == 3 {
			return err
		}
	}
}

// quiet takes what the library would print of connections that come and go.
var quiet = log.New(io.Discard, "", 0)

// most clients at a time where the family does not say.
const clients = 8

func (d *Drive) start() error {
	n := uint(clients)
	if c := d.family.Link.Clients; c > 0 {
		n = uint(c)
	}
	out, err := net.Listen("tcp", d.address)
	if err != nil {
		return err
	}
	inner, err := freePort()
	if err != nil {
		out.Close()
		return err
	}
	srv, err := modbus.NewServer(&modbus.ServerConfiguration{URL: "tcp://" + inner, Timeout: 30 * time.Second, MaxClients: n,
		Logger: quiet}, d)
	if err == nil {
		err = srv.Start()
	}
	if err != nil {
		out.Close()
		return err
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	d.server, d.front, d.started = srv, newFront(out, inner, d.Delay), time.Now()
	d.front.poor(d.late, d.lost)
	return nil
}

// freePort finds a loopback address that is free: the library's server cannot pick one.
func freePort() (string, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", err
	}
	defer l.Close()
	return l.Addr().String(), nil
}

// Reboot drops every connection and answers again after a while, as a drive whose control power was off. Its counter
// starts from zero.
func (d *Drive) Reboot(after time.Duration) error {
	if err := d.Stop(); err != nil {
		return err
	}
	d.PowerOff()
	time.Sleep(after)
	return d.start()
}

// Network makes the network before it poor: answers late by up to so much, each otherwise, and a share of them lost.
func (d *Drive) Network(late time.Duration, lost float64) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.late, d.lost = late, lost; d.front != nil {
		d.front.poor(late, lost)
	}
}

// Address is where the drive answers.
func (d *Drive) Address() string { return d.address }

// Stop ends the server.
func (d *Drive) Stop() error {
	d.mu.Lock()
	srv, front := d.server, d.front
	d.mu.Unlock()
	front.close()
	return srv.Stop()
}

// HandleHoldingRegisters answers reads of settings, status and identity, and single writes of settings.
func (d *Drive) HandleHoldingRegisters(req *modbus.HoldingRegistersRequest) ([]uint16, error) {
	if req.UnitId != d.Unit {
		return nil, modbus.ErrGWTargetFailedToRespond
	}
	time.Sleep(d.Delay)
	d.mu.Lock()
	defer d.mu.Unlock()
	if req.IsWrite {
		d.asked++
		if d.asked == d.RebootOnWrite {
			if d.RebootTakes {
				_ = d.take(req.Addr, req.Args)
			}
			d.dropOut()
			return nil, modbus.ErrServerDeviceFailure
		}
		return nil, d.take(req.Addr, req.Args)
	}
	if int(req.Quantity) > max(1, d.family.Link.Block) {
		return nil, modbus.ErrIllegalDataValue
	}
	out := make([]uint16, 0, req.Quantity)
	known := 0
	for r := int(req.Addr); r < int(req.Addr)+int(req.Quantity); r++ {
		v, ok := d.register(uint16(r))
		if _, commands := d.family.Commands(uint16(r)); commands || !ok && d.family.Link.Gap == 0 {
			return nil, modbus.ErrIllegalDataAddress
		}
		if ok {
			known++
		}
		out = append(out, v)
	}
	if known == 0 {
		return nil, modbus.ErrIllegalDataAddress
	}
	return out, nil
}

func (d *Drive) register(r uint16) (uint16, bool) {
	l := d.family.Link
	if v, ok := d.old[r]; ok && r != 0 {
		return v, true
	}
	switch r {
	case 0:
		return 0, false
	case l.Identity.Register:
		return d.family.ByteSwapped(l.Identity.Value), true
	case l.Rating:
		return d.family.ByteSwapped(d.Rating), true
	case l.Firmware:
		return d.family.ByteSwapped(d.Firmware), true
	case l.Clock:
		return d.family.ByteSwapped(uint16(time.Since(d.started) / (10 * time.Millisecond))), true
	case l.Status.Register:
		var v uint16
		set := func(bit uint, on bool) {
			if on {
				v |= 1 << bit
			}
		}
		set(l.Status.Standstill, !d.running)
		set(l.Status.ChannelA, !d.channels[0])
		set(l.Status.ChannelB, !d.channels[1])
		return d.family.ByteSwapped(v), true
	}
	if v, ok := d.actual(r); ok {
		return v, true
	}
	v, ok := d.regs[r]
	return v, ok
}

// dropOut restarts the drive from within a request: the connection is gone before an answer can go out. It is called
// with the lock held.
func (d *Drive) dropOut() {
	d.mu.Unlock()
	defer d.mu.Lock()
	gone := make(chan struct{})
	go func() {
		_ = d.Stop() // it cannot fail on a server that runs
		close(gone)
		time.Sleep(d.RebootFor)
		_ = d.start() // when the address was taken meanwhile, the drive stays dead
	}()
	<-gone
}

// HandleCoils, HandleDiscreteInputs and HandleInputRegisters: the stand-in has none.
func (d *Drive) HandleCoils(*modbus.CoilsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}

// HandleDiscreteInputs refuses: there are none.
func (d *Drive) HandleDiscreteInputs(*modbus.DiscreteInputsRequest) ([]bool, error) {
	return nil, modbus.ErrIllegalFunction
}

// HandleInputRegisters refuses: there are none.
func (d *Drive) HandleInputRegisters(*modbus.InputRegistersRequest) ([]uint16, error) {
	return nil, modbus.ErrIllegalFunction
}
