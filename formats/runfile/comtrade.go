package runfile

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"

	"tingate/core/motion"
	"tingate/formats/csvx"
)

// A recorded run as COMTRADE, in the single file of IEEE C37.111-2013 (IEC 60255-24): sections CFG and DAT, each behind a line that names
// it. A pair of files of the editions of 1991 and 1999 is put into that form by whoever sends it: the sections are the same.

// section begins every part of such a file.
const section = "--- file type:"

// channel is an analog channel of the configuration.
type channel struct {
	name, unit string
	a, b       float64 // value = a·x + b
}

// comtrade is the configuration with its data.
type comtrade struct {
	channels []channel
	digital  int
	rates    [][2]float64 // samples a second, last sample
	kind     string       // ascii, binary, binary32, float32
	factor   float64      // of the time stamps, µs
	data     []byte
}

func isComtrade(raw []byte) bool {
	head := bytes.TrimLeft(raw[:min(len(raw), 200)], "\ufeff\r\n ")
	return bytes.HasPrefix(bytes.ToLower(head), []byte(section))
}

func bad(line int, got, want string) error { return &csvx.Error{Line: line, Got: got, Want: want} }

// sections takes a file apart.
func sections(raw []byte) (cfg []string, kind string, data []byte, err error) {
	rest := raw
	for len(rest) > 0 {
		line, after, _ := bytes.Cut(rest, []byte("\n"))
		head := strings.ToLower(strings.TrimSpace(string(line)))
		if !strings.HasPrefix(head, section) {
			rest = after
			continue
		}
		what := strings.TrimSpace(strings.Trim(strings.TrimPrefix(head, section), "- "))
		if strings.HasPrefix(what, "dat") {
			kind, size, _ := strings.Cut(strings.TrimSpace(strings.TrimPrefix(what, "dat")), ":")
			data = after
			if n, err := strconv.Atoi(strings.TrimSpace(size)); err == nil && n >= 0 && n <= len(after) {
				data = after[:n]
			}
			return cfg, strings.TrimSpace(kind), data, nil
		}
		end := sectionIn(after)
		if end < 0 {
			end = len(after)
		}
		if what == "cfg" {
			cfg = strings.Split(strings.TrimSpace(strings.ReplaceAll(string(after[:end]), "\r", "")), "\n")
		}
		rest = after[end:]
	}
	return cfg, "", nil, bad(1, "no section DAT", "the sections CFG and DAT of one COMTRADE file, or both files together")
}

// sectionIn is where the next section begins; below 0: none does. Lower case is made of ASCII alone: of bytes that are no text it would be
// longer.
func sectionIn(b []byte) int {
	for i := 0; i+len(section) <= len(b); i++ {
		if b[i] == '-' && bytes.EqualFold(b[i:i+len(section)], []byte(section)) {
			return i
		}
	}
	return -1
}

