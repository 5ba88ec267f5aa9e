package main

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"tingate/app"
	"tingate/app/exchange"
	"tingate/bench/stand"
	"tingate/calc"
	"tingate/core/dialect"
	"tingate/core/gate"
	"tingate/core/sheet"
	"tingate/formats/csvx"
	"tingate/formats/familyfile"
	"tingate/paper"
	"tingate/server"
	"tingate/store"
)

func calcCommand() *cobra.Command {
	var schema bool
	c := &cobra.Command{Use: "calc [NAME]", Short: "Work something out: JSON in, JSON out", Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 0 {
				for _, n := range calc.Names() {
					fmt.Fprintf(c.OutOrStdout(), "%-14s %s\n", n, calc.About(n))
				}
				return nil
			}
			if schema {
				b, ok := calc.Schema(args[0])
				if !ok {
					return &exit{2, fmt.Errorf("no computation is called %q; there are: %s", args[0], strings.Join(calc.Names(), ", "))}
				}
				fmt.Fprintln(c.OutOrStdout(), string(b))
				return nil
			}
			bad, err := calc.Run(c.Context(), args[0], c.InOrStdin(), c.OutOrStdout())
			if err != nil {
				return &exit{2, err}
			}
			if bad > 0 {
				return &exit{1, fmt.Errorf("%d of the items could not be used; each says why", bad)}
			}
			return nil
		}}
	c.Flags().BoolVar(&schema, "schema", false, "print the JSON Schema of both sides")
	return c
}

func sheetCommand() *cobra.Command {
	var dialectName, out string
	c := &cobra.Command{Use: "sheet FILE.json", Short: "A drive file as a settings sheet in a family's language", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			d, f, err := driveIn(args[0], dialectName)
			if err != nil {
				return err
			}
			s := gate.Evaluate(gate.Job{Drive: d, Family: f}, time.Now())
			return writeSheet(c.OutOrStdout(), s.Lines, out)
		}}
	c.Flags().StringVar(&dialectName, "dialect", "", "drive family, or a family's file; default the one in the drive file")
	c.Flags().StringVar(&out, "out", "md", "csv, json or md")
	return c
}

// family finds a shipped family by name, or reads one from a file.
func family(name string) (*dialect.Family, error) {
	if f := familyfile.Find(name); f != nil {
		return f, nil
	}
	if strings.HasSuffix(name, ".yaml") {
		raw, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		return familyfile.Read(raw)
	}
	return nil, fmt.Errorf("--dialect: got %q, want one of %s, or a family's file ending in .yaml", name,
		strings.Join(familyfile.Names(), ", "))
}

func writeSheet(w io.Writer, lines []sheet.Line, form string) error {
	switch form {
	case "json":
		return writeJSON(w, lines)
	case "csv":
		return csvx.Write(w, paper.SheetRows(lines))
	case "md":
		for i, row := range paper.SheetRows(lines) {
			for k := range row {
				row[k] = strings.ReplaceAll(row[k], "|", "\\|")
			}
			fmt.Fprintf(w, "| %s |\n", strings.Join(row[:7], " | "))
			if i == 0 {
				fmt.Fprintln(w, strings.Repeat("|---", 7)+"|")
			}
		}
		return nil
	}
	return fmt.Errorf("--out: got %q, want csv, json or md", form)
}

func benchCommand() *cobra.Command {
	var name, listen, asFound string
	var sets []string
	var seed uint64
	var running, open, stale, takes bool
	var delay, away time.Duration
	var size string
	var reboot int
	c := &cobra.Command{Use: "bench [FILE.json]",
		Short: "A stand-in drive on Modbus TCP; with a drive file, the simulated drive of that file", Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 1 {
				return serveBench(c, args[0], name, listen, seed)
			}
			f, err := family(cmp.Or(name, "Tarn"))
			if err != nil {
				return err
			}
			d := stand.New(f)
			if seed != 0 {
				d.Scatter(seed)
			}
			if asFound != "" {
				raw, err := os.ReadFile(asFound)
				if err != nil {
					return err
				}
				t, err := csvx.Read(raw, func(s string) bool { return strings.EqualFold(s, "code") })
				if err != nil {
					return err
				}
				for _, row := range t.Rows {
					if len(row) > 1 {
						sets = append(sets, row[0]+"="+row[1])
					}
				}
			}
			for _, s := range sets {
				code, value, _ := strings.Cut(s, "=")
				if err := d.Set(code, value); err != nil {
					return err
				}
			}
			d.Delay, d.Stale, d.RebootOnWrite, d.RebootTakes, d.RebootFor = delay, stale, reboot, takes, away
			if size != "" {
				r, ok := f.RatingOf(size)
				if !ok {
					return fmt.Errorf("--size: got %q, want the type of a size of %s", size, f.Name)
				}
				d.Rating = r.Code
			}
			d.SetRunning(running)
			d.SetChannels(!open, !open)
			if err := d.Serve(listen); err != nil {
				return err
			}
			fmt.Fprintln(c.OutOrStdout(), d.Address())
			stop := make(chan os.Signal, 1)
			signal.Notify(stop, os.Interrupt, syscall.SIGTERM)
			<-stop
			return d.Stop()
		}}
	c.Flags().StringVar(&name, "dialect", "", "drive family, or a family's file; default Tarn, or the one of the drive file")
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:5020", "loopback address; port 0 picks one")
	c.Flags().StringVar(&asFound, "as-found", "", "CSV of codes and values that the drive holds at the start")
	c.Flags().StringArrayVar(&sets, "set", nil, "CODE=VALUE that the drive holds at the start")
	c.Flags().StringVar(&size, "size", "", "type that the drive says it is")
	c.Flags().BoolVar(&stale, "stale", false, "answer with the values of the start, as a gateway that has lost its drive")
	c.Flags().IntVar(&reboot, "reboot-on-write", 0, "restart during the write of this number, without an answer")
	c.Flags().BoolVar(&takes, "reboot-takes", false, "the value is taken before the restart")
	c.Flags().DurationVar(&away, "reboot-for", time.Second, "how long a restart takes")
	c.Flags().Uint64Var(&seed, "seed", 0, "scatter the values as in a drive used before")
	c.Flags().DurationVar(&delay, "delay", 0, "how long each answer takes, like 50ms")
	c.Flags().BoolVar(&running, "running", false, "report that the motor turns")
	c.Flags().BoolVar(&open, "channels-open", false, "report both torque-off channels open")
	return c
}

