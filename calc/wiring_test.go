package calc

import (
	"strings"
	"testing"

	"tingate/testtools/check"
)

func TestEncoderContract(t *testing.T) {
	out := run(t, "encoder", `{"lines":1024,"speed_rpm":3000,"counts":4100,"turns":1,"turned":"right-way","counted":"up"}`)
	check.Against(t, "counts of a 1024-line encoder in one turn", "common practice", num(t, out, "counts_per_turn"), 4096, 1e-9)
	check.Against(t, "1024 lines at 3000 r/min, Hz of one channel", "by hand: 1024 · 50", num(t, out, "frequency_hz"), 51200, 1e-9)
	if out["closed_loop"] != true || len(codes(out, "stop", "look")) > 0 {
		t.Errorf("a sound first turn: %v", out)
	}
	for in, want := range map[string]string{
		`{"lines":1024,"turned":"right-way","counted":"down"}`: `"swap_leads":false,"swap_pairs":true`,
		`{"lines":1024,"turned":"wrong-way","counted":"down"}`: `"swap_leads":true,"swap_pairs":false`,
		`{"lines":1024,"turned":"wrong-way","counted":"up"}`:   `"swap_leads":true,"swap_pairs":true`,
		`{"lines":1024,"counts":10010,"turns":1}`:              `encoder-lines`,
		`{"lines":0}`: `"field":"lines"`, `{"lines":5,"counts":3}`: `"field":"turns"`,
		`{"lines":5,"turned":"left"}`: `right-way, wrong-way`,
	} {
		if got := text(t, "encoder", in); !strings.Contains(got, want) {
			t.Errorf("%s: no %s in %s", in, want, got)
		}
	}
}

func TestWireBudgetContract(t *testing.T) {
	out := run(
		t,
		"wire-budget",
		`{"supply_v":10,"supply_ma":10,"loads":[{"name":"pot","ohm":4700},{"name":"input","ohm":20000,"number":2}]}`,
	)
	check.Against(t, "4.7 kΩ and two of 20 kΩ on 10 V, mA", "Ohm's law, by hand", num(t, out, "drawn_ma"), 3.12766, 1e-5)
	if len(codes(out, "stop", "look")) > 0 {
		t.Errorf("%v", out)
	}
	if got := codes(run(t, "wire-budget", `{"supply_v":24,"supply_ma":150,"loads":[{"ma":6,"number":9},{"ma":100}]}`),
		"stop"); len(got) != 1 || got[0] != "supply-overloaded" {
		t.Errorf("154 of 150 mA: %v", got)
	}
	for in, want := range map[string]string{`{"supply_ma":5}`: "supply_v",
		`{"supply_v":24,"supply_ma":5,"loads":[{"ma":1},{"name":"x"}]}`: "loads[1].ma",
		`{"supply_v":24,"supply_ma":5,"loads":[{"ma":1,"number":-1}]}`:  "loads[0].number"} {
		if got := text(t, "wire-budget", in); !strings.Contains(got, want) {
			t.Errorf("%s: no %s in %s", in, want, got)
		}
	}
}
