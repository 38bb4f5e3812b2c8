// Package demotest gives tests the made-up shop, as the demo loads it, at [storetest.Now].
//
// [Shop] is the shop with the builds of the panel; [Works] has those of the other parts besides. Each is loaded once,
// kept as a template of the test server between runs, and copied for each test: a copy takes some 50 ms, a load ten
// seconds.
//
// A template is named by a hash of all that it follows from (migrations, core, shop, demo, their modules), so none is
// used that an older program made.
//
// No code of the product imports it.
package demotest
