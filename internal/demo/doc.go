// Package demo fills an empty database with Netloft, a members' workshop in a
// former harbour net loft: two dozen printers in three bays, bought in batches
// that differ inside, with two years of history. Everything in it is invented.
package demo
