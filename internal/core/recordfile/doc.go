// Package recordfile is the whole record of machines as it is exchanged, in JSON:
// out of one database and into another without loss.
package recordfile
