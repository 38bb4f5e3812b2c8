// Package release holds a finished part against the limits of its revision.
//
// [Expected] is what the master says: mass and thickness with a tolerance, and values with limits of their own.
// [Compare] holds what was measured against it and gives a [ReleaseLine] for each figure, with how far it is off and
// whether it is met; [WithOff] fills in the first of these for lines that were kept before it was kept.
//
// [Refusal] says why a disposition cannot stand. A part with a limit not met, with something missing from its record,
// or with something that nobody measured is not good; to refer or to scrap one asks for a reason.
//
// A line that is met says that a recorded value met an entered limit. It never says that a part is safe.
package release
