// Package winding says how the leads of a three-phase motor are linked, and judges a linking as it was found.
//
// Marks are those of IEC 60034-8 (U1, V1, W1 …) or of NEMA MG 1 part 2 (T1 … T12).
package winding

import (
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"sort"
	"strconv"
	"strings"

	"tingate/core/finding"
)

// Scheme is one way to link a motor.
type Scheme struct {
	Name       string              `json:"scheme"`
	Connection string              `json:"connection" doc:"star, delta, double star, double delta, series star, series delta"`
	Joins      [][]string          `json:"joins"`
	Lines      map[string][]string `json:"lines"`
	// Coil is the voltage over one coil, per unit of the voltage between lines.
	Coil float64 `json:"coil"`
}

// coil runs from its start to its end; phase counts 0, 1, 2.
type coil struct {
	start, end string
	phase      int
}

// schemes in NEMA's numbers: joined groups, then the leads of each line. Sources: NEMA MG 1 part 2 (9 and 12 leads) and
// IEC 60034-8 (6 leads), from memory; every one is held against its own coils by a test.
var schemes = map[string]struct {
	connection string
	joins      string
	lines      [3]string
	coil       float64
}{
	"6-star":        {"star", "4 5 6", [3]string{"1", "2", "3"}, 1 / math.Sqrt(3)},
	"6-delta":       {"delta", "", [3]string{"1 6", "2 4", "3 5"}, 1},
	"9-star-high":   {"series star", "4 7|5 8|6 9", [3]string{"1", "2", "3"}, .5 / math.Sqrt(3)},
	"9-star-low":    {"double star", "4 5 6", [3]string{"1 7", "2 8", "3 9"}, 1 / math.Sqrt(3)},
	"9-delta-high":  {"series delta", "4 7|5 8|6 9", [3]string{"1", "2", "3"}, .5},
	"9-delta-low":   {"double delta", "", [3]string{"1 6 7", "2 4 8", "3 5 9"}, 1},
	"12-star-high":  {"series star", "4 7|5 8|6 9|10 11 12", [3]string{"1", "2", "3"}, .5 / math.Sqrt(3)},
	"12-star-low":   {"double star", "4 5 6|10 11 12", [3]string{"1 7", "2 8", "3 9"}, 1 / math.Sqrt(3)},
	"12-delta-high": {"series delta", "4 7|5 8|6 9", [3]string{"1 12", "2 10", "3 11"}, .5},
	"12-delta-low":  {"double delta", "", [3]string{"1 6 7 12", "2 4 8 10", "3 5 9 11"}, 1},
}

// Names lists the schemes.
func Names() []string {
	var l []string
	for n := range schemes {
		l = append(l, n)
	}
	sort.Strings(l)
	return l
}

// Mark is a lead's name: T1 to T12, or its name of IEC 60034-8, in which the second half of a phase is numbered 5 and 6.
func Mark(number int, marking string) string {
	if marking != "uvw" {
		return "T" + strconv.Itoa(number)
	}
	return string("UVW"[(number-1)%3]) + []string{"1", "2", "5", "6"}[(number-1)/3]
}

// inside are the coils of a motor by its leads and, with 9, by how it is joined inside.
func inside(leads int, wind, marking string) []coil {
	var l []coil
	add := func(a, b string, phase int) { l = append(l, coil{a, b, phase}) }
	m := func(n int) string { return Mark(n, marking) }
	for p := range 3 {
		switch {
		case leads == 9 && wind == "delta": // corners at 1, 2, 3
			add(m(1+p), m(4+p), p)
			add(m(7+p), m(1+(p+1)%3), p)
		case leads == 9:
			add(m(1+p), m(4+p), p)
			add(m(7+p), "star point", p)
		case leads == 12:
			add(m(1+p), m(4+p), p)
			add(m(7+p), m(10+p), p)
		default:
			add(m(1+p), m(4+p), p)
		}
	}
	return l
}

// Find is a scheme by name with its leads as marked; ok is false for a name that is none.
func Find(name, marking string) (Scheme, bool) {
	s, ok := schemes[name]
	if !ok {
		return Scheme{}, false
	}
	out := Scheme{Name: name, Connection: s.connection, Joins: [][]string{}, Lines: map[string][]string{}, Coil: s.coil}
	marks := func(text string) []string {
		var l []string
		for _, f := range strings.Fields(text) {
			n, _ := strconv.Atoi(f)
			l = append(l, Mark(n, marking))
		}
		return l
	}
	for _, g := range strings.Split(s.joins, "|") {
		if g != "" {
			out.Joins = append(out.Joins, marks(g))
		}
	}
	for i, l := range s.lines {
		out.Lines[fmt.Sprintf("L%d", i+1)] = marks(l)
	}
	return out, true
}

