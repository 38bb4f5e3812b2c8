// Package number reads a number as a person writes it: with a comma or a point,
// where these cannot mean two things.
//
// The page reads numbers by the same rule (ui/number.ts); one file of examples holds the two
// together. Nothing is clamped.
package number
