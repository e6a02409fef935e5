// Package ical reads and writes calendars in the form of RFC 5545, and tells when what repeats
// takes place. The form is read and written by a library, and repeated by another: this package
// keeps them from what is endless, broken or too large.
package ical
