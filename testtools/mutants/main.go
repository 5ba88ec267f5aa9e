// Command mutants changes the program in small ways, one at a time, and wants a package's own tests to notice (docs/mutants.md). It changes
// no file on disk: the compiler is given the changed ones beside.
//
//	mutants named [WORD]        the table of patches that no general tool makes; those whose gate or name has WORD in it; living: those
//	that lived, or were not tried
//	mutants draw PKG N SEED     N mutants of a package, drawn by a seed; N 0: all. What was tried before is not tried again.
//	mutants report              docs/mutants.md, from what was kept
package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"tingate/testtools/spoil"
)

// results is where the outcome of every mutant is kept, a file a package; named.txt for the patches.
const results = "testtools/mutants/results"

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(args []string) error {
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	tmp, err := os.MkdirTemp("", "mutants")
	if err != nil {
		return err
	}
	defer os.RemoveAll(tmp)
	switch {
	case len(args) >= 1 && args[0] == "named":
		return named(root, tmp, strings.Join(args[1:], " "))
	case len(args) == 4 && args[0] == "draw":
		n, err1 := strconv.Atoi(args[2])
		seed, err2 := strconv.ParseUint(args[3], 10, 64)
		if err1 != nil || err2 != nil {
			return fmt.Errorf("draw PKG N SEED: %v: wanted two whole numbers", args[2:])
		}
		return draw(root, tmp, strings.Trim(strings.TrimPrefix(args[1], "./"), "/"), n, seed)
	case len(args) == 1 && args[0] == "report":
		return report(root)
	}
	return fmt.Errorf("mutants named [WORD] | draw PKG N SEED | report")
}

// Outcomes.
const (
	killed  = "killed"
	lives   = "LIVES"
	timeout = "time-out" // it hangs: noticed, and counted apart
	broken  = "does not build"
)

var failed = regexp.MustCompile(`(?m)^\s*--- FAIL: (\S+)`)

// try runs tests with a changed file, and says what came of it: by which test it was noticed.
func try(root, overlay, tests string, pkgs []string) (outcome, by string) {
	ctx, stop := context.WithTimeout(context.Background(), 6*time.Minute)
	defer stop()
	args := []string{"test", "-trimpath", "-tags=nomsgpack", "-overlay", overlay, "-failfast", "-timeout", "5m"}
	if tests != "" {
		args = append(args, "-run", tests)
	}
	cmd := exec.CommandContext(ctx, "go", append(args, pkgs...)...)
	cmd.Dir = root
	out, err := cmd.CombinedOutput()
	text := string(out)
	switch {
	case err == nil:
		return lives, ""
	case strings.Contains(text, "[build failed]") || strings.Contains(text, "[setup failed]"):
		return broken, strings.SplitN(text, "\n", 3)[min(1, strings.Count(text, "\n"))]
	case strings.Contains(text, "test timed out") || ctx.Err() != nil:
		return timeout, ""
	}
	if m := failed.FindStringSubmatch(text); m != nil {
		return killed, m[1]
	}
	return killed, "it panics"
}

// kept are the outcomes of before, by the name of the mutant.
func kept(root, file string) (map[string]bool, error) {
	raw, err := os.ReadFile(filepath.Join(root, results, file))
	if err != nil && !os.IsNotExist(err) {
		return nil, err
	}
	out := map[string]bool{}
	for _, l := range strings.Split(string(raw), "\n") {
		if f := strings.Split(l, "\t"); len(f) >= 3 {
			out[f[0]] = true
		}
	}
	return out, nil
}

func keep(root, file string, cells ...string) error {
	if err := os.MkdirAll(filepath.Join(root, results), 0o755); err != nil {
		return err
	}
	f, err := os.OpenFile(filepath.Join(root, results, file), os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	line := strings.ReplaceAll(strings.Join(cells, "\t"), "\n", " ")
	fmt.Println(line)
	_, err = fmt.Fprintln(f, line)
	if cerr := f.Close(); err == nil {
		err = cerr
	}
	return err
}

// named tries the patches.
func named(root, tmp, word string) error {
	living := 0
	lines := map[string]string{}
	if old, err := os.ReadFile(filepath.Join(root, results, "named.txt")); err == nil {
		for _, l := range strings.Split(string(old), "\n") {
			if name, _, ok := strings.Cut(l, "\t"); ok {
				lines[name] = l
			}
		}
	}
	var (
		mu    sync.Mutex
		todo  errgroup.Group
		after = func(p patch, outcome, by string) {
			mu.Lock()
			defer mu.Unlock()
			if outcome == lives || outcome == broken {
				living++
			}
			lines[p.name] = strings.Join([]string{p.name, outcome, by}, "\t")
			fmt.Println(lines[p.name])
		}
	)
	todo.SetLimit(2)
	for i, p := range patches {
		if word == "living" && strings.Contains(lines[p.name], "\t"+killed+"\t") ||
			word != "living" && !strings.Contains(p.gate+" "+p.name, word) {
			continue
		}
		todo.Go(func() error {
			own := filepath.Join(tmp, strconv.Itoa(i))
			if err := os.Mkdir(own, 0o700); err != nil {
				return err
			}
			overlay, err := spoil.Overlay(root, own, p.edits)
			if err != nil {
				return fmt.Errorf("%s: %w", p.name, err)
			}
			outcome, by := try(root, overlay, p.tests, p.pkgs)
			after(p, outcome, by)
			return nil
		})
	}
	if err := todo.Wait(); err != nil {
		return err
	}
	var text strings.Builder
	for _, p := range patches {
		if l := lines[p.name]; l != "" {
			text.WriteString(strings.ReplaceAll(l, "\n", " ") + "\n")
		}
	}
	if err := os.MkdirAll(filepath.Join(root, results), 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(root, results, "named.txt"), []byte(text.String()), 0o644); err != nil {
		return err
	}
	if living > 0 {
		return fmt.Errorf("%d live, or do not build", living)
	}
	return nil
}

// draw tries mutants of a package, in the order in which a seed draws them.
func draw(root, tmp, pkg string, n int, seed uint64) error {
	all, err := mutantsOf(root, pkg)
	if err != nil {
		return err
	}
	if len(all) == 0 {
		return fmt.Errorf("%s: no mutants: is it a package of this module?", pkg)
	}
	file := strings.ReplaceAll(pkg, "/", "-") + ".txt"
	before, err := kept(root, file)
	if err != nil {
		return err
	}
	order := rand.New(rand.NewPCG(seed, 18)).Perm(len(all))
	counted := 0
	for _, i := range order {
		if n > 0 && counted >= n {
			break
		}
		m := all[i]
		if before[m.name()] {
			counted++
			continue
		}
		path := filepath.Join(root, filepath.FromSlash(m.file))
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		overlay, err := spoil.Files(tmp, map[string]string{path: string(raw[:m.at]) + m.was + string(raw[m.to:])})
		if err != nil {
			return err
		}
		outcome, by := try(root, overlay, "", []string{"./" + pkg})
		if outcome == broken {
			continue // no mutant: nobody could have written it
		}
		counted++
		if err := keep(root, file, m.name(), outcome, by); err != nil {
			return err
		}
	}
	return nil
}
