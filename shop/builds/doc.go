// Package builds is the parts in the making: their kits, the bench where they are laid, and their
// bags.
//
// [RouteProgress] is a build on the route of its revision: its tables are read as events
// (events.go), for one build or for all of them in the same few queries, and folded by package
// progress; nothing of it is stored. What may be recorded is asked of that ([RouteProgress.May]):
// a room refuses in its words. Plies belong to the operation that lays their stage; a kit's clock
// runs with its own moves and ends with the first cure of its stage.
//
// A kit, lay, close or cure that asks for fields, a second person or a hold point is over once
// that is signed, after its room is done with it. Kits of a route count what they hold besides
// plies by item. Jobs are kept by build (jobs_kept.go): what the log says since the last look
// names the builds to work out anew; an entry about anything else makes it forget all.
package builds
