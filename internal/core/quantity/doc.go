// Package quantity reads numbers and units as technicians write them: with a
// point or a comma before the decimals, with or without thousands marks, in the
// units of the trade. It knows every unit of the program, in one table. Where a
// text has two meanings it says both and chooses neither.
package quantity
