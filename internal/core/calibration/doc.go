// Package calibration knows the calibrations and proofs of a machine: to what each one
// belongs (the machine, an axis, a head, the bed, a heater), of what numbers its value
// is made, where it is kept, and on what it depends, so that a change of parts, of a
// build or of a reading tells exactly what is no longer valid.
package calibration
