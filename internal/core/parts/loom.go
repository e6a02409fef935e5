package parts

// LoomDensity is the most current that the wires of a loom bear beside each other, in
// A/mm². Source: from memory; the wire's own data sheet goes before.
const LoomDensity = 6.0
