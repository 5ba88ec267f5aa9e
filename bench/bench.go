// Package bench is a stand-in drive: it holds a family's settings and answers over Modbus TCP as a drive would, with
// ranges, run lock and access enforced. It turns nothing. It is commanded by calls in this process only.
package bench

import (
	"fmt"
	"math/rand/v2"
	"net"
	"sync"
	"time"

	"github.com/simonvetter/modbus"

	"tingate/core/dialect"
)

// Drive is a stand-in of one family.
type Drive struct {
	Unit  uint8
	Delay time.Duration // how long each answer takes, as slow drives do; set before Serve

	mu       sync.Mutex
	family   *dialect.Family
	byReg    map[uint16]*dialect.Setting
	values   map[uint16]uint16
	running  bool
	channels [2]bool // closed
	writes   int
	server   *modbus.ModbusServer
	address  string
}

// New makes a stand-in at delivery state, standing still, torque-off channels closed.
func New(f *dialect.Family) *Drive {
	d := &Drive{Unit: 1, family: f, byReg: map[uint16]*dialect.Setting{}, values: map[uint16]uint16{}, channels: [2]bool{true, true}}
	for i := range f.Settings {
		s := &f.Settings[i]
		d.byReg[s.Register] = s
		d.values[s.Register] = uint16(s.DeliverySteps())
	}
	return d
}

// Set puts a value into the drive, as its keypad would: as-found values of a bench. The text is as the keypad shows it.
func (d *Drive) Set(code, text string) error {
	s, ok := d.family.Setting(code)
	if !ok {
		return fmt.Errorf("setting: got %q, want a setting of %s", code, d.family.Name)
	}
	steps, err := s.Read(text)
	if err != nil {
		return err
	}
	if !s.Inside(steps) {
		low, high := s.RangeSteps()
		return fmt.Errorf("%s: got %s, want %s to %s", code, text, s.Text(low), s.WithUnit(high))
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	d.values[s.Register] = uint16(steps)
	return nil
}

// Scatter changes some settings at random from a seed, as a drive looks that was used before.
func (d *Drive) Scatter(seed uint64) {
	rng := rand.New(rand.NewPCG(seed, 0x7461726e))
	d.mu.Lock()
	defer d.mu.Unlock()
	for i := range d.family.Settings {
		s := &d.family.Settings[i]
		if rng.Float64() > .3 {
			continue
		}
		if s.Kind == "choice" {
			d.values[s.Register] = uint16(s.Choices[rng.IntN(len(s.Choices))].Value)
			continue
		}
		low, high := s.RangeSteps()
		v := int64(float64(s.DeliverySteps()) * (.5 + rng.Float64()))
		d.values[s.Register] = uint16(max(low, min(high, v)))
	}
}

// Value is what a setting holds, in steps.
func (d *Drive) Value(code string) (int64, bool) {
	s, ok := d.family.Setting(code)
	if !ok {
		return 0, false
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return int64(d.values[s.Register]), true
}

// SetRunning makes the status say that the motor turns or stands.
func (d *Drive) SetRunning(on bool) { d.mu.Lock(); defer d.mu.Unlock(); d.running = on }

// SetChannels closes or opens the two torque-off channels.
func (d *Drive) SetChannels(a, b bool) { d.mu.Lock(); defer d.mu.Unlock(); d.channels = [2]bool{a, b} }

// Writes counts the values taken over the link.
func (d *Drive) Writes() int { d.mu.Lock(); defer d.mu.Unlock(); return d.writes }

// Serve answers Modbus TCP on a loopback address; port 0 picks one. Address tells which.
func (d *Drive) Serve(listen string) error {
	host, _, err := net.SplitHostPort(listen)
	if err != nil {
		return fmt.Errorf("listen: got %q, want an address like 127.0.0.1:5020", listen)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("listen: got %q, want a loopback address: the stand-in is for this machine only", listen)
	}
	for try := 0; ; try++ {
		l, err := net.Listen("tcp", listen) // the server cannot pick a port: find one that is free
		if err != nil {
			return err
		}
		d.address = l.Addr().String()
		l.Close()
		srv, err := modbus.NewServer(&modbus.ServerConfiguration{URL: "tcp://" + d.address, Timeout: 30 * time.Second, MaxClients: 8}, d)
		if err != nil {
			return err
		}
		if err = srv.Start(); err == nil {
			d.server = srv
			return nil
		}
		if try == 3 {
			return err
		}
	}
}

// Address is where the drive answers.
func (d *Drive) Address() string { return d.address }

// Stop ends the server.
func (d *Drive) Stop() error { return d.server.Stop() }

// HandleHoldingRegisters answers reads of settings, status and identity, and single writes of settings.
func (d *Drive) HandleHoldingRegisters(req *modbus.HoldingRegistersRequest) ([]uint16, error) {
	if req.UnitId != d.Unit {
		return nil, modbus.ErrGWTargetFailedToRespond
	}
	time.Sleep(d.Delay)
	d.mu.Lock()
	defer d.mu.Unlock()
	if req.IsWrite {
		if req.Quantity != 1 {
			return nil, modbus.ErrIllegalFunction
		}
		return nil, d.take(req.Addr, req.Args[0])
	}
	if int(req.Quantity) > d.family.Link.Block {
		return nil, modbus.ErrIllegalDataValue
	}
	out := make([]uint16, 0, req.Quantity)
	for r := req.Addr; r < req.Addr+req.Quantity; r++ {
		v, ok := d.register(r)
		if !ok {
			return nil, modbus.ErrIllegalDataAddress
		}
		out = append(out, v)
	}
	return out, nil
}

func (d *Drive) register(r uint16) (uint16, bool) {
	switch r {
	case d.family.Link.Identity.Register:
		return d.family.Link.Identity.Value, true
	case d.family.Link.Status.Register:
		var v uint16
		set := func(bit uint, on bool) {
			if on {
				v |= 1 << bit
			}
		}
		set(d.family.Link.Status.Standstill, !d.running)
		set(d.family.Link.Status.ChannelA, !d.channels[0])
		set(d.family.Link.Status.ChannelB, !d.channels[1])
		return v, true
	}
	v, ok := d.values[r]
	return v, ok
}

func (d *Drive) take(r, v uint16) error {
	s, ok := d.byReg[r]
	if !ok {
		return modbus.ErrIllegalDataAddress
	}
	if !s.Inside(int64(v)) {
		return modbus.ErrIllegalDataValue
	}
	if d.running && !s.Running {
		return modbus.ErrServerDeviceBusy
	}
	if a, ok := d.family.Setting(d.family.Access.Setting); ok && s.Access == "full" && int64(d.values[a.Register]) != d.family.Access.Full {
		return modbus.ErrIllegalFunction
	}
	d.values[r] = v
	d.writes++
	return nil
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
