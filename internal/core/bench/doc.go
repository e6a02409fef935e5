// Package bench holds the calculators that a technician would otherwise do on
// paper, one file a subject. Every result is a plain struct with what went in.
package bench
