package safety

import "testing"

// at is one moment of a sequence: what changes, and the state that must follow.
type at struct {
	t    float64
	set  func(*Signals)
	want State
}

func open(s *Signals)    { s.A, s.B = false, false }
func closed(s *Signals)  { s.A, s.B = true, true }
func run(s *Signals)     { s.Run = true }
func let(s *Signals)     { s.Run = false }
func press(s *Signals)   { s.Reset = true }
func release(s *Signals) { s.Reset = false }
func openA(s *Signals)   { s.A = false }
func closeA(s *Signals)  { s.A = true }
func openB(s *Signals)   { s.B = false }
func off(s *Signals)     { s.Power = false }
func on(s *Signals)      { s.Power = true }
func broken(s *Signals)  { s.InternalFault = true }
func mended(s *Signals)  { s.InternalFault = false }
func nothing(*Signals)   {}

// Sequences after IEC 61800-5-2 (safe torque off), IEC 60204-1 and ISO 13850 (reset does not start, a fresh command does);
// discrepancy and power cycle: common practice.
func TestSequences(t *testing.T) {
	for _, c := range []struct {
		name string
		o    Options
		seq  []at
	}{
		{"run, torque off, closed with run held, fresh command", Options{Discrepancy: .5},
			[]at{{1, run, Running}, {2, open, TorqueOff}, {3, closed, RestartRequired}, {4, let, Ready}, {5, run, Running}}},
		{"run off while it is open: ready at once", Options{Discrepancy: .5},
			[]at{{1, run, Running}, {2, open, TorqueOff}, {3, let, TorqueOff}, {4, closed, Ready}, {5, run, Running}}},
		{"run given while it is open is no fresh one", Options{Discrepancy: .5},
			[]at{{1, open, TorqueOff}, {2, run, TorqueOff}, {3, closed, RestartRequired}}},
		{"latched: reset, then a fresh command", Options{Discrepancy: .5, Latched: true},
			[]at{{1, run, Running}, {2, open, TorqueOff}, {3, closed, ResetRequired}, {4, press, RestartRequired},
				{5, release, RestartRequired}, {6, let, Ready}, {7, run, Running}}},
		{"latched: a reset held or given before does nothing", Options{Discrepancy: .5, Latched: true},
			[]at{{1, open, TorqueOff}, {2, press, TorqueOff}, {3, closed, ResetRequired}, {4, nothing, ResetRequired},
				{5, release, ResetRequired}, {6, press, Ready}}},
		{"latched, reset on letting go", Options{Discrepancy: .5, Latched: true, FallingReset: true},
			[]at{{1, open, TorqueOff}, {2, closed, ResetRequired}, {3, press, ResetRequired}, {4, release, Ready}}},
		{"one channel, and back within the time", Options{Discrepancy: .5},
			[]at{{1, run, Running}, {2, openA, Discrepancy}, {2.3, closeA, RestartRequired}}},
		{"one channel beyond the time: only power clears it", Options{Discrepancy: .5},
			[]at{{1, run, Running}, {2, openA, Discrepancy}, {2.6, nothing, ChannelFault}, {3, closeA, ChannelFault},
				{4, press, ChannelFault}, {5, off, Unpowered}, {6, on, RestartRequired}}},
		{"the second channel in time: torque off", Options{Discrepancy: .5},
			[]at{{1, openA, Discrepancy}, {1.2, openB, TorqueOff}, {2, closed, Ready}}},
		{"also when closing again", Options{Discrepancy: .5},
			[]at{{1, open, TorqueOff}, {2, closeA, Discrepancy}, {2.7, nothing, ChannelFault}}},
		{"power returns with unequal channels", Options{Discrepancy: .5},
			[]at{{1, openA, Discrepancy}, {2, nothing, ChannelFault}, {3, off, Unpowered}, {4, on, Discrepancy},
				{5, nothing, ChannelFault}}},
		{"automatic restart, unlatched", Options{Discrepancy: .5, AutomaticRestart: true},
			[]at{{1, run, Running}, {2, open, TorqueOff}, {3, closed, Running}}},
		{"automatic restart never past a latch", Options{Discrepancy: .5, AutomaticRestart: true, Latched: true},
			[]at{{1, run, Running}, {2, open, TorqueOff}, {3, closed, ResetRequired}, {4, press, RestartRequired}}},
		{"run held at power-up", Options{Discrepancy: .5},
			[]at{{1, off, Unpowered}, {2, run, Unpowered}, {3, on, RestartRequired}, {4, let, Ready}}},
		{"an internal fault is not to be reset", Options{Discrepancy: .5},
			[]at{{1, run, Running}, {2, broken, InternalFault}, {3, mended, InternalFault}, {4, press, InternalFault},
				{5, off, InternalFault}, {6, on, InternalFault}}},
	} {
		s := Signals{A: true, B: true, Power: true}
		m := New(c.o, s, 0)
		if m.State != Ready {
			t.Fatalf("%s: begins as %s", c.name, m.State)
		}
		for _, x := range c.seq {
			m.Step(s, x.t-1e-9)
			x.set(&s)
			if got := m.Step(s, x.t); got != x.want {
				t.Errorf("%s: at %g s %s, want %s", c.name, x.t, got, x.want)
				break
			}
			if m.Torque() != (m.State == Running) {
				t.Errorf("%s: torque %v in %s", c.name, m.Torque(), m.State)
			}
		}
	}
}

// Whatever happens, torque is given only with both channels closed and power on, and never begins by a reset.
func TestTorqueNeedsBothChannels(t *testing.T) {
	for seed := range uint64(2000) {
		x := seed*0x9E3779B97F4A7C15 + 1
		bit := func() bool {
			x ^= x << 13
			x ^= x >> 7
			x ^= x << 17
			return x>>33&1 == 1
		}
		m := New(Options{Discrepancy: .3, Latched: bit(), FallingReset: bit(), AutomaticRestart: bit()},
			Signals{A: true, B: true, Power: true}, 0)
		s := Signals{A: true, B: true, Power: true}
		for n := range 60 {
			had := m.Torque()
			before := s
			switch n % 5 {
			case 0:
				s.A = bit()
			case 1:
				s.B = bit()
			case 2:
				s.Run = bit()
			case 3:
				s.Reset = bit()
			case 4:
				p, q := bit(), bit()
				s.Power = p || q
			}
			m.Step(s, float64(n)*.11)
			if m.Torque() && (!s.A || !s.B || !s.Power || !s.Run) {
				t.Fatalf("seed %d step %d: torque with %+v", seed, n, s)
			}
			if !had && m.Torque() && before.Reset != s.Reset {
				t.Fatalf("seed %d step %d: a reset gave torque", seed, n)
			}
		}
	}
}
