// Package bag judges a vacuum bag: the leak check before cure and the vacuum
// that the place above sea level allows.
package bag