// Choose picks the scheme for a drive's output: the plate's two voltages, the drive's, V. wind is star or delta inside, of
// which a 9-lead motor must be known.
func Choose(leads int, wind string, low, high, output float64) (name string, findings []finding.Finding) {
	stop := func(code, title, detail, action string) {
		findings = append(findings, finding.Finding{Code: code, Severity: finding.Stop, Title: title, Detail: detail, Action: action})
	}
	if leads != 6 && leads != 9 && leads != 12 {
		stop("leads-not-known", "A motor with so many leads is not known here", fmt.Sprintf("%d leads; 6, 9 and 12 are.", leads),
			"Follow the diagram in its terminal box")
		return "", findings
	}
	if wind != "star" && wind != "delta" && leads != 6 {
		stop("winding-not-known", "Whether it is wound in star or delta must be known",
			"Both are linked otherwise, and the wrong linking burns coils.",
			"Read the diagram on the plate, or measure which leads are joined inside")
		return "", findings
	}
	isLow := math.Abs(math.Log(output/low)) < math.Abs(math.Log(output/high))
	near := high
	if isLow {
		near = low
	}
	if !(math.Abs(output/near-1) <= .1) {
		stop("voltage-fits-neither", "The drive's output fits neither voltage of the plate",
			fmt.Sprintf("%.4g V out; %.4g and %.4g V on the plate.", output, low, high), "Check the drive and the plate")
	}
	if leads == 6 {
		return map[bool]string{true: "6-delta", false: "6-star"}[isLow], findings
	}
	return fmt.Sprintf("%d-%s-%s", leads, wind, map[bool]string{true: "low", false: "high"}[isLow]), findings
}

// Judged is what a linking as fitted is.
type Judged struct {
	Valid      bool
	Scheme     string // the scheme that it is; empty when it is none
	Connection string
	Coil       float64 // per unit of the voltage between lines
	Findings   []finding.Finding
}

// Judge works out the voltage over every coil of a linking: joins are groups of leads, lines the leads on each line. All
// coils alike, and in their order, is a sound linking; otherwise it says which coil is shorted, open or opposed.
func Judge(leads int, wind, marking string, joins [][]string, lines map[string][]string) Judged {
	var j Judged
	coils := inside(leads, wind, marking)
	stop := func(code, title, detail string) {
		j.Findings = append(j.Findings,
			finding.Finding{Code: code, Severity: finding.Stop, Title: title, Detail: detail, Action: "Open, and link it as drawn"})
	}
	group := map[string]int{}
	for _, c := range coils {
		for _, l := range []string{c.start, c.end} {
			if _, ok := group[l]; !ok {
				group[l] = len(group)
			}
		}
	}
	names := len(group)
	root := make([]int, names)
	for i := range root {
		root[i] = i
	}
	var find func(int) int
	find = func(i int) int {
		if root[i] != i {
			root[i] = find(root[i])
		}
		return root[i]
	}
	bad := false
	join := func(list []string, what string) {
		for i, l := range list {
			k, ok := group[l]
			if !ok || l == "star point" {
				stop("lead-not-known", "A lead that this motor does not have", fmt.Sprintf("%q in %s.", l, what))
				bad = true
				continue
			}
			if i > 0 {
				if first, ok := group[list[0]]; ok {
					root[find(k)] = find(first)
				}
			}
		}
	}
	for i, g := range joins {
		join(g, fmt.Sprintf("join %d", i+1))
	}
	feeds := [3]int{-1, -1, -1}
	for p := range 3 {
		key := fmt.Sprintf("L%d", p+1)
		join(lines[key], key)
		if len(lines[key]) == 0 {
			stop("line-open", key+" goes to no lead", "Two lines only: it hums and does not start.")
			bad = true
		} else if k, ok := group[lines[key][0]]; ok {
			feeds[p] = k
		}
	}
	if bad {
		return j
	}
	for p := range feeds {
		feeds[p] = find(feeds[p])
	}
	if feeds[0] == feeds[1] || feeds[1] == feeds[2] || feeds[0] == feeds[2] {
		stop("lines-joined", "Two lines are joined by the links", "A short between lines.")
		return j
	}
	volts := solve(coils, group, find, feeds)
	j.judge(coils, volts, func(c coil) bool { return find(group[c.start]) == find(group[c.end]) }, stop)
	if len(j.Findings) == 0 {
		j.Valid = true
		j.name(leads, wind)
	}
	return j
}

