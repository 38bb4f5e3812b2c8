// Package route knows the rooms in the order of work and where a build
// stands among them.
//
// A [Route] is a partial order of operations: each waits for others, has its room by its
// kind, and times. [New] refuses a cycle by the names in it. Nothing of a build's progress is
// stored here: package progress turns what happened to a build into one recorded status an
// operation, [Route.Statuses] tells from these where each stands,
// [Route.Plan] when it can begin, when it must, and which of them are on the longest path,
// [Route.Check] what a planner should look at. A [Template] makes a route of the stages of a
// master; every operation may be changed afterwards.
//
// A revision without a route, as all of edition 1 are, is one pass through the rooms
// ([RoomOf]): its records name no operation.
package route
