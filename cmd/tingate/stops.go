package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"tingate/core/stops"
)

// stopFile is a stop circuit with what was shown in its tests.
type stopFile struct {
	stops.Circuit
	Shown    []stops.Shown   `json:"shown,omitempty"`
	Readings []stops.Reading `json:"readings,omitempty" doc:"voltages measured against the minus of the first source"`
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
	draft := &cobra.Command{Use: "draft", Short: "The usual two-channel stop circuit, to begin from", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		if devices < 1 || devices > 200 {
			return &exit{2, fmt.Errorf("--devices: got %d, want 1 to 200", devices)}
		}
		return writeJSON(c.OutOrStdout(), stops.TwoChannel(devices))
	}}
	draft.Flags().IntVar(&devices, "devices", 2, "emergency stops in series")
	tests := &cobra.Command{Use: "tests FILE.json", Short: "Every test of a stop circuit, with what must be seen", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		_, table, _, err := readStops(args[0])
		if err != nil {
			return err
		}
		return writeJSON(c.OutOrStdout(), table)
	}}
	diagnose := &cobra.Command{Use: "diagnose FILE.json", Short: "Which single fault explains what was shown in the tests, and which test parts what is left", Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
		p, table, x, err := readStops(args[0])
		if err != nil {
			return err
		}
		if len(x.Shown) == 0 {
			return &exit{2, errors.New(`shown: got nothing, want what was seen: {"test": key, "step": number, "seen": {part: on, off or a drive's state}}`)}
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
	return []*cobra.Command{draft, tests, diagnose}
}
