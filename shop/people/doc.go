// Package people is who works here: what they may do, how they sign in and sign,
// and at which tablets.
//
// Secrets are hashed with argon2id (secrets.go); the matrix of acts says which ask for the PIN
// again, and a wrong one is counted although nothing is signed.
package people
