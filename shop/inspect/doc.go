// Package inspect is the last look: what was measured, held against its limits, and what became of
// the part.
//
// The release asks for every operation that is neither signed nor left out, for each of the
// inspections that the process names, and for what the bench left open. It never says that a
// part is safe: it says what was recorded and which entered limit it met.
package inspect
