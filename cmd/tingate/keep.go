package main

import (
	"errors"
	"fmt"
	"os/user"

	"github.com/spf13/cobra"

	"tingate/app/base"
	"tingate/store"
)

// account is who acts on a command line: the account of this computer, by name.
func account() base.Actor {
	if u, err := user.Current(); err == nil {
		return base.Actor{Name: "the account " + u.Username + " on this computer"}
	}
	return base.Actor{Name: "an account on this computer"}
}

func backupCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "backup FILE", Short: "Copy a whole data folder into one file, while a server runs or not",
		Args: cobra.ExactArgs(1), RunE: func(c *cobra.Command, args []string) error {
			if err := store.Backup(c.Context(), data, args[0]); err != nil {
				return err
			}
			fmt.Fprintln(c.OutOrStdout(), "copied and verified:", args[0])
			return nil
		}}
	c.Flags().StringVar(&data, "data", dataFolder("tingate"), "data folder")
	return c
}

func restoreCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "restore FILE", Short: "Put a copy into a data folder that holds nothing yet", Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			v, err := store.Restore(c.Context(), args[0], data)
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "restored and verified: %s\n", counted(v))
			return nil
		}}
	c.Flags().StringVar(&data, "data", dataFolder("tingate"), "data folder")
	return c
}

func verifyCommand() *cobra.Command {
	var data string
	c := &cobra.Command{Use: "verify", Short: "Look whether everything in a data folder is as it was written, while a server runs or not",
		Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
			v, err := store.Verify(c.Context(), data)
			var bad *store.DamagedError
			if errors.As(err, &bad) {
				return fmt.Errorf("%w\nThe row: %s %s", err, bad.What, bad.ID)
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "sound: %s\n", counted(v))
			return nil
		}}
	c.Flags().StringVar(&data, "data", dataFolder("tingate"), "data folder")
	return c
}

func counted(v store.Verified) string {
	return fmt.Sprintf("%d documents, %d changes, %d entries, %d kept files", v.Documents, v.Changes, v.Entries, v.Attachments)
}
