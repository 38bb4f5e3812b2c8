// Package unit turns people's units into the SI values that the core computes with, and back.
//
// SI is metre, second, kelvin, pascal, kilogram and radian.
//
// A sentence of the core or the shop holds its quantities as data, ⟨vacuum 95000 0⟩ ([Quantity]: kind, SI value, digits
// of the metric unit), and is stored so; no format string has a unit baked in. [System] turns it into words for its
// reader on paper, ui/units.ts on the page; one file of examples (testdata) holds the two together. [InMetric] is for
// logs and tests.
//
// message.go reads what was kept under older names; pair.go says why limits contradict each other.
package unit
