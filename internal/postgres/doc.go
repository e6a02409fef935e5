// Package postgres runs a PostgreSQL server of our own, from Debian's
// packages, on loopback: for the demo, for development and for the tests. It
// never touches the system's cluster and stops only what it started.
package postgres
