package winding_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"tingate/core/winding"
	"tingate/testtools/check"
)

func text(s winding.Scheme) string {
	var l []string
	for _, k := range []string{"L1", "L2", "L3"} {
		l = append(l, k+" "+strings.Join(s.Lines[k], "-"))
	}
	for _, j := range s.Joins {
		l = append(l, strings.Join(j, "-"))
	}
	return strings.Join(l, ", ")
}

// The patterns as the standards print them.
func TestPatternsAreThoseOfTheStandards(t *testing.T) {
	for _, c := range []struct{ name, marking, want, source string }{
		{"6-star", "uvw", "L1 U1, L2 V1, L3 W1, U2-V2-W2", "IEC 60034-8, six terminals, star"},
		{"6-delta", "uvw", "L1 U1-W2, L2 V1-U2, L3 W1-V2", "IEC 60034-8, six terminals, delta"},
		{"9-star-low", "t", "L1 T1-T7, L2 T2-T8, L3 T3-T9, T4-T5-T6", "NEMA MG 1 part 2, nine leads, star, low voltage"},
		{"9-star-high", "t", "L1 T1, L2 T2, L3 T3, T4-T7, T5-T8, T6-T9", "NEMA MG 1 part 2, nine leads, star, high voltage"},
		{"9-delta-low", "t", "L1 T1-T6-T7, L2 T2-T4-T8, L3 T3-T5-T9", "NEMA MG 1 part 2, nine leads, delta, low voltage"},
		{"9-delta-high", "t", "L1 T1, L2 T2, L3 T3, T4-T7, T5-T8, T6-T9", "NEMA MG 1 part 2, nine leads, delta, high voltage"},
		{"12-star-low", "t", "L1 T1-T7, L2 T2-T8, L3 T3-T9, T4-T5-T6, T10-T11-T12", "NEMA MG 1 part 2, twelve leads, from memory"},
		{"12-delta-low", "t", "L1 T1-T6-T7-T12, L2 T2-T4-T8-T10, L3 T3-T5-T9-T11", "NEMA MG 1 part 2, twelve leads, from memory"},
		{"12-delta-high", "t", "L1 T1-T12, L2 T2-T10, L3 T3-T11, T4-T7, T5-T8, T6-T9", "NEMA MG 1 part 2, twelve leads, from memory"},
		{"12-star-high", "t", "L1 T1, L2 T2, L3 T3, T4-T7, T5-T8, T6-T9, T10-T11-T12", "NEMA MG 1 part 2, twelve leads, from memory"},
	} {
		s, ok := winding.Find(c.name, c.marking)
		if got := text(s); !ok || strings.ReplaceAll(got, "V1-U2", "V1-U2") != c.want {
			t.Errorf("%s: %s; %s says %s", c.name, got, c.source, c.want)
			continue
		}
		check.Against(t, "links of "+c.name+", leads in place", c.source+", from memory",
			float64(len(strings.FieldsFunc(text(s), func(r rune) bool { return r == '-' || r == ',' }))),
			float64(len(strings.FieldsFunc(c.want, func(r rune) bool { return r == '-' || r == ',' }))), 0)
	}
}

func shape(name string) (leads int, wind string) {
	fmt.Sscanf(name, "%d", &leads)
	if strings.Contains(name, "delta") {
		return leads, "delta"
	}
	return leads, "star"
}

func judge(s winding.Scheme, marking string) winding.Judged {
	leads, wind := shape(s.Name)
	return winding.Judge(leads, wind, marking, s.Joins, s.Lines)
}

// Every scheme is sound in its own coils, in both markings and with two lines exchanged; each coil sees what it should.
func TestEverySchemeIsSound(t *testing.T) {
	for _, name := range winding.Names() {
		for _, marking := range []string{"uvw", "t"} {
			s, _ := winding.Find(name, marking)
			j := judge(s, marking)
			if !j.Valid || j.Scheme != name {
				t.Errorf("%s %s: %+v", name, marking, j)
			}
			s.Lines["L1"], s.Lines["L2"] = s.Lines["L2"], s.Lines["L1"]
			if j := judge(s, marking); !j.Valid {
				t.Errorf("%s turned the other way: %+v", name, j)
			}
		}
	}
	star, _ := winding.Find("6-star", "t")
	check.Against(t, "coil voltage in star, per unit of the line", "1/√3", judge(star, "t").Coil, .57735, 1e-4)
	high, _ := winding.Find("12-star-high", "t")
	check.Against(t, "coil voltage in series star, per unit of the line", "1/(2√3), two halves in a row", judge(high, "t").Coil, .288675,
		1e-4)
}

func codes(j winding.Judged) string {
	var l []string
	for _, f := range j.Findings {
		l = append(l, f.Code)
	}
	return strings.Join(l, " ")
}

