// Package demotest gives tests the made-up shop: as the demo loads it, at
// [storetest.Now], kept as a template between runs.
package demotest
