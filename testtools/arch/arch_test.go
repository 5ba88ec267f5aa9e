// Package arch asserts that arrows point down: cmd, server → app → store, link, bench, formats, calc → core.
package arch

import (
	"encoding/json"
	"os/exec"
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
	physics := []string{"tingate/core/plate", "tingate/core/motion", "tingate/core/supply", "tingate/core/signal", "tingate/core/dialect", "tingate/core/quantity", "tingate/core/finding"}
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
				if within(p.ImportPath, physics...) && within(i, "tingate/core/drivefile") {
					t.Errorf("%s imports drivefile: the physics packages take their own parameters", p.ImportPath)
				}
			case within(p.ImportPath, "tingate/store", "tingate/link", "tingate/bench", "tingate/formats", "tingate/calc"):
				if within(i, "tingate/app", "tingate/server", "tingate/cmd") {
					t.Errorf("%s imports %s, which lies above it", p.ImportPath, i)
				}
			case within(p.ImportPath, "tingate/app"):
				if within(i, "tingate/server", "tingate/cmd", "github.com/gin-gonic", "github.com/danielgtaylor", "github.com/spf13") {
					t.Errorf("%s imports %s: the app knows no HTTP and no flags", p.ImportPath, i)
				}
			}
		}
	}
}
