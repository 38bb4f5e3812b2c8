// Package stock is what the shop holds: materials, batches, rolls and off-cuts, freezers, and the
// ledger that their clocks follow from.
//
// freezer_events is the ledger. The result is kept in the roll's own row (rolls.spent …
// clock_at), written by settle in the transaction of every line and of every freezer failure,
// so that a page of the stock costs what the page holds and not what the ledgers hold. The
// clock of now is the kept one moved on. VerifyClocks (also in juxta verify-log) adds everything
// up anew and names the first roll that differs.
//
// Materials have versions: a row a version, a family each. A roll and a cut ply keep the version
// that they came under; demand and stock meet by family.
package stock
