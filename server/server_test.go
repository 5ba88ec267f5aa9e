package server

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"time"

	"tingate/app"
	"tingate/app/base"
	"tingate/demo"
	"tingate/store"
)

func serve(t *testing.T) (*httptest.Server, *app.App) {
	t.Helper()
	s, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	a := app.New(s, time.Now, "test")
	if err := demo.Fill(context.Background(), a, 0); err != nil {
		t.Fatal(err)
	}
	base, cancel := context.WithCancel(context.Background())
	srv := httptest.NewServer(Handler(base, a, "test"))
	t.Cleanup(func() { cancel(); srv.Close(); _ = s.Close() })
	return srv, a
}

func request(t *testing.T, method, url string, body string, headers map[string]string) (*http.Response, string) {
	t.Helper()
	r, err := http.NewRequest(method, url, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	for k, v := range headers {
		if k == "Host" {
			r.Host = v
		}
		r.Header.Set(k, v)
	}
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	return res, string(b)
}

func TestOnlyLoopbackNamesAndOneOwnOrigin(t *testing.T) {
	srv, _ := serve(t)
	if res, _ := request(t, "GET", srv.URL+"/healthz", "", nil); res.StatusCode != 200 || res.Header.Get("Content-Security-Policy") == "" {
		t.Errorf("healthz: %d", res.StatusCode)
	}
	if res, _ := request(t, "GET", srv.URL+"/healthz", "", map[string]string{"Host": "panel.example"}); res.StatusCode != 421 {
		t.Errorf("a foreign Host: %d", res.StatusCode)
	}
	if res, _ := request(t, "POST", srv.URL+"/api/calc/plate", "{}",
		map[string]string{"Origin": "https://elsewhere.example", "Sec-Fetch-Site": "cross-site"}); res.StatusCode != 403 {
		t.Errorf("a cross-origin write: %d", res.StatusCode)
	}
}

func TestProblemsNameFieldGotAndWant(t *testing.T) {
	srv, a := serve(t)
	places, err := a.Places(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	person := ""
	for id := range places[0].Place.People {
		person = id
	}
	page, err := a.Yard(context.Background(), store.YardQuery{Place: places[0].ID, Text: "DD-02"})
	if err != nil {
		t.Fatal(err)
	}
	drive := srv.URL + "/api/drives/" + page.Rows[0].ID
	as := map[string]string{"X-Tingate-Person": person, "Content-Type": "application/json"}
	edit := func(body string) string { return `{"id":"` + base.NewID() + `","edit":"e","sets":` + body + `}` }
	for _, c := range []struct {
		method, url, body string
		status            int
		want              string
	}{
		{"PATCH", drive, edit(`[{"path":"colour","text":"x"}]`), 422, `"field":"colour","got":"colour","want":"a field of a drive"`},
		{"PATCH", drive, edit(`[{"path":"notes","text":"x","seen":"other"}]`), 409, `"theirs":""`},
		{"PATCH", drive + "?more=true", edit(`[{"path":"colour","text":"x"}]`), 422, `"field":"colour"`},
		{"PATCH", drive + "?more=true", edit(`[{"path":"notes","text":"not yet told"}]`), 202, `null`},
		{"GET", drive, "", 200, `"notes":"not yet told"`},
		{"PATCH", drive, `{"id":`, 400, `"status":400`},
		{"PATCH", drive, edit(`"nope"`), 422, `"field":"sets"`},
		{"GET", srv.URL + "/api/drives/" + base.NewID(), "", 404, "nothing of this id"},
		{"GET", srv.URL + "/api/nowhere", "", 404, "no such path"},
		{"GET", drive + "?colour=1", "", 422, "colour"},
		{"POST", srv.URL + "/api/import", "PK not a zip", 409, "no whole zip"},
		{"POST", srv.URL + "/api/calc/nope", "{}", 404, "plate"},
		{"POST", srv.URL + "/api/calc/plate", "{", 400, "unreadable"},
		{"POST", srv.URL + "/api/calc/plate", `[{"amps":1},{"speed_rpm":1455,"frequency_hz":50}]`, 200, `"poles":4`},
		{"GET", srv.URL + "/assets/missing.js", "", 404, ""},
		{"GET", drive + "/record.pdf", "", 200, "%PDF"},
		{"GET", drive + "/sheet.csv", "", 200, "Motor current"},
	} {
		res, body := request(t, c.method, c.url, c.body, as)
		if res.StatusCode != c.status || !strings.Contains(body, c.want) {
			t.Errorf("%s %s %s: %d %s", c.method, c.url, c.body, res.StatusCode, body[:min(len(body), 300)])
		}
		if c.status == 422 && res.Header.Get("Content-Type") != "application/problem+json" {
			t.Errorf("content type %s", res.Header.Get("Content-Type"))
		}
	}
	if res, _ := request(t, "PATCH", drive, `{"id":"`+strings.Repeat("x", 2<<20)+`"}`, as); res.StatusCode != 413 {
		t.Errorf("2 MB of JSON: %d", res.StatusCode)
	}
}

func TestEventStreamSendsNumberedChanges(t *testing.T) {
	srv, a := serve(t)
	places, err := a.Places(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	r, _ := http.NewRequest("GET", srv.URL+"/api/events", nil)
	r.Header.Set("Last-Event-ID", "0")
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	buf := make([]byte, 4096)
	n, err := io.ReadAtLeast(res.Body, buf, 200)
	if err != nil || !bytes.Contains(buf[:n], []byte("id: 1\nevent: changed\ndata: {\"doc\":\""+places[0].ID)) {
		t.Errorf("%v %s", err, buf[:n])
	}
}

// The committed API description is what the Go types say.
func TestOpenAPIHasNotDrifted(t *testing.T) {
	b, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	want, err := os.ReadFile("openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	var x, y any
	if json.Unmarshal(b, &x) != nil || json.Unmarshal(want, &y) != nil {
		t.Fatal("not JSON")
	}
	one, _ := json.Marshal(x)
	two, _ := json.Marshal(y)
	// The version of the program stands in the description and is not compared.
	if !bytes.Equal(one, two) {
		t.Error("server/openapi.json has drifted: run make types")
	}
}