func TestWrongLinkingsAreNamed(t *testing.T) {
	abc := func(a, b, c string) map[string][]string {
		return map[string][]string{"L1": strings.Split(a, "-"), "L2": strings.Split(b, "-"), "L3": strings.Split(c, "-")}
	}
	joins := func(l ...string) [][]string {
		var out [][]string
		for _, x := range l {
			out = append(out, strings.Split(x, "-"))
		}
		return out
	}
	for _, c := range []struct {
		name  string
		leads int
		wind  string
		joins [][]string
		lines map[string][]string
		want  string
	}{
		{"a link across one coil", 6, "star", joins("T4-T5-T6"), abc("T1-T4", "T2", "T3"), "coil-shorted"},
		{"delta with a coil short", 6, "delta", nil, abc("T1-T4", "T2-T5", "T3-T6"), "coil-shorted coil-shorted coil-shorted"},
		{"star point without one lead", 6, "star", joins("T4-T5"), abc("T1", "T2", "T3"), "coil-open"},
		{"a reversed coil in star", 6, "star", joins("T1-T5-T6"), abc("T4", "T2", "T3"), "coil-opposed"},
		{"a half reversed in series", 12, "star", joins("T4-T10", "T5-T8", "T6-T9", "T7-T11-T12"), abc("T1", "T2", "T3"), "coil-opposed"},
		{"star bar and delta bars at once", 6, "star", joins("T4-T5-T6"), abc("T1-T6", "T2-T4", "T3-T5"), "lines-joined"},
		{"a line not landed", 6, "star", joins("T4-T5-T6"), map[string][]string{"L1": {"T1"}, "L2": {"T2"}}, "line-open"},
		{"a lead of another motor", 6, "star", joins("T4-T5-T7"), abc("T1", "T2", "T3"), "lead-not-known"},
		{"one half of a phase left out", 12, "star", joins("T4-T5-T6", "T11-T12"), abc("T1-T7", "T2-T8", "T3-T9"), "coil-open"},
	} {
		j := winding.Judge(c.leads, c.wind, "t", c.joins, c.lines)
		if j.Valid || !strings.HasPrefix(codes(j), c.want) {
			t.Errorf("%s: %v %q, want %q", c.name, j.Valid, codes(j), c.want)
		}
	}
}

// Two leads exchanged in any scheme: never sound with the same coil voltage in the same order unless nothing changed.
func TestEveryExchangeOfTwoLeadsIsSeen(t *testing.T) {
	seen, same := 0, 0
	for _, name := range winding.Names() {
		leads, wind := shape(name)
		for a := 1; a <= leads; a++ {
			for b := a + 1; b <= leads; b++ {
				s, _ := winding.Find(name, "t")
				swap := func(l []string) {
					for i, x := range l {
						switch x {
						case winding.Mark(a, "t"):
							l[i] = winding.Mark(b, "t")
						case winding.Mark(b, "t"):
							l[i] = winding.Mark(a, "t")
						}
					}
				}
				before := text(s)
				for _, j := range s.Joins {
					swap(j)
				}
				for _, l := range s.Lines {
					swap(l)
				}
				j := winding.Judge(leads, wind, "t", s.Joins, s.Lines)
				switch {
				case !j.Valid:
					seen++
				case groups(before) == groups(text(s)) || swapsLines(name, a, b):
					same++
				default:
					t.Errorf("%s with %d and %d exchanged passes: %s", name, a, b, text(s))
				}
			}
		}
	}
	t.Logf("%d seen, %d change nothing or only the direction", seen, same)
	if seen < 150 {
		t.Error("too few")
	}
}

func groups(s string) string {
	l := strings.Split(s, ", ")
	for i := range l {
		f := strings.FieldsFunc(strings.TrimLeft(l[i], "L123 "), func(r rune) bool { return r == '-' })
		for a := range f {
			for b := a + 1; b < len(f); b++ {
				if f[b] < f[a] {
					f[a], f[b] = f[b], f[a]
				}
			}
		}
		mark := ""
		if l[i][0] == 'L' {
			mark = l[i][:2]
		}
		l[i] = mark + strings.Join(f, "-")
	}
	return strings.Join(l, ", ")
}

// swapsLines: leads that stand alone on two lines exchange the direction, and nothing else; ends of star points, which are
// all at one voltage, exchange nothing.
func swapsLines(name string, a, b int) bool {
	s, _ := winding.Find(name, "t")
	at := func(n int) string {
		for k, l := range s.Lines {
			if len(l) == 1 && l[0] == winding.Mark(n, "t") {
				return k
			}
		}
		return ""
	}
	starPoint := func(n int) bool {
		for _, j := range s.Joins {
			if len(j) == 3 && slices.Contains(j, winding.Mark(n, "t")) {
				return true
			}
		}
		return false
	}
	return at(a) != "" && at(b) != "" || starPoint(a) && starPoint(b)
}

func TestChoosing(t *testing.T) {
	for _, c := range []struct {
		leads       int
		wind        string
		low, high   float64
		output      float64
		want, codes string
	}{
		{6, "", 230, 400, 230, "6-delta", ""}, {6, "", 230, 400, 400, "6-star", ""}, {6, "", 400, 690, 400, "6-delta", ""},
		{9, "star", 230, 460, 460, "9-star-high", ""}, {9, "delta", 230, 460, 230, "9-delta-low", ""},
		{9, "", 230, 460, 230, "", "winding-not-known"}, {12, "delta", 230, 460, 460, "12-delta-high", ""},
		{7, "", 230, 400, 400, "", "leads-not-known"}, {6, "", 230, 400, 575, "6-star", "voltage-fits-neither"},
	} {
		got, findings := winding.Choose(c.leads, c.wind, c.low, c.high, c.output)
		code := ""
		if len(findings) > 0 {
			code = findings[0].Code
		}
		if got != c.want || code != c.codes {
			t.Errorf("%+v: %q %q", c, got, code)
		}
	}
}
