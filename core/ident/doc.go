// Package ident makes and reads the short ids that stand on screens, labels and paper.
//
// An id is a kind letter, a dash, digits and one check character, such as R-4KD7Q: R a roll, P a part, B a build, C a
// cut ply, and so on ([Kind]).
//
// The check character is the hybrid recursive system of ISO 7064 with M = 32 (MOD 33,32), over an alphabet without the
// look-alikes I, L, O and U. It finds every single wrong character, and nearly every swap of neighbours.
//
// [Format] gives the id of the n-th thing of a kind; ids of one kind are distinct and do not tell how many there are.
// [Parse] reads what somebody typed, in either case, with or without its dash, and says what is wrong with it.
package ident
