// Package store opens the database and brings it to the present schema.
//
// Migrations go forward only and are never edited once they have landed.
package store
