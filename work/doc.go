// Package work does the shop's long work: it takes jobs from the PostgreSQL
// queue, in the same process as the server or in as many others as wanted.
//
// shop puts a job into the queue within its own transaction (river, insert-only over
// database/sql); a working client over pgx takes it here. Progress is written to the row of the
// nest, the run or the search; pages follow it by server-sent events. No process holds state.
package work
