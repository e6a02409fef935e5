// Package settings reads settings as firmware reports or keeps them, in the words of its
// family, and holds what they state against the record. Nothing is run, only read. Secrets
// are masked before anything is kept.
package settings
