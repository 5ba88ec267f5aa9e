// Command defects puts mended faults back, one at a time, and wants the walk over random jobs to find each of them: a test that finds nothing is none. It
// changes no file: the compiler is given the spoilt ones beside (go help build, -overlay). make defects runs it; the table is in docs/defects.md.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// defect is a fault of its own kind: in a file, what stands there, and what stood there or could.
type defect struct{ name, file, is, was string }

var defects = []defect{
	{"one phase is measured at one pair", "core/gate/deadtests.go", `{"l-pe", "L to earth", "L PE"}, {"n-pe", "N (or L2) to earth", "N PE"}}`, `{"l-pe", "L to earth", "L PE"}}`},
	{"another drive keeps the evidence", "core/gate/whose.go", "	drive, motor := restsOn(gate, c.Key)\n	if drive {\n		b[driveSerial]", "	drive, motor := restsOn(gate, c.Key)\n	if drive && false {\n		b[driveSerial]"},
	{"another motor keeps the evidence", "core/gate/whose.go", "	if motor {\n		b[motorSerial]", "	if motor && false {\n		b[motorSerial]"},
	{"the bench proves a real machine", "core/gate/whose.go", "if ev.Instrument == OnBench && !m.simulated {", "if false {"},
	{"a changed circuit keeps its tests", "core/gate/stop.go", `b := map[string]string{"circuit": d.Hash}`, `b := map[string]string{"circuit": "as drawn"}`},
	{"a mend keeps the tests from before", "core/gate/stop.go", `			b["mend"] = en.ID`, `			_ = en.ID`},
	{"a test that failed counts as done", "core/gate/stop.go", `			case d.Otherwise(t, shown) != "":`, `			case false:`},
	{"another danger asks nobody", "core/gate/dangers.go", `	case d.Intent.Restart == "on":`, `	case false:`},
	{"isolated again, and nothing before power is asked", "core/gate/energy.go", `	return map[string]string{"isolation": strings.Join(parts, " ")}`, `	return map[string]string{"isolation": neverOpened}`},
	{"a lock comes off, and DEAD stays", "core/gate/energy.go", `		if s.State == "dead" {`, `		if false {`},
	{"DEAD never lapses", "core/gate/energy.go", "const longestDead = 8 * time.Hour", "const longestDead = 800 * time.Hour"},
	{"the plate may change after a tune", "core/gate/tune.go", "	b := Basis(d.Motor)\n", "	b := map[string]string{}\n"},
	{"the cable may change after a tune", "core/gate/tune.go", `"cable": d.Site.Cable.Text, "area": d.Power.MotorArea, "switching"`, `"switching"`},
	{"a direction outlives its phase order", "core/gate/turn.go", `"sense": d.Sense, "phases": d.Phases}`, `"sense": d.Sense}`},
	{"everything may be waived", "core/gate/evaluate.go", `func NeverWaived(key string) string {`, "func NeverWaived(key string) string {\n	if key != \"\" {\n		return \"\"\n	}"},
	{"a gate is passed over what stops", "core/gate/gates.go", "	case barred:\n		g.Mark = \"barred\"", "	case false:\n		g.Mark = \"barred\""},
	{"passed counts, whatever is open", "core/gate/gates.go", "case passed && g.Done == g.Total:", "case passed:"},
	{"read back is said beside what differs", "core/gate/sheet.go", `	case again != "":`, `	case false:`},
	{"a reset keeps what was read", "core/gate/state.go", `				r.reset()`, `				_ = r`},
	{"the motor's kind is planned nowhere", "core/gate/wished.go", `, "motor-kind": d.Motor.Kind}`, `}`},
	{"the brake is planned nowhere", "core/gate/wished.go", `		w.On["brake"] = d.Turn.Brake == "drive"`, `		_ = d`},
	{"no output opens the brake", "core/gate/control.go", `Brake: d.Turn.Brake`, `Brake: false && j.Drive.Turn.Brake`},
	{"what stops it is planned nowhere", "core/gate/wished.go", `		w.Reacts = append(w.Reacts, "stop-key")`, `		_ = w`},
	{"the ride is no finding", "core/gate/ridden.go", "	for _, f := range r.Findings {", "	for _, f := range r.Findings[:0] {"},
	{"a reading without a meter proves", "core/gate/dead.go", "	case m.body.Meter != *meter:", "	case false:"},
	{"the wait is nobody's", "core/gate/dead.go", "			w.Minutes, w.Source = family,", "			w.Minutes, w.Source = 1,"},
	{"a waiver outlives its drive", "core/gate/evaluate.go", "	if len(d.Basis) == 0 {\n		return true", "	if len(d.Basis) >= 0 {\n		return true"},
	{"a failing test may be left out", "core/gate/gates.go", `if g.Key == "stop" && e.state.Stop.Fails > 0 {`, `if false {`},
	{"the Yard keeps its row", "app/entries.go", "		return a.glance(tx, doc)", "		return nil"},
}

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run() error {
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	tmp, err := os.MkdirTemp("", "defects")
	if err != nil {
		return err
	}
	defer os.RemoveAll(tmp)
	found, tried := 0, 0
	for _, d := range defects {
		if len(os.Args) > 1 && !strings.Contains(d.name, os.Args[1]) {
			continue
		}
		tried++
		began := time.Now()
		what, err := d.put(root, tmp)
		if err != nil {
			return err
		}
		if what != "" {
			found++
		}
		fmt.Printf("| %s | `%s` | %s | %.0f s |\n", d.name, d.file, orNot(what), time.Since(began).Seconds())
	}
	fmt.Printf("\n%d of %d are found.\n", found, tried)
	if len(os.Args) < 2 && found < 20 {
		return fmt.Errorf("fewer than 20 are found")
	}
	return nil
}

func orNot(what string) string {
	if what == "" {
		return "NOT FOUND"
	}
	return what
}

// put runs the walk with a defect in its file, and gives the first contradiction that it finds; empty: none.
func (d defect) put(root, tmp string) (string, error) {
	path := filepath.Join(root, filepath.FromSlash(d.file))
	raw, err := os.ReadFile(path)
	if err != nil {
		return "", err
	}
	if !strings.Contains(string(raw), d.is) {
		return "", fmt.Errorf("%s: %s does not stand in it any more: %q", d.name, d.file, d.is)
	}
	spoilt, overlay := filepath.Join(tmp, "spoilt.go"), filepath.Join(tmp, "overlay.json")
	if err := os.WriteFile(spoilt, []byte(strings.ReplaceAll(string(raw), d.is, d.was)), 0o600); err != nil {
		return "", err
	}
	table, err := json.Marshal(map[string]map[string]string{"Replace": {path: spoilt}})
	if err != nil {
		return "", err
	}
	if err := os.WriteFile(overlay, table, 0o600); err != nil {
		return "", err
	}
	cmd := exec.Command("go", "test", "-trimpath", "-tags=nomsgpack", "-overlay", overlay, "-failfast", "-run", "NoContradictions", "./app")
	cmd.Dir, cmd.Env = root, append(os.Environ(), "TINGATE_JOBS=24") // the first of the walk's jobs
	out, err := cmd.CombinedOutput()
	if err == nil {
		return "", nil
	}
	for _, line := range strings.Split(string(out), "\n") {
		line = strings.TrimSpace(line)
		if at, said, ok := strings.Cut(line, "_test.go:"); ok && !strings.Contains(at, " ") {
			_, said, _ = strings.Cut(said, ": ")
			return strings.ReplaceAll(said, "|", "/"), nil
		}
	}
	return "", fmt.Errorf("%s: it does not build, or fails otherwise:\n%s", d.name, out)
}
