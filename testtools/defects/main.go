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

// edit is one place of a fault: a file, what stands there, and what stood there or could.
type edit struct{ file, is, was string }

// defect is a fault of its own kind. Where two rules guard one thing, both are put out.
type defect struct {
	name string
	edit
	also []edit
}

var defects = []defect{
	{"one phase is measured at one pair", edit{"core/gate/deadtests.go", `{"l-pe", "L to earth", "L PE"}, {"n-pe", "N (or L2) to earth", "N PE"}}`, `{"l-pe", "L to earth", "L PE"}}`}, nil},
	{"another drive keeps the evidence", edit{"core/record/machines.go", "	drive, motor := restsOn(gate, key)\n	if drive {\n		b[DriveSerial]", "	drive, motor := restsOn(gate, key)\n	if drive && false {\n		b[DriveSerial]"}, nil},
	{"another motor keeps the evidence", edit{"core/record/machines.go", "	if motor {\n		b[MotorSerial]", "	if motor && false {\n		b[MotorSerial]"}, nil},
	{"the bench proves a real machine", edit{"core/record/machines.go", "if ev.Instrument == OnBench && !m.Simulated {", "if false {"}, []edit{{"app/instruments.go", "if p.Kind != drivefile.Simulated {", "if p.Kind != drivefile.Simulated && false {"}}},
	{"a changed circuit keeps its tests", edit{"core/gate/stop.go", `b := map[string]string{"circuit": d.Hash}`, `b := map[string]string{"circuit": "as drawn"}`}, nil},
	{"a mend keeps the tests from before", edit{"core/gate/stop.go", `			b["mend"] = en.ID`, `			_ = en.ID`}, nil},
	{"a test that failed counts as done", edit{"core/gate/stop.go", `			case d.Otherwise(t, shown) != "":`, `			case false:`}, nil},
	{"another danger asks nobody", edit{"core/gate/dangers.go", `	case d.Intent.Restart == "on":`, `	case false:`}, nil},
	{"isolated again, and nothing before power is asked", edit{"core/gate/energy.go", `	return map[string]string{"isolation": strings.Join(parts, " ")}`, `	return map[string]string{"isolation": neverOpened}`}, nil},
	{"a lock comes off, and DEAD stays", edit{"core/isolation/supply.go", `		if s.State == "dead" {`, `		if false {`}, nil},
	{"DEAD never lapses", edit{"core/isolation/lapse.go", "const longestDead = 8 * time.Hour", "const longestDead = 800 * time.Hour"}, nil},
	{"the plate may change after a tune", edit{"core/gate/tune.go", "	b := Basis(d.Motor)\n", "	b := map[string]string{}\n"}, nil},
	{"the cable may change after a tune", edit{"core/gate/tune.go", `"cable": d.Site.Cable.Text, "area": d.Power.MotorArea, "switching"`, `"switching"`}, nil},
	{"a direction outlives its phase order", edit{"core/gate/turn.go", `"sense": d.Sense, "phases": d.Phases}`, `"sense": d.Sense}`}, nil},
	{"everything may be waived", edit{"core/gate/settle.go", `func NeverWaived(key string) string {`, "func NeverWaived(key string) string {\n	if key != \"\" {\n		return \"\"\n	}"}, nil},
	{"a gate is passed over what stops", edit{"core/gate/settle.go", "	case barred:\n		g.Mark = \"barred\"", "	case false:\n		g.Mark = \"barred\""}, nil},
	{"passed counts, whatever is open", edit{"core/gate/settle.go", "case passed && g.Done == g.Total:", "case passed:"}, nil},
	{"what differs counts as read back", edit{"core/gate/kinds.go", "		case \"differs\", \"not-known\":\n			again = l.Code", "		case \"differs\", \"not-known\":\n			done++"}, nil},
	{"a reset keeps what was read", edit{"core/record/record.go", `				r.reset()`, `				_ = r`}, nil},
	{"the motor's kind is planned nowhere", edit{"core/translate/intent.go", `, "motor-kind": d.Motor.Kind}`, `}`}, nil},
	{"the brake is planned nowhere", edit{"core/translate/intent.go", `		w.On["brake"] = d.Turn.Brake == "drive"`, `		_ = d`}, nil},
	{"no output opens the brake", edit{"core/translate/wiring.go", `Brake: drive.Turn.Brake == "drive"`, `Brake: false && drive.Turn.Brake == "drive"`}, nil},
	{"what stops it is planned nowhere", edit{"core/translate/intent.go", `		w.Reacts = append(w.Reacts, "stop-key")`, `		_ = w`}, nil},
	{"the ride is no finding", edit{"core/gate/ridden.go", "	for _, f := range r.Findings {", "	for _, f := range r.Findings[:0] {"}, nil},
	{"a reading without a meter proves", edit{"core/gate/dead.go", "	case m.body.Meter != *meter:", "	case false:"}, nil},
	{"the wait is nobody's", edit{"core/gate/dead.go", "			w.Minutes, w.Source = family,", "			w.Minutes, w.Source = 1,"}, nil},
	{"a waiver outlives its drive", edit{"core/gate/settle.go", "	if len(d.Basis) == 0 {\n		return true", "	if len(d.Basis) >= 0 {\n		return true"}, nil},
	{"a failing test may be left out", edit{"core/gate/keep.go", `if was.Key == "stop" && g.before.Stop.Fails > 0 {`, `if false {`}, nil},
	{"the Yard keeps its row", edit{"app/entries.go", "		return a.glance(tx, doc)", "		return nil"}, nil},
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
	replace := map[string]string{}
	for i, e := range append([]edit{d.edit}, d.also...) {
		path := filepath.Join(root, filepath.FromSlash(e.file))
		raw, err := os.ReadFile(path)
		if err != nil {
			return "", err
		}
		if !strings.Contains(string(raw), e.is) {
			return "", fmt.Errorf("%s: %s does not stand in it any more: %q", d.name, e.file, e.is)
		}
		spoilt := filepath.Join(tmp, fmt.Sprintf("spoilt%d.go", i))
		if err := os.WriteFile(spoilt, []byte(strings.ReplaceAll(string(raw), e.is, e.was)), 0o600); err != nil {
			return "", err
		}
		replace[path] = spoilt
	}
	table, err := json.Marshal(map[string]map[string]string{"Replace": replace})
	if err != nil {
		return "", err
	}
	overlay := filepath.Join(tmp, "overlay.json")
	if err := os.WriteFile(overlay, table, 0o600); err != nil {
		return "", err
	}
	cmd := exec.Command("go", "test", "-trimpath", "-tags=nomsgpack", "-overlay", overlay, "-failfast", "-parallel", "3", "-run", "NoContradictions", "./app")
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
