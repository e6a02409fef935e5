package main

import (
	"context"
	"fmt"
	"os"
	"os/exec"

	"github.com/spf13/cobra"
)

func backupCommand() *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Write the whole database to a file (pg_dump)", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(args[0]); err == nil {
				return fmt.Errorf("%s is there already; choose another name, so that no backup is overwritten", args[0])
			}
			return withDatabase(cmd.Context(), "pg_dump", "--format=custom", "--no-owner", "--file="+args[0])
		}}
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{Use: "restore FILE", Short: "Read a backup into an empty database (pg_restore)", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			return withDatabase(cmd.Context(), "pg_restore", "--no-owner", "--single-transaction", "--exit-on-error", args[0], "--dbname")
		}}
}

// withDatabase runs one of PostgreSQL's tools, the database's address last.
func withDatabase(ctx context.Context, tool string, args ...string) error {
	set, err := readSettings(true)
	if err != nil {
		return err
	}
	run := exec.CommandContext(ctx, tool, append(args, set.Database)...)
	run.Stdout, run.Stderr = os.Stdout, os.Stderr
	if err := run.Run(); err != nil {
		return fmt.Errorf("%s: %w", tool, err)
	}
	return nil
}
