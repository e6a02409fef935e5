// Command wardifex is the whole application: server, demo, migration,
// accounts, backup.
package main

import (
	"context"
	"fmt"
	"os"
	"os/signal"
	"syscall"
	_ "time/tzdata" // days are kept in the shop's time zone, whatever the computer knows of it

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "wardifex",
		Short:         "What is in each printer, what fits it, and what comes next",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(
		serveCommand(),
		demoCommand(),
		migrateCommand(),
		userCommand(),
		shopCommand(),
		openAPICommand(),
		schemaCommand(),
		backupCommand(),
		verifyCommand(),
		restoreCommand(),
		exportCommand(),
		importCommand(),
	)
	if err := root.ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "wardifex:", err)
		os.Exit(1)
	}
}
