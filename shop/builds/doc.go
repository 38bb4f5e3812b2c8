// Package builds is the parts in the making: their kits, the bench where they are laid, and their
// bags.
//
// [RouteProgress] is a build on the route of its revision: what the rooms recorded, by
// operation, and the status of each; it is read for one build or for all of them in the same
// few queries (recorded.go) and nothing of it is stored. Each room refuses what is not its turn
// in the route's own words. Plies belong to the operation that lays their stage; a kit's clock
// runs with its own moves and ends with the first cure of its stage.
//
// A kit, lay, close or cure that asks for fields, a second person or a hold point is over once
// that is signed, after its room is done with it. Kits of a route count what they hold besides
// plies by item. Jobs are kept by build (jobs_kept.go): what the log says since the last look
// names the builds to work out anew; an entry about anything else makes it forget all.
package builds
