package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// report writes docs/mutants.md from what was kept.
func report(root string) error {
	var b strings.Builder
	b.WriteString("# Tests that bite\n\nMade by `make mutants-report` from `testtools/mutants/results`. A mutant is one small change of " +
		"the program; a package's own tests must notice it.\n" +
		"`make mutants PKG=core/plate N=150 SEED=18` draws by a seed and goes on after a break; `make mutants-named` tries the patches " +
		"that no general tool makes.\n\n## Drawn\n\n" +
		"| package | tried | killed | time-outs | living | killed, of those that end |\n|---|---|---|---|---|---|\n")
	files, err := filepath.Glob(filepath.Join(root, results, "*.txt"))
	if err != nil {
		return err
	}
	var living []string
	for _, f := range files {
		if filepath.Base(f) == "named.txt" {
			continue
		}
		raw, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		n := map[string]int{}
		pkg := strings.ReplaceAll(strings.TrimSuffix(filepath.Base(f), ".txt"), "-", "/")
		for _, l := range strings.Split(strings.TrimSpace(string(raw)), "\n") {
			c := strings.Split(l, "\t")
			if len(c) < 2 {
				continue
			}
			n[c[1]]++
			if c[1] == lives {
				living = append(living, "- `"+pkg+"` "+cell(c[0]))
			}
		}
		ended := n[killed] + n[lives]
		fmt.Fprintf(&b, "| `%s` | %d | %d | %d | %d | %.0f %% |\n", pkg, ended+n[timeout], n[killed], n[timeout], n[lives],
			100*float64(n[killed])/float64(max(1, ended)))
	}
	if living != nil {
		b.WriteString("\nLiving:\n\n" + strings.Join(living, "\n") + "\n")
	}
	b.WriteString("\n## Patches\n\n| gate | what was put in | in | noticed by |\n|---|---|---|---|\n")
	outcome := map[string][]string{}
	if raw, err := os.ReadFile(filepath.Join(root, results, "named.txt")); err == nil {
		for _, l := range strings.Split(string(raw), "\n") {
			if c := strings.Split(l, "\t"); len(c) == 3 {
				outcome[c[0]] = c[1:]
			}
		}
	}
	for _, p := range patches {
		by := "not tried"
		if c := outcome[p.name]; c != nil {
			by = c[0]
			if c[0] == killed {
				by = "`" + c[1] + "`"
			}
		}
		fmt.Fprintf(&b, "| %s | %s | `%s` | %s |\n", p.gate, cell(p.name), p.edits[0].File, by)
	}
	return os.WriteFile(filepath.Join(root, "docs", "mutants.md"), []byte(b.String()), 0o644)
}

func cell(s string) string { return strings.ReplaceAll(s, "|", "\\|") }
