// Package storetest gives each test a database of its own, as a copy of a template.
//
// The tests of all packages share one PostgreSQL server. It is started by the first
// package that needs it, stopped by the last, and its templates are kept between runs,
// in memory where there is room.
package storetest