// configured reads the configuration.
func configured(lines []string) (comtrade, error) {
	var c comtrade
	at := 0
	next := func(want string, least int) ([]string, error) {
		at++
		if at > len(lines) {
			return nil, bad(at, "the end of the configuration", want)
		}
		f := strings.Split(lines[at-1], ",")
		for i := range f {
			f[i] = strings.TrimSpace(f[i])
		}
		if len(f) < least {
			return nil, bad(at, lines[at-1], want)
		}
		return f, nil
	}
	number := func(s, want string) (float64, error) {
		v, err := strconv.ParseFloat(s, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return 0, bad(at, s, want)
		}
		return v, nil
	}
	if _, err := next("station, device, year", 2); err != nil {
		return c, err
	}
	f, err := next("numbers of channels, like 4,2A,2D", 3)
	if err != nil {
		return c, err
	}
	analog, err1 := strconv.Atoi(strings.TrimRight(strings.ToUpper(f[1]), "A"))
	digital, err2 := strconv.Atoi(strings.TrimRight(strings.ToUpper(f[2]), "D"))
	if err1 != nil || err2 != nil || analog < 1 || digital < 0 || analog > 10_000 || digital > 100_000 {
		return c, bad(at, lines[at-1], "numbers of channels, like 4,2A,2D")
	}
	c.digital = digital
	for range analog {
		f, err := next("an analog channel: number, name, phase, circuit, unit, a, b, …", 7)
		if err != nil {
			return c, err
		}
		x := channel{name: f[1], unit: f[4]}
		if x.a, err = number(f[5], "a factor"); err != nil {
			return c, err
		}
		if x.b, err = number(f[6], "an offset"); err != nil {
			return c, err
		}
		c.channels = append(c.channels, x)
	}
	for range digital {
		if _, err := next("a digital channel", 1); err != nil {
			return c, err
		}
	}
	if _, err := next("the line's frequency", 1); err != nil {
		return c, err
	}
	f, err = next("how many sampling rates", 1)
	if err != nil {
		return c, err
	}
	n, err := strconv.Atoi(f[0])
	if err != nil || n < 0 || n > 1000 {
		return c, bad(at, f[0], "how many sampling rates, 0 to 1000")
	}
	for range max(n, 1) {
		f, err := next("samples a second, last sample", 2)
		if err != nil {
			return c, err
		}
		rate, err := number(f[0], "samples a second")
		if err != nil {
			return c, err
		}
		last, err := number(f[1], "the last sample's number")
		if err != nil {
			return c, err
		}
		c.rates = append(c.rates, [2]float64{rate, last})
	}
	for range 2 { // start and trigger
		if _, err := next("a date and a time", 1); err != nil {
			return c, err
		}
	}
	f, err = next("ASCII, BINARY, BINARY32 or FLOAT32", 1)
	if err != nil {
		return c, err
	}
	c.kind, c.factor = strings.ToLower(f[0]), 1
	if f, err = next("a factor of the time stamps", 1); err == nil {
		if v, err := strconv.ParseFloat(f[0], 64); err == nil && v > 0 {
			c.factor = v
		}
	}
	return c, nil
}

// samples calls each for every sample: its number from 1, its time in s (NaN: no stamp), the channels' values.
func (c comtrade) samples(each func(n int, t float64, values []float64) error) error {
	values := make([]float64, len(c.channels))
	if c.kind == "ascii" {
		return c.ascii(values, each)
	}
	width := map[string]int{"binary": 2, "binary32": 4, "float32": 4}[c.kind]
	if width == 0 {
		return bad(1, c.kind, "ASCII, BINARY, BINARY32 or FLOAT32")
	}
	size := 8 + width*len(c.channels) + 2*((c.digital+15)/16)
	if len(c.data) < size {
		return bad(1, fmt.Sprint(len(c.data), " bytes of data"), fmt.Sprintf("at least one sample of %d bytes", size))
	}
	le := binary.LittleEndian
	for n := 1; n*size <= len(c.data); n++ {
		row := c.data[(n-1)*size:]
		t := math.NaN()
		if stamp := le.Uint32(row[4:]); stamp != math.MaxUint32 {
			t = float64(stamp) * 1e-6 * c.factor
		}
		for i := range values {
			p := row[8+i*width:]
			switch c.kind {
			case "binary":
				x := int16(le.Uint16(p))
				if values[i] = c.channels[i].a*float64(x) + c.channels[i].b; x == math.MinInt16 {
					values[i] = math.NaN() // missing
				}
			case "binary32":
				x := int32(le.Uint32(p))
				if values[i] = c.channels[i].a*float64(x) + c.channels[i].b; x == math.MinInt32 {
					values[i] = math.NaN()
				}
			default:
				values[i] = c.channels[i].a*float64(math.Float32frombits(le.Uint32(p))) + c.channels[i].b
			}
		}
		if err := each(n, t, values); err != nil {
			return err
		}
	}
	return nil
}

func (c comtrade) ascii(values []float64, each func(n int, t float64, values []float64) error) error {
	n := 0
	for len(c.data) > 0 {
		line, rest, _ := bytes.Cut(c.data, []byte("\n"))
		c.data = rest
		text := strings.TrimSpace(string(line))
		if text == "" || text == "\x1a" {
			continue
		}
		n++
		f := strings.Split(text, ",")
		if len(f) < 2+len(values) {
			return bad(n, text, fmt.Sprintf("a sample's number, its time and %d values", len(values)))
		}
		t, err := strconv.ParseFloat(strings.TrimSpace(f[1]), 64)
		if err != nil {
			t = math.NaN()
		}
		for i := range values {
			x, err := strconv.ParseFloat(strings.TrimSpace(f[2+i]), 64)
			if values[i] = c.channels[i].a*x + c.channels[i].b; err != nil ||
				x == 99999 { // blank, or what the older editions write for missing
				values[i] = math.NaN()
			}
		}
		if err := each(n, t*1e-6*c.factor, values); err != nil {
			return err
		}
	}
	return nil
}

