package api_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/calc/calctest"
	"juxta/shop/recipes"
)

// The curves of a cure come as a table in SI units, the file of a recipe has a schema that says what it holds, and what
// cannot be simulated says why.
func TestARecipeAndItsCurvesAsFiles(t *testing.T) {
	b := open(t)
	b.signIn("Marek Orde")
	var all []recipes.RecipeView
	b.send("GET", "/api/recipes", "").into(t, &all)
	var ring recipes.RecipeView
	for _, r := range all {
		if strings.HasPrefix(r.Name, "Ring") {
			ring = r
		}
	}
	require.NotZero(t, ring.ID)
	ask := func(path string, change func(in *recipes.ForecastIn)) answer {
		in := recipes.ForecastIn{ResinID: ring.ResinID, Equipment: ring.Equipment, Plan: ring.Plan}
		change(&in)
		raw, err := json.Marshal(in)
		require.NoError(t, err)
		return b.send("POST", path, string(raw), key, fmt.Sprint("curves-", len(raw), path))
	}
	got := ask("/api/forecast/curves", func(*recipes.ForecastIn) {})
	require.Equal(t, http.StatusOK, got.StatusCode, string(got.body))
	assert.Equal(t, "text/csv; charset=utf-8", got.Header.Get("Content-Type"))
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(string(got.body), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	column := func(name string) (out []float64) {
		for k, c := range rows[0] {
			if c != name {
				continue
			}
			for _, r := range rows[1:] {
				v, err := strconv.ParseFloat(r[k], 64)
				require.NoError(t, err)
				out = append(out, v)
			}
		}
		require.NotEmpty(t, out, "%s in %v", name, rows[0])
		return out
	}
	air, pressed, asked := column("air K"), column("pressure Pa"), column("pressure that vapour asks for Pa")
	place := ring.Plan.Sections[0].Name + ": "
	lag, cured := column(place+"coldest K"), column(place+"least cure")
	for k := range air {
		assert.LessOrEqual(t, air[k], 453.0)
		assert.GreaterOrEqual(t, asked[k], 0.0)
		if k > 0 {
			assert.GreaterOrEqual(t, cured[k], cured[k-1])
		}
		if lag[k] > 373.2 &&
			cured[k] < 0.4 { // hotter than water boils, still liquid: the bag alone holds it, or the pressure
			assert.Greater(t, pressed[k]+101325, asked[k])
		}
	}
	assert.InDelta(t, 620e3, pressed[len(pressed)-1], 1e3)

	got = b.send("GET", "/api/recipes/schema", "")
	require.Equal(t, http.StatusOK, got.StatusCode)
	schema := got.body
	for _, r := range all { // as the page writes a recipe's file
		named, err := json.Marshal(struct {
			Schema string `json:"$schema"`
			recipes.RecipePlan
		}{"http://localhost/api/recipes/schema", r.Plan})
		require.NoError(t, err)
		assert.NoError(t, calctest.Against(schema, named), r.Name)
		var broken *jsonschema.ValidationError
		wrong := strings.Replace(string(named), `"hold":`, `"holds":`, 1)
		assert.ErrorAs(t, calctest.Against(schema, []byte(wrong)), &broken, r.Name)
	}

	for says, change := range map[string]func(in *recipes.ForecastIn){
		"is a block, not a layer": func(in *recipes.ForecastIn) { in.Plan.Sections[0].Layers[1].Thickness = 2 },
		"no equipment ramps":      func(in *recipes.ForecastIn) { in.Plan.Recipe.Segments[0].Rate = 500.0 / 60 },
		"lies below the start": func(in *recipes.ForecastIn) {
			in.Plan.Recipe.Segments[0].Target, in.Plan.Recipe.Segments[0].WaitPart = 270, 0
		},
		"than Autoclave 1 gives": func(in *recipes.ForecastIn) { in.Plan.Recipe.Segments[2].Pressure = 9e6 },
		"there is no such resin": func(in *recipes.ForecastIn) { in.ResinID = 4711 },
	} {
		b.send("GET", fmt.Sprint("/api/recipes/", ring.ID), "").into(t, &ring)
		got := ask("/api/forecast", change)
		assert.Equal(t, http.StatusUnprocessableEntity, got.StatusCode, says)
		assert.Contains(t, string(got.body), says)
	}
	var versions []recipes.ResinVersionView
	b.send("GET", fmt.Sprintf("/api/resins/%d/versions", ring.ResinID), "").into(t, &versions)
	require.Len(t, versions, 1)
	assert.Equal(t, "Kiln 180", versions[0].Facts.Name)
}
