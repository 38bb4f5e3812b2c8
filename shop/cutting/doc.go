// Package cutting is the cutting table: which roll, the nest on it, and the plies that were cut.
//
// A search keeps its best in the row of the nest. A nest on several rolls is searched as one problem and is one nest on
// each when it is found (several.go). A ply that is cut of several pieces lies on one roll, for it has one clock. A job
// on the table (cut_jobs) is long work like a run: the table holds the state, and one that has begun is never begun
// again. Only the report takes length off the roll, once, whatever the knife went through before (confirm.go). Arranged
// again (arrange.go), a nest is searched round what is held, put by hand or cut free. A cut that waits is not nested,
// and what quality left out is not cut (uncut.go).
package cutting
