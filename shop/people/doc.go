// Package people is who works here: what they may do, how they sign in and sign, and at which tablets.
//
// Secrets are hashed with argon2id (secrets.go); PINs and passwords that anybody would try first are refused. Guessing
// is slowed by person and by address and never locks anybody out for long (signin.go). The matrix of acts (shop/book)
// says which ask for the PIN again, and a wrong one is counted although nothing is signed.
//
// Nobody gives themselves a role or a qualification, and somebody always stays an administrator. A change of a person
// is signed and ends their sessions. A badge names its owner and opens nothing without the PIN; only the shop's own
// tablets (tablets.go) are told the people's names.
//
// preferences.go keeps how each of them reads: units, decimal separator, keys.
package people
