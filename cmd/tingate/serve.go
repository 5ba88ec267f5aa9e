package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"tingate/app"
	"tingate/server"
	"tingate/store"
)

// serving are the flags of every command that serves.
type serving struct {
	data, listen, clock string
	rate                float64
	simulated           bool
}

func (s *serving) flags(c *cobra.Command, data string) {
	c.Flags().StringVar(&s.data, "data", data, "data folder")
	c.Flags().StringVar(&s.listen, "listen", "127.0.0.1:7340", "loopback address to serve on")
	c.Flags().StringVar(&s.clock, "clock", "", "start the clock at this time (RFC 3339), for demonstrations and tests")
	c.Flags().Float64Var(&s.rate, "clock-rate", 1, "with --clock: how much faster its time runs, for demonstrations and tests")
}

// dataFolder is the user's own place for data.
func dataFolder(name string) string {
	if d := os.Getenv("XDG_DATA_HOME"); d != "" {
		return filepath.Join(d, name)
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return name
	}
	return filepath.Join(home, ".local", "share", name)
}

// clock tells the time, or a time that runs from a given start.
func (s *serving) now() (func() time.Time, error) {
	if s.clock == "" {
		if s.rate != 1 {
			return nil, fmt.Errorf("--clock-rate: got %g without --clock; real time is never hurried", s.rate)
		}
		return time.Now, nil
	}
	if !(s.rate >= 1 && s.rate <= 10000) {
		return nil, fmt.Errorf("--clock-rate: got %g, want 1 to 10000", s.rate)
	}
	from, err := time.Parse(time.RFC3339, s.clock)
	if err != nil {
		return nil, fmt.Errorf("--clock: got %q, want a time like 2026-11-25T09:30:00Z", s.clock)
	}
	start := time.Now()
	return func() time.Time { return from.Add(time.Duration(float64(time.Since(start)) * s.rate)) }, nil
}

// clockWords say what was done to the clock, on everything that is done by it.
func (s *serving) clockWords() string {
	if s.rate != 1 {
		return fmt.Sprintf("clock set by hand, %g times as fast", s.rate)
	}
	return "clock set by hand"
}

func serveCommand() *cobra.Command {
	var s serving
	c := &cobra.Command{Use: "serve", Short: "Serve the application", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return s.run(c.Context(), c.OutOrStdout(), nil)
	}}
	s.flags(c, dataFolder("tingate"))
	c.Flags().BoolVar(&s.simulated, "simulated", false,
		"make the data folder one for simulation, for good: its clock may be set, and it never takes a real place")
	return c
}

// loopback refuses an address that others could reach: there are no accounts yet.
func loopback(listen string) error {
	host, _, err := net.SplitHostPort(listen)
	if err != nil {
		return fmt.Errorf("--listen: got %q, want an address like 127.0.0.1:7340", listen)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("--listen: got %q, want a loopback address: until there are accounts, anybody who reached it could change "+
			"settings", listen)
	}
	return nil
}

// run serves until the process is told to end. prepare may fill the data folder first; what it returns is run at the end.
func (s *serving) run(ctx context.Context, out io.Writer, prepare func(context.Context, *app.App) (func(), error)) error {
	if err := loopback(s.listen); err != nil {
		return err
	}
	now, err := s.now()
	if err != nil {
		return err
	}
	if ctx == nil {
		ctx = context.Background()
	}
	ctx, stop := signal.NotifyContext(ctx, os.Interrupt, syscall.SIGTERM)
	defer stop()
	l, err := net.Listen("tcp", s.listen)
	if err != nil {
		return fmt.Errorf("cannot listen on %s: %w. Is another Tin Gate running there? Choose another with --listen", s.listen, err)
	}
	defer l.Close()
	st, err := store.Open(s.data)
	if err != nil {
		return err
	}
	defer st.Close()
	if s.simulated {
		if err := st.Simulate(); err != nil {
			return err
		}
	}
	if s.clock != "" && !st.Simulated() {
		return fmt.Errorf("--clock: the data folder %s is not one for simulation, and what was measured by a clock that was set would "+
			"prove nothing. Make another with --simulated", s.data)
	}
	st.SetAddress("http://" + l.Addr().String())
	a := app.New(st, now, version)
	if s.clock != "" {
		a.SetClock(s.clockWords())
	}
	for _, p := range a.FamilyProblems {
		slog.Warn("a family file was left out", "reason", p)
	}
	if err := a.KeepReceived(ctx); err != nil {
		slog.Warn("a run that was being recorded could not be kept with its drive; it stays in the data folder", "reason", err)
	}
	if prepare != nil {
		done, err := prepare(ctx, a)
		if err != nil {
			return err
		}
		defer done()
	}
	fmt.Fprintf(out, "http://%s\n", l.Addr())
	return serveHTTP(ctx, l, a)
}

func serveHTTP(ctx context.Context, l net.Listener, a *app.App) error {
	base, cancel := context.WithCancel(context.Background())
	defer cancel()
	srv := &http.Server{Handler: server.Handler(base, a, version), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		MaxHeaderBytes: 64 << 10}
	srv.RegisterOnShutdown(cancel)
	go func() {
		if err := a.KeepGlances(base); err != nil && base.Err() == nil {
			slog.Error("the Yard could not be refreshed", "error", err)
		}
	}()
	failed := make(chan error, 1)
	go func() { failed <- srv.Serve(l) }()
	slog.Info("serving", "address", l.Addr().String())
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	slog.Info("stopping")
	grace, end := context.WithTimeout(context.Background(), 5*time.Second)
	defer end()
	if err := srv.Shutdown(grace); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return nil
}
