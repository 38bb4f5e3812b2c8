// Command juxta is the one binary: the shop's server and everything round it.
//
// start.go starts all there is on one machine (database, demo, simulated equipment, server and work); serve.go serves
// HTTP, does queued work, brings a database forward and verifies its log, each alone; backup.go writes and restores
// backups and upgrades; heads.go keeps the ends of the log outside the database; calc.go runs a computation of the
// core; simulated.go runs a stand-in alone.
//
// Secrets come from the environment or from files, never from flags. Addresses other than loopback are refused without
// --secure. Exit status: 0 done, 1 refused or failed with one line that says why, 2 bad input of calc.
package main
