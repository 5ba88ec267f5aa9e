package arch

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// What a person reads at once: lines of 140 columns (a tab is four), functions of 60 lines, files of 400, components of 200.
const (
	mostColumns   = 140
	mostFunction  = 60
	mostFile      = 400
	mostComponent = 200
)

// Why a function may be longer.
const (
	oneRoute    = "one route after the other"
	oneCommand  = "one command after the other"
	oneRow      = "one row a thing, nothing between them"
	oneFinding  = "one finding after the other"
	innerLoop   = "the inner loop of the simulation: what it holds stays in registers"
	oneSentence = "one sentence after the other"
	oneStep     = "one step after the other, each on what the last one left"
)

// longFunctions are longer, each for a reason. They may become shorter, and are taken off the list then; no other joins them without one.
var longFunctions = map[string]string{
	"app/exchange/bring.go look":             oneStep,
	"app/links/settings.go WriteSetting":     oneStep,
	"app/lists/lists.go ReadCSV":             oneStep,
	"bench/acts.go act":                      oneRow,
	"bench/config.go driven":                 oneRow,
	"bench/prove/gives.go gives":             oneRow,
	"bench/prove/plan.go ramps":              oneStep,
	"bench/prove/whatif.go what":             oneSentence,
	"bench/ride/bands.go BandsOf":            oneStep,
	"bench/ride/judge.go judge":              oneFinding,
	"calc/motion.go braking":                 oneStep,
	"calc/performance.go performance":        oneStep,
	"calc/transient.go transient":            oneStep,
	"cmd/tingate/headless.go benchCommand":   oneCommand,
	"cmd/tingate/stops.go stopCommands":      oneCommand,
	"core/circuit/live.go gauss":             innerLoop,
	"core/circuit/mistake.go MistakesWithin": oneRow,
	"core/dialect/compile.go setting":        oneRow,
	"core/dialect/compilemanual.go manual":   oneRow,
	"core/dialect/explain.go why":            oneSentence,
	"core/dialect/update.go Update":          oneRow,
	"core/drive/command.go asked":            innerLoop,
	"core/drive/command.go target":           innerLoop,
	"core/drive/control.go oriented":         innerLoop,
	"core/drive/magnet.go synchronous":       innerLoop,
	"core/drive/sequence.go sequence":        innerLoop,
	"core/drive/vector.go Oriented":          innerLoop,
	"core/gate/dead.go proves":               oneFinding,
	"core/gate/power.go motorLinks":          oneFinding,
	"core/gate/span.go ask":                  oneFinding,
	"core/gate/stopgiven.go stopFindings":    oneFinding,
	"core/gate/tunemodes.go controlModes":    oneRow,
	"core/gate/tuneresults.go tuneResults":   oneRow,
	"core/gate/turn.go beforeTurn":           oneFinding,
	"core/gate/wished.go wishFindings":       oneFinding,
	"core/plate/findings.go power":           oneFinding,
	"core/plate/findings.go speed":           oneFinding,
	"core/speeds/bounds.go BoundsOf":         oneFinding,
	"core/stops/behave.go guard":             oneRow,
	"core/stops/diagnose.go repeat":          oneStep,
	"core/stops/draft.go relay":              oneRow,
	"core/stops/draftout.go outputs":         oneRow,
	"core/stops/pairs.go DiagnosePairs":      oneStep,
	"core/stops/pulse.go Train":              oneStep,
	"core/stops/smallest.go SmallestSet":     oneStep,
	"core/stops/stops.go Compile":            oneRow,
	"core/stops/table.go TableOf":            oneRow,
	"core/supply/discharge.go FitDischarge":  oneStep,
	"core/troubleshoot/start.go whyNot":      oneSentence,
	"core/tune/rotate.go rotating":           innerLoop,
	"core/winding/winding.go Judge":          oneFinding,
	"core/wiring/build.go build":             oneRow,
	"demo/make/plant.go build":               oneRow,
	"formats/runfile/comtrade.go configured": oneStep,
	"formats/runfile/runfile.go Read":        oneStep,
	"formats/trace/trace.go block":           innerLoop,
	"server/bench.go benchRoutes":            oneRoute,
	"server/energy.go energyRoutes":          oneRoute,
	"server/families.go keypadRoutes":        oneRoute,
	"server/routes.go driveRoutes":           oneRoute,
	"server/routes.go fileRoutes":            oneRoute,
	"server/span.go spanRoutes":              oneRoute,
	"server/stop.go stopRoutes":              oneRoute,
	"testtools/mutants/main.go named":        oneCommand,
}

