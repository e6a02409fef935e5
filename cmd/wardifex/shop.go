package main

import (
	"context"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/store"
)

func shopCommand() *cobra.Command {
	var zone string
	cmd := &cobra.Command{
		Use:   "shop",
		Short: "Show what is set for the shop, or set it: its time zone",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return withStore(cmd.Context(), func(st *store.Store) error {
				shop, err := st.Shop(cmd.Context())
				if err == nil && zone != "" {
					shop, err = app.New(st, time.Now).SaveShop(onCommandLine(cmd.Context(), "set-shop"), shop.Settings, zone,
						shop.Version, commandLine, time.Now())
				}
				if err != nil {
					return err
				}
				for _, b := range shop.Before {
					fmt.Printf("time zone %s until %s\n", b.TimeZone, b.Until.Format(civil.Moment))
				}
				fmt.Printf("time zone %s; there it is %s\n", shop.TimeZone, time.Now().In(st.Location()).Format(civil.Moment))
				return nil
			})
		},
	}
	cmd.Flags().
		StringVar(&zone, "time-zone", "", "in which days are kept from now on, such as Europe/Oslo; days on record "+
			"stay as they are")
	return cmd
}

// takeOverTimeZone sets the shop's time zone to this computer's, where none was ever set
// and the computer tells it.
func takeOverTimeZone(ctx context.Context, st *store.Store) error {
	shop, err := st.Shop(ctx)
	zone := zoneHere()
	if err != nil || shop.Version > 0 || zone == "" || zone == shop.TimeZone {
		return err
	}
	_, err = app.New(st, time.Now).SaveShop(ctx, shop.Settings, zone, shop.Version, "this computer", time.Now())
	if err != nil {
		return err
	}
	fmt.Printf("Days are kept in this computer's time zone, %s. Another: wardifex shop --time-zone Europe/Oslo\n", zone)
	return nil
}

// zoneHere is the name of this computer's time zone; empty where it has none.
func zoneHere() string {
	names := []string{os.Getenv("TZ")}
	if target, err := os.Readlink("/etc/localtime"); err == nil {
		_, name, _ := strings.Cut(target, "zoneinfo/")
		names = append(names, name)
	}
	if text, err := os.ReadFile("/etc/timezone"); err == nil {
		names = append(names, string(text))
	}
	for _, name := range names {
		name = strings.TrimPrefix(strings.TrimSpace(name), ":")
		if civil.CheckZone(name) == nil && !strings.HasPrefix(name, "Etc/") {
			return name
		}
	}
	return ""
}
