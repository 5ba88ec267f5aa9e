package server

import (
	"bufio"
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"tingate/app/base"
)

// A bench over the API: what it needs first, set up, watched, commanded, its trace kept, ended.
func TestBenchOverTheAPI(t *testing.T) {
	srv, _ := serve(t)
	a := api{t, srv.URL, base.NewID()}
	place, drive := base.NewID(), base.NewID()
	a.call("POST", "/api/places",
		object{"id": place, "name": "By hand", "kind": "simulated", "zone": "UTC",
			"people": object{a.person: object{"initials": "MO", "trade": "fitter"}}}, 200)
	a.call("POST", "/api/drives",
		object{"id": drive, "place": place, "sets": sets("tag", "A-1", "rating.dialect", "Tarn", "rating.type", "TN4-016-F2K")}, 200)
	d := "/api/drives/" + drive
	if v := a.call("GET", d+"/bench?after=-1", nil, 200); at(v, "there") != false ||
		!strings.Contains(at(v, "missing").(string), "row in use") {
		t.Errorf("without a plate: %v", v)
	}
	a.call("POST", d+"/bench", object{}, 409)
	a.call("POST", d+"/bench/acts", object{"do": "run"}, 409)
	a.call("PATCH", d, object{"id": base.NewID(), "edit": "e",
		"sets": sets("motor.rows.r1.power", "7.5 kW", "motor.rows.r1.voltage", "400", "motor.rows.r1.current", "15.1",
			"motor.rows.r1.frequency", "50", "motor.rows.r1.speed", "1455", "motor.rows.r1.power_factor", "0.82", "motor.linked", "r1",
			"intent.load", "quadratic", "intent.load_torque", "70 %", "intent.command_source", "keypad", "intent.speed_source", "keypad")},
		200)
	a.call("POST", d+"/bench", object{"load_inertia_kgm2": -1}, 422)
	v := a.call("POST", d+"/bench", object{"load_inertia_kgm2": 0.2, "seed": 4}, 200)
	if at(v, "there") != true || !strings.HasPrefix(at(v, "address").(string), "127.0.0.1:") || at(v, "bench", "family") != "Tarn" {
		t.Fatalf("set up: %v", v)
	}
	for _, act := range []object{{"do": "line", "on": true}, {"do": "speed", "value": 30}, {"do": "faster", "value": 20}} {
		a.call("POST", d+"/bench/acts", act, 200)
	}
	for _, bad := range []object{{"do": "terminal", "n": 40}, {"do": "faster", "value": 1000}, {"do": "setting", "what": "9ZZ"},
		{"do": "break", "what": "all"}, {"do": "tune", "what": "quick"}, {"do": "leap"}} {
		a.call("POST", d+"/bench/acts", bad, 422)
	}
	watched := frames(t, srv.URL+d+"/bench/live")
	first := <-watched
	if first == nil || at(first, "there") != true {
		t.Fatalf("the first frame: %v", first)
	}
	end := time.Now().Add(20 * time.Second)
	until := func(what string, is func(map[string]any) bool) {
		t.Helper()
		for f := range watched {
			if is(f) {
				return
			}
			if time.Now().After(end) {
				t.Fatalf("%s: %v", what, at(f, "bench"))
			}
		}
		t.Fatalf("%s: the stream ended", what)
	}
	until("ready", func(f map[string]any) bool { return at(f, "bench", "state") == "switch_on_disabled" })
	a.call("POST", d+"/bench/acts", object{"do": "run"}, 200)
	until("up to speed", func(f map[string]any) bool { return at(f, "bench", "speed").(float64) > 850 })
	a.call("POST", d+"/bench/acts", object{"do": "hide", "n": 3}, 200)
	until("broken in secret", func(f map[string]any) bool {
		return at(f, "bench", "hidden").(float64) == 1 && len(at(f, "bench", "broken").([]any)) == 0
	})
	_, csv := request(t, "GET", srv.URL+d+"/bench/trace.csv", "", nil)
	if !strings.Contains(csv, "speed, r/min") || strings.Count(csv, "\n") < 20 {
		t.Errorf("trace: %.200s", csv)
	}
	v = a.call("POST", d+"/bench/traces", object{"id": base.NewID(), "name": "first run"}, 200)
	kept := at(v, "state", "attachments").([]any)
	if len(kept) != 1 || at(kept[0], "of") != "bench-trace" || at(kept[0], "name") != "first run" {
		t.Errorf("kept: %v", kept)
	}
	hash := at(kept[0], "sha256").(string)
	back := a.call("GET", "/api/traces/"+hash, nil, 200)
	times, values := at(back, "times").([]any), at(back, "values").([]any)
	if len(times) < 20 || len(values) != 6 || len(values[0].([]any)) != len(times) || at(back, "about", "seed") != "4" ||
		at(back, "every").(float64) != 1 {
		t.Errorf("opened: %d moments, %d columns, %v", len(times), len(values), at(back, "about"))
	}
	if _, table := request(t, "GET", srv.URL+"/api/traces/"+hash+"/table.csv", "",
		nil); !strings.HasPrefix(table, "\ufefftime, s") && !strings.Contains(table[:40], "time, s") ||
		strings.Count(table, "\n") != len(times)+1 {
		t.Errorf("as a table: %.120s", table)
	}
	a.call("GET", "/api/traces/"+strings.Repeat("0", 64), nil, 404)
	a.call("DELETE", d+"/bench", nil, 204)
	if v := a.call("GET", d+"/bench", nil, 200); at(v, "there") != false {
		t.Errorf("ended: %v", at(v, "there"))
	}
}

// frames reads an event stream of JSON until it ends.
func frames(t *testing.T, url string) <-chan map[string]any {
	t.Helper()
	res, err := http.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { res.Body.Close() })
	out := make(chan map[string]any, 4)
	go func() {
		defer close(out)
		s := bufio.NewScanner(res.Body)
		s.Buffer(make([]byte, 1<<20), 8<<20)
		for s.Scan() {
			data, ok := strings.CutPrefix(s.Text(), "data: ")
			if !ok {
				continue
			}
			var f map[string]any
			if json.Unmarshal([]byte(data), &f) != nil {
				return
			}
			select {
			case out <- f:
			case <-t.Context().Done():
				return
			}
		}
	}()
	return out
}
