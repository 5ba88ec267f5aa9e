package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"tingate/core/stops"
)

// stopFile is a stop circuit with what was shown in its tests.
type stopFile struct {
	stops.Circuit
	Shown    []stops.Shown   `json:"shown,omitempty"`
	Readings []stops.Reading `json:"readings,omitempty" doc:"voltages measured against the minus of the first source"`
	Events   []stops.Event   `json:"events,omitempty" doc:"for timing: what is done when"`
}

// readStops reads and checks a stop circuit, unknown fields refused.
func readStops(file string) (*stops.Played, []stops.Test, stopFile, error) {
	var x stopFile
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, nil, x, err
	}
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&x); err != nil {
		return nil, nil, x, &exit{2, fmt.Errorf("%s: %w", file, err)}
	}
	p, errs := stops.Compile(x.Circuit)
	if errs != nil {
		return nil, nil, x, &exit{1, errors.Join(errs...)}
	}
	table, err := p.Table()
	if err != nil {
		return nil, nil, x, &exit{1, err}
	}
	return p, table, x, nil
}

func stopCommands() []*cobra.Command {
	var devices int
	var spec stops.Spec
	draft := &cobra.Command{Use: "draft", Short: "A stop circuit as it is usually built, to begin from", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			if devices < 1 || devices > 200 {
				return &exit{2, fmt.Errorf("--devices: got %d, want 1 to 200", devices)}
			}
			for _, x := range []struct{ flag, got, want string }{{"kind", spec.Kind, "two-channel, one-channel, controller"},
				{"feed", spec.Feed, "one, two, pulsed"}, {"reset", spec.Reset, "let-go, pressed, automatic"},
				{"lamps", spec.Lamps, "none, two, three"}} {
				if !slices.Contains(strings.Split(x.want, ", "), x.got) {
					return &exit{2, fmt.Errorf("--%s: got %q, want one of %s", x.flag, x.got, x.want)}
				}
			}
			if spec.Contactors < 0 || spec.Contactors > 2 {
				return &exit{2, fmt.Errorf("--contactors: got %d, want 0 to 2", spec.Contactors)}
			}
			for i := range devices {
				spec.Devices = append(spec.Devices, stops.SpecDevice{ID: fmt.Sprintf("S%d", i+1)})
			}
			return writeJSON(c.OutOrStdout(), stops.Draft(spec))
		}}
	f := draft.Flags()
	f.IntVar(&devices, "devices", 2, "emergency stops")
	f.StringVar(&spec.Kind, "kind", "two-channel", "two-channel, one-channel or controller")
	f.StringVar(&spec.Feed, "feed", "one", "of the channels: one, two or pulsed")
	f.StringVar(&spec.Reset, "reset", "let-go", "let-go, pressed or automatic")
	f.StringVar(&spec.Lamps, "lamps", "two", "none, two or three")
	f.IntVar(&spec.Contactors, "contactors", 0, "with mirror contacts in the reset's way")
	f.IntVar(&spec.Delay, "delay", 0, "of the outputs, ms: a ramped stop")
	f.BoolVar(&spec.Strip, "strip", false, "field devices over a terminal strip")
	smallest := &cobra.Command{Use: "smallest FILE.json", Short: "The smallest set of tests that still parts all single faults",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			p, table, _, err := readStops(args[0])
			if err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), p.SmallestSet(table, nil))
		}}
	timing := &cobra.Command{Use: "timing FILE.json", Short: "What every part of a stop circuit does while events happen",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			p, _, x, err := readStops(args[0])
			if err != nil {
				return err
			}
			if len(x.Events) == 0 {
				return &exit{
					2,
					errors.New(`events: got nothing, want what is done: {"at_ms": number, "do": work, release, …, "what": part}`),
				}
			}
			d, err := p.Timing(nil, x.Events, x.Events[len(x.Events)-1].At+3000)
			if err != nil {
				return &exit{1, err}
			}
			return writeJSON(c.OutOrStdout(), d)
		}}
	pairs := &cobra.Command{Use: "pairs FILE.json", Short: "Which two faults at once explain what was shown in the tests",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			p, table, x, err := readStops(args[0])
			if err != nil {
				return err
			}
			found, err := p.DiagnosePairs(table, x.Shown, x.Readings, func(tried, all int) bool {
				if all > 0 && tried%8192 == 0 {
					fmt.Fprintf(c.ErrOrStderr(), "%d of %d\n", tried, all)
				}
				return c.Context() == nil || c.Context().Err() == nil
			})
			if err != nil {
				return &exit{1, err}
			}
			return writeJSON(c.OutOrStdout(), found)
		}}
	tests := &cobra.Command{Use: "tests FILE.json", Short: "Every test of a stop circuit, with what must be seen",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			_, table, _, err := readStops(args[0])
			if err != nil {
				return err
			}
			return writeJSON(c.OutOrStdout(), table)
		}}
	diagnose := &cobra.Command{Use: "diagnose FILE.json",
		Short: "Which single fault explains what was shown in the tests, and which test parts what is left", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			p, table, x, err := readStops(args[0])
			if err != nil {
				return err
			}
			if len(x.Shown) == 0 {
				return &exit{
					2,
					errors.New(
						`shown: got nothing, want what was seen: {"test": key, "step": number, "seen": {part: on, off or a drive's state}}`,
					),
				}
			}
			d, err := p.Diagnose(table, x.Shown, x.Readings, nil)
			if err != nil {
				return &exit{1, err}
			}
			if err := writeJSON(c.OutOrStdout(), d); err != nil {
				return err
			}
			if !d.Agrees && len(d.Classes) == 0 {
				return &exit{1, errors.New("no single fault explains all of it: repeat what differs first")}
			}
			return nil
		}}
	return []*cobra.Command{draft, tests, smallest, timing, diagnose, pairs}
}
