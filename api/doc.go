// Package api is the HTTP contract: one file a room, each route turning typed
// input into one call of the shop and its answer into typed output. There are
// no rules of the job here.
//
// [New] puts the middlewares round the contract: an id for every request, strict headers, the
// cross-origin guard of the standard library, the session from the database. Every route names
// its act of the matrix, which is held against the role before the body is read. huma validates
// JSON against the Go types; a refusal becomes problem+json whose type is the rule's code.
// Besides the rooms' routes there are streams (events of nests and runs, the log), files in and
// out, and their forms (exchange.go). scripts/contract writes openapi.json and the pages' types.
package api
