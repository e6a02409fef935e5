package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"wardifex/internal/app"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/store"
)

func exportCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "export FILE",
		Short: "Write the fleet's whole record to a JSON file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(args[0]); err == nil {
				return fmt.Errorf("%s is there already; choose another name, so that nothing is overwritten", args[0])
			}
			return withStore(cmd.Context(), func(st *store.Store) error {
				return exportTo(cmd.Context(), st, args[0])
			})
		},
	}
}

// exportTo writes the record under another name first, so that what bears the name is whole.
func exportTo(ctx context.Context, st *store.Store, file string) error {
	out, err := os.CreateTemp(filepath.Dir(file), ".wardifex-export-")
	if err != nil {
		return err
	}
	defer os.Remove(out.Name()) // gone already where it was renamed
	lines := bufio.NewWriterSize(out, 1<<20)
	err = st.WriteRecordTo(ctx, lines)
	if err = errors.Join(err, lines.Flush(), out.Sync(), out.Close()); err != nil {
		return err
	}
	return os.Rename(out.Name(), file)
}

func importCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "import FILE",
		Short: "Import the record of machines from a JSON file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			text, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			f, err := recordfile.Read(text)
			if err != nil {
				return err
			}
			return withStore(cmd.Context(), func(st *store.Store) error {
				p, err := app.New(st, time.Now).ImportRecord(
					onCommandLine(cmd.Context(), "import-record"),
					store.ImportFile{Name: filepath.Base(args[0]), Data: text},
					f,
					commandLine,
					time.Now().In(st.Location()),
				)
				if err == nil {
					fmt.Printf("%d machines, %d parts, %d readings imported.\n", len(p.Machines), p.Parts, p.Readings)
				}
				return err
			})
		},
	}
}

// withStore opens the database of the environment for one job.
func withStore(ctx context.Context, do func(st *store.Store) error) error {
	set, err := readSettings(true)
	if err != nil {
		return err
	}
	st, err := openStore(ctx, set.Database, set.Photos)
	if err != nil {
		return err
	}
	defer st.Close()
	return do(st)
}

const commandLine = "the command line"

// onCommandLine says on record that something was done from here.
func onCommandLine(ctx context.Context, action string) context.Context {
	return store.WithActor(ctx, store.Actor{Name: commandLine, Action: action})
}
