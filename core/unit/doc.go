// Package unit turns people's units into the SI values that the core computes
// with (metre, second, kelvin, pascal, kilogram, radian) and back.
//
// A sentence of the core or the shop holds its quantities as data, ⟨vacuum 95000 0⟩ ([Quantity]:
// kind, SI value, digits of the metric unit), and is stored so; no format string has a unit
// baked in. [System] turns it into words for its reader on paper, ui/units.ts on the page; one
// file of examples (testdata) holds the two together.
package unit
