// Package shoptest makes what tests and benchmarks of several floors need.
//
// [MoreBuilds] and [Copied] make a shop as large as a benchmark asks for out of the demo's, row by row in SQL: two
// hundred open builds with all that was recorded of them. [Many] makes a master of many plies out of a small one.
//
// What they make is invented and follows no history that people could have entered, so it serves for measuring alone:
// no test of a rule builds on it.
//
// No code of the product imports it.
package shoptest
