package dialect

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

func sortSettings(list []*Setting) {
	slices.SortFunc(list, func(a, b *Setting) int { return cmp.Compare(a.Register, b.Register) })
}

// TypeFact is one thing that a type code says.
type TypeFact struct {
	Part  string `json:"part"`
	Sign  string `json:"sign"`
	Means string `json:"means"`
}

// DecodeType takes a type apart by the family's type code. Case and spaces do not matter. What follows the last part is
// not looked at: options are often hung on.
func (f *Family) DecodeType(text string) ([]TypeFact, error) {
	rest := plainType(text)
	var out []TypeFact
	for _, p := range f.TypeCode.Parts {
		lit := plainType(p.Literal)
		switch {
		case lit != "":
			if !strings.HasPrefix(rest, lit) {
				return out, fmt.Errorf("%q should go on with %s", rest, p.Literal)
			}
			rest = rest[len(lit):]
		case len(p.Values) > 0:
			sign := ""
			for v := range p.Values {
				if strings.HasPrefix(rest, strings.ToUpper(v)) && len(v) > len(sign) {
					sign = v
				}
			}
			if sign == "" {
				return out, fmt.Errorf("%s: %q begins with none of %s", p.Name, rest, strings.Join(sortedKeys(p.Values), ", "))
			}
			out = append(out, TypeFact{p.Name, sign, p.Values[sign]})
			rest = rest[len(sign):]
		default:
			if len(rest) < p.Signs || p.Signs <= 0 {
				return out, fmt.Errorf("%s: %q is shorter than %d signs", p.Name, rest, p.Signs)
			}
			out = append(out, TypeFact{p.Name, rest[:p.Signs], ""})
			rest = rest[p.Signs:]
		}
	}
	return out, nil
}

func plainType(t string) string {
	return strings.ToUpper(strings.Map(func(r rune) rune {
		if r == ' ' {
			return -1
		}
		return r
	}, t))
}

func sortedKeys(m map[string]string) []string {
	l := make([]string, 0, len(m))
	for k := range m {
		l = append(l, k)
	}
	slices.Sort(l)
	return l
}

// RatingOf finds the size that a type names: the longest of the family's types that it begins with.
func (f *Family) RatingOf(typeText string) (Size, bool) {
	t := plainType(typeText)
	var best Size
	for _, r := range f.Ratings {
		if p := plainType(r.Type); p != "" && strings.HasPrefix(t, p) && len(p) > len(plainType(best.Type)) {
			best = r
		}
	}
	return best, best.Type != ""
}

// RatingByCode finds the size by what the rating register holds.
func (f *Family) RatingByCode(code uint16) (Size, bool) {
	for _, r := range f.Ratings {
		if r.Code == code && code != 0 {
			return r, true
		}
	}
	return Size{}, false
}

// Current is the rated output current in A for a duty: normal when asked for and stated, else heavy.
func (r Size) Current(duty string) float64 {
	if duty == "normal" && r.Normal > 0 {
		return r.Normal
	}
	return r.Heavy
}

// CompareVersions compares "3.10" and "3.9" part by part as numbers where they are numbers; −1, 0 or 1.
func CompareVersions(a, b string) int {
	x, y := strings.Split(a, "."), strings.Split(b, ".")
	for i := range max(len(x), len(y)) {
		var p, q string
		if i < len(x) {
			p = x[i]
		}
		if i < len(y) {
			q = y[i]
		}
		m, errm := strconv.Atoi(p)
		n, errn := strconv.Atoi(q)
		c := cmp.Compare(p, q)
		if (errm == nil || p == "") && (errn == nil || q == "") {
			c = cmp.Compare(m, n)
		}
		if c != 0 {
			return c
		}
	}
	return 0
}

// Covers tells whether the family's file was written for a firmware; ok is false when either is not stated.
func (f *Family) Covers(firmware string) (inside, ok bool) {
	fw := strings.TrimSpace(strings.TrimPrefix(strings.ToLower(strings.TrimSpace(firmware)), "v"))
	if fw == "" || f.FirmwareRange == (FirmwareRange{}) {
		return false, false
	}
	return CompareVersions(fw, f.FirmwareRange.From) >= 0 && CompareVersions(fw, f.FirmwareRange.To) <= 0, true
}
