// Package register brings a technician's own sheet of machines in and writes
// the register out again as CSV (RFC 4180). It reads text, matches headings to
// traits, and works out what each row would create or change; it writes
// nothing itself.
package register
