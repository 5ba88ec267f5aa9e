// Package trace keeps a recorded run: columns of figures over time, scaled to 16 bits block by block and compressed. It is
// written and read as a stream, so that a long run never stands in memory. docs/formats/trace.md has the layout.
package trace

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
)

// Magic begins every trace.
const Magic = "TGTRACE1"

// BlockLength is how many samples a block holds at most.
const BlockLength = 4096

// Limits of what is read.
const (
	mostColumns = 64
	mostHeader  = 64 << 10
	mostPacked  = 4 << 20
	mostFigures = 16 << 20 // in all: hours of a bench's figures, and no more memory than a machine has
)

// missing stands for a figure that was not there.
const missing = 65535

// Column is one figure with its unit.
type Column struct {
	Name string `json:"name"`
	Unit string `json:"unit"`
}

// Header is what a trace says of itself.
type Header struct {
	Columns []Column          `json:"columns"`
	About   map[string]string `json:"about,omitempty" doc:"where it was recorded, and of what"`
}

// BadTrace says what of a trace cannot be read.
type BadTrace struct{ Got, Want string }

func (e *BadTrace) Error() string { return fmt.Sprintf("trace: got %s, want %s", e.Got, e.Want) }

// Writer writes a trace. Close writes what is left; it does not close what it writes to.
type Writer struct {
	to     io.Writer
	n      int // columns
	times  []float64
	values []float64 // sample by sample
	err    error
}

// NewWriter begins a trace.
func NewWriter(to io.Writer, h Header) (*Writer, error) {
	if len(h.Columns) == 0 || len(h.Columns) > mostColumns {
		return nil, &BadTrace{fmt.Sprintf("%d columns", len(h.Columns)), fmt.Sprintf("1 to %d", mostColumns)}
	}
	raw, err := json.Marshal(h)
	if err != nil {
		return nil, err
	}
	w := &Writer{to: to, n: len(h.Columns)}
	w.put([]byte(Magic))
	w.put(binary.LittleEndian.AppendUint32(nil, uint32(len(raw))))
	w.put(raw)
	return w, w.err
}

func (w *Writer) put(b []byte) {
	if w.err == nil {
		_, w.err = w.to.Write(b)
	}
}

// Add takes the figures of one moment, s; NaN: not there. Times go upward.
func (w *Writer) Add(t float64, values []float64) error {
	if len(values) != w.n {
		return &BadTrace{fmt.Sprintf("%d figures", len(values)), fmt.Sprintf("%d, one a column", w.n)}
	}
	if last := len(w.times) - 1; math.IsNaN(t) || math.IsInf(t, 0) || last >= 0 && t < w.times[last] {
		return &BadTrace{fmt.Sprintf("a time of %g s", t), "times that go upward"}
	}
	w.times = append(w.times, t)
	w.values = append(w.values, values...)
	if len(w.times) == BlockLength {
		w.flush()
	}
	return w.err
}

// Close writes the last block.
func (w *Writer) Close() error {
	if len(w.times) > 0 {
		w.flush()
	}
	w.put(make([]byte, 4)) // a block of no length: the end was reached
	return w.err
}

// flush writes a block: how long it is packed, then samples, times in microseconds from the first, and each column's low, high
// and figures as differences.
func (w *Writer) flush() {
	n := len(w.times)
	b := binary.LittleEndian.AppendUint32(nil, uint32(n))
	b = binary.LittleEndian.AppendUint64(b, math.Float64bits(w.times[0]))
	was := int64(0)
	for _, t := range w.times {
		at := int64(math.Round((t - w.times[0]) * 1e6))
		b = binary.AppendUvarint(b, uint64(at-was))
		was = at
	}
	for c := range w.n {
		low, high := math.Inf(1), math.Inf(-1)
		for i := range n {
			if v := w.values[i*w.n+c]; !math.IsNaN(v) && !math.IsInf(v, 0) {
				low, high = math.Min(low, v), math.Max(high, v)
			}
		}
		if low > high {
			low, high = 0, 0
		}
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(low))
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(high))
		last := uint16(0)
		for i := range n {
			x := scaled(w.values[i*w.n+c], low, high)
			b = binary.LittleEndian.AppendUint16(b, x-last)
			last = x
		}
	}
	var packed bytes.Buffer
	z := zlib.NewWriter(&packed)
	if _, err := z.Write(b); err == nil {
		_ = z.Close() // into memory
	}
	w.put(binary.LittleEndian.AppendUint32(nil, uint32(packed.Len())))
	w.put(packed.Bytes())
	w.times, w.values = w.times[:0], w.values[:0]
}

