package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"tingate/app/base"
	"tingate/app/links"
	"tingate/app/yard"
	"tingate/bench/stand"
	"tingate/formats/familyfile"
	"tingate/store"
	"tingate/testtools/trials"
)

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "tingate-bin")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "tingate")
	if out, err := exec.Command("go", "build", "-trimpath", "-tags=nomsgpack", "-o", binary, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// running is the program as a process of its own.
type running struct {
	cmd  *exec.Cmd
	base string
}

func start(t *testing.T, args ...string) *running {
	t.Helper()
	cmd := exec.Command(binary, args...)
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	var stderr bytes.Buffer
	cmd.Stderr = &stderr
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		t.Fatalf("%v did not start: %v\n%s", args, err, stderr.String())
	}
	return &running{cmd, strings.TrimSpace(line)}
}

func (r *running) kill() {
	_ = r.cmd.Process.Kill() // it may have ended by itself
	_ = r.cmd.Wait()
}

func call(base, method, path, person string, body, answer any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	req, err := http.NewRequest(method, base+path, bytes.NewReader(raw))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Tingate-Person", person)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	if res.StatusCode != 200 {
		return fmt.Errorf("%d %s", res.StatusCode, b)
	}
	if answer == nil {
		return nil
	}
	return json.Unmarshal(b, answer)
}

