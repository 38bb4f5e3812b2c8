// Package cluster makes and runs a PostgreSQL server of its own on loopback.
//
// It is what juxta start and the tests use, from Debian's packages; a shop with a server of its own needs none of it.
// The server never runs as root: started by root it runs as the system user postgres. Its roles have random secrets
// that lie beside the data, readable by their owner alone.
//
// [Start] makes a cluster in a folder or takes up the one that lies there; [Cluster.Watch] starts the server again, on
// its port, when it dies. Several programs may share one: the last to leave stops it (process.go).
//
// [Dump] and [Restore] (backup.go) go by PostgreSQL's own tools: everything as it was at one moment, into an empty
// database, all of it or nothing.
package cluster
