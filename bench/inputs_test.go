package bench_test

import (
	"fmt"
	"net"
	"strings"
	"testing"
	"time"

	"tingate/bench"
	"tingate/testtools/benches"
)

// byTerminals is a bench that is run from its inputs, the third with a function.
func byTerminals(t testing.TB, family, third string, more func(*bench.Setup)) *bench.Bench {
	s := benches.Setup(t, family)
	means(&s, "choice.command_source", "terminals")
	means(&s, "choice.speed_source", "keypad")
	assign(third, "", "", "")(&s)
	if more != nil {
		more(&s)
	}
	b := benches.Start(t, s)
	benches.Do(t, b, bench.Act{Do: "speed", Value: 40})
	return b
}

func terminal(t testing.TB, b *bench.Bench, n int, on bool, ms int) bench.Shown {
	benches.Do(t, b, bench.Act{Do: "terminal", N: n, On: on})
	b.Advance(ms)
	return b.Show(1e9)
}

// The quick stop's input, open, stops by the quick stop's own ramp whatever the stop mode, and the run command must then be given afresh.
func TestAQuickStopByItsInput(t *testing.T) {
	for _, family := range []string{"Tarn", "Brae", "Voe"} {
		b := byTerminals(t, family, "quick-stop", func(s *bench.Setup) {
			means(s, "choice.stop_mode", "coast")
			number(s, "quick-stop-time", 1)
			s.LoadJ = .02
		})
		terminal(t, b, 3, true, 100)
		if v := terminal(t, b, 1, true, 12000); v.Phase != "running" || v.Hz < 39 {
			t.Fatalf("%s: %s %.1f Hz, %q %q", family, v.Phase, v.Hz, v.Blocked, v.Fault)
		}
		v := terminal(t, b, 3, false, 300)
		if v.Phase != "stopping" || v.Blocked != "quick-stop" || v.Hz < 5 || v.Hz > 38 {
			t.Errorf("%s, opened: %s, %q, %.1f Hz", family, v.Phase, v.Blocked, v.Hz)
		}
		b.Advance(3000)
		if v = b.Show(1e9); v.Phase != "off" || v.Speed > 60 {
			t.Errorf("%s, then: %s at %.0f r/min", family, v.Phase, v.Speed)
		}
		if v = terminal(t, b, 3, true, 1000); v.Phase != "off" || v.Blocked != "fresh-command" {
			t.Errorf("%s, closed with run held: %s, %q", family, v.Phase, v.Blocked)
		}
		terminal(t, b, 1, false, 100)
		if v = terminal(t, b, 1, true, 3000); v.Phase == "off" {
			t.Errorf("%s, a fresh command: %q", family, v.Blocked)
		}
	}
}

// A fault from outside trips by its input, and is not cleared while it stands.
func TestAFaultFromOutside(t *testing.T) {
	for family, code := range map[string]string{"Tarn": "Q4", "Brae": "E 12", "Voe": "F.9000"} {
		b := byTerminals(t, family, "external-fault", nil)
		terminal(t, b, 1, true, 9000)
		v := terminal(t, b, 3, true, 100)
		if v.Fault != "external" || v.FaultCode != code {
			t.Errorf("%s: %q %q", family, v.Fault, v.FaultCode)
		}
		benches.Do(t, b, bench.Act{Do: "reset"})
		b.Advance(100)
		if v = b.Show(1e9); v.Fault == "" {
			t.Errorf("%s: cleared while it stands", family)
		}
		terminal(t, b, 3, false, 100)
		benches.Do(t, b, bench.Act{Do: "reset"})
		b.Advance(100)
		if v = b.Show(1e9); v.Fault != "" {
			t.Errorf("%s: %q stands", family, v.Fault)
		}
	}
}

// A drive that restarts by itself does so as often as its setting says, and is then left with its fault; where no setting bounds it, it
// goes on. As delivered one of them restarts not once.
func TestRestartsAtMost(t *testing.T) {
	for _, c := range []struct {
		family string
		most   float64 // below 0: as delivered
		want   int     // restarts in two minutes
	}{{"Brae", 2, 2}, {"Brae", -1, 0}, {"Voe", 3, 3}, {"Tarn", 5, 17}} {
		s := benches.Setup(t, c.family)
		means(&s, "choice.automatic_restart", "on")
		if c.most >= 0 {
			number(&s, "restarts-most", c.most)
		}
		b := running(t, s, 40)
		benches.Do(t, b, bench.Act{Do: "break", What: "output-lost", On: true})
		trips := 0
		for range 1200 {
			b.Advance(100)
		}
		v := b.Show(1e9)
		trips = len(v.Trips)
		if got := trips - 1; got != c.want && !(c.want > 7 && trips == 8) { // eight are kept
			t.Errorf("%s, at most %v: %d restarts, want %d; %s", c.family, c.most, got, c.want, v.Fault)
		}
	}
}

