package server

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/app/benches"
	"tingate/app/exchange"
	"tingate/app/yard"
	"tingate/demo"
	"tingate/formats/bundle"
	"tingate/formats/familyfile"
	"tingate/store"
	"tingate/testtools/raced"
	"tingate/testtools/trials"
)

// hostile is a server of the demo plant, and who works there.
type hostile struct {
	t            *testing.T
	srv          *httptest.Server
	a            *app.App
	place, drive string
	as           map[string]string
}

func newHostile(t *testing.T) *hostile {
	srv, a := serve(t)
	h := &hostile{t: t, srv: srv, a: a}
	places, err := a.Places(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	h.place = places[0].ID
	for id := range places[0].Place.People {
		h.as = map[string]string{"X-Tingate-Person": id, "X-Tingate-Device": "test"}
	}
	page, err := a.Yard(context.Background(), store.YardQuery{Place: h.place, Limit: 50})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range page.Rows { // one that everything can be taken in for: its plan rides, its stop circuit is drawn
		ride, err := a.SpanRide(context.Background(), r.ID, benches.SpanTry{})
		if err != nil || ride.Missing != "" {
			continue
		}
		if b, err := a.StopJSON(context.Background(), r.ID); err == nil && len(b) > 100 {
			h.drive = r.ID
		}
	}
	if h.drive == "" {
		t.Fatal("no drive of the demo plant has all of it")
	}
	return h
}

// send sends a body and fails on an answer 500, and on none within five seconds.
func (h *hostile) send(what, method, path, typ string, body []byte) (int, []byte) {
	h.t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), answerWithin())
	defer stop()
	r, err := http.NewRequestWithContext(ctx, method, h.srv.URL+path, bytes.NewReader(body))
	if err != nil {
		h.t.Fatal(err)
	}
	for k, v := range h.as {
		r.Header.Set(k, v)
	}
	r.Header.Set("Content-Type", typ)
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		h.t.Errorf("%s: %s %s: no answer: %v", what, method, path, err)
		return 0, nil
	}
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	if err != nil {
		h.t.Errorf("%s: %s %s: cut off: %v", what, method, path, err)
	}
	if res.StatusCode >= 500 {
		h.t.Errorf("%s: %s %s: %d %.300s", what, method, path, res.StatusCode, out)
	}
	return res.StatusCode, out
}

// answerWithin is how long an answer may take; the race detector makes everything slower.
func answerWithin() time.Duration {
	if raced.On {
		return 60 * time.Second
	}
	return 5 * time.Second
}

// whole looks at a place as its screens do: nothing that came in may break them.
func (h *hostile) whole(what, place string) {
	h.t.Helper()
	if place == h.place {
		h.screens(what, h.drive)
		return
	}
	_, out := h.send(what, "GET", "/api/places/"+place+"/yard?filter=all", "", nil)
	var page yard.YardPage
	if json.Unmarshal(out, &page) != nil {
		return
	}
	for _, r := range page.Rows {
		h.screens(what, r.ID)
	}
}

// screens asks for what the screens of a drive ask for.
func (h *hostile) screens(what, drive string) {
	h.t.Helper()
	for _, path := range []string{"", "/history", "/record.pdf", "/settings", "/wiring", "/stop",
		"/span/ride?rise_s=0&fall_s=0&resistor_ohm=0", "/signal/scaling", "/bundle.zip"} {
		h.send(what, "GET", "/api/drives/"+drive+path, "", nil)
	}
}

