package calc

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"juxta/core/geom"
)

// Calculation is one computation of the core.
type Calculation struct {
	Name, About string
	example     any
	in          reflect.Type
	run         func(ctx context.Context, raw []byte) (any, error)
}

// InputError is bad input: the field and a sentence.
type InputError struct{ Field, Message string }

func (e *InputError) Error() string {
	if e.Field == "" {
		return e.Message
	}
	return e.Field + ": " + e.Message
}

func define[In, Out any](name, about string, example In, run func(context.Context, In) (Out, error)) Calculation {
	return Calculation{name, about, example, reflect.TypeFor[In](), func(ctx context.Context, raw []byte) (any, error) {
		var in In
		if err := json.Unmarshal(raw, &in); err != nil {
			return nil, &InputError{"", "the input is not JSON of the right shape: " + err.Error()}
		}
		return run(ctx, in)
	}}
}

// All lists the computations in order of name.
func All() []Calculation {
	return []Calculation{
		cureCalc,
		drapeCalc,
		laminateCalc,
		nestCalc,
		outTimeCalc,
		pressCalc,
		progressCalc,
		recipeCalc,
		tubeCalc,
	}
}

// Find gives the computation of a name.
func Find(name string) (Calculation, error) {
	all := All()
	i := slices.IndexFunc(all, func(c Calculation) bool { return c.Name == name })
	if i < 0 {
		var names []string
		for _, c := range all {
			names = append(names, c.Name)
		}
		return Calculation{}, &InputError{
			"",
			fmt.Sprintf("there is no calculation %q: there are %s", name, strings.Join(names, ", ")),
		}
	}
	return all[i], nil
}

// Example is an input that runs.
func (c Calculation) Example() []byte { return indented(c.example) }

// Schema is the JSON Schema of the input.
func (c Calculation) Schema() []byte { return SchemaOf(c.in) }

// SchemaOf is the JSON Schema of what is read into a Go type.
func SchemaOf(t reflect.Type) []byte {
	registry, schema := schemaOf(t)
	raw, _ := json.Marshal(schema)
	var doc map[string]any
	_ = json.Unmarshal(raw, &doc)
	doc["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	doc["$defs"] = registry.Map()
	return indented(doc)
}

// schemaOf is the schema of a Go type, which a file may name.
func schemaOf(t reflect.Type) (huma.Registry, *huma.Schema) {
	registry := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	Shapes(registry)
	schema := huma.SchemaFromType(registry, t)
	schema.Properties["$schema"] = &huma.Schema{Type: huma.TypeString, Format: "uri"}
	schema.PrecomputeMessages()
	return registry, schema
}

// Run validates the input and computes. Bad input is an *[InputError].
func (c Calculation) Run(ctx context.Context, raw []byte) ([]byte, error) {
	var value any
	if err := json.Unmarshal(raw, &value); err != nil {
		return nil, &InputError{"", "the input is not JSON: " + err.Error()}
	}
	registry, schema := schemaOf(c.in)
	result := &huma.ValidateResult{}
	huma.Validate(registry, schema, huma.NewPathBuffer(nil, 0), huma.ModeWriteToServer, value, result)
	if len(result.Errors) > 0 {
		var detail *huma.ErrorDetail
		if errors.As(result.Errors[0], &detail) {
			return nil, &InputError{detail.Location, detail.Message}
		}
		return nil, &InputError{"", result.Errors[0].Error()}
	}
	out, err := c.run(ctx, raw)
	if err != nil {
		return nil, err
	}
	return indented(out), nil
}

func indented(v any) []byte {
	raw, err := json.MarshalIndent(v, "", "  ")
	if err != nil {
		panic("calc: a result that is no JSON: " + err.Error()) // our own types only
	}
	return append(raw, '\n')
}

// Shapes tells a registry of schemas how the values travel that write their JSON themselves.
func Shapes(r huma.Registry) {
	r.RegisterTypeAlias(reflect.TypeFor[geom.Ring](), reflect.TypeFor[[][2]float64]())
}
