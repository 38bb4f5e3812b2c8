// Package finish is the room of the operations that are signed each for itself: the tool prepared, the part demoulded,
// trimmed, drilled, bonded, coated, sent out and looked at. What they are and what they record stands in the route of
// the build's revision.
//
// Lines of operations are added and never changed; the last one of an operation is its status. A join takes each pre-
// form by its label; one that is too old is joined only when a quality person says why. Quality leaves an operation out
// with a reason, and adds one to a single build with a second person (rework.go), which never makes wait what is begun.
// Fields are judged by master.Operation.Judge, while they are typed and when they are signed.
package finish
