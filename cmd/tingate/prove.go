package main

import (
	"errors"
	"fmt"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"tingate/app/benches"
	"tingate/core/gate"
)

// proveCommand runs a drive file's plan on its own bench.
func proveCommand() *cobra.Command {
	var dialectName, out string
	c := &cobra.Command{Use: "prove FILE.json", Short: "A drive file's plan, run on a simulated drive, motor and load of its own figures",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			d, f, err := driveIn(args[0], dialectName)
			if err != nil {
				return err
			}
			if out != "" && !strings.HasSuffix(out, ".json") && !strings.HasSuffix(out, ".pdf") {
				return &exit{2, fmt.Errorf("--out: got %q, want a file ending in .json or .pdf", out)}
			}
			ctx, stop := signal.NotifyContext(c.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			now := time.Now()
			v, err := benches.ProveJob(ctx, gate.Job{Drive: d, Family: f}, now, nil)
			if err != nil {
				return err
			}
			if v.Missing != "" {
				return &exit{1, errors.New("a proof needs " + v.Missing)}
			}
			switch {
			case out == "":
				err = writeJSON(c.OutOrStdout(), v)
			case strings.HasSuffix(out, ".pdf"):
				raw, failed := benches.ProofPDF(strings.TrimSpace("Proof: "+d.Tag+" "+d.Machine), v, version, now)
				if failed != nil {
					return failed
				}
				err = os.WriteFile(out, raw, 0o644)
			default:
				file, failed := os.Create(out)
				if failed != nil {
					return failed
				}
				defer file.Close()
				err = writeJSON(file, v)
			}
			if err != nil {
				return err
			}
			if v.Proof.Trip != nil || v.Proof.Differs > 0 {
				return &exit{1, errors.New(v.Summary())}
			}
			fmt.Fprintln(c.ErrOrStderr(), v.Summary())
			return nil
		}}
	c.Flags().StringVar(&dialectName, "dialect", "", "drive family, or a family's file; default the one in the drive file")
	c.Flags().StringVar(&out, "out", "", "a .json or .pdf file; default JSON to standard output")
	return c
}
