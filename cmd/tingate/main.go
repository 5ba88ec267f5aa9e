// Command tingate is Tin Gate: the server with its front end, and every computation without a screen.
package main

import (
	"errors"
	"fmt"
	"os"
	_ "time/tzdata" // places name their zone; the data must not depend on the machine

	"github.com/spf13/cobra"
)

// version is the program's version, stored with every decision.
const version = "0.1.0"

// exit is an error with the exit status that scripts see.
type exit struct {
	status int
	err    error
}

func (e *exit) Error() string { return e.err.Error() }
func (e *exit) Unwrap() error { return e.err }

func main() {
	root := &cobra.Command{
		Use: "tingate", Short: "Takes a technician through putting a variable frequency drive on a motor",
		SilenceUsage: true, SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), demoCommand(), calcCommand(), sheetCommand(), wiresCommand(), circuitCommand(), proveCommand(),
		benchCommand(), exportCommand(), importCommand(), backupCommand(), restoreCommand(), verifyCommand(), checkCommand(),
		openapiCommand(),
		&cobra.Command{Use: "version", Short: "Print the version", Args: cobra.NoArgs,
			Run: func(c *cobra.Command, _ []string) { fmt.Fprintln(c.OutOrStdout(), "tingate", version) }})
	if err := root.Execute(); err != nil {
		fmt.Fprintln(os.Stderr, "tingate:", err)
		var e *exit
		if errors.As(err, &e) {
			os.Exit(e.status)
		}
		os.Exit(1)
	}
}
