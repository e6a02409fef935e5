// Package csvimport reads a technician's own register of machines, or list of
// print-hour meters, as CSV, and writes the register out again (RFC 4180). It
// reads text, matches columns to traits by heading, unit and cells, and works
// out what each row would create or change; it writes nothing itself.
package csvimport
