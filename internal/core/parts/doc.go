// Package parts declares the kinds of part that rules know, and what they take for
// granted of them: a trait's kind of value, its unit, the choices that are asked
// for. Rules select by kind and relation and read traits by these names; the keys
// of a machine's positions are the user's.
//
// Broken checks a catalogue against the declarations, so that no edit switches a
// rule off in silence; Restore mends one from before.
package parts
