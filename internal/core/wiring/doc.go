// Package wiring is what hangs on which wire: the sheet of a machine or of one
// of its heads, the current each contact and wire bears, and the re-pinning of
// motors.
package wiring
