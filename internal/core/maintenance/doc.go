// Package maintenance counts hours and days, and says which maintenance comes next
// on which machine.
package maintenance