// longFiles are longer likewise.
var longFiles = map[string]string{}

// sources are the files of the house with an ending, by their paths from its root.
func sources(t *testing.T, ending ...string) []string {
	t.Helper()
	cmd := exec.Command("git", append([]string{"ls-files", "--"}, ending...)...)
	cmd.Dir = "../.."
	out, err := cmd.Output()
	if err != nil {
		t.Fatal(err)
	}
	return strings.Fields(string(out))
}

func read(t *testing.T, name string) string {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("../..", name))
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// Lines of Go end before the 140th column, but those that cannot be broken: a field with its tag, a text in backquotes. (TypeScript is the
// formatter's affair: make test looks whether it has been through.)
func TestLinesAreShort(t *testing.T) {
	for _, name := range sources(t, "*.go") {
		inRaw := false
		for i, line := range strings.Split(read(t, name), "\n") {
			raw := inRaw || strings.Contains(line, "`")
			if strings.Count(line, "`")%2 == 1 {
				inRaw = !inRaw
			}
			if n := utf8.RuneCountInString(strings.ReplaceAll(line, "\t", "    ")); n > mostColumns && !raw {
				t.Errorf("%s:%d has %d columns, at most %d are read at once", name, i+1, n, mostColumns)
			}
		}
	}
}

func TestFunctionsAndFilesAreShort(t *testing.T) {
	seen := map[string]bool{}
	for _, name := range sources(t, "*.go") {
		set := token.NewFileSet()
		f, err := parser.ParseFile(set, filepath.Join("../..", name), nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		if n := set.File(f.Pos()).LineCount(); n > mostFile {
			seen[name] = true
			if longFiles[name] == "" {
				t.Errorf("%s has %d lines, at most %d are read at once", name, n, mostFile)
			}
		}
		for _, d := range f.Decls {
			fn, ok := d.(*ast.FuncDecl)
			if !ok || fn.Body == nil {
				continue
			}
			key := name + " " + fn.Name.Name
			if n := set.Position(fn.End()).Line - set.Position(fn.Pos()).Line + 1; n > mostFunction {
				seen[key] = true
				if longFunctions[key] == "" {
					t.Errorf("%s has %d lines, at most %d are read at once", key, n, mostFunction)
				}
			}
		}
	}
	for _, list := range []map[string]string{longFunctions, longFiles} {
		for key := range list {
			if !seen[key] {
				t.Errorf("%s is long no more: take it off the list", key)
			}
		}
	}
}

func TestComponentsAreShort(t *testing.T) {
	for _, name := range sources(t, "web/src/*.tsx", "web/src/**/*.tsx") {
		begun, what := 0, ""
		for i, line := range strings.Split(read(t, name), "\n") {
			if slices.ContainsFunc(
				[]string{"function ", "export function ", "export const ", "const "},
				func(p string) bool { return strings.HasPrefix(line, p) },
			) {
				begun, what = i, line
			}
			if (line == "}" || line == "});") && what != "" {
				if n := i - begun + 1; n > mostComponent {
					t.Errorf("%s:%d has %d lines, at most %d are read at once: %s", name, begun+1, n, mostComponent, what)
				}
				what = ""
			}
		}
	}
}
