package calctest

import (
	"bytes"

	"github.com/santhosh-tekuri/jsonschema/v6"
)

// Against says what a document breaks of a schema, as a reader of JSON Schema (draft 2020-12) that is not ours has
// both.
func Against(schema, doc []byte) error {
	of, err := jsonschema.UnmarshalJSON(bytes.NewReader(schema))
	if err != nil {
		return err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("http://localhost/schema", of); err != nil {
		return err
	}
	compiled, err := c.Compile("http://localhost/schema")
	if err != nil {
		return err
	}
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(doc))
	if err != nil {
		return err
	}
	return compiled.Validate(v)
}
