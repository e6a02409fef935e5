package main

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wardifex/internal/app"
)

func userCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "user", Short: "Accounts"}
	var role, display string
	add := &cobra.Command{
		Use:   "add NAME",
		Short: "Make an account; the password is read from standard input",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			set, err := readSettings(true)
			if err != nil {
				return err
			}
			fmt.Fprint(os.Stderr, "Password for "+args[0]+": ")
			password, err := bufio.NewReader(os.Stdin).ReadString('\n')
			if password = strings.TrimRight(password, "\r\n"); password == "" {
				return errors.Join(errors.New("no password given; type it, or pipe it in"), err)
			}
			st, err := openStore(cmd.Context(), set.Database, set.Photos)
			if err != nil {
				return err
			}
			defer st.Close()
			account := app.Account{Name: args[0], Display: display, Role: role, Password: password}
			if err := app.New(st, time.Now).AddAccount(onCommandLine(cmd.Context(), "add-account"), account,
				time.Now().UTC()); err != nil {
				return err
			}
			fmt.Printf("%s can sign in as %s.\n", args[0], role)
			return nil
		},
	}
	add.Flags().StringVar(&role, "role", "technician", "member, technician or lead")
	add.Flags().StringVar(&display, "display", "", "name as shown in the record")
	cmd.AddCommand(add)
	return cmd
}
