package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"tingate/app/lists"
	"tingate/core/circuit"
	"tingate/core/dialect"
	"tingate/core/drivefile"
	"tingate/core/finding"
	"tingate/core/gate"
	"tingate/core/translate"
	"tingate/formats/csvx"
)

// driveOf reads a drive file, alone or as it stands in a bundle.
func driveOf(file string) (drivefile.Drive, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return drivefile.Drive{}, err
	}
	var wrapped struct {
		Document json.RawMessage `json:"document"`
	}
	if json.Unmarshal(raw, &wrapped) == nil && wrapped.Document != nil {
		raw = wrapped.Document
	}
	d, err := drivefile.DecodeDrive(raw)
	if err != nil {
		return d, fmt.Errorf("%s: %w", file, err)
	}
	return d, nil
}

// driveIn reads a drive file with the family that it speaks, or another that is named.
func driveIn(file, dialectName string) (drivefile.Drive, *dialect.Family, error) {
	d, err := driveOf(file)
	if err != nil {
		return d, nil, err
	}
	if dialectName != "" {
		d.Rating.Dialect = dialectName
	}
	f, err := family(d.Rating.Dialect)
	return d, translate.Fitted(f, d), err
}

func wiresCommand() *cobra.Command {
	var dialectName, out string
	c := &cobra.Command{Use: "wires FILE.json", Short: "A drive file as the connection list of its control wiring",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			d, f, err := driveIn(args[0], dialectName)
			if err != nil {
				return err
			}
			plan, ok := gate.WiringOf(gate.Job{Drive: d, Family: f})
			if !ok {
				return errors.New(
					`wiring.command: got "", want one of two-wire, three-wire, keypad, network: nothing is chosen to be connected`,
				)
			}
			switch out {
			case "json":
				err = writeJSON(c.OutOrStdout(), plan)
			case "csv":
				err = csvx.Write(c.OutOrStdout(), lists.WireRows(gate.Untouched(plan)))
			default:
				return fmt.Errorf("--out: got %q, want csv or json", out)
			}
			if err == nil && slices.ContainsFunc(plan.Findings, func(f finding.Finding) bool { return f.Severity == finding.Stop }) {
				return &exit{1, errors.New("the list has findings that stop it: see findings with --out json")}
			}
			return err
		}}
	c.Flags().StringVar(&dialectName, "dialect", "", "drive family, or a family's file; default the one in the drive file")
	c.Flags().StringVar(&out, "out", "csv", "csv or json")
	return c
}

func writeJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", " ")
	return e.Encode(v)
}

// solved is what `circuit solve` says of one state.
type solved struct {
	Held       []string            `json:"held"`
	Potentials [][]string          `json:"potentials"`
	LoadsV     map[string]float64  `json:"loads_v"`
	Floating   []string            `json:"floating" doc:"loads without a voltage"`
	CurrentsA  map[string]*float64 `json:"currents_a" doc:"null where a short leaves it unknown"`
	Shorts     []string            `json:"shorts"`
	Meets      [][2]string         `json:"meets" doc:"sources that feed one potential"`
	Over       []string            `json:"over" doc:"sources that give more than they may"`
}

func circuitCommand() *cobra.Command {
	c := &cobra.Command{Use: "circuit", Short: "Wires, contacts and loads as a net"}
	c.AddCommand(circuitSolveCommand())
	c.AddCommand(stopCommands()...)
	return c
}

// readCircuit reads and checks a circuit's JSON, unknown fields refused.
func readCircuit(file string) (*circuit.Net, error) {
	raw, err := os.ReadFile(file)
	if err != nil {
		return nil, err
	}
	var x circuit.Circuit
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&x); err != nil {
		return nil, &exit{2, fmt.Errorf("%s: %w", file, err)}
	}
	n, errs := circuit.Compile(x)
	if errs != nil {
		return nil, &exit{1, errors.Join(errs...)}
	}
	return n, nil
}

func circuitSolveCommand() *cobra.Command {
	var held []string
	c := &cobra.Command{Use: "solve FILE.json", Short: "What is joined, and which voltage stands where", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			n, err := readCircuit(args[0])
			if err != nil {
				return err
			}
			state := circuit.State{}
			for _, h := range held {
				if !n.Moves(h) {
					return &exit{1, fmt.Errorf("--held: got %q, want a contact of the circuit, part.contact", h)}
				}
				state[h] = true
			}
			return writeJSON(c.OutOrStdout(), solve(n, state, held))
		}}
	c.Flags().StringArrayVar(&held, "held", nil, "contact held out of rest, part.contact; may be given again")
	return c
}

func solve(n *circuit.Net, state circuit.State, held []string) solved {
	s := n.Solve(state)
	out := solved{Held: append([]string{}, held...), Potentials: s.Potentials(), LoadsV: map[string]float64{}, Floating: []string{},
		CurrentsA: map[string]*float64{},
		Shorts:    append([]string{}, s.Shorts...), Meets: append([][2]string{}, s.Meets...), Over: append([]string{}, s.Over()...)}
	loads := s.Loads()
	for _, p := range n.Circuit.Parts {
		for _, l := range p.Loads {
			name := p.ID + "." + l.Name
			if v, ok := loads[name]; ok {
				out.LoadsV[name] = v
			} else {
				out.Floating = append(out.Floating, name)
			}
		}
	}
	for name, a := range s.Currents {
		if math.IsNaN(a) {
			out.CurrentsA[name] = nil
		} else {
			out.CurrentsA[name] = &a
		}
	}
	return out
}