// mutated changes a sample at a few places: bits, bytes, pieces cut, doubled, moved, numbers made huge, brackets and quotes.
func mutated(rng *rand.Rand, sample []byte) []byte {
	b := bytes.Clone(sample)
	for range 1 + rng.IntN(4) {
		if len(b) == 0 {
			return b
		}
		at := rng.IntN(len(b))
		end := min(len(b), at+1+rng.IntN(40))
		switch rng.IntN(9) {
		case 0:
			b[at] ^= 1 << rng.IntN(8)
		case 1:
			b[at] = byte(rng.IntN(256))
		case 2:
			b = append(b[:at:at], b[end:]...)
		case 3:
			b = append(b[:end:end], b[at:]...)
		case 4:
			b = b[:at]
		case 5:
			odd := []string{"1e309", "-0", "99999999999999999999", "NaN", "null", "[]", "{}", "\"\"", "\x00", "\xff\xfe", "15 .", "true",
				"\u202e", "../", "%s%n", "<script>"}
			b = append(b[:at:at], append([]byte(odd[rng.IntN(len(odd))]), b[at:]...)...)
		case 6:
			if m := number.FindIndex(b[at:]); m != nil {
				huge := []string{"0", "-1", "1e308", "2147483648", "-9223372036854775808", "0.0000000001", "7777777"}[rng.IntN(7)]
				b = append(b[:at+m[0]:at+m[0]], append([]byte(huge), b[at+m[1]:]...)...)
			}
		case 7:
			piece := bytes.Clone(b[at:end])
			to := rng.IntN(len(b))
			b = append(b[:to:to], append(piece, b[to:]...)...)
		case 8:
			b = append(b[:at:at], append(bytes.Repeat(b[at:end], 1+rng.IntN(200)), b[end:]...)...)
		}
	}
	return b
}

var number = regexp.MustCompile(`[0-9]+`)

