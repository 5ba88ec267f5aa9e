package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"tingate/app/base"
	"tingate/bench"
	"tingate/core/gate"
)

// serveBench builds the bench of a drive file, switches its mains on, and serves its registers. Nothing can run it from outside:
// the link has no command.
func serveBench(c *cobra.Command, file, dialectName, listen string, seed uint64) error {
	d, f, err := driveIn(file, dialectName)
	if err != nil {
		return err
	}
	j := gate.Job{Drive: d, Family: f}
	x := gate.FiguresOf(j, gate.Evaluate(j, time.Now()))
	if x.Missing != "" {
		return errors.New("a bench needs " + x.Missing)
	}
	setup := base.SetupOf(j, x)
	setup.Seed = seed
	b, err := bench.New(setup)
	if err != nil {
		return err
	}
	if err := b.Stand.Serve(listen); err != nil {
		return err
	}
	fmt.Fprintln(c.OutOrStdout(), b.Stand.Address())
	for _, a := range x.Assumed {
		fmt.Fprintln(os.Stderr, a)
	}
	if err := b.Do(bench.Act{Do: "line", On: true}); err != nil {
		return err
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	b.Run(ctx)
	return b.Stand.Stop()
}
