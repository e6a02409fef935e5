// Package inspection asks a technician what is not known of a machine, in the
// order in which the machine is opened, reads what is printed on its parts as
// it is typed, and says when an answer cannot be true of the rest.
package inspection
