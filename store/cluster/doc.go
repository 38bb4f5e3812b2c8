// Package cluster makes and runs a PostgreSQL server of its own on loopback,
// from Debian's packages, for juxta start and for the tests. The server never
// runs as root: started by root it runs as the system user postgres.
package cluster
