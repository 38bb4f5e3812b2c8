// Package paper lays out what the shop prints: records of builds, ply books,
// labels, in the units of whoever prints them.
//
// It asks the shop and sets what it answers with format/pdf; it has no rules of its own.
package paper
