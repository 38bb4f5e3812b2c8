// Package calc makes the core's computations callable by name with JSON in and
// JSON out, as juxta calc does: the input is validated against a schema made
// from its Go type before anything is computed.
//
// The same types are the bodies of the API that asks for a computation, and the columns in which
// a problem is kept with its answer. Long work is asked for in pieces that carry their state, so
// that it can be stopped, goes on after a restart, and needs no queue.
package calc
