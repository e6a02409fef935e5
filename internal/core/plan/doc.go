// Package plan judges several upgrades on one machine together: in which order
// they fit with the least rework, which of them cannot go together, what would
// make one fit that does not, and which inspections to make first.
package plan
