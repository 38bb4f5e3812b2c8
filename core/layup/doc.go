// Package layup works out the order of work at the bench: which ply next, and
// when a debulk falls due.
//
// Hold points and second persons are steps in their turn ([Steps]), as plies and debulks are.
// [Bench] says which step may be signed now, or gives the [Refusal]; the count of what is
// missing at the release reads the same steps.
package layup
