// Package progress tells where one build stands: one fold over its route and everything that was recorded of it.
//
// What happened to a build is a list of events ([Event]), each a fact with its time, its person and its reason, never a
// conclusion. [Fold] reads them in order into one value ([Progress]), and everything that a room asks is asked of that:
// the status of each operation and why it waits, which plies lie, which debulks count, what was counted, closed, heated
// and signed, by whom and when; what ends a stage's clock; and whether something may be recorded now, and the rule that
// refuses it ([Progress.May]). Nothing folded is kept but as a cache that the events can rebuild.
//
// A fold takes O(events + operations + lines of the route). Time is in the events alone: the same events give the same
// progress, whenever they are read.
//
// The rules are common practice of the trade (no source): nothing is begun before what it waits for, what was signed is
// taken back and never erased, who holds something says why, a part that was heated stays heated.
package progress
