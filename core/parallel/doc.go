// Package parallel runs parts of one computation at once.
//
// A panic in a goroutine would be the end of the program. [Group] hands it to whoever waits as an error with its stack,
// so that a shop whose nest fails does not lose the run that it records.
//
// Results must not depend on the order in which parts end: each part writes to a place of its own, and the caller puts
// them together in a fixed order. That is what makes a search the same for the same seed, on one processor or on
// sixteen.
//
// Used by the analysis of a master, the nest, the drape's cuts and the search for the shortest cycle.
package parallel
