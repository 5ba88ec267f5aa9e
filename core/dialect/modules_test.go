package dialect_test

import (
	"fmt"
	"testing"

	"tingate/core/dialect"
	"tingate/formats/familyfile"
)

// Modules sit where a slot takes them, whichever was named first; more of them than slots is said at once, however many there are.
func TestModulesHaveTheirSeats(t *testing.T) {
	f := familyfile.Find("Brae") // front takes X1 and X2, under takes X2 alone
	for _, order := range []string{"X1, X2", "X2, X1"} {
		l, unknown := f.ModulesOf(order)
		if seats, ok := f.Seats(l); !ok || unknown != nil || seats["X1"] != "front" || seats["X2"] != "under" {
			t.Errorf("%s: %v %v", order, seats, ok)
		}
	}
	if n := len(f.Together()); n != 3 {
		t.Errorf("%d sets, by hand X1, X2, both", n)
	}
	if n := len(familyfile.Find("Tarn").Together()); n != 2 {
		t.Errorf("%d sets for one slot of two", n)
	}
	var many dialect.Family
	for i := range 40 {
		many.Modules = append(many.Modules, dialect.Module{Code: fmt.Sprint("M", i)})
	}
	for i := range 39 {
		s := dialect.Slot{Name: fmt.Sprint("S", i)}
		for _, m := range many.Modules {
			s.Takes = append(s.Takes, m.Code)
		}
		many.Slots = append(many.Slots, s)
	}
	if _, ok := many.Seats(many.Modules); ok {
		t.Error("forty have a seat in thirty-nine slots")
	}
	if seats, ok := many.Seats(many.Modules[1:]); !ok || len(seats) != 39 {
		t.Errorf("thirty-nine: %v %v", seats, ok)
	}
}
