// Package book is what everybody in the shop writes into: one transaction for
// each change, with its entry in the hash-chained log, who may do what, refusals
// that a technician understands, and answers that are kept for a moment. Every
// change may be repeated under its idempotency key, and is refused with an
// [*Error].
//
// [Write] is how a record changes: one transaction that claims the idempotency key (a second
// request with it waits, and gets the first answer), asks the matrix of acts (permit.go) and
// what is signed for, runs the change, and appends its entry to the hash-chained log. No entry,
// no commit. A commit whose end is not known is told so ([Unknown]) and keeps its key. [View]
// reads: one read-only, repeatable-read transaction, so that a page made of many queries is one
// consistent picture.
//
// A refusal is an [*Error]: the rule that it follows from (refusals.go; a rule has a code and
// the kind that decides the status), a sentence with its quantities as data, and a field. It is
// made from the rule: Done.Errorf, Needed.At("name", …). Pages act on the rule, never on the
// sentence.
//
// Answers that many ask for at once are kept for a second at most and only while the log has
// not grown (memo.go): every change writes to the log in its own transaction, so the end of the
// log names the state of the records, whichever process made the change. Searches of long work
// are taken up by another worker when theirs has been silent for 20 s (search.go).
package book
