// Package civil knows days as people write and count them: a date in the time zone
// of the shop, without a time. A shop's zones follow one another through the years,
// so that moving the shop, or setting its zone right, moves no day that is on record.
package civil