// opened runs something on a data folder that no server uses.
func opened(data string, do func(*app.App) error) error {
	st, err := store.Open(data)
	if err != nil {
		return err
	}
	err = do(app.New(st, time.Now, version))
	return errors.Join(err, st.Close())
}

func exportCommand() *cobra.Command {
	var data, place, tag string
	var part, parts int
	c := &cobra.Command{Use: "export FILE.zip", Short: "Write a place, or one drive of it, as a bundle", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return opened(data, func(a *app.App) error {
				ctx := c.Context()
				places, err := a.Places(ctx)
				if err != nil {
					return err
				}
				if place == "" && len(places) == 1 {
					place = places[0].ID
				}
				if place == "" {
					return fmt.Errorf("--place: there are %d places; name one by its id", len(places))
				}
				drive := ""
				if tag != "" {
					page, err := a.Yard(ctx, store.YardQuery{Place: place, Text: tag, Limit: 500})
					if err != nil {
						return err
					}
					for _, r := range page.Rows {
						if r.Tag == tag {
							drive = r.ID
						}
					}
					if drive == "" {
						return fmt.Errorf("--drive: got %q, want the tag of a drive of the place", tag)
					}
				}
				return exportFile(ctx, a, args[0], place, exchange.Selection{Drive: drive, Part: part, Parts: parts})
			})
		}}
	c.Flags().StringVar(&data, "data", dataFolder("tingate"), "data folder")
	c.Flags().StringVar(&place, "place", "", "id of the place, when there are several")
	c.Flags().StringVar(&tag, "drive", "", "tag of one drive")
	c.Flags().IntVar(&part, "part", 0, "with --parts: which part, from 1")
	c.Flags().IntVar(&parts, "parts", 0, "in how many parts the place is written; each is a bundle of its own")
	return c
}

// exportFile writes a bundle under its name only when it is whole.
func exportFile(ctx context.Context, a *app.App, name, place string, sel exchange.Selection) (err error) {
	f, err := os.CreateTemp(filepath.Dir(name), ".tingate-export-")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = os.Remove(f.Name()) // the first error is the one to tell
		}
	}()
	if err := errors.Join(a.ExportTo(ctx, f, place, sel), f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}

func importCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "import FILE.zip", Short: "Take a bundle", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			f, err := os.Open(args[0])
			if err != nil {
				return err
			}
			defer f.Close()
			st, err := f.Stat()
			if err != nil {
				return err
			}
			return opened(data, func(a *app.App) error {
				res, err := a.Import(c.Context(), account(), f, st.Size())
				if err != nil {
					return err
				}
				fmt.Fprintf(c.OutOrStdout(), "%d drives added, %d were here already\n", res.Added, res.Same)
				for _, d := range res.Different {
					fmt.Fprintln(c.OutOrStdout(), "different here:", d)
				}
				for _, n := range res.Notes {
					fmt.Fprintln(c.OutOrStdout(), n)
				}
				return nil
			})
		}}
	c.Flags().StringVar(&data, "data", dataFolder("tingate"), "data folder")
	return c
}

func checkCommand() *cobra.Command {
	check := &cobra.Command{Use: "check", Short: "Check a file without taking it"}
	var schema bool
	family := &cobra.Command{Use: "dialect FILE.yaml", Short: "Check a drive family's file", Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			if schema {
				_, err := c.OutOrStdout().Write(familyfile.JSONSchema())
				return err
			}
			if len(args) == 0 {
				return errors.New("FILE.yaml: got nothing, want a family's file, or --schema")
			}
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			f, err := familyfile.Read(raw)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s %s: %d settings, no fault found\n", f.Name, f.Version, len(f.Settings))
			return nil
		}}
	family.Flags().BoolVar(&schema, "schema", false, "print the JSON Schema of such a file")
	check.AddCommand(family)
	return check
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{Use: "openapi", Short: "Print the API's description", Hidden: true, Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			b, err := server.OpenAPI()
			if err != nil {
				return err
			}
			var tree any
			if err := json.Unmarshal(b, &tree); err != nil {
				return err
			}
			e := json.NewEncoder(c.OutOrStdout())
			e.SetIndent("", " ")
			return e.Encode(tree)
		}}
}