// 200 times kill -9 while eight writers type, read and write to a drive: nothing acknowledged is lost, and a write whose
// outcome is not known is said to be so.
func TestKilledTwoHundredTimesNothingAcknowledgedIsLost(t *testing.T) {
	kills := trials.N(t, 200)
	drive := stand.New(familyfile.Find("Tarn"))
	if err := drive.Serve("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	defer drive.Stop()
	data := t.TempDir()
	rng := rand.New(rand.NewPCG(11, 12))
	person, place, id, row := base.NewID(), base.NewID(), base.NewID(), base.NewID()
	p := start(t, "serve", "--simulated", "--data", data, "--listen", "127.0.0.1:0")
	must := func(err error) {
		if err != nil {
			t.Fatal(err)
		}
	}
	must(call(p.base, "POST", "/api/places", person,
		map[string]any{"id": place, "name": "Kill", "kind": "simulated", "zone": "UTC",
			"people": map[string]any{person: map[string]string{"initials": "RH"}}}, nil))
	sets := []map[string]string{{"path": "tag", "text": "K-1"}, {"path": "rating.dialect", "text": "Tarn"},
		{"path": "link.address", "text": drive.Address()}}
	for f, v := range map[string]string{"connection": "star", "voltage": "400", "frequency": "50", "power": "7.5", "current": "15.5",
		"speed": "1455"} {
		sets = append(sets, map[string]string{"path": "motor.rows." + row + "." + f, "text": v})
	}
	must(call(p.base, "POST", "/api/drives", person, map[string]any{"id": id, "place": place, "sets": sets}, nil))

	acked := map[string]bool{} // entries acknowledged
	notes := 0                 // last text acknowledged
	var mu sync.Mutex
	write := func(k int) error {
		if err := call(p.base, "PATCH", "/api/drives/"+id, person,
			map[string]any{"id": base.NewID(), "edit": "amps", "sets": []map[string]string{{"path": "motor.rows." + row + ".current",
				"text": fmt.Sprintf("%d.%d", 10+k%9, k%10)}}}, nil); err != nil {
			return err
		}
		e := base.NewID()
		var res links.LinkResult
		err := call(p.base, "POST", "/api/drives/"+id+"/link/write", person, map[string]any{"id": e, "code": "4D"}, &res)
		if err == nil && res.Outcome == "held" {
			mu.Lock()
			acked[e] = true
			mu.Unlock()
		}
		return err
	}
	// A busy machine writes more slowly: the kills come by its own pace, so that they meet as much as on a quiet one.
	const usualPace = 30 // ms
	begun := time.Now()
	for k := range 3 {
		must(write(k))
	}
	pace := max(time.Since(begun)/3, usualPace*time.Millisecond)
	t.Logf("a value typed and written to the drive takes %v", pace)
	for k := range kills {
		var wg sync.WaitGroup
		stop := make(chan struct{})
		work := func(act func() error) {
			wg.Add(1)
			go func() {
				defer wg.Done()
				for {
					select {
					case <-stop:
						return
					default:
					}
					if act() != nil {
						return
					}
				}
			}()
		}
		n := notes
		work(func() error {
			n++
			err := call(p.base, "PATCH", "/api/drives/"+id, person,
				map[string]any{"id": base.NewID(), "edit": "kill", "sets": []map[string]string{{"path": "notes", "text": fmt.Sprint(n)}}},
				nil)
			if err == nil {
				mu.Lock()
				notes = n
				mu.Unlock()
			}
			return err
		})
		for i := range 6 {
			work(func() error {
				e := base.NewID()
				err := call(p.base, "POST", "/api/drives/"+id+"/readings", person,
					map[string]any{"id": e, "code": "4E", "text": fmt.Sprint(1450 + i)}, nil)
				if err == nil {
					mu.Lock()
					acked[e] = true
					mu.Unlock()
				}
				return err
			})
		}
		work(func() error { return write(k) })
		time.Sleep(time.Duration(4+rng.IntN(250)) * pace / usualPace)
		p.kill()
		close(stop)
		wg.Wait()
		p = start(t, "serve", "--simulated", "--data", data, "--listen", "127.0.0.1:0")
		var v base.View
		must(call(p.base, "GET", "/api/drives/"+id, person, map[string]any{}, &v))
		have := 0
		_, _ = fmt.Sscan(v.Drive.Notes, &have) // blank before the first
		if have < notes {
			t.Fatalf("kill %d: acknowledged %d, after the restart %d", k, notes, have)
		}
		notes = have
		holds, _ := drive.Value("4D")
		for _, l := range v.State.Lines {
			if l.Code == "4D" && l.Verdict != "not-known" && l.Read != nil && *l.Read.Steps != holds {
				t.Fatalf("kill %d: the drive holds %d, the record says %d and nothing says that it is not known", k, holds, *l.Read.Steps)
			}
		}
	}
	var history []yard.HistoryRow
	must(call(p.base, "GET", "/api/drives/"+id+"/history", person, map[string]any{}, &history))
	for _, h := range history {
		delete(acked, h.ID)
	}
	if len(acked) > 0 {
		t.Errorf("%d acknowledged entries are lost", len(acked))
	}
	p.kill()
	if _, err := store.Verify(context.Background(), data); err != nil {
		t.Error(err)
	}
	if drive.Writes() < kills/10 {
		t.Errorf("%d writes were taken by the drive in %d kills: the link was hardly tried", drive.Writes(), kills)
	}
	t.Logf("%d kills, %d lines of history, %d texts, %d writes taken by the drive", kills, len(history), notes, drive.Writes())
}

func run(t *testing.T, stdin string, args ...string) (string, int) {
	t.Helper()
	cmd := exec.Command(binary, args...)
	cmd.Stdin = strings.NewReader(stdin)
	out, err := cmd.CombinedOutput()
	status := 0
	var e *exec.ExitError
	if errors.As(err, &e) {
		status = e.ExitCode()
	} else if err != nil {
		t.Fatal(err)
	}
	return string(out), status
}

func TestTheProgramWithoutAScreen(t *testing.T) {
	sample, err := filepath.Abs("../../core/drivefile/testdata/drive-1.json")
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	bad := filepath.Join(dir, "bad.zip")
	if err := os.WriteFile(bad, []byte("PK\x03\x04 cut off"), 0o600); err != nil {
		t.Fatal(err)
	}
	busy := start(t, "serve", "--data", filepath.Join(dir, "busy"), "--listen", "127.0.0.1:0")
	defer busy.kill()
	for _, c := range []struct {
		stdin  string
		args   []string
		status int
		want   string
	}{
		{"", []string{"version"}, 0, "tingate 0."},
		{"", []string{"calc"}, 0, "ramp-convert"},
		{`{"frequency_hz":60,"speed_rpm":1660}`, []string{"calc", "plate"}, 0, `"poles":4`},
		{`[{"motor_current_a":1.4,"drive_rated_current_a":4.2},{"amps":1}]`, []string{"calc", "overload"}, 1, `"setting_pct":33.33`},
		{`{`, []string{"calc", "plate"}, 2, "unreadable JSON"},
		{`{}`, []string{"calc", "nope"}, 2, "there are: analog"},
		{"", []string{"calc", "plate", "--schema"}, 0, "json-schema.org"},
		{"", []string{"sheet", sample, "--dialect", "Brae"}, 0, "| motor.power | motor | Rated power | 10.06 | hp |"},
		{"", []string{"sheet", sample, "--out", "csv"}, 0, "6K,Page 6 — limits and protection,Motor overload,96,%"},
		{"", []string{"sheet", sample, "--out", "json"}, 0, `"set_to": "8.3 s"`},
		{"", []string{"sheet", sample, "--out", "doc"}, 1, "want csv, json or md"},
		{"", []string{"sheet", sample, "--dialect", "Nobody"}, 1, "one of Brae, Tarn"},
		{"", []string{"serve", "--listen", "0.0.0.0:7340"}, 1, "until there are accounts"},
		{"", []string{"serve", "--data", filepath.Join(dir, "x"), "--listen", strings.TrimPrefix(busy.base, "http://")}, 1,
			"Choose another with --listen"},
		{"", []string{"serve", "--data", filepath.Join(dir, "busy"), "--listen", "127.0.0.1:0"}, 1, busy.base},
		{"", []string{"import", bad, "--data", filepath.Join(dir, "busy")}, 1, busy.base},
		{"", []string{"import", bad, "--data", filepath.Join(dir, "y")}, 1, "no whole zip"},
		{"", []string{"import", "../../demo/skerrow-kelp-works.tingate.zip", "--data", filepath.Join(dir, "y")}, 0, "9 drives added"},
		{"", []string{"export", filepath.Join(dir, "out.zip"), "--data", filepath.Join(dir, "y")}, 0, ""},
		{"", []string{"export", filepath.Join(dir, "one.zip"), "--drive", "DD-02", "--data", filepath.Join(dir, "y")}, 0, ""},
		{"", []string{"export", filepath.Join(dir, "no.zip"), "--drive", "ZZ-99", "--data", filepath.Join(dir, "y")}, 1, "ZZ-99"},
		{"", []string{"import", filepath.Join(dir, "one.zip"), "--data", filepath.Join(dir, "z")}, 0, "1 drives added"},
		{"", []string{"check", "dialect", "../../formats/familyfile/families/tarn.yaml"}, 0, "no fault found"},
		{"", []string{"check", "dialect", "--schema"}, 0, "\"word_order\""},
		{"", []string{"check", "dialect"}, 1, "want a family's file"},
		{"", []string{"bench", "--size", "TN9", "--listen", "127.0.0.1:0"}, 1, "a size of Tarn"},
		{"", []string{"bench", "--listen", "10.0.0.1:5020"}, 1, "loopback"},
		{"", []string{"bench", "--set", "4D=9999", "--listen", "127.0.0.1:0"}, 1, "want 0.1 to 200.0 A"},
	} {
		out, status := run(t, c.stdin, c.args...)
		if status != c.status || !strings.Contains(out, c.want) {
			t.Errorf("tingate %v: exit %d, want %d with %q:\n%s", c.args, status, c.status, c.want, out[:min(len(out), 600)])
		}
	}
	one, _ := os.ReadFile("../../demo/skerrow-kelp-works.tingate.zip")
	two, _ := os.ReadFile(filepath.Join(dir, "out.zip"))
	if len(one) == 0 || !bytes.Equal(one, two) {
		t.Error("the demo plant imported and exported again is not byte-equal")
	}
}

func TestAStopIsGraceful(t *testing.T) {
	p := start(t, "serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0")
	stream, err := http.Get(p.base + "/api/events")
	if err != nil {
		t.Fatal(err)
	}
	defer stream.Body.Close()
	if err := p.cmd.Process.Signal(os.Interrupt); err != nil {
		t.Fatal(err)
	}
	done := make(chan error, 1)
	go func() { done <- p.cmd.Wait() }()
	select {
	case err := <-done:
		if err != nil {
			t.Errorf("exit: %v", err)
		}
	case <-time.After(10 * time.Second):
		t.Error("it does not stop while an event stream is open")
	}
}
