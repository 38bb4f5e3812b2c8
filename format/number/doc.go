// Package number reads a number as a person writes it.
//
// With a comma or a point, with groups of thousands, with an exponent. Where comma and point could mean two things
// (1,234) it says so and asks for one of them: a wrong factor of a thousand is worse than a question. Nothing is
// clamped and nothing is guessed.
//
// The page reads numbers by the same rule (ui/number.ts); one file of examples (testdata) holds the two together.
//
// Used by the readers of tables: ply tables, stock lists and curves.
package number