// Contacts that bounce start a drive several times, unless its inputs' filter is longer than they bounce.
func TestContactsThatBounce(t *testing.T) {
	starts := func(family string, ms float64) int {
		b := byTerminals(t, family, "", func(s *bench.Setup) {
			means(s, "choice.stop_mode", "coast")
			number(s, "input-filter", ms/1000)
		})
		benches.Do(t, b, bench.Act{Do: "break", What: "contact-bounces", On: true})
		b.Advance(20)
		benches.Do(t, b, bench.Act{Do: "terminal", N: 1, On: true})
		n, was := 0, false
		for range 200 {
			b.Advance(1)
			on := b.Show(1e9).Phase != "off"
			if on && !was {
				n++
			}
			was = on
		}
		return n
	}
	for _, c := range []struct {
		family string
		ms     float64
		many   bool
	}{{"Brae", 0, true}, {"Voe", 0, true}, {"Voe", 5, false}, {"Tarn", 10, false}} {
		if n := starts(c.family, c.ms); (n > 1) != c.many || n == 0 {
			t.Errorf("%s with %v ms: %d starts", c.family, c.ms, n)
		}
	}
}

// A poor network answers late or not at all, and nothing of it reaches the drive itself.
func TestAPoorNetwork(t *testing.T) {
	b := benches.Start(t, benches.Setup(t, "Tarn"))
	if err := b.Stand.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	defer b.Stand.Stop()
	ask := func(times int) (answered int, slowest time.Duration) {
		for range times {
			c, err := net.Dial("tcp", b.Stand.Address())
			if err != nil {
				t.Fatal(err)
			}
			begun := time.Now()
			_, _ = c.Write([]byte{0, 1, 0, 0, 0, 5, 1, 0x2b, 0x0e, 1, 0})
			_ = c.SetReadDeadline(begun.Add(time.Second))
			buf := make([]byte, 200)
			if n, err := c.Read(buf); err == nil && strings.Contains(fmt.Sprintf("%q", buf[:n]), "Tin Gate") {
				answered++
				slowest = max(slowest, time.Since(begun))
			}
			c.Close()
		}
		return answered, slowest
	}
	if n, _ := ask(10); n != 10 {
		t.Errorf("whole: %d of 10 answers", n)
	}
	benches.Do(t, b, bench.Act{Do: "break", What: "network-late", On: true})
	b.Advance(2)
	if n, slowest := ask(8); n != 8 || slowest < 100*time.Millisecond {
		t.Errorf("late: %d of 8 answers, the slowest after %v", n, slowest)
	}
	benches.Do(t, b, bench.Act{Do: "break", What: "network-late"})
	benches.Do(t, b, bench.Act{Do: "break", What: "network-lost", On: true})
	b.Advance(2)
	if n, _ := ask(20); n == 20 || n < 10 {
		t.Errorf("lost: %d of 20 answers", n)
	}
	benches.Do(t, b, bench.Act{Do: "mend"})
	b.Advance(2)
	if n, _ := ask(10); n != 10 {
		t.Errorf("mended: %d of 10 answers", n)
	}
}

// A fault relay that is turned over stands while there is no fault, and falls at one; set as its name says, it does the contrary.
func TestARelayThatIsTurnedOver(t *testing.T) {
	for family, x := range map[string]struct{ relay, setting string }{"Tarn": {"21", "3B"}, "Brae": {"R1", "output.over"},
		"Voe": {"Y1", "2006h:14"}} {
		for _, over := range []int64{1, 0} {
			s := benches.Setup(t, family)
			s.Values[x.setting] = over
			assign("", "", "")(&s)
			for i := range s.Family.Settings {
				if e := &s.Family.Settings[i]; e.Drives == "earth-fault" {
					s.Values[e.Code] = e.Choices[len(e.Choices)-1].Value // a fault, not a warning
				}
			}
			b, err := bench.New(s)
			if err != nil {
				t.Fatal(err)
			}
			closed := func() bool {
				for _, p := range b.Show(1e9).Relays {
					if p.Terminal == x.relay {
						return p.On
					}
				}
				t.Fatalf("%s has no %s", family, x.relay)
				return false
			}
			do := func(acts ...bench.Act) {
				for _, a := range acts {
					if err := b.Do(a); err != nil {
						t.Fatal(err)
					}
				}
			}
			if closed() {
				t.Errorf("%s, turned over %d: closed without power", family, over)
			}
			do(bench.Act{Do: "line", On: true})
			b.Advance(2000)
			if closed() != (over == 1) {
				t.Errorf("%s, turned over %d, no fault: closed %v", family, over, closed())
			}
			do(bench.Act{Do: "break", What: "earth", On: true}, bench.Act{Do: "hand", On: true}, bench.Act{Do: "run"})
			b.Advance(4000)
			if b.Show(1e9).Fault == "" || closed() != (over == 0) {
				t.Errorf("%s, turned over %d, %q: closed %v", family, over, b.Show(1e9).Fault, closed())
			}
		}
	}
}
