// Package parts is the masters: parts, their revisions, what is worked out from them, the rules of
// the shop, and the tools that they are made on.
//
// Whatever is stored of a draft goes through storeDraft, which alone writes the document: it is
// checked and worked out first, and the rows of plies, which nests, kits and the bench refer
// to, are derived from it in the same transaction and never written otherwise. A draft that
// others changed meanwhile is merged; where both touched one thing nothing is stored.
//
// Revisions are draft, checked, released, superseded: two signatures with PIN, neither by who
// wrote last; a change undoes the check. Triggers freeze a released revision. A family's
// variants are parts of their own, brought up to date on request. A finding is let stand by a
// waiver, word for word, for one revision.
//
// A process, or an operation, holds a copy of its recipe and names the released version that it
// is (shop/recipes). What a cure does to a part is simulated from its zones on its tool
// (SimulateLoads, stacks.go) and judged by the limits of a run before it is kept. How plies lie on
// surfaces, and what outlines say whatever lies on them, is kept in memory by what it follows from
// (drapes.go, outlines.go).
package parts
