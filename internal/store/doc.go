// Package store keeps the record in PostgreSQL. It has its own row types and
// maps them to the types of the core; every write is one transaction, and
// concurrent edits are detected by version numbers, not overwritten.
package store
