// Package arch asserts that arrows point down: cmd, server → app → store, link, bench, formats, calc → core; inside the core as
// docs/house.md draws it.
package arch

import (
	"encoding/json"
	"go/ast"
	"go/doc"
	"go/parser"
	"go/token"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

type pkg struct {
	ImportPath string
	Imports    []string
}

func packages(t *testing.T) []pkg {
	t.Helper()
	out, err := exec.Command("go", "list", "-tags=nomsgpack", "-json=ImportPath,Imports", "tingate/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	dec := json.NewDecoder(strings.NewReader(string(out)))
	var list []pkg
	for dec.More() {
		var p pkg
		if err := dec.Decode(&p); err != nil {
			t.Fatal(err)
		}
		list = append(list, p)
	}
	return list
}

func within(path string, prefixes ...string) bool {
	for _, p := range prefixes {
		if path == p || strings.HasPrefix(path, p+"/") {
			return true
		}
	}
	return false
}

func TestArrowsPointDown(t *testing.T) {
	list := packages(t)
	if len(list) < 15 {
		t.Fatalf("only %d packages found", len(list))
	}
	// What knows the stored documents; all else of the core takes parameters of its own.
	var nouns []string // from below
	for _, n := range []string{"/base", "/yard", "/drives", "/energy", "/benches", "/circuits", "/families", "/entries", "/links",
		"/lists", "/recordings", "/exchange", "/papers", ""} {
		nouns = append(nouns, "tingate/app"+n)
	}
	benches := []string{"tingate/bench/stand", "tingate/bench", "tingate/bench/ride", "tingate/bench/prove"}
	documents := []string{"tingate/core/drivefile", "tingate/core/isolation", "tingate/core/record", "tingate/core/translate",
		"tingate/core/sheet", "tingate/core/gate", "tingate/core/speeds", "tingate/core/troubleshoot"}
	// A state of supplies, a record and a sheet are folded and shown without any rule of a gate, and without physics.
	above := map[string][]string{
		"tingate/core/isolation": {"tingate/core/drivefile"},
		"tingate/core/record":    {"tingate/core/drivefile"},
		"tingate/core/sheet":     {"tingate/core/dialect", "tingate/core/drivefile", "tingate/core/record"},
	}
	for _, p := range list {
		for _, i := range p.Imports {
			std := !strings.Contains(strings.SplitN(i, "/", 2)[0], ".") && !strings.HasPrefix(i, "tingate")
			switch {
			case within(p.ImportPath, "tingate/core"):
				if !std && !within(i, "tingate/core", "gonum.org") {
					t.Errorf("%s imports %s: the core imports the standard library, gonum and itself", p.ImportPath, i)
				}
				for _, forbidden := range []string{"net/http", "database/sql", "os", "math/rand", "math/rand/v2"} {
					if i == forbidden {
						t.Errorf("%s imports %s: the core is pure", p.ImportPath, i)
					}
				}
				if !within(p.ImportPath, documents...) && within(i, "tingate/core/drivefile") {
					t.Errorf("%s imports drivefile: only %v know documents", p.ImportPath, documents)
				}
				if may, ok := above[p.ImportPath]; ok && within(i, "tingate") && !within(i, may...) {
					t.Errorf("%s imports %s: of ours it may import %v", p.ImportPath, i, may)
				}
				// The searches for pairs of faults go side by side, and a drawing keeps what was worked out of it: to go up into the
				// callers.
				if within(i, "sync") && p.ImportPath != "tingate/core/stops" {
					t.Errorf("%s imports %s: the core does one thing after the other, and remembers nothing", p.ImportPath, i)
				}
			case within(p.ImportPath, "tingate/store", "tingate/link", "tingate/bench", "tingate/formats", "tingate/calc", "tingate/paper"):
				if within(i, "tingate/app", "tingate/server", "tingate/cmd") {
					t.Errorf("%s imports %s, which lies above it", p.ImportPath, i)
				}
				if at := slices.Index(benches, p.ImportPath); at >= 0 && slices.Index(benches, i) > at {
					t.Errorf("%s imports %s, which lies above it", p.ImportPath, i)
				}
			case within(p.ImportPath, "tingate/server"):
				if within(i, "tingate/store", "tingate/link", "tingate/paper", "tingate/bench/stand", "tingate/bench/ride") {
					t.Errorf("%s imports %s: the server reaches through the app", p.ImportPath, i)
				}
			case within(p.ImportPath, "tingate/app"):
				if within(i, "tingate/server", "tingate/cmd", "github.com/gin-gonic", "github.com/danielgtaylor", "github.com/spf13") {
					t.Errorf("%s imports %s: the app knows no HTTP and no flags", p.ImportPath, i)
				}
				if at, to := slices.Index(nouns, p.ImportPath), slices.Index(nouns, i); at < 0 || to >= 0 && to >= at {
					t.Errorf("%s imports %s: a noun of the app knows those below it only, and stands in the list", p.ImportPath, i)
				}
			}
		}
	}
}

// The core asks for no time and starts nothing of its own: both come from its callers.
func TestTheCoreHasNoClock(t *testing.T) {
	files, err := filepath.Glob("../../core/*/*.go")
	if err != nil || len(files) < 60 {
		t.Fatalf("%d files: %v", len(files), err)
	}
	set := token.NewFileSet()
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(set, name, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		ast.Inspect(f, func(n ast.Node) bool {
			switch x := n.(type) {
			case *ast.GoStmt:
				if !strings.Contains(name, "/stops/") {
					t.Errorf("%s starts a goroutine", set.Position(x.Pos()))
				}
			case *ast.SelectorExpr:
				if id, ok := x.X.(*ast.Ident); ok && id.Name == "time" &&
					slices.Contains([]string{"Now", "Since", "Until", "Sleep", "After", "NewTimer", "Tick"}, x.Sel.Name) {
					t.Errorf("%s asks the clock: %s", set.Position(x.Pos()), x.Sel.Name)
				}
			}
			return true
		})
	}
}

// What the race detector leaves out is run once more without it, found by the name of its test: it is asked for in a test itself, in
// packages that make test looks at.
func TestWhatTheRaceDetectorLeavesOutIsFound(t *testing.T) {
	files, err := filepath.Glob("../../*/*_test.go")
	deeper, err2 := filepath.Glob("../../*/*/*_test.go")
	if err != nil || err2 != nil || len(files) < 40 {
		t.Fatal(len(files), err, err2)
	}
	set, found := token.NewFileSet(), 0
	for _, name := range append(files, deeper...) {
		f, err := parser.ParseFile(set, name, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		looked := slices.ContainsFunc([]string{"/core/stops/", "../bench/", "../app/", "../server/", "../testtools/"},
			func(p string) bool { return strings.Contains(name, p) })
		for _, d := range f.Decls {
			ast.Inspect(d, func(n ast.Node) bool {
				x, ok := n.(*ast.SelectorExpr)
				if !ok {
					return true
				}
				if id, ok := x.X.(*ast.Ident); !ok || id.Name != "raced" || x.Sel.Name != "Skip" {
					return true
				}
				found++
				if fn, ok := d.(*ast.FuncDecl); !ok || !strings.HasPrefix(fn.Name.Name, "Test") || !looked {
					t.Errorf("%s: raced.Skip stands in no test that make test finds", set.Position(x.Pos()))
				}
				return true
			})
		}
	}
	if found < 15 {
		t.Errorf("raced.Skip stands %d times", found)
	}
}

// What the rules of the gates look at is made once: nothing in core/gate writes to a fact but the function that makes them.
func TestFactsStayAsTheyAre(t *testing.T) {
	files, _ := filepath.Glob("../../core/gate/*.go")
	fields := map[string]bool{}
	sets := token.NewFileSet()
	parsed := map[string]*ast.File{}
	for _, path := range files {
		f, err := parser.ParseFile(sets, path, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		parsed[path] = f
		ast.Inspect(f, func(n ast.Node) bool {
			if x, ok := n.(*ast.TypeSpec); ok && x.Name.Name == "Facts" {
				for _, field := range x.Type.(*ast.StructType).Fields.List {
					for _, name := range field.Names {
						fields[name.Name] = true
					}
				}
			}
			return true
		})
	}
	if len(fields) < 8 || len(parsed) < 20 {
		t.Fatalf("%d fields of Facts in %d files", len(fields), len(parsed))
	}
	written := func(e ast.Expr) (string, bool) {
		for {
			switch x := e.(type) {
			case *ast.IndexExpr:
				e = x.X
			case *ast.SelectorExpr:
				if of, ok := x.X.(*ast.Ident); ok && len(of.Name) == 1 && fields[x.Sel.Name] { // a receiver: f, a, g
					return of.Name + "." + x.Sel.Name, true
				}
				e = x.X
			default:
				return "", false
			}
		}
	}
	for path, f := range parsed {
		if filepath.Base(path) == "facts.go" || strings.HasSuffix(path, "_test.go") {
			continue
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if x, ok := n.(*ast.AssignStmt); ok && x.Tok == token.ASSIGN {
				for _, l := range x.Lhs {
					if what, is := written(l); is {
						t.Errorf("%s writes to the fact %s", sets.Position(n.Pos()), what)
					}
				}
			}
			return true
		})
	}
}

// Every package of the core has an example that runs: its documentation for whoever comes new.
func TestEveryPackageOfTheCoreHasAnExample(t *testing.T) {
	n := 0
	for _, p := range packages(t) {
		if !within(p.ImportPath, "tingate/core") || strings.HasSuffix(p.ImportPath, "/sample") {
			continue
		}
		n++
		files, _ := filepath.Glob(filepath.Join("../..", strings.TrimPrefix(p.ImportPath, "tingate/"), "*_test.go"))
		found := false
		for _, path := range files {
			f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ParseComments)
			if err != nil {
				t.Fatal(err)
			}
			for _, e := range doc.Examples(f) {
				found = found || e.Output != "" && !e.EmptyOutput
			}
		}
		if !found {
			t.Errorf("%s has no example", p.ImportPath)
		}
	}
	if n < 25 {
		t.Errorf("only %d packages of the core were found", n)
	}
}
