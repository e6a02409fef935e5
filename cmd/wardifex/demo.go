package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wardifex/internal/demo"
	"wardifex/internal/postgres"
	"wardifex/internal/server"
)

func demoCommand() *cobra.Command {
	var dir string
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Start PostgreSQL on loopback and the application with the demo room",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx := cmd.Context()
			set, err := readSettings(false)
			if err != nil {
				return err
			}
			listener, err := listen(set)
			if err != nil {
				return err
			}
			defer listener.Close()
			fmt.Println("Starting PostgreSQL for the demo …")
			cluster, err := postgres.Start(ctx, postgres.Options{Dir: dir, Port: set.PostgresPort})
			if errors.Is(err, postgres.ErrRunning) {
				return fmt.Errorf("the demo in %s is already running; use it, or stop it with Ctrl-C there", dir)
			}
			if err != nil {
				return err
			}
			stopWatching := keepRunning(ctx, cluster)
			defer cluster.Stop()
			defer stopWatching()
			if err := fillOnce(ctx, cluster, photosOf(dir)); err != nil {
				return err
			}
			st, err := openStore(ctx, cluster.DSN("wardifex"), photosOf(dir))
			if err != nil {
				return err
			}
			defer st.Close()
			accounts := []server.DemoAccount{}
			for _, name := range []string{"technician", "lead", "member"} {
				accounts = append(accounts, server.DemoAccount{Name: name, Password: demo.Password, Role: name})
			}
			config := server.Config{
				Store:         st,
				Clock:         func() time.Time { return demo.Today },
				Demo:          accounts,
				SecureCookies: set.SecureCookies,
			}
			return serve(ctx, listener, config, func(url string) {
				fmt.Printf(
					"\nWardifex with the demo room Netloft is at %s\nAccounts: technician, lead, member; password %s\nIts clock "+
						"stands at %s. Ctrl-C stops everything; the data stays in %s.\n",
					url,
					demo.Password,
					demo.Today.Format("2 January 2006, 15:04"),
					dir,
				)
			})
		},
	}
	cmd.Flags().StringVar(&dir, "dir", ".wardifex/demo", "folder that keeps the demo's PostgreSQL cluster")
	cmd.AddCommand(&cobra.Command{Use: "reset", Short: "Throw the demo's data away", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error { return resetDemo(dir) }})
	cmd.PersistentFlags().AddFlag(cmd.Flags().Lookup("dir"))
	return cmd
}

// keepRunning says it when PostgreSQL ends while the demo runs, and starts it again. It
// gives what ends the watch.
func keepRunning(ctx context.Context, cluster *postgres.Cluster) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for {
			select {
			case <-ctx.Done():
				return
			case <-cluster.Exited():
			}
			if ctx.Err() != nil {
				return
			}
			fmt.Fprintf(os.Stderr, "PostgreSQL ended (%v). Starting it again …\n", cluster.Ended())
			for cluster.Restart(ctx) != nil {
				select { // those that it left behind may need a moment to end
				case <-ctx.Done():
					return
				case <-time.After(time.Second):
				}
			}
			fmt.Fprintln(os.Stderr, "PostgreSQL runs again; what was saved is there.")
		}
	}()
	return func() { cancel(); <-done }
}

// fillOnce makes the demo's database where there is none. It is filled under
// another name first, so that a start that was cut off leaves nothing half full.
func fillOnce(ctx context.Context, cluster *postgres.Cluster, photos string) error {
	const name, filling = "wardifex", "wardifex_filling"
	if there, err := cluster.HasDatabase(ctx, name); err != nil || there {
		return err
	}
	fmt.Println("Filling the demo room …")
	if err := cluster.DropDatabase(ctx, filling); err != nil {
		return err
	}
	if err := cluster.CreateDatabase(ctx, filling, ""); err != nil {
		return err
	}
	st, err := openStore(ctx, cluster.DSN(filling), photos)
	if err != nil {
		return err
	}
	err = demo.Seed(ctx, st)
	if err := errors.Join(err, st.Close()); err != nil {
		return err
	}
	return cluster.RenameDatabase(ctx, filling, name)
}

// photosOf is the folder of the demo's pictures, beside its cluster.
func photosOf(dir string) string { return strings.TrimRight(dir, "/") + "-photos" }

// resetDemo removes the demo's cluster, wherever it lies, and its pictures.
func resetDemo(dir string) error {
	if _, err := os.Stat(dir); errors.Is(err, os.ErrNotExist) {
		return nil
	}
	err := postgres.Remove(dir)
	if errors.Is(err, postgres.ErrRunning) {
		return fmt.Errorf("the demo in %s is running; stop it with Ctrl-C there, then reset", dir)
	}
	if err != nil {
		return err
	}
	return os.RemoveAll(photosOf(dir))
}
