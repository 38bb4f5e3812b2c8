// Package layup works out the order of work at the bench.
//
// [Policy] says when a debulk falls due, and [Steps] puts plies, debulks, hold points and second persons of a bench
// into one order. [Bench] is a layup as far as it has come: it says which step may be signed now, or gives the
// [Refusal] with what has to be done first. A ply that is taken back opens what came after it again.
//
// join.go holds the labels of pre-forms against the join that asks for them: each once, laid, and not past its life.
//
// The count of what is missing at the release reads the same steps, so that the bench and the release cannot disagree.
package layup
