// Package e2e drives the real pages in headless Chromium, against a real server on a copy of the demo.
//
// A house (walk_test.go) is a server with a database, and for tests that need them a worker and an oven; tests that
// only read share one. A page (page_test.go) does what a person does: it fills fields by their labels, presses buttons
// by their names, and waits for a state, never for a time. Whatever the page logs as an error fails the test.
//
// views_test.go visits every page once: at the desk, upright in the dark, at the width of the tablet, with axe. Its
// forms are left empty, filled wrongly and sent twice (forms_test.go). The network fails by a proxy of the tests' own
// (gate_test.go).
package e2e
