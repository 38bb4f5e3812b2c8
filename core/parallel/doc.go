// Package parallel runs parts of one computation at once.
package parallel
