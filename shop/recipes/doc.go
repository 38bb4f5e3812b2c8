// Package recipes is what parts are cured by, before any part is in an oven: resin systems, what
// cures are done in, recipes, and the cure that follows from them.
//
// Resins and equipment are kept in versions, each with where its figures come from; a recipe names
// the newest and tells what of them has changed since its release. A recipe is a draft until a
// second person releases it; a process, or an operation, holds a copy of its recipe and names the
// released version that it is (KnownHere says whether that is still so).
//
// A cure is simulated from stacks that lie on their tools: those that a recipe is planned with
// (Forecast, ShortestCycle, MapCure), or those that rooms above work out of masters and of what is
// loaded (Simulate). Simulations are never stored here; a run keeps its own.
//
// The physics is core/cure; here is what the shop keeps of its figures.
package recipes

import "juxta/shop/climate"

// Room of the recipes.
type Room struct{ *climate.Room }
