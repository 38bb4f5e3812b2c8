// Package cure knows recipes and what a run did: the set point as it should
// go, the degree of cure from the logged temperatures, and a run held against
// its limits by its leading and lagging sensors. What a part will feel before
// it is cured is worked out by its package forecast.
//
// Temperatures in kelvin, times in seconds, vacuum in pascal below the air
// outside.
//
// The laws are here (kinetics, viscosity, glass transition, pressure); core/cure/heat has the
// temperature through one stack, core/cure/forecast all stacks of a load on their equipment.
// [Controller] follows a recipe, in a forecast and in a run alike: it waits for the same
// conditions, by what it knows of the part ([PartState]). [Judge] holds the log of a run against
// its limits, [JudgePlan] a simulated one, by the same rules. What cannot be judged is said in
// Notes and never counts as met.
package cure
