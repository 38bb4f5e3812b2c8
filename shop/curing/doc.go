// Package curing is the oven: runs, what they recorded, and what is made of it.
//
// What is loaded together is simulated together when a run starts and kept with the run: its plan is what the record is
// held beside (loads.go). A run completes the cure of each build in it, and is judged once, when it ends, by core/cure.
//
// A run has a lease (recording.go): when its recorder dies, another picks it up where it was left, from the
// controller's state stored with each sample. A run goes on from the degree of cure that the runs before it left in the
// least cured of its stages.
//
// learn.go fits equipment and resin to what a run recorded, and keeps the figures as a new version, with where they
// came from.
package curing
