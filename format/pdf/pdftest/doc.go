// Package pdftest reads PDF files in tests with a reader that is not ours: pdf.js, which also shows them in a browser.
//
// [Read] gives what a person could select on the pages, in reading order; [Draw] paints pages, so that a test can look
// at the ink. The reader runs in node, is started once for a test process, and answers a file at a time.
//
// A document that only our own writer's tests understand would prove nothing: what stands on a label, in a ply book or
// in a record is read back here. Page.Ink says whether a place on a page is dark, Page.Printed what rectangle holds all
// ink, Page.Level how long the level lines are: enough to measure a printed scale or a pattern at full size. No code of
// the product imports it.
package pdftest
