package machine_test

import (
	"fmt"
	"time"

	"wardifex/internal/core/machine"
)

// A seller's claim is beaten by what was read off the chip, and stays on
// record as contradicted.
func ExampleStanding() {
	flash := &machine.Trait{
		Slot:     "mainboard",
		Label:    "Mainboard: flash",
		TraitDef: machine.TraitDef{Name: "flash", Kind: machine.Number, Unit: "KiB"},
	}
	claim, _ := flash.Parse("512 KB")
	read, _ := flash.Parse("256")
	day := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	f := machine.Standing(flash, []machine.Reading{
		{ID: 1, Value: read, Grade: machine.Observed, TakenAt: day, By: "Ann"},
		{ID: 2, Value: claim, Grade: machine.Claimed, TakenAt: day.AddDate(0, 1, 0), By: "a seller"},
	})
	fmt.Println(flash.Show(f.Value), f.Grade, "by", f.Stands.By)
	fmt.Println("contradicted:", flash.Show(f.Contradicted()[0].Value), "by", f.Contradicted()[0].By)
	// Output:
	// 256 KiB observed by Ann
	// contradicted: 512 KiB by a seller
}
