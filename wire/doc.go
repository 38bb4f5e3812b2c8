// Package wire holds the shapes in which values of the core travel: in JSON
// columns, through the HTTP contract and through juxta calc. SI throughout
// (metre, second, kelvin, pascal, kilogram), angles in degrees. Each type
// turns itself into the core's value and back; it has no rules of its own.
//
// It goes when the core's types carry their JSON names themselves.
package wire
