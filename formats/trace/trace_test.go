package trace_test

import (
	"bytes"
	"math"
	"math/rand/v2"
	"testing"

	"tingate/formats/trace"
)

var header = trace.Header{Columns: []trace.Column{{Name: "speed", Unit: "r/min"}, {Name: "current", Unit: "A"},
	{Name: "still", Unit: "V"}}, About: map[string]string{"seed": "7"}}

// made is a trace of n samples and what went into it.
func made(t testing.TB, n int) ([]byte, [][4]float64) {
	t.Helper()
	rng := rand.New(rand.NewPCG(1, 2))
	var out bytes.Buffer
	w, err := trace.NewWriter(&out, header)
	if err != nil {
		t.Fatal(err)
	}
	var in [][4]float64
	for i := range n {
		at := float64(i) * .05
		row := [4]float64{at, 1500 * math.Sin(at/20), 8 + rng.Float64(), 540}
		if i%97 == 5 {
			row[2] = math.NaN()
		}
		in = append(in, row)
		if err := w.Add(at, row[1:]); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes(), in
}

// What goes in comes out, within half a step of 16 bits of each block's own span; times to the microsecond.
func TestATraceComesBack(t *testing.T) {
	for _, n := range []int{0, 1, trace.BlockLength - 1, trace.BlockLength, 3*trace.BlockLength + 17} {
		raw, in := made(t, n)
		i := 0
		h, err := trace.Read(bytes.NewReader(raw), func(at float64, v []float64) error {
			want := in[i]
			if math.Abs(at-want[0]) > 1e-6 || math.Abs(v[0]-want[1]) > 3000./65534/2+1e-9 || math.Abs(v[1]-want[2]) > 1./65534 ||
				math.IsNaN(v[1]) != math.IsNaN(want[2]) || v[2] != 540 {
				t.Fatalf("sample %d: %v %v, want %v", i, at, v, want)
			}
			i++
			return nil
		})
		if err != nil || i != n || h.Columns[1].Unit != "A" || h.About["seed"] != "7" {
			t.Errorf("%d samples: read %d, %v, %+v", n, i, err, h)
		}
	}
	raw, _ := made(t, 100_000)
	if perSample := float64(len(raw)) / 100_000; perSample > 6 {
		t.Errorf("%.1f bytes a sample of three figures", perSample)
	}
}

// A trace that ends anywhere, or is damaged anywhere, gives what it has and an error that says so; it never panics.
func TestADamagedTraceIsSaid(t *testing.T) {
	raw, _ := made(t, trace.BlockLength+100)
	for cut := 0; cut < len(raw); cut += 1 + len(raw)/300 {
		read := 0
		if _, err := trace.Read(bytes.NewReader(raw[:cut]), func(float64, []float64) error { read++; return nil }); err == nil {
			t.Fatalf("cut at %d of %d, and nothing said; %d samples", cut, len(raw), read)
		}
	}
	rng := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		b := bytes.Clone(raw)
		b[rng.IntN(len(b))] ^= byte(1 + rng.IntN(255))
		_, _ = trace.Read(bytes.NewReader(b), func(float64, []float64) error { return nil }) // anything but a panic
	}
	w, _ := trace.NewWriter(&bytes.Buffer{}, header)
	for what, err := range map[string]error{"figures": w.Add(1, []float64{1}), "time": w.Add(math.NaN(), []float64{1, 2, 3})} {
		if err == nil {
			t.Errorf("bad %s taken", what)
		}
	}
	_ = w.Add(2, []float64{1, 2, 3})
	if w.Add(1, []float64{1, 2, 3}) == nil {
		t.Error("a time that goes back was taken")
	}
	if _, err := trace.NewWriter(&bytes.Buffer{}, trace.Header{}); err == nil {
		t.Error("a trace without columns")
	}
}

func BenchmarkWriteAndRead(b *testing.B) {
	raw, _ := made(b, 100_000)
	b.SetBytes(int64(len(raw)))
	for b.Loop() {
		if _, err := trace.Read(bytes.NewReader(raw), func(float64, []float64) error { return nil }); err != nil {
			b.Fatal(err)
		}
	}
}

// What is no trace, or half of one, is said; nothing of it is a figure that JSON cannot hold but for those that were not there.
func FuzzRead(f *testing.F) {
	var out bytes.Buffer
	w, err := trace.NewWriter(&out, header)
	if err != nil {
		f.Fatal(err)
	}
	for i := range 50 {
		_ = w.Add(float64(i)/10, []float64{float64(i), math.NaN(), 7})
	}
	_ = w.Close()
	f.Add(out.Bytes())
	f.Add(out.Bytes()[:40])
	f.Fuzz(func(t *testing.T, raw []byte) {
		n := 0
		h, err := trace.Read(bytes.NewReader(raw), func(at float64, values []float64) error {
			n++
			if math.IsNaN(at) || math.IsInf(at, 0) {
				t.Fatalf("a time of %v", at)
			}
			for _, v := range values {
				if math.IsInf(v, 0) {
					t.Fatalf("a figure of %v", v)
				}
			}
			return nil
		})
		if err == nil && len(h.Columns) == 0 {
			t.Fatal("a trace without columns")
		}
	})
}
