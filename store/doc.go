// Package store opens the database and brings it to the present schema.
//
// [DB] is one pool of connections (pgx), seen three ways: by GORM for the records, as database/sql for the queue's side
// of a transaction, and as pgx for what listens.
//
// Migrations are SQL in a folder of their own, embedded, and run by goose. They go forward only and are never edited
// once they have landed; forward_test.go brings databases of every older schema, with rows in them, to the present one.
//
// Two roles work here. The owner has the tables and runs migrations; the application may read and write what [DB.Grant]
// lists, and can neither change nor delete an entry of the log: the database itself refuses it.
package store
