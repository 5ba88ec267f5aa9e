package server

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"tingate/app/base"
)

// api calls the server as the front end does.
type api struct {
	t      *testing.T
	base   string
	person string
}

func (a api) call(method, path string, body any, status int) map[string]any {
	a.t.Helper()
	raw := ""
	switch b := body.(type) {
	case nil:
	case string:
		raw = b
	default:
		j, err := json.Marshal(b)
		if err != nil {
			a.t.Fatal(err)
		}
		raw = string(j)
	}
	res, text := request(a.t, method, a.base+path, raw,
		map[string]string{"X-Tingate-Person": a.person, "X-Tingate-Device": "tablet", "Content-Type": "application/json"})
	if res.StatusCode != status {
		a.t.Fatalf("%s %s: %d, want %d: %s", method, path, res.StatusCode, status, text[:min(len(text), 400)])
	}
	var out map[string]any
	if strings.HasPrefix(text, "{") {
		if err := json.Unmarshal([]byte(text), &out); err != nil {
			a.t.Fatal(err)
		}
	}
	return out
}

type object = map[string]any

func sets(list ...string) []object {
	var out []object
	for i := 0; i+1 < len(list); i += 2 {
		out = append(out, object{"path": list[i], "text": list[i+1]})
	}
	return out
}

func at(v any, keys ...string) any {
	for _, k := range keys {
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		v = m[k]
	}
	return v
}

