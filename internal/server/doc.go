// Package server is the HTTP interface: it translates requests into calls of
// the store and the core, and their answers into JSON. Its OpenAPI document is
// made from the Go types below; the front end's types are made from that.
package server
