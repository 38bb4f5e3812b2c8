// Package work does the shop's long work: it takes jobs from the PostgreSQL queue.
//
// It runs in the same process as the server, or in as many others as wanted. The shop puts a job into the queue within
// its own transaction (river, insert-only over database/sql); a working client over pgx takes it here. Progress is
// written to the row of the nest, the run or the search; pages follow it by server-sent events. No process holds state:
// what dies is taken up by another where it was left (attend.go).
//
// nest.go and drape.go search, record.go records a run of the oven, table.go follows a program on the cutting table,
// climate.go listens to the loggers.
package work
