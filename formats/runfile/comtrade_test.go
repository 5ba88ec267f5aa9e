package runfile_test

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strings"
	"testing"

	"tingate/formats/runfile"
	"tingate/testtools/check"
)

// config is a configuration as IEEE C37.111-2013, clause 7 lays it out (from memory): two analog channels, one digital.
func config(kind string) string {
	return "Works,recorder,2013\r\n3,2A,1D\r\n1,Speed,,,r/min,0.1,0,0,-32767,32767,1,1,P\r\n" +
		"2,IL1,A,,A,0.01,0,0,-32767,32767,1,1,P\r\n1,Run,,,0\r\n50\r\n1\r\n1000,4000\r\n28/11/2026,10:00:00.000000\r\n" +
		"28/11/2026,10:00:00.500000\r\n" + kind + "\r\n1\r\n0,0\r\nB,3\r\n"
}

// figures of a rise to 1450 r/min in 2 s, a current that alternates with an effective value of 10 A.
func figures(i int) (speed, current int16) {
	t := float64(i) / 1000
	return int16(10 * math.Min(1450, 725*t)), int16(100 * 10 * math.Sqrt2 * math.Sin(2*math.Pi*40*t))
}

func ascii() []byte {
	var b bytes.Buffer
	b.WriteString("--- file type: CFG ---\r\n" + config("ASCII") + "--- file type: DAT ASCII ---\r\n")
	for i := range 4000 {
		s, a := figures(i)
		fmt.Fprintf(&b, "%d,%d,%d,%d,1\r\n", i+1, i*1000, s, a)
	}
	return b.Bytes()
}

func binaryFile() []byte {
	var data bytes.Buffer
	for i := range 4000 {
		s, a := figures(i)
		if i == 17 {
			s = math.MinInt16 // missing
		}
		for _, v := range []any{int32(i + 1), uint32(math.MaxUint32), s, a, uint16(1)} {
			_ = binary.Write(&data, binary.LittleEndian, v)
		}
	}
	return append([]byte("--- file type: CFG ---\r\n"+config("BINARY")+fmt.Sprintf("--- file type: DAT BINARY: %d ---\r\n", data.Len())),
		data.Bytes()...)
}

func TestComtrade(t *testing.T) {
	for name, raw := range map[string][]byte{"ascii": ascii(), "binary": binaryFile()} {
		r, err := runfile.Read(raw, runfile.Columns{})
		if err != nil {
			t.Fatal(name, err)
		}
		if want := map[string]int{"ascii": 0, "binary": 1}[name]; r.Gaps != want || len(r.T) != 4000-want {
			t.Errorf("%s: %d samples, %d gaps", name, len(r.T), r.Gaps)
		}
		m, ok := r.Times()
		if !ok {
			t.Fatal(name, "nothing turns")
		}
		check.Against(t, name+": rise to 97 % of 1450 r/min at 725 r/min/s, s",
			"IEEE C37.111 layout (from memory); 0.97 · 2 s from 2 %, by hand", m.Rise, .95*2, .01)
		check.Against(t, name+": its current of 14.14 A in the peak, effective", "amplitude over √2, by hand", r.Current[3000], 10, .02)
	}
	whole := string(ascii())
	for bad, want := range map[string]string{
		"--- file type: CFG ---\r\n" + config("ASCII"): "CFG and DAT",
		strings.Replace(whole, "3,2A,1D", "3,2A",
			1): "numbers of channels",
		strings.Replace(whole, "1000,4000", "fast,4000",
			1): "samples a second",
		strings.Replace(strings.Replace(whole, "1,Speed,,,r/min", "1,Level,,,m", 1), "DAT ASCII", "DAT ASCII",
			1): "a channel for the speed",
		strings.Replace(whole, "--- file type: DAT ASCII", "--- file type: DAT WAX",
			1): "ASCII, BINARY",
		"--- file type: CFG ---\r\n" + config("BINARY") +
			"--- file type: DAT BINARY: 4 ---\r\nabcd": "at least one sample",
		strings.Replace(whole, "\r\n2,1000,", "\r\n2\r\n", 1): "2 values",
		"--- file type: CFG ---\r\nWorks,recorder,2013\r\n9999999,9999999A,0D\r\n--- file type: DAT ASCII " +
			"---\r\n1,0,1\r\n": "numbers of channels",
	} {
		if _, err := runfile.Read([]byte(bad), runfile.Columns{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.60q: %v, want %s", bad, err, want)
		}
	}
	if r, err := runfile.Read(ascii(), runfile.Columns{Speed: "2", Current: "1"}); err != nil || r.Current[3999] < 1400 {
		t.Errorf("by number: %v", err)
	}
}

func FuzzComtrade(f *testing.F) {
	f.Add(ascii()[:2000])
	f.Add(binaryFile()[:1000])
	f.Fuzz(func(t *testing.T, raw []byte) {
		r, err := runfile.Read(append([]byte("--- file type: CFG ---\n"), raw...), runfile.Columns{Poles: 4})
		if err == nil && len(r.T) != len(r.Speed) {
			t.Fatal("uneven")
		}
	})
}

func FuzzRun(f *testing.F) {
	f.Add(
		[]byte(
			"t;speed;current\n0;0;0\n0,5;0;3\n1;300;12\n2;700;12,5\n3;1100;12,5\n4;1450;12\n5;1450;12\n6;1450;12\n7;1000;9\n8;500;9\n"+
				"9;0;0\n10;0;0\n",
		),
		"",
		"",
		"",
	)
	f.Add([]byte("1,2,3\n"), "1", "2", "0")
	f.Fuzz(func(t *testing.T, raw []byte, time, speed, current string) {
		r, err := runfile.Read(raw, runfile.Columns{Time: time, Speed: speed, Current: current, Poles: 4})
		if err == nil && (len(r.T) != len(r.Speed) || len(r.T) != len(r.Current)) {
			t.Fatal("uneven")
		}
		if err == nil {
			r.Times()
		}
	})
}
