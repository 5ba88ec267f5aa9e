package main

import (
	"context"
	"fmt"

	"github.com/spf13/cobra"

	"tingate/app"
	"tingate/demo"
)

func demoCommand() *cobra.Command {
	var s serving
	var drives int
	var benchAt string
	c := &cobra.Command{Use: "demo", Short: "Serve the demo plant, with a stand-in drive", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			s.simulated = true
			return s.run(c.Context(), c.OutOrStdout(), func(ctx context.Context, a *app.App) (func(), error) {
				places, err := a.Places(ctx)
				if err != nil {
					return nil, err
				}
				if len(places) == 0 {
					if err := demo.Fill(ctx, a, drives); err != nil {
						return nil, err
					}
				}
				if drives > 0 {
					return func() {}, nil
				}
				d, err := demo.StandIn(ctx, a, benchAt)
				if err != nil {
					return nil, err
				}
				fmt.Fprintf(c.ErrOrStderr(), "stand-in drive for %s on %s\n", demo.BenchTag, d.Address())
				return func() { _ = d.Stop() }, nil
			})
		}}
	s.flags(c, dataFolder("tingate-demo"))
	c.Flags().IntVar(&drives, "drives", 0, "instead of the demo plant, make a place with this many drives")
	c.Flags().StringVar(&benchAt, "bench", "127.0.0.1:5020", "loopback address of the stand-in drive; port 0 picks one")
	return c
}
