// Package forecast works out what parts will feel in a cure before the oven door closes: a recipe is run on an
// oven, an autoclave or a press with the parts in it, each as stacks of layers, to the temperatures, the degree of
// cure, the viscosity and the glass transition everywhere in them, and to the pressure with the window that it may go
// on in.
//
// SI units; pressures above the air outside, vacuum below it.
//
// [Simulate] is the entry. [Find] looks for the shortest cycle that keeps all limits, in pieces
// that carry their own state, so that it can be stopped and gone on with; [Learn] fits heat
// transfer and rate to the record of a run.
package forecast