func scaled(v, low, high float64) uint16 {
	switch {
	case math.IsNaN(v) || math.IsInf(v, 0):
		return missing
	case high <= low:
		return 0
	}
	return uint16(math.Round((v - low) / (high - low) * (missing - 1)))
}

// Is tells whether bytes are a trace of this kind.
func Is(b []byte) bool { return bytes.HasPrefix(b, []byte(Magic)) }

// Read reads a trace and gives every moment to each; the slice is used again. A trace that ends too early gives what it has,
// and a *BadTrace.
func Read(from io.Reader, each func(t float64, values []float64) error) (Header, error) {
	var h Header
	head := make([]byte, len(Magic)+4)
	if _, err := io.ReadFull(from, head); err != nil || !Is(head) {
		return h, &BadTrace{"something else", "a trace that begins with " + Magic}
	}
	n := binary.LittleEndian.Uint32(head[len(Magic):])
	if n > mostHeader {
		return h, &BadTrace{fmt.Sprintf("a head of %d bytes", n), fmt.Sprintf("at most %d", mostHeader)}
	}
	raw := make([]byte, n)
	if _, err := io.ReadFull(from, raw); err != nil {
		return h, &BadTrace{"an end in its head", "the whole head"}
	}
	if err := json.Unmarshal(raw, &h); err != nil || len(h.Columns) == 0 || len(h.Columns) > mostColumns {
		return h, &BadTrace{fmt.Sprintf("%d columns", len(h.Columns)), fmt.Sprintf("1 to %d", mostColumns)}
	}
	figures := 0
	for {
		var size [4]byte
		if _, err := io.ReadFull(from, size[:]); err != nil {
			return h, &BadTrace{"no end", "a whole trace; what was read is kept"}
		}
		packed := binary.LittleEndian.Uint32(size[:])
		if packed == 0 {
			return h, nil
		}
		if packed > mostPacked {
			return h, &BadTrace{fmt.Sprintf("a block of %d bytes", packed), fmt.Sprintf("at most %d", mostPacked)}
		}
		b := make([]byte, packed)
		if _, err := io.ReadFull(from, b); err != nil {
			return h, &BadTrace{"an end within a block", "whole blocks; what was read is kept"}
		}
		n, err := block(b, len(h.Columns), each)
		if err != nil {
			return h, err
		}
		if figures += n * len(h.Columns); figures > mostFigures {
			return h, &BadTrace{fmt.Sprintf("more than %d figures", mostFigures), "at most that; what was read is kept"}
		}
	}
}

func finite(v float64) bool { return !math.IsNaN(v) && !math.IsInf(v, 0) }

var errBlock = errors.New("block")

// block unpacks one block.
func block(packed []byte, columns int, each func(float64, []float64) error) (samples int, err error) {
	bad := &BadTrace{"a damaged block", "whole blocks; what was read is kept"}
	z, err := zlib.NewReader(bytes.NewReader(packed))
	if err != nil {
		return 0, bad
	}
	most := int64(12 + BlockLength*10 + columns*(16+2*BlockLength))
	b, err := io.ReadAll(io.LimitReader(z, most+1))
	if err != nil || int64(len(b)) > most {
		return 0, bad
	}
	take := func(n int) ([]byte, error) {
		if len(b) < n {
			return nil, errBlock
		}
		head := b[:n]
		b = b[n:]
		return head, nil
	}
	head, err := take(12)
	if err != nil {
		return 0, bad
	}
	n := int(binary.LittleEndian.Uint32(head))
	first := math.Float64frombits(binary.LittleEndian.Uint64(head[4:]))
	if n == 0 || n > BlockLength || !finite(first) {
		return 0, bad
	}
	times := make([]float64, n)
	at := uint64(0)
	for i := range times {
		d, used := binary.Uvarint(b)
		if used <= 0 {
			return 0, bad
		}
		b = b[used:]
		at += d
		times[i] = first + float64(at)/1e6
	}
	values := make([]float64, n*columns)
	for c := range columns {
		span, err := take(16 + 2*n)
		if err != nil {
			return 0, bad
		}
		low, high := math.Float64frombits(binary.LittleEndian.Uint64(span)), math.Float64frombits(binary.LittleEndian.Uint64(span[8:]))
		if !finite(low) || !finite(high) || !finite(high-low) {
			return 0, bad
		}
		last := uint16(0)
		for i := range n {
			last += binary.LittleEndian.Uint16(span[16+2*i:])
			v := math.NaN()
			if last != missing {
				v = low + (high-low)*float64(last)/(missing-1)
			}
			values[i*columns+c] = v
		}
	}
	for i, t := range times {
		if err := each(t, values[i*columns:(i+1)*columns]); err != nil {
			return i, err
		}
	}
	return n, nil
}
