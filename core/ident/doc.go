// Package ident makes and reads the short ids that stand on screens, labels
// and paper: a kind letter, a dash, digits and one check character, such as
// R-4KD7Q.
//
// The check character is the hybrid recursive system of ISO 7064 with M = 32
// (MOD 33,32), over an alphabet without the look-alikes I, L, O and U. It
// finds every single wrong character, and nearly every swap of neighbours.
package ident
