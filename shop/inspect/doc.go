// Package inspect is the last room: what was measured, held against its limits, and what becomes of the part.
//
// The release asks for every operation that is neither signed nor left out, for each of the inspections that the
// process names, and for what the bench left open: films, hold points, second persons, a leak check that passed, a cure
// that met its limits. Whoever laid plies of a part does not sign it.
//
// Limits and refusals are core/release's; this room gathers what is recorded, stores what was measured with the lines
// that it was held against, and signs the disposition: good, refer or scrap.
//
// It never says that a part is safe: it says what was recorded and which entered limit it met.
package inspect
