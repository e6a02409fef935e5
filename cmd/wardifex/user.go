package main

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

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
			password, err := askPassword(args[0])
			if password == "" {
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
	return group(cmd)
}

// askPassword asks for a password on the terminal, which does not show it, or takes it from what is piped in.
func askPassword(name string) (string, error) {
	fmt.Fprint(os.Stderr, "Password for "+name+": ")
	in := int(os.Stdin.Fd())
	if !term.IsTerminal(in) {
		line, err := bufio.NewReader(os.Stdin).ReadString('\n')
		return strings.TrimRight(line, "\r\n"), err
	}
	typed, err := term.ReadPassword(in)
	fmt.Fprintln(os.Stderr)
	return string(typed), err
}

// group makes a command of commands refuse what is none of them.
func group(cmd *cobra.Command) *cobra.Command {
	var names []string
	for _, c := range cmd.Commands() {
		names = append(names, c.Name())
	}
	cmd.Args = cobra.ArbitraryArgs // and refused with what there is
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		has := fmt.Sprintf("there is %s", strings.Join(names, ", "))
		if len(args) > 0 {
			return fmt.Errorf("%s has no command %q; %s", cmd.CommandPath(), args[0], has)
		}
		return fmt.Errorf("say which command of %s: %s", cmd.CommandPath(), has)
	}
	return cmd
}
