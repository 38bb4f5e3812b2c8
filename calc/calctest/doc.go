// Package calctest holds documents against their schemas in tests.
//
// [Against] compiles a JSON Schema with a validator that is not ours and tells what of a document it refuses. Tests use
// it for what is published with a schema: a schema that nobody else can read would be worth nothing.
//
// It is a package of its own because tests of several floors need it, and tests of one package cannot be imported by
// another's: calc's of what a computation takes and gives, api's of recipes and of masters as files. No code of the
// product imports it.
package calctest