// small is a bundle of one drive, as a sample whose ids can be made new.
func small(t *testing.T) []byte {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	a := app.New(s, time.Now, "test")
	if err := demo.Fill(context.Background(), a, 0); err != nil {
		t.Fatal(err)
	}
	places, err := a.Places(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	page, err := a.Yard(context.Background(), store.YardQuery{Place: places[0].ID, Text: "SP-03"})
	if err != nil || len(page.Rows) != 1 {
		t.Fatal(err, len(page.Rows))
	}
	var out bytes.Buffer
	if err := a.ExportTo(context.Background(), &out, places[0].ID, exchange.Selection{Drive: page.Rows[0].ID}); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

var uuid = regexp.MustCompile(`[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}`)

// strange takes a bundle apart, gives all its ids another beginning, mutates one file, and packs it with the right hashes.
func strange(t *testing.T, rng *rand.Rand, raw []byte) (out []byte, place string) {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	head := []byte(fmt.Sprintf("%08x", rng.Uint32()))
	files := map[string][]byte{}
	var names []string
	for _, f := range z.File {
		if f.Name == "manifest.json" {
			continue
		}
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		name := f.Name
		if !strings.HasPrefix(name, "attachments/") {
			anew := func(id []byte) []byte { return append(bytes.Clone(head), id[8:]...) }
			b = uuid.ReplaceAllFunc(b, anew)
			name = string(uuid.ReplaceAllFunc([]byte(name), anew))
		}
		files[name] = b
		names = append(names, name)
	}
	var id struct {
		ID string `json:"id"`
	}
	if err := json.Unmarshal(files["place.json"], &id); err != nil {
		t.Fatal(err)
	}
	var drive string
	for _, n := range names {
		if strings.HasPrefix(n, "drives/") {
			drive = n
		}
	}
	target := drive
	if rng.IntN(6) == 0 {
		target = names[rng.IntN(len(names))]
	}
	files[target] = mutated(rng, files[target])
	later := map[string][]byte{}
	var b bytes.Buffer
	for n, f := range files {
		if n > "manifest.json" {
			later[n] = f
		}
	}
	w, err := bundle.NewWriter(&b, later)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range names { // in the order in which they stood; the new beginning is the same for all
		if n < "manifest.json" {
			if err := w.Add(n, files[n]); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes(), id.ID
}

// 2,000 mutations of a sample of every format that comes in: no answer 500, none later than five seconds, no more than 512 MB, and every
// screen of what was taken still answers.
func TestMutatedFilesOfEveryFormat(t *testing.T) {
	raced.Skip(t)
	rng := rand.New(rand.NewPCG(16, 5))
	// A new data folder every 200: what hundreds of imports heap up in one place is another matter than what one of them does.
	for n, from := trials.N(t, 2000), 0; from < n; from += 200 {
		t.Run(fmt.Sprintf("from %d", from), func(t *testing.T) { mutate(t, rng, from, min(from+200, n)) })
		if t.Failed() {
			return
		}
	}
}

// mutate sends the trials of a range to a data folder of its own.
func mutate(t *testing.T, rng *rand.Rand, from, to int) {
	t.Helper()
	h := newHostile(t)
	d := "/api/drives/" + h.drive
	photo := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR"), make([]byte, 300)...)
	practice, err := os.ReadFile("../formats/practicefile/practices/turn-first.yaml")
	if err != nil {
		t.Fatal(err)
	}
	comtrade := "--- file type: CFG " +
		"---\r\nWorks,recorder,2013\r\n2,2A,0D\r\n1,speed,,,r/min,1,0,0,-32767,32767,1,1,P\r\n" +
		"2,current,,,A,0.01,0,0,-32767,32767,1,1,P\r\n50\r\n1\r\n2,12\r\n24/11/2026,10:00:00.000\r\n24/11/2026,10:00:00.000\r\n" +
		"ASCII\r\n1\r\n--- file type: DAT ASCII ---\r\n1,0,0,0\r\n2,500000,0,300\r\n3,1000000,300,310\r\n4,1500000,700,310\r\n" +
		"5,2000000,1100,310\r\n6,2500000,1450,310\r\n7,3000000,1450,310\r\n8,3500000,1450,310\r\n9,4000000,900,210\r\n" +
		"10,4500000,400,210\r\n11,5000000,0,0\r\n12,5500000,0,0\r\n"
	sheet := get2(t, h, d+"/sheet.csv")
	wires := get2(t, h, d+"/wiring.csv")
	own := small(t)
	circuit := get2(t, h, d+"/stop.json")
	run := []byte(
		"t;speed;current\n0;0;0\n0,5;0;3\n1;300;12\n2;700;12,5\n3;1100;12,5\n4;1450;12\n5;1450;12\n6;1450;12\n7;1000;9\n8;500;9\n" +
			"9;0;0\n10;0;0\n",
	)
	api := []struct{ method, path, body string }{
		{
			"PATCH",
			d,
			`{"id":"%id","edit":"%id","sets":[{"path":"motor.rows.r1.current","text":"15.5 A"},{"path":"notes","text":"x","seen":""}],"typed":"2026-11-25T10:00:00Z"}`,
		},
		{"POST", d + "/readings", `{"id":"%id","code":"4D","text":"15.5"}`},
		{"POST", d + "/answers", `{"id":"%id","key":"match/arrived/damage","value":"confirmed","with":"M3 on 1000 V DC","reason":"x"}`},
		{"POST", d + "/decisions", `{"id":"%id","type":"waive","key":"match/arrived/damage","reason":"none at hand"}`},
		{"POST", d + "/temporary", `{"id":"%id","thing":{"what":"jumper","where":"X1","why":"trial","until":"noon"}}`},
		{"POST", "/api/places/" + h.place + "/locks", `{"id":"%id","lock":{"supply":"mcc-1","act":"on","key":"7"}}`},
		{"POST", "/api/places/" + h.place + "/energy",
			`{"id":"%id","energy":{"supply":"mcc-1","state":"live","volts":["398","399","400"],"note":"x"}}`},
		{
			"POST",
			"/api/calc/plate",
			`{"power_kw":7.5,"voltage_v":400,"current_a":15.1,"frequency_hz":50,"speed_rpm":1455,"power_factor":0.83}`,
		},
		{
			"POST",
			"/api/calc/ramp",
			`{"motor_inertia_kgm2":0.05,"load_inertia_kgm2":0.5,"load":"quadratic","load_torque_nm":40,"load_speed_rpm":1455,"motor_torque_nm":70,"from_rpm":0,"to_rpm":1455}`,
		},
	}
	// As they are, all of them are taken: what is refused below is refused for what was changed.
	for _, x := range []struct {
		path, typ string
		body      []byte
	}{{"/api/import", "application/zip", own},
		{"/api/families", "application/yaml", bytes.Replace(familyfile.Raw("Tarn"), []byte("name: Tarn"), []byte("name: Tern"), 1)},
		{"/api/practices", "application/yaml", bytes.Replace(practice, []byte("name: turn-first"), []byte("name: ours"), 1)},
		{d + "/readings.csv", "text/csv", sheet}, {d + "/wiring", "text/plain", wires}, {d + "/stop", "text/plain", circuit},
		{d + "/span/recorded?entry=" + base.NewID() + "&name=x", "text/plain", run},
		{d + "/span/recorded?entry=" + base.NewID() + "&name=x", "text/plain", []byte(comtrade)},
		{d + "/attachments?entry=" + base.NewID() + "&name=x&of=other", "application/octet-stream", photo}} {
		if status, out := h.send("as it is", "POST", x.path, x.typ, x.body); status != 200 {
			t.Errorf("%s: %d %.300s", x.path, status, out)
		}
	}
	taken := map[string]int{}
	tried := map[string]int{}
	for i := from; i < to; i++ {
		kind := []string{"bundle", "bundle in its parts", "family", "practice", "readings", "connections", "stop circuit", "run",
			"COMTRADE", "photo", "request"}[i%11]
		what := fmt.Sprintf("trial %d, %s", i, kind)
		status, place := 0, h.place
		switch kind {
		case "bundle":
			status, _ = h.send(what, "POST", "/api/import", "application/zip", mutated(rng, own))
		case "bundle in its parts":
			var raw []byte
			raw, place = strange(t, rng, own)
			status, _ = h.send(what, "POST", "/api/import", "application/zip", raw)
		case "family":
			status, _ = h.send(what, "POST", "/api/families", "application/yaml",
				bytes.Replace(mutated(rng, familyfile.Raw("Tarn")), []byte("name: Tarn"), []byte(fmt.Sprintf("name: T%d", i)), 1))
		case "practice":
			status, _ = h.send(what, "POST", "/api/practices", "application/yaml",
				bytes.Replace(mutated(rng, practice), []byte("name: turn-first"), []byte(fmt.Sprintf("name: p%d", i)), 1))
		case "readings":
			status, _ = h.send(what, "POST", d+"/readings.csv", "text/csv", mutated(rng, sheet))
		case "connections":
			status, _ = h.send(what, "POST", d+"/wiring", "text/plain", mutated(rng, wires))
		case "stop circuit":
			status, _ = h.send(what, "POST", d+"/stop", "text/plain", mutated(rng, circuit))
		case "run":
			status, _ = h.send(what, "POST", d+"/span/recorded?entry="+base.NewID()+"&name=x", "text/plain", mutated(rng, run))
		case "COMTRADE":
			status, _ = h.send(what, "POST", d+"/span/recorded?entry="+base.NewID()+"&name=x", "text/plain", mutated(rng, []byte(comtrade)))
		case "photo":
			status, _ = h.send(what, "POST", d+"/attachments?entry="+base.NewID()+"&name=x&of=other", "application/octet-stream",
				mutated(rng, photo))
		case "request":
			r := api[rng.IntN(len(api))]
			body := strings.ReplaceAll(r.body, "%id", base.NewID())
			status, _ = h.send(what, r.method, r.path, "application/json", mutated(rng, []byte(body)))
		}
		tried[kind]++
		if status == 200 {
			taken[kind]++
		}
		if status == 200 && kind != "request" || i%50 == 0 {
			h.whole(what, place)
		}
		if t.Failed() {
			t.FailNow()
		}
	}
	t.Logf("%d mutations; taken of tried: %v of %v; at most %d MB resident", to-from, taken, tried, resident(t))
	if mb := resident(t); mb > 512 && !raced.On {
		t.Errorf("%d MB resident at most", mb)
	}
}

// resident is the most memory that this process has held, MB.
func resident(t *testing.T) int {
	raw, err := os.ReadFile("/proc/self/status")
	if err != nil {
		return 0
	}
	for _, l := range strings.Split(string(raw), "\n") {
		if strings.HasPrefix(l, "VmHWM:") {
			kb, err := strconv.Atoi(strings.Fields(l)[1])
			if err != nil {
				t.Fatal(err)
			}
			return kb >> 10
		}
	}
	return 0
}

func get2(t *testing.T, h *hostile, path string) []byte {
	t.Helper()
	status, out := h.send("sample", "GET", path, "", nil)
	if status != 200 {
		t.Fatalf("%s: %d %.200s", path, status, out)
	}
	return out
}

// A panic is answered as a problem like any other failure, and the next request is served.
func TestAPanicIsAProblem(t *testing.T) {
	h := newHostile(t)
	res, body := request(t, "GET", h.srv.URL+"/api/drives/"+h.drive+"/boom", "", nil)
	if res.StatusCode != 404 {
		t.Errorf("%d %s", res.StatusCode, body)
	}
	base, cancel := context.WithCancel(context.Background())
	defer cancel()
	handler := Handler(base, nil, "test") // without an app every action panics
	rec := httptest.NewRecorder()
	r := httptest.NewRequest("GET", "http://127.0.0.1/api/drives/"+h.drive, nil)
	handler.ServeHTTP(rec, r)
	var p Problem
	if rec.Code != 500 || rec.Header().Get("Content-Type") != "application/problem+json" || json.Unmarshal(rec.Body.Bytes(), &p) != nil ||
		p.Status != 500 || !strings.Contains(p.Detail, "nothing of this was stored") {
		t.Errorf("%d %s %s", rec.Code, rec.Header().Get("Content-Type"), rec.Body)
	}
}

// What can run long says its bound.
func TestALongComputationSaysItsBound(t *testing.T) {
	h := newHostile(t)
	body := `{"voltage_v":400,"frequency_hz":1000000,"rated_frequency_hz":1000000,"poles":4,"rs_ohm":0.7,"rr_ohm":0.6,"xls_ohm":1,"xlr_ohm":1,"xm_ohm":30,"inertia_kgm2":0.05,"duration_s":600,"sample_s":0.01}`
	status, out := h.send("transient", "POST", "/api/calc/transient", "application/json", []byte(body))
	if status != 200 || !bytes.Contains(out, []byte("at most 20000000 steps")) {
		t.Errorf("%d %s", status, out)
	}
	many := "[" + strings.TrimSuffix(strings.Repeat(strings.Replace(strings.Replace(body, "1000000", "50", 2), `"duration_s":600`,
		`"duration_s":500`, 1)+",", 400), ",") + "]"
	ctx, stop := context.WithTimeout(context.Background(), 200*time.Millisecond)
	defer stop()
	r, err := http.NewRequestWithContext(ctx, "POST", h.srv.URL+"/api/calc/transient", strings.NewReader(many))
	if err != nil {
		t.Fatal(err)
	}
	if res, err := http.DefaultClient.Do(r); err == nil {
		res.Body.Close()
		t.Error("400 long runs within 200 ms")
	}
	status, _ = h.send("after it was stopped", "GET", "/api/drives/"+h.drive, "", nil)
	if status != 200 {
		t.Errorf("%d", status)
	}
}

// A body that does not come is cut off, and the connection with it.
func TestASlowBodyIsCutOff(t *testing.T) {
	b := &boundedBody{ReadCloser: io.NopCloser(strings.NewReader("x")), until: time.Now().Add(time.Hour),
		control: http.NewResponseController(httptest.NewRecorder())}
	if _, err := io.ReadAll(b); err != nil {
		t.Errorf("where no deadline can be set the body is read as it comes: %v", err)
	}
	var got error
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		b := &boundedBody{ReadCloser: r.Body, until: time.Now().Add(100 * time.Millisecond), control: http.NewResponseController(w)}
		_, got = io.ReadAll(b)
	}))
	pr, pw := io.Pipe()
	go func() {
		for range 50 {
			if _, err := pw.Write([]byte("x")); err != nil {
				return
			}
			time.Sleep(20 * time.Millisecond)
		}
		_ = pw.Close()
	}()
	res, err := http.Post(srv.URL, "text/plain", pr)
	if err == nil {
		res.Body.Close()
	}
	_ = pr.Close()
	srv.Close()
	if got == nil {
		t.Error("a byte every 20 ms was waited for to its end")
	}
}
