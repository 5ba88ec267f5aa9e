package dialect_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

func presses(route []dialect.Stop) (n int) {
	for _, s := range route {
		n += dialect.Presses(s.Go)
	}
	return n
}

// cost walks an order by asking for the way from each to the next alone.
func cost(f *dialect.Family, from string, order []string) (n int) {
	for _, code := range order {
		n += presses(f.Route(from, map[string]int64{code: 0}, nil))
		from = code
	}
	return n
}

// mayStand tells whether no setting stands before one that moves or voids it.
func mayStand(f *dialect.Family, order []string) bool {
	for i, code := range order {
		s, _ := f.Setting(code)
		for _, list := range []dialect.Words{s.Moves, s.Voids} {
			for _, other := range list {
				if slices.Contains(order[:i], other) {
					return false
				}
			}
		}
		if s.Access == "full" && slices.Contains(order[i:], f.Access.Setting) {
			return false
		}
	}
	return true
}

func permutations(list []string, do func([]string)) {
	var walk func(k int)
	walk = func(k int) {
		if k == len(list) {
			do(list)
			return
		}
		for i := k; i < len(list); i++ {
			list[k], list[i] = list[i], list[k]
			walk(k + 1)
			list[k], list[i] = list[i], list[k]
		}
	}
	walk(0)
}

// Against trying every order: the route takes no more key presses, and never sets a value before what moves it.
func TestTheRouteIsTheShortest(t *testing.T) {
	rng := rand.New(rand.NewPCG(31, 7))
	for range 8 {
		for _, name := range familyfile.Names() {
			f := familyfile.Find(name)
			var codes []string
			values := map[string]int64{}
			for len(codes) < 6 {
				s := &f.Settings[rng.IntN(len(f.Settings))]
				if _, ok := values[s.Code]; !ok {
					values[s.Code] = s.DeliverySteps()
					codes = append(codes, s.Code)
				}
			}
			from := []string{"", f.Settings[rng.IntN(len(f.Settings))].Code}[rng.IntN(2)]
			best := 1 << 30
			permutations(slices.Clone(codes), func(order []string) {
				if mayStand(f, order) {
					best = min(best, cost(f, from, order))
				}
			})
			route := f.Route(from, values, nil)
			var order []string
			for _, s := range route {
				order = append(order, s.Code)
			}
			if got := presses(route); got != best || !mayStand(f, order) || cost(f, from, order) != got {
				t.Fatalf("%s from %q: %v takes %d presses, %d are enough", name, from, order, got, best)
			}
		}
	}
}

// A whole family: every setting once, nothing before what moves it, and no longer than going through in the file's order.
func TestALongRouteKeepsItsOrder(t *testing.T) {
	for _, name := range familyfile.Names() {
		f := familyfile.Find(name)
		values := map[string]int64{}
		var file []string
		for i := range f.Settings {
			values[f.Settings[i].Code] = f.Settings[i].DeliverySteps()
			file = append(file, f.Settings[i].Code)
		}
		route := f.Route("", values, nil)
		var order []string
		for _, s := range route {
			order = append(order, s.Code)
		}
		if len(slices.Compact(slices.Sorted(slices.Values(order)))) != len(file) || !mayStand(f, order) {
			t.Errorf("%s: %d of %d settings, or out of order", name, len(order), len(file))
		}
		if got, plain := presses(route), cost(f, "", file); got > plain+len(f.Groups)*4 {
			t.Errorf("%s: %d presses, in the file's order %d", name, got, plain)
		}
	}
}

// Counted by hand on the three keypads.
func TestGesturesByHand(t *testing.T) {
	for _, c := range []struct {
		family, from, to string
		want             int
	}{
		// five pages from home are 4 + 1; page 4 is the fourth, its D the fourth setting
		{"Tarn", "", "4D", 4 + 3},
		{"Tarn", "4D", "4F", 2},                             // two down on the same page
		{"Tarn", "9A", "1B", 1 + 1},                         // the page key goes round
		{"Tarn", "4A", "4W", 1},                             // and so do the arrows
		{"Brae", "", "motor.current", 1 + 2 + 1 + 3},        // Menu, two right to motor, in, three right
		{"Brae", "motor.current", "motor.power", 3},         // back along the same menu
		{"Brae", "motor.power", "region.supply", 1 + 2 + 1}, // out, two back, in at the first line
		{"Voe", "2001h:01", "2001h:02", 1 + 1},              // one digit by one, Go
		{"Voe", "2001h:01", "2001h:0F", 2 + 1},              // 1 to F the short way round, Go
		{"Voe", "2001h:09", "2002h:08", 1 + 1 + 1 + 1},      // two digits by one, one press on, Go
	} {
		f := familyfile.Find(c.family)
		if got := presses(f.Route(c.from, map[string]int64{c.to: 0}, nil)); got != c.want {
			t.Errorf("%s from %q to %s: %d presses, by hand %d", c.family, c.from, c.to, got, c.want)
		}
	}
	// 8.0 A to 15.5 A digit by digit: tenths 5 up, on, units 8 to 5 three down, on, tens one up: 5+1+3+1+1.
	f := familyfile.Find("Tarn")
	if g := f.Route("4C", map[string]int64{"4D": 155}, map[string]int64{"4D": 80})[0].Value; dialect.Presses(g[:1]) != 11 {
		t.Errorf("8.0 to 15.5 A: %+v", g)
	}
}

func TestWhatIsRefusedNow(t *testing.T) {
	tarn, voe := familyfile.Find("Tarn"), familyfile.Find("Voe")
	zero := int64(0)
	for _, c := range []struct {
		f    *dialect.Family
		code string
		now  dialect.Now
		held bool
	}{
		{tarn, "4D", dialect.Now{}, false}, {tarn, "4D", dialect.Now{Running: true}, true}, {tarn, "7A", dialect.Now{Running: true}, false},
		{tarn, "7A", dialect.Now{Remote: true}, false}, {voe, "6075h:00", dialect.Now{Remote: true}, true},
		{tarn, "6P", dialect.Now{}, false}, {tarn, "6P", dialect.Now{Access: &zero}, true}, {tarn, "4D", dialect.Now{Access: &zero}, false},
	} {
		s, _ := c.f.Setting(c.code)
		if got := c.f.Refuses(s, c.now); (got != nil) != c.held || got != nil && (got.Why == "" || got.Do == "") {
			t.Errorf("%s %s %+v: %+v", c.f.Name, c.code, c.now, got)
		}
	}
}

// Where the keypad keeps on command, the command closes the list, wherever it lies on the keypad; where only the link does, it has its
// place.
func TestWhatKeepsEverythingIsTheLast(t *testing.T) {
	f := *familyfile.Find("Voe")
	values := map[string]int64{"1010h:01": 1, "2001h:02": 400, "2004h:02": 200, "6046h:02": 1450, "2000h:06": 1}
	last := func() string {
		r := f.Route("2000h:0A", values, nil) // beside it
		return r[len(r)-1].Code
	}
	if got := last(); got == "1010h:01" {
		t.Fatal("it lies at the end anyway: nothing is tried")
	}
	f.Kept.Keypad = dialect.KeptOnCommand
	if got := last(); got != "1010h:01" {
		t.Errorf("the last is %s", got)
	}
	for i := range 20 { // beyond what is ordered exactly too
		values[f.Settings[40+i].Code] = f.Settings[40+i].DeliverySteps()
	}
	if got := last(); got != "1010h:01" {
		t.Errorf("of %d the last is %s", len(values), got)
	}
}
