// Package curve reads a cure cycle that was drawn or logged elsewhere.
//
// It is a CSV or XLSX table with a header row and a point a row. Columns, in any order: a time, a temperature, and
// optionally a pressure above the air outside; their units stand in the header: time in s, min or h, temperature in °C,
// °F or K, pressure in Pa, kPa, MPa, bar or psi. A logger's further columns are left alone; of several temperatures the
// set point is read, or else the first.
//
// Faults name their rows, and there is a curve only if there are none. What recipe follows a curve is for core/cure to
// say.
package curve
