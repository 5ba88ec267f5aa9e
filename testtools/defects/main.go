// Command defects puts mended faults back, one at a time, and wants the walk over random jobs to find each of them: a test that finds
// nothing is none. It changes no file: the compiler is given the spoilt ones beside (go help build, -overlay). make defects runs it; the
// table is in docs/defects.md.
package main

import (
	"fmt"
	"os"
	"os/exec"
	"strings"
	"time"

	"tingate/testtools/spoil"
)

// defect is a fault of its own kind. Where two rules guard one thing, both are put out.
type defect struct {
	name string
	spoil.Edit
	also []spoil.Edit
}

var defects = []defect{
	{"one phase is measured at one pair",
		spoil.Edit{File: "core/gate/deadtests.go", Is: `{"l-pe", "L to earth", "L PE"}, {"n-pe", "N (or L2) to earth", "N PE"}}`,
			Was: `{"l-pe", "L to earth", "L PE"}}`}, nil},
	{"another drive keeps the evidence",
		spoil.Edit{File: "core/record/machines.go", Is: "	drive, motor := restsOn(gate, key)\n	if drive {\n		b[DriveSerial]",
			Was: "	drive, motor := restsOn(gate, key)\n	if drive && false {\n		b[DriveSerial]"}, nil},
	{"another motor keeps the evidence",
		spoil.Edit{File: "core/record/machines.go", Is: "	if motor {\n		b[MotorSerial]",
			Was: "	if motor && false {\n		b[MotorSerial]"}, nil},
	{"the bench proves a real machine",
		spoil.Edit{File: "core/record/machines.go", Is: "if ev.Instrument == OnBench && !m.Simulated {", Was: "if false {"},
		[]spoil.Edit{{File: "app/base/instruments.go", Is: "if p.Kind != drivefile.Simulated {",
			Was: "if p.Kind != drivefile.Simulated && false {"}}},
	{"a changed circuit keeps its tests",
		spoil.Edit{File: "core/gate/stop.go", Is: `b := map[string]string{"circuit": d.Hash}`,
			Was: `b := map[string]string{"circuit": "as drawn"}`}, nil},
	{"a mend keeps the tests from before",
		spoil.Edit{File: "core/gate/stop.go", Is: `			b["mend"] = en.ID`, Was: `			_ = en.ID`}, nil},
	{"a test that failed counts as done",
		spoil.Edit{File: "core/gate/stop.go", Is: `			case d.Otherwise(t, shown) != "":`, Was: `			case false:`}, nil},
	{"another danger asks nobody",
		spoil.Edit{File: "core/gate/dangers.go", Is: `	case d.Intent.Restart == "on":`, Was: `	case false:`}, nil},
	{"isolated again, and nothing before power is asked",
		spoil.Edit{File: "core/gate/energy.go", Is: `	return map[string]string{"isolation": strings.Join(parts, " ")}`,
			Was: `	return map[string]string{"isolation": neverOpened}`}, nil},
	{"a lock comes off, and DEAD stays",
		spoil.Edit{File: "core/isolation/supply.go", Is: `		if s.State == drivefile.Dead {`, Was: `		if false {`}, nil},
	{"DEAD never lapses", spoil.Edit{File: "core/isolation/lapse.go", Is: "const longestDead = 8 * time.Hour",
		Was: "const longestDead = 800 * time.Hour"}, nil},
	{"the plate may change after a tune",
		spoil.Edit{File: "core/gate/tune.go", Is: "	b := Basis(d.Motor)\n", Was: "	b := map[string]string{}\n"}, nil},
	{
		"the cable may change after a tune",
		spoil.Edit{
			File: "core/gate/tune.go",
			Is:   `"row": translate.LinkedRow(d.Motor), "cable": d.Site.Cable.Text, "area": d.Power.MotorArea,`,
			Was:  `"row": translate.LinkedRow(d.Motor),`,
		},
		nil,
	},
	{"a direction outlives its phase order",
		spoil.Edit{File: "core/gate/turn.go", Is: `"sense": d.Sense, "phases": d.Phases}`, Was: `"sense": d.Sense}`}, nil},
	{"everything may be waived", spoil.Edit{File: "core/gate/settle.go", Is: `func NeverWaived(key string) string {`,
		Was: "func NeverWaived(key string) string {\n	if key != \"\" {\n		return \"\"\n	}"}, nil},
	{"a gate is passed over what stops",
		spoil.Edit{File: "core/gate/settle.go", Is: "	case barred:\n		g.Mark = Barred",
			Was: "	case false:\n		g.Mark = Barred"}, nil},
	{"passed counts, whatever is open",
		spoil.Edit{File: "core/gate/settle.go", Is: "case passed && g.Done == g.Total:", Was: "case passed:"}, nil},
	{"what differs counts as read back",
		spoil.Edit{File: "core/gate/kinds.go", Is: "		case sheet.Differs, sheet.NotKnown:\n			again = l.Code",
			Was: "		case sheet.Differs, sheet.NotKnown:\n			done++"}, nil},
	{"a reset keeps what was read",
		spoil.Edit{File: "core/record/record.go", Is: `				r.reset()`, Was: `				_ = r`}, nil},
	{"the motor's kind is planned nowhere",
		spoil.Edit{File: "core/translate/intent.go", Is: `		w.Means["motor-kind"] = d.Motor.Kind`, Was: `		_ = d`}, nil},
	{"the brake is planned nowhere",
		spoil.Edit{File: "core/translate/intent.go", Is: `		w.On["brake"] = d.Turn.Brake == "drive"`, Was: `		_ = d`}, nil},
	{"no output opens the brake",
		spoil.Edit{File: "core/translate/wiring.go", Is: `Brake: drive.Turn.Brake == "drive"`,
			Was: `Brake: false && drive.Turn.Brake == "drive"`}, nil},
	{"what stops it is planned nowhere",
		spoil.Edit{File: "core/translate/intent.go", Is: `		w.Reacts = append(w.Reacts, "stop-key")`, Was: `		_ = w`}, nil},
	{"the ride is no finding", spoil.Edit{File: "core/gate/ridden.go", Is: "	for _, f := range r.Findings {",
		Was: "	for _, f := range r.Findings[:0] {"}, nil},
	{"a reading without a meter proves",
		spoil.Edit{File: "core/gate/deadmeter.go", Is: "	case m.body.Meter != *meter:", Was: "	case false:"}, nil},
	{"the wait is nobody's", spoil.Edit{File: "core/gate/dead.go", Is: "			w.Minutes, w.Source = family,",
		Was: "			w.Minutes, w.Source = 1,"}, nil},
	{"a waiver outlives its drive",
		spoil.Edit{File: "core/gate/settle.go", Is: "	if len(d.Basis) == 0 {\n		return true",
			Was: "	if len(d.Basis) >= 0 {\n		return true"}, nil},
	{"a failing test may be left out",
		spoil.Edit{File: "core/gate/keep.go", Is: `if was.Key == "stop" && g.before.Stop.Fails > 0 {`, Was: `if false {`}, nil},
	{"the Yard keeps its row", spoil.Edit{File: "app/base/put.go", Is: "		return a.PutGlance(tx, doc)", Was: "		return nil"},
		nil},
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
		fmt.Printf("| %s | `%s` | %s | %.0f s |\n", d.name, d.File, orNot(what), time.Since(began).Seconds())
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
	overlay, err := spoil.Overlay(root, tmp, append([]spoil.Edit{d.Edit}, d.also...))
	if err != nil {
		return "", fmt.Errorf("%s: %w", d.name, err)
	}
	cmd := exec.Command("go", "test", "-trimpath", "-tags=nomsgpack", "-overlay", overlay, "-failfast", "-parallel", "3", "-run",
		"NoContradictions", "./app")
	cmd.Dir, cmd.Env = root, append(os.Environ(), "TINGATE_JOBS=60") // the first of the walk's jobs
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
