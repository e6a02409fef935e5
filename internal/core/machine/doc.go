// Package machine is the record of one printer: its slots, what is fitted in
// each, the readings taken of every trait, and how sure each reading is.
//
// The value of a trait is never stored; it is computed. Standing picks the
// value that stands from all readings of a trait, and Take does so for a whole
// machine at a moment.
package machine