// solve gives each coil's voltage from start to end, lines at 1/√3 about their middle, every coil the same admittance.
func solve(coils []coil, group map[string]int, find func(int) int, feeds [3]int) []complex128 {
	line := func(p int) complex128 { return cmplx.Rect(1/math.Sqrt(3), -2*math.Pi/3*float64(p)) }
	fixed := map[int]complex128{}
	for p, f := range feeds {
		fixed[f] = line(p)
	}
	at := map[int]int{}
	for _, k := range group {
		r := find(k)
		if _, held := fixed[r]; !held {
			if _, ok := at[r]; !ok {
				at[r] = len(at)
			}
		}
	}
	n := len(at)
	m := make([][]complex128, n)
	for i := range m {
		m[i] = make([]complex128, n+1)
		m[i][i] = 1e-9 // a free lead hangs on nothing
	}
	for _, c := range coils {
		a, b := find(group[c.start]), find(group[c.end])
		for _, x := range [][2]int{{a, b}, {b, a}} {
			i, ok := at[x[0]]
			if !ok || a == b {
				continue
			}
			m[i][i]++
			if k, ok := at[x[1]]; ok {
				m[i][k]--
			} else {
				m[i][n] += fixed[x[1]]
			}
		}
	}
	x := gauss(m)
	v := func(k int) complex128 {
		if f, ok := fixed[k]; ok {
			return f
		}
		return x[at[k]]
	}
	out := make([]complex128, len(coils))
	for i, c := range coils {
		out[i] = v(find(group[c.start])) - v(find(group[c.end]))
	}
	return out
}

func gauss(m [][]complex128) []complex128 {
	n := len(m)
	for i := range n {
		p := i
		for k := i + 1; k < n; k++ {
			if cmplx.Abs(m[k][i]) > cmplx.Abs(m[p][i]) {
				p = k
			}
		}
		m[i], m[p] = m[p], m[i]
		for k := i + 1; k < n; k++ {
			f := m[k][i] / m[i][i]
			for c := i; c <= n; c++ {
				m[k][c] -= f * m[i][c]
			}
		}
	}
	x := make([]complex128, n)
	for i := n - 1; i >= 0; i-- {
		x[i] = m[i][n]
		for k := i + 1; k < n; k++ {
			x[i] -= m[i][k] * x[k]
		}
		x[i] /= m[i][i]
	}
	return x
}

// judge finds the field that most coils make together, and those that are against it.
func (j *Judged) judge(coils []coil, volts []complex128, shorted func(coil) bool, stop func(code, title, detail string)) {
	name := func(c coil) string { return c.start + "–" + c.end }
	for i, c := range coils {
		switch {
		case shorted(c):
			stop("coil-shorted", "Coil "+name(c)+" is shorted by the links", "Both its ends are joined.")
		case cmplx.Abs(volts[i]) < 1e-3:
			stop("coil-open", "Coil "+name(c)+" carries nothing", "An end of it is free.")
		}
	}
	if len(j.Findings) > 0 {
		return
	}
	best, turn := -1, complex128(0)
	for _, sequence := range []float64{1, -1} {
		for i, c := range coils {
			ref := volts[i] / cmplx.Rect(1, -2*math.Pi/3*float64(c.phase)*sequence)
			agree := 0
			for k, d := range coils {
				if cmplx.Abs(volts[k]/cmplx.Rect(1, -2*math.Pi/3*float64(d.phase)*sequence)-ref) < .02 {
					agree++
				}
			}
			if agree > best {
				best, turn = agree, ref
				j.Coil = cmplx.Abs(ref)
				if agree == len(coils) {
					return
				}
			}
		}
	}
	var wrong []string
	for k, c := range coils {
		for _, sequence := range []float64{1, -1} {
			u := volts[k] / cmplx.Rect(1, -2*math.Pi/3*float64(c.phase)*sequence)
			if cmplx.Abs(u+turn) < .02+.5*cmplx.Abs(turn) && !slices.Contains(wrong, name(c)) {
				wrong = append(wrong, name(c))
			}
		}
	}
	if len(wrong) > 0 {
		stop("coil-opposed", "Coils work against one another: "+strings.Join(wrong, ", "),
			"An end stands where the other should: it hums, draws much and gives little torque.")
		return
	}
	stop("coils-unequal", "The coils do not see the same voltage", "Star and delta are mixed, or halves of phases exchanged.")
}

// name finds the scheme whose coils see the same voltage.
func (j *Judged) name(leads int, wind string) {
	for n, s := range schemes {
		if !strings.HasPrefix(n, strconv.Itoa(leads)+"-") || leads == 9 && !strings.Contains(n, wind) {
			continue
		}
		if math.Abs(s.coil-j.Coil) < .01 {
			j.Scheme, j.Connection = n, s.connection
		}
	}
}
