package fit

import "wardifex/internal/core/machine"

// The language of requirements, which catalogues of parts share with kits.
type (
	Op               = machine.Op
	Requirement      = machine.Requirement
	Test             = machine.Test
	Formula          = machine.Formula
	KitRef           = machine.KitRef
	AdditionalChange = machine.AdditionalChange
	FittingStep      = machine.FittingStep
	Effect           = machine.Effect
	Use              = machine.Use
)

// Operators of a test.
const (
	Equal    Op = "equal"
	OneOf    Op = "one of"
	AtLeast  Op = "at least"
	AtMost   Op = "at most"
	Between  Op = "between" // two values, both included
	Contains Op = "contains"
	Present  Op = "present" // the position holds a part; the trait is the model
	Absent   Op = "absent"  // the position is empty; the trait is the model
	Version  Op = "version at least"
	// Compatible is a version that is not older and of the same line.
	Compatible Op = "compatible version"
	Known      Op = "known" // whatever it is
)
