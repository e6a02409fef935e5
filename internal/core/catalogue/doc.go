// Package catalogue is what ships with the application: the vocabulary of
// slots, traits and inspections, and the first kits. Kits, makers and models in
// it are invented.
package catalogue
