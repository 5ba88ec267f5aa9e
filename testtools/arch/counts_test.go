package arch

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
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

// longFunctions are longer, each for a reason. They may become shorter, and are taken off the list then; no other joins them without one.
var longFunctions = map[string]string{}

// longFiles likewise.
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
			if strings.HasPrefix(line, "function ") || strings.HasPrefix(line, "export function ") || strings.HasPrefix(line, "export const ") ||
				strings.HasPrefix(line, "const ") {
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
