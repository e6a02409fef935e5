// Package change works out what an upgrade does to a machine: which
// calibrations no longer hold and why, which are needed now, and the steps of
// the work in the order in which they must be done.
package change
