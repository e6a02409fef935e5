package fit_test

import (
	"fmt"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// A hotend that draws 60 W needs a supply of which at least that much is known
// to be there; a claim on a listing decides nothing.
func ExampleJudge_Verdict() {
	watts := fit.Requirement{
		Label: "60 W from the supply",
		Test:  &fit.Test{Slot: "supply", Trait: "watts", Op: fit.AtLeast, Values: []string{"60"}, Least: machine.Marked},
	}
	j, err := fit.NewJudge(fit.Kit{Key: "hot", Name: "Hot end", Needs: watts}, voc)
	if err != nil {
		fmt.Println(err)
		return
	}
	trait, _ := voc.Trait("supply.watts")
	for _, grade := range []machine.Grade{machine.Claimed, machine.Marked} {
		v, _ := trait.Parse("350")
		s := machine.NewSnapshot(
			voc,
			machine.Record{Readings: []machine.Reading{{ID: 1, Key: trait.Key(), Value: v, Grade: grade}}},
		)
		verdict := j.Verdict(s)
		fmt.Printf("%s: %s", grade, verdict.Answer)
		for _, l := range verdict.Look {
			fmt.Printf(" (%s, %d min)", l.Inspection.Title, l.Inspection.Minutes)
		}
		fmt.Println()
	}
	// Output:
	// claimed: look first (Read the supply's label, 10 min)
	// marked: fits
}