// Every route, as a browser would walk it, on a place of its own.
func TestEveryRouteFromAnEmptyPlace(t *testing.T) {
	srv, _ := serve(t)
	a := api{t, srv.URL, base.NewID()}
	place, drive, like := base.NewID(), base.NewID(), base.NewID()
	a.call("POST", "/api/places",
		object{"id": place, "name": "By hand", "kind": "simulated", "zone": "UTC",
			"people": object{a.person: object{"initials": "MO", "trade": "fitter"}}}, 200)
	a.call("POST", "/api/places", object{"id": base.NewID(), "name": " ", "kind": "real", "zone": "UTC", "people": object{}}, 422)
	a.call("PATCH", "/api/places/"+place,
		object{"id": base.NewID(), "edit": "e", "sets": sets("supplies.p1.name", "Panel 1", "supplies.p1.frequency", "50 Hz")}, 200)
	a.call("POST", "/api/places/"+place+"/energy",
		object{"id": base.NewID(), "energy": object{"supply": "p1", "state": "live", "volts": []string{"400"}}}, 200)
	v := a.call("POST", "/api/drives",
		object{"id": drive, "place": place,
			"sets": sets("tag", "A-1", "rating.dialect", "Brae", "rating.current", "16", "supplies.p1", "true")}, 200)
	if at(v, "state", "energy", "state") != "live" || at(v, "drive", "tag") != "A-1" || at(v, "undo") != "" {
		t.Errorf("a new drive: %v", at(v, "state", "energy"))
	}
	a.call("POST", "/api/drives", object{"id": base.NewID(), "place": base.NewID(), "sets": sets()}, 422)
	row := "motor.rows." + base.NewID() + "."
	v = a.call("PATCH", "/api/drives/"+drive,
		object{"id": base.NewID(), "edit": "plate",
			"sets": sets(row+"connection", "star", row+"voltage", "400", row+"frequency", "50", row+"power", "7.5 kW", row+"current",
				"15.5", row+"speed", "1455", row+"power_factor", "0.83")}, 200)
	if at(v, "state", "poles") != 4.0 ||
		at(v, "undo") != "Motor current and 6 more" && !strings.Contains(at(v, "undo").(string), "and 6 more") {
		t.Errorf("%v poles, undo %v", at(v, "state", "poles"), at(v, "undo"))
	}
	d := "/api/drives/" + drive
	a.call("POST", d+"/decisions", object{"id": base.NewID(), "type": "confirm", "key": "plate/poles/confirmed"}, 200)
	a.call("POST", d+"/decisions", object{"id": base.NewID(), "type": "dance", "key": "x"}, 422)
	a.call("POST", d+"/decisions", object{"id": base.NewID(), "type": "pass", "key": "plate"}, 409)
	a.call("POST", d+"/decisions",
		object{"id": base.NewID(), "type": "waive", "key": "plate/readback/settings", "reason": "the terminal is lent out"}, 200)
	v = a.call("POST", d+"/decisions", object{"id": base.NewID(), "type": "pass", "key": "plate"}, 200)
	for _, g := range at(v, "state", "gates").([]any) {
		if at(g, "key") == "plate" && at(g, "mark") != "passed" {
			t.Errorf("%v", g)
		}
	}
	reading := base.NewID()
	a.call("POST", d+"/readings", object{"id": reading, "code": "motor.current", "text": "15.50"}, 200)
	a.call("POST", d+"/withdrawals", object{"id": base.NewID(), "entry": reading, "reason": "another drive"}, 200)
	a.call("POST", d+"/readings.csv", "code,value\nmotor.current,15.50\n", 200)
	a.call("POST", d+"/snapshots", object{"id": base.NewID(), "name": "as-planned"}, 200)
	v = a.call("POST", d+"/snapshots", object{"id": base.NewID(), "name": "as-found"}, 200)
	snaps := at(v, "state", "snapshots").([]any)
	a.call("GET", d+"/compare?a="+at(snaps[0], "id").(string)+"&b="+at(snaps[1], "id").(string), nil, 200)
	a.call("GET", d+"/compare?a=x&b=y", nil, 422)
	a.call("GET", d+"/compare?a=x", nil, 422)
	a.call("GET", d+"/move?to=Tarn&current=20+A", nil, 200)
	a.call("GET", d+"/move?to=Nobody", nil, 422)
	a.call("GET", d+"/move?to=Tarn&current=lots", nil, 422)
	a.call("POST", d+"/undo", object{"id": base.NewID()}, 200)
	a.call("POST", d+"/undo", object{"id": base.NewID()}, 409)
	a.call("POST", d+"/link/read", object{}, 409)
	if p := a.call("GET", d+"/link", nil, 200); p["total"] != 0.0 {
		t.Errorf("nothing is under way: %v", p)
	}
	a.call("POST", d+"/link/write", object{"id": base.NewID(), "code": "motor.current"}, 409)
	a.call("POST", "/api/drives", object{"id": like, "place": place, "copy_from": drive, "sets": sets("tag", "A-2")}, 200)
	a.call("POST", d+"/attachments?entry="+base.NewID()+"&name=x.png&of=motor-plate", "\x89PNG\r\n\x1a\n0000", 200)
	v = a.call("GET", d, nil, 200)
	kept := at(v, "state", "attachments").([]any)
	if len(kept) != 1 {
		t.Fatalf("%v", kept)
	}
	res, _ := request(t, "GET", srv.URL+"/api/attachments/"+at(kept[0], "sha256").(string), "", nil)
	if res.Header.Get("Content-Type") != "image/png" {
		t.Errorf("attachment: %s", res.Header.Get("Content-Type"))
	}
	a.call("GET", "/api/attachments/none", nil, 404)
	a.call("GET", "/api/families", nil, 200)
	a.call("GET", d+"/history", nil, 200)
	if y := a.call("GET", "/api/places/"+place+"/yard?q=a-2", nil, 200); len(at(y, "rows").([]any)) != 1 {
		t.Errorf("%v", y)
	}
	a.call("GET", "/api/places/"+place+"/yard?filter=moon", nil, 422)
	_, one := request(t, "GET", srv.URL+"/api/places/"+place+"/bundle.zip", "", nil)
	other, _ := serve(t)
	b := api{t, other.URL, a.person}
	if r := b.call("POST", "/api/import", one, 200); r["added"] != 2.0 {
		t.Errorf("%v", r)
	}
	if _, two := request(t, "GET", other.URL+"/api/places/"+place+"/bundle.zip", "", nil); two != one {
		t.Error("exported again by another server, the bundle differs")
	}
	_, drv := request(t, "GET", srv.URL+d+"/bundle.zip", "", nil)
	if r := b.call("POST", "/api/import", drv, 200); r["same"] != 1.0 {
		t.Errorf("%v", r)
	}
}

func TestThePageSaysHowToBuildItOrIsServed(t *testing.T) {
	srv, _ := serve(t)
	for _, path := range []string{"/", "/drives/x/plate"} {
		res, body := request(t, http.MethodGet, srv.URL+path, "", nil)
		if res.StatusCode != 200 || !strings.Contains(body, "make build") && !strings.Contains(body, `id="root"`) ||
			res.Header.Get("Cache-Control") != "no-cache" {
			t.Errorf("%s: %d %s", path, res.StatusCode, body[:min(len(body), 200)])
		}
	}
	if res, _ := request(t, http.MethodPost, srv.URL+"/drives/x/plate", "{}", nil); res.StatusCode != 405 {
		t.Errorf("a post to the page: %d", res.StatusCode)
	}
}
