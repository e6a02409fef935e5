// Package e2e drives the real application in a real browser as a technician
// does: the binary's server on loopback, PostgreSQL of its own, Debian's
// Chromium.
package e2e
