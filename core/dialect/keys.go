package dialect

import (
	"slices"
	"strconv"
	"strings"
)

// Gesture is one key pressed so many times.
type Gesture struct {
	Key   string `json:"key"`
	Times int    `json:"times"`
}

// Presses adds up the key presses of gestures.
func Presses(list []Gesture) int {
	n := 0
	for _, g := range list {
		n += g.Times
	}
	return n
}

func key(name, otherwise string) string {
	if name == "" {
		return otherwise
	}
	return name
}

// place is where the keypad's display stands: a group and the item in it; −1 is the home display.
type place struct{ group, item int }

// keyboard is a family's keypad laid out for counting.
type keyboard struct {
	f      *Family
	at     []place // of each setting
	groups []int   // items of each group
}

func newKeyboard(f *Family) keyboard {
	k := keyboard{f: f, at: make([]place, len(f.Settings)), groups: make([]int, len(f.Groups))}
	index := make(map[string]int, len(f.Groups))
	for i, g := range f.Groups {
		index[g.Code] = i
	}
	for i := range f.Settings {
		g := index[f.Settings[i].Group]
		k.at[i] = place{g, k.groups[g]}
		k.groups[g]++
	}
	return k
}

// along is the shorter way from a to b among n in a row or a ring: how often, and whether by the next key.
func (k keyboard) along(a, b, n int) (times int, next bool) {
	d := b - a
	if k.f.Keypad.Wrap && n > 0 {
		ahead, back := (d+n)%n, (n-d)%n
		if ahead <= back {
			return ahead, true
		}
		return back, false
	}
	if d < 0 {
		return -d, false
	}
	return d, true
}

func (k keyboard) arrows(a, b, n int) Gesture {
	times, next := k.along(a, b, n)
	if next {
		return Gesture{key(k.f.Keypad.Keys.Next, "▾"), times}
	}
	return Gesture{key(k.f.Keypad.Keys.Prev, "▴"), times}
}

// walk is the way from one setting (−1: home) to another.
func (k keyboard) walk(from, to int) []Gesture {
	var g []Gesture
	add := func(x Gesture) {
		if x.Times > 0 {
			g = append(g, x)
		}
	}
	keys, dst := k.f.Keypad.Keys, k.at[to]
	src := place{-1, 0}
	if from >= 0 {
		src = k.at[from]
	}
	switch k.f.Keypad.Style {
	case "tree":
		// Inside a menu the arrows; out of it Back, along the menus, and in again at the first line.
		if src.group == dst.group {
			add(k.arrows(src.item, dst.item, k.groups[dst.group]))
			return g
		}
		if src.group < 0 {
			add(Gesture{key(keys.Group, "Menu"), 1})
			src.group = 0
		} else {
			add(Gesture{key(keys.Back, "Back"), 1})
		}
		add(k.arrows(src.group, dst.group, len(k.groups)))
		add(Gesture{key(keys.Enter, "Enter"), 1})
		add(k.arrows(0, dst.item, k.groups[dst.group]))
	case "index":
		a, b := "0000", k.f.Settings[to].Code
		if from >= 0 {
			a = k.f.Settings[from].Code
		}
		if n := dials(a, b); n > 0 {
			add(Gesture{"dial " + b, n})
		}
		add(Gesture{key(keys.Enter, "Go"), 1})
	default: // pages: one key goes through the pages, and lands on the first setting of each
		if src.group != dst.group {
			n, times := len(k.groups), dst.group+1 // from home the first press shows the first page
			if src.group >= 0 {
				times = (dst.group - src.group + n) % n
			}
			add(Gesture{key(keys.Group, "Page"), times})
			src.item = 0
		}
		add(k.arrows(src.item, dst.item, k.groups[dst.group]))
	}
	return g
}

// dials counts the presses that change one code into another digit by digit: each digit the shorter way round, and one
// press to go on to each further digit that changes.
func dials(a, b string) int {
	a, b = hexOf(a), hexOf(b)
	n, changed := 0, 0
	for i := range min(len(a), len(b)) {
		x, _ := strconv.ParseInt(a[i:i+1], 16, 32)
		y, _ := strconv.ParseInt(b[i:i+1], 16, 32)
		d := int((y - x + 16) % 16)
		if d != 0 {
			changed++
			n += min(d, 16-d)
		}
	}
	return n + max(0, changed-1)
}

// hexOf keeps the hexadecimal digits of a code, index and subindex in six places.
func hexOf(code string) string {
	index, sub, _ := strings.Cut(code, ":")
	index = strings.TrimRight(index, "hH")
	if sub == "" {
		sub = "00"
	}
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune("0123456789abcdefABCDEF", r) {
			return r
		}
		return '0'
	}, index+sub)
}

