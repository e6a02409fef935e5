// Package settings says what the words in a machine's settings mean: which calibration or trait
// each is the value of, in which unit and with which sign, keyed by the firmware family and the
// word, as one word can mean two things. It holds what settings state against the record, and
// writes values back in the words of their family. Secrets are masked before anything is kept.
package settings
