// Package paper lays out what the shop prints, in the units of whoever prints it.
//
// record.go is the as-built record of a build: what was recorded and which entered limit it met, planned beside built,
// with the log and its hash. plybook.go is the ply book of a revision, route.go the route as planned, route_record.go
// as it was walked, simulated.go its cures. label.go has the labels of rolls, cut plies, pre-forms and badges,
// cutlist.go the cut list of a nest.
//
// It asks the shop, and sets what it answers with format/pdf; it has no rules of its own, and no figure is worked out
// here. Sentences hold their quantities as data until a reader puts them into words.
package paper