// Kept is how a value is confirmed.
func (f *Family) kept() Gesture {
	k := f.Keypad
	switch k.Confirm {
	case "twice":
		return Gesture{key(k.Keys.Enter, k.Keep), 2}
	case "hold":
		return Gesture{"hold " + key(k.Keys.Enter, k.Keep), 1}
	case "dial-and-set":
		return Gesture{key(k.Keep, "Set"), 1}
	}
	return Gesture{key(k.Keep, "Enter"), 1}
}

// Stop is one setting on the way through the keypad.
type Stop struct {
	Code  string    `json:"code"`
	Go    []Gesture `json:"go" doc:"keys from the setting before"`
	Value []Gesture `json:"value" doc:"the value, and how it is kept"`
}

// Route puts settings in an order that asks for few key presses from where the keypad stands (a code; "": home) and
// never sets a value before one that would move or void it. Up to twelve settings it is the least there is; above, a
// near one. values are the steps to be entered; now what stands there, for counting digits. Unknown codes are left out.
func (f *Family) Route(from string, values, now map[string]int64) []Stop {
	k := newKeyboard(f)
	var todo []int
	for i := range f.Settings {
		if _, ok := values[f.Settings[i].Code]; ok {
			todo = append(todo, i)
		}
	}
	start := -1
	if i, ok := f.byCode[from]; ok {
		start = i
	}
	out := make([]Stop, 0, len(todo))
	for _, i := range k.order(start, todo) {
		s := &f.Settings[i]
		st := Stop{Code: s.Code, Go: k.walk(start, i)}
		st.Value = append(f.valueKeys(s, now, values[s.Code]), f.kept())
		if st.Go == nil {
			st.Go = []Gesture{}
		}
		out = append(out, st)
		start = i
	}
	return out
}

// valueKeys are the keys for a value: digit by digit where the keypad does so, else the value to be dialled.
func (f *Family) valueKeys(s *Setting, now map[string]int64, to int64) []Gesture {
	switch {
	case s.Kind == "number" && f.Keypad.Digits == "each":
		at, ok := now[s.Code]
		if !ok {
			at = s.delivery
		}
		return []Gesture{{"set " + s.Text(to) + ", digit by digit", max(1, digitPresses(at*s.stepMantissa, to*s.stepMantissa))}}
	case s.Kind == "choice":
		i := slices.IndexFunc(s.Choices, func(c Choice) bool { return c.Value == to })
		at, ok := now[s.Code]
		if !ok {
			at = s.delivery
		}
		j := slices.IndexFunc(s.Choices, func(c Choice) bool { return c.Value == at })
		d := i - j
		return []Gesture{{"choose " + s.Text(to), max(1, d, -d)}}
	}
	if s.Kind == "text" {
		return []Gesture{{"type it, sign by sign", 1}}
	}
	return []Gesture{{"set " + s.WithUnit(to), 1}}
}

// digitPresses changes one number into another with one key for a digit's value (0 to 9 and round) and one to move on.
func digitPresses(a, b int64) int {
	x, y := strconv.FormatInt(max(a, -a), 10), strconv.FormatInt(max(b, -b), 10)
	n := max(len(x), len(y))
	x, y = strings.Repeat("0", n-len(x))+x, strings.Repeat("0", n-len(y))+y
	presses, last := 0, n-1
	for i := n - 1; i >= 0; i-- { // the cursor stands on the last digit first
		d := int(y[i]) - int(x[i])
		if d != 0 {
			presses += last - i + min((d+10)%10, (10-d)%10)
			last = i
		}
	}
	return presses
}

// HeldBack is a setting that the drive would refuse now, with what to do first.
type HeldBack struct {
	Code string `json:"code"`
	Why  string `json:"why"`
	Do   string `json:"do"`
}

// Now is how the drive stands while somebody is at its keypad. Unknown access (empty) holds nothing back.
type Now struct {
	Running bool
	Remote  bool
	Access  *int64 // what the access setting reads, in steps
}

// Refuses tells whether the keypad would refuse a setting now; nil when it takes it.
func (f *Family) Refuses(s *Setting, now Now) *HeldBack {
	locked := func(w string) bool { return slices.Contains(f.Keypad.Locks, w) }
	switch {
	case now.Remote && locked("remote"):
		return &HeldBack{s.Code, "the drive is in remote", key(f.Keypad.Remote.Do, "change over to local")}
	case now.Running && !s.Running && (locked("running") || len(f.Keypad.Locks) == 0):
		return &HeldBack{s.Code, "it is refused while the motor runs", "stop the motor"}
	case s.Access == "full" && now.Access != nil && f.Access.Setting != "" && *now.Access != f.Access.Full:
		return &HeldBack{s.Code, "the access level is too low", "set " + f.Access.Setting + " to " + f.accessText()}
	}
	return nil
}

func (f *Family) accessText() string {
	if s, ok := f.Setting(f.Access.Setting); ok {
		return s.Text(f.Access.Full)
	}
	return strconv.FormatInt(f.Access.Full, 10)
}
