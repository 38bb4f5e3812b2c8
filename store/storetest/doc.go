// Package storetest gives each test a database of its own, as a copy of a template.
//
// The tests of all packages share one PostgreSQL server. It is started by the first package that needs it, stopped by
// the last (file locks, so that a test that is killed leaves nothing behind that the next run would trip over), and its
// templates are kept between runs, in memory where there is room: databases come and go with every test.
//
// [Open] copies a [Template]: [Empty] has the present schema and nothing else, others are named by what they follow
// from. [Run] is called from TestMain, and joins and leaves the server.
//
// [Now] is the moment at which every test's shop stands: no test depends on the day on which it runs.
package storetest
