// Package calc makes the core's computations callable by name with JSON in and JSON out, as juxta calc does.
//
// The input is validated against a schema made from its Go type before anything is computed; bad input is an
// [InputError] that names the field. The same types are the bodies of the API that asks for a computation, and the
// columns in which a problem is kept with its answer.
//
// Most types of the core travel as they are. Those that cannot stand here beside the computation that uses them: angles
// in degrees (laminate, tube, drape and cutter), durations in seconds (out-time), and figures that may be none, which
// JSON has no NaN for (points and outcomes of a forecast).
//
// Long work is asked for in pieces that carry their state, so that it can be stopped, goes on after a restart, and
// needs no queue.
package calc
