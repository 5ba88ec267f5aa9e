package calc

import (
	"encoding/json"
	"strings"
	"testing"
)

func TestSTOContract(t *testing.T) {
	out := run(
		t,
		"sto",
		`{"discrepancy_s":0.5,"latched":true,"initial":{"a":true,"b":true,"power":true},"events":[{"t_s":1,"set":{"run":true}},{"t_s":2,"set":{"a":false,"b":false}},{"t_s":3,"set":{"a":true,"b":true}},{"t_s":4,"set":{"reset":true}},{"t_s":5,"set":{"reset":false,"run":false}},{"t_s":6,"set":{"run":true}}],"sample_at_s":[6.5,0.5,1.5,2,3.5,4.5,5.5]}`,
	)
	b, _ := json.Marshal(out["states"])
	want := `[{"state":"running","t_s":6.5,"torque":true},{"state":"ready","t_s":0.5,"torque":false},{"state":"running","t_s":1.5,"torque":true},{"state":"torque-off","t_s":2,"torque":false},{"state":"reset-required","t_s":3.5,"torque":false},{"state":"restart-required","t_s":4.5,"torque":false},{"state":"ready","t_s":5.5,"torque":false}]`
	if string(b) != want {
		t.Errorf("got  %s\nwant %s", b, want)
	}
	// A channel that is late by more than the limit, seen between two events: what time does comes before what happens.
	if got := text(
		t,
		"sto",
		`{"discrepancy_s":0.5,"events":[{"t_s":1,"set":{"a":false}},{"t_s":2,"set":{"a":true}}],"sample_at_s":[1.2,1.6,2.1]}`,
	); !strings.Contains(
		got,
		`{"state":"discrepancy","t_s":1.2,"torque":false},{"state":"channel-fault","t_s":1.6,"torque":false},{"state":"channel-fault","t_s":2.1`,
	) {
		t.Error(got)
	}
	if got := text(t, "sto", `{"discrepancy_s":0.5,"automatic_restart":true,"device_kind":"guard","events":[]}`); !strings.Contains(got,
		`"automatic-restart"`) {
		t.Error(got)
	}
	for in, want := range map[string]string{`{}`: "discrepancy_s", `{"discrepancy_s":1,"events":[{"t_s":2},{"t_s":1}]}`: "events[1].t_s",
		`{"discrepancy_s":1,"reset_edge":"up"}`: "falling", `{"discrepancy_s":1,"initial":{"c":true}}`: "initial.c"} {
		if got := text(t, "sto", in); !strings.Contains(got, want) {
			t.Errorf("%s: %s", in, got)
		}
	}
}