// at is the time of a sample by the sampling rates, s; NaN where there is none.
func (c comtrade) at(n int) float64 {
	t, done := 0., 0.
	for _, r := range c.rates {
		if !(r[0] > 0) {
			return math.NaN()
		}
		if float64(n) <= r[1] {
			return t + (float64(n)-1-done)/r[0]
		}
		t, done = t+(r[1]-done)/r[0], r[1]
	}
	return math.NaN()
}

// pick finds a channel by its name or number, or by the names and units that are usual.
func (c comtrade) pick(name, what string) int {
	if n, err := strconv.Atoi(name); err == nil && n >= 1 && n <= len(c.channels) {
		return n - 1
	}
	for i, x := range c.channels {
		if name != "" && strings.EqualFold(x.name, name) {
			return i
		}
	}
	if name != "" {
		return -1
	}
	for i, x := range c.channels {
		for _, k := range known[what] {
			if strings.EqualFold(x.name, k) || strings.EqualFold(x.unit, k) {
				return i
			}
		}
	}
	return -1
}

// readComtrade reads a run out of such a file.
func readComtrade(raw []byte, cols Columns) (motion.Recorded, error) {
	var out motion.Recorded
	lines, kind, data, err := sections(raw)
	if err != nil {
		return out, err
	}
	c, err := configured(lines)
	if err != nil {
		return out, err
	}
	if kind != "" {
		c.kind = kind
	}
	c.data = data
	var names []string
	for _, x := range c.channels {
		names = append(names, x.name+" "+x.unit)
	}
	si, ci := c.pick(cols.Speed, "speed"), c.pick(cols.Current, "current")
	if si < 0 {
		return out, bad(1, strings.Join(names, ", "), "a channel for the speed, by name or number")
	}
	turns, err := cols.turns(strings.ToLower(c.channels[si].name + " " + c.channels[si].unit))
	if err != nil {
		return out, err
	}
	out.Frequency = turns != 1
	err = c.samples(func(n int, t float64, values []float64) error {
		if n > mostRows {
			return bad(n, fmt.Sprint(n, " samples"), fmt.Sprintf("at most %d", mostRows))
		}
		if v := c.at(n); !math.IsNaN(v) { // the rates say it better than stamps do
			t = v
		}
		speed, current := values[si]*turns, math.NaN()
		if ci >= 0 {
			current = values[ci]
		}
		if math.IsNaN(t) || math.IsNaN(speed) {
			out.Gaps++
			return nil
		}
		if k := len(out.T); k > 0 && t < out.T[k-1] {
			return bad(n, fmt.Sprint(t), "a time that is not before the one above it")
		}
		out.T, out.Speed, out.Current = append(out.T, t), append(out.Speed, speed), append(out.Current, current)
		return nil
	})
	if err == nil && len(out.T) < 10 {
		err = bad(1, fmt.Sprint(len(out.T), " samples with figures"), "ten or more")
	}
	out.Current = effective(out.T, out.Current)
	return out, err
}

// window is over what an alternating current is taken together, s: two periods of the slowest that matters, common practice.
const window = .1

// effective turns a current that was recorded as it alternates into its effective value; one that does not is left.
func effective(t, current []float64) []float64 {
	low, high := 0., 0.
	for _, v := range current {
		if !math.IsNaN(v) {
			low, high = math.Min(low, v), math.Max(high, v)
		}
	}
	if low > -.2*high {
		return current
	}
	out := make([]float64, len(current))
	from, sum, n := 0, 0., 0
	for i, v := range current {
		if !math.IsNaN(v) {
			sum, n = sum+v*v, n+1
		}
		for from < i && t[i]-t[from] > window {
			if w := current[from]; !math.IsNaN(w) {
				sum, n = sum-w*w, n-1
			}
			from++
		}
		if out[i] = math.NaN(); n > 0 {
			out[i] = math.Sqrt(math.Max(0, sum) / float64(n))
		}
	}
	return out
}
