// Package cross looks at the whole program as the compilers of the other systems see it: what is behind build tags is read and its types
// are checked, without compiling SQLite for each (make cross does that, and takes minutes).
package cross

import (
	"encoding/json"
	"errors"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"go/types"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"tingate/testtools/raced"
)

var targets = [][2]string{{"windows", "amd64"}, {"darwin", "arm64"}, {"darwin", "amd64"}, {"linux", "arm64"}}

type pkg struct {
	ImportPath, Dir string
	Standard        bool
	GoFiles         []string
	ImportMap       map[string]string
	Error           *struct{ Err string }
}

// dependencies are all packages of the program for a system, each after those that it imports.
func dependencies(system, arch string) ([]pkg, error) {
	cmd := exec.Command("go", "list", "-tags=nomsgpack", "-deps", "-json=ImportPath,Dir,Standard,GoFiles,ImportMap,Error", "tingate/...")
	cmd.Env = append(os.Environ(), "GOOS="+system, "GOARCH="+arch, "CGO_ENABLED=0")
	out, err := cmd.Output()
	if err != nil {
		return nil, err
	}
	dec := json.NewDecoder(strings.NewReader(string(out)))
	var list []pkg
	for {
		var p pkg
		if err := dec.Decode(&p); errors.Is(err, io.EOF) {
			return list, nil
		} else if err != nil {
			return nil, err
		}
		if p.Error != nil {
			return nil, fmt.Errorf("%s: %s", p.ImportPath, p.Error.Err)
		}
		list = append(list, p)
	}
}

// known are the packages that were checked, as one of them imports them.
type known struct {
	all map[string]*types.Package
	as  map[string]string
}

func (k known) Import(path string) (*types.Package, error) {
	if path == "unsafe" {
		return types.Unsafe, nil
	}
	if other := k.as[path]; other != "" {
		path = other
	}
	if p := k.all[path]; p != nil {
		return p, nil
	}
	return nil, fmt.Errorf("%s was not read before", path)
}

func TestItBuildsForTheOtherSystems(t *testing.T) {
	raced.Skip(t)
	for _, target := range targets {
		t.Run(strings.Join(target[:], " "), func(t *testing.T) {
			list, err := dependencies(target[0], target[1])
			if err != nil {
				t.Fatal(err)
			}
			all := map[string]*types.Package{}
			own := 0
			for _, p := range list {
				if p.ImportPath == "unsafe" {
					continue
				}
				ours := p.ImportPath == "tingate" || strings.HasPrefix(p.ImportPath, "tingate/")
				set := token.NewFileSet()
				var files []*ast.File
				for _, name := range p.GoFiles {
					f, err := parser.ParseFile(set, filepath.Join(p.Dir, name), nil, parser.SkipObjectResolution)
					if err != nil {
						t.Fatal(err)
					}
					files = append(files, f)
				}
				c := types.Config{Importer: known{all, p.ImportMap}, IgnoreFuncBodies: !ours, FakeImportC: true,
					Sizes: types.SizesFor("gc", target[1])}
				if !ours { // others' packages are compiled by others; what is exported is all that is needed
					c.Error = func(error) {}
				}
				checked, err := c.Check(p.ImportPath, set, files, nil)
				if ours && err != nil {
					t.Errorf("%s %s: %v", target[0], target[1], err)
				}
				all[p.ImportPath] = checked
				if ours {
					own++
				}
			}
			if own < 40 || all["modernc.org/sqlite"] == nil {
				t.Errorf("only %d packages of ours were looked at", own)
			}
		})
	}
}
