// Package demo loads the made-up shop "Quillmere Observatory Works", 640 m
// above sea level: a flat panel with a local reinforcement that is built, the
// masters of its other parts, a stock of rolls of differing age in two measured
// freezers, and builds at the oven's far end,
// at the bench and before the knife, so that every page has something to show.
// It is written as a script of what the shop's people did in the last weeks,
// and runs through the same verbs as the real shop. All names and figures are
// invented.
//
// It is a script of what the people of the shop did, run through the same verbs as the pages
// (others.go, works.go): nothing is written beside the shop.
package demo
