// Package schedule is the shop's calendar: when it is open, who works when, and who has a machine.
//
// Times are moments; hours that repeat are said on the shop's clock, and a day is a civil day of
// the shop, so that a day on which the clocks change has 23 or 25 hours.
package schedule
