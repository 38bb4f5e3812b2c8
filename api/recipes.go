package api

import (
	"bytes"
	"context"
	"net/http"
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/cure/heat"
	"juxta/core/master"
	"juxta/format/curve"
	"juxta/format/sheet"
	"juxta/shop/book"
	"juxta/shop/curing"
	"juxta/shop/recipes"
)

// UsualLayer is what stacks are made of, with usual figures.
type UsualLayer struct {
	Name         string  `json:"name"`
	Density      float64 `json:"density" doc:"kg/m³"`
	Specific     float64 `json:"specific" doc:"J/(kg K)"`
	Conductivity float64 `json:"conductivity" doc:"W/(m K)"`
	Resin        float64 `json:"resin,omitempty" doc:"Share of its mass that cures; missing: none"`
}

func (r *routes) recipes() {
	type which struct {
		Released bool `query:"released" doc:"The newest that was released of each, instead of the newest"`
	}
	get(r, "/api/recipes", "recipes", "The newest version of every cure recipe",
		func(ctx context.Context, in *which) ([]recipes.RecipeView, error) {
			return r.shop.Recipes(ctx, in.Released)
		})
	get(r, "/api/recipes/{id}", "recipe", "A version of a cure recipe",
		func(ctx context.Context, in *ByID) (recipes.RecipeView, error) { return r.shop.RecipeByID(ctx, in.ID) })
	type beside struct {
		ByID
		Other int64 `path:"other"`
	}
	get(
		r,
		"/api/recipes/{id}/since/{other}",
		"recipeSince",
		"What a version of a recipe says otherwise than another one",
		func(ctx context.Context, in *beside) (recipes.RecipeBeside, error) {
			return r.shop.RecipeSince(ctx, in.ID, in.Other)
		},
	)
	r.equipment()
	post(r, book.WriteMaster, "/api/recipes", "saveRecipe", "Save a recipe as a new version, a draft",
		func(ctx context.Context, by book.By, in *a[recipes.RecipeIn]) (recipes.RecipeView, error) {
			return r.shop.SaveRecipe(ctx, by, in.Body)
		})
	post(
		r,
		book.AskMaster,
		"/api/recipes/{id}/take",
		"takeRecipe",
		"What becomes of a cure that takes a released recipe; stores nothing",
		func(ctx context.Context, _ book.By, in *withID[master.Heat]) (master.Heat, error) {
			return r.shop.TakeRecipe(ctx, in.ID, in.Body)
		},
	)
	r.planning()
	r.curves()
}

// equipment is what cures are done in, and what stacks are made of.
func (r *routes) equipment() {
	get(r, "/api/equipment", "equipment", "Ovens, autoclaves and presses as they heat",
		func(ctx context.Context, _ *none) ([]recipes.EquipmentView, error) { return r.shop.AllEquipment(ctx) })
	get(
		r,
		"/api/parts/{code}/stack",
		"partStack",
		"The thickest, the thinnest and the largest place of a part as stacks on its tool",
		func(ctx context.Context, in *ByCode) (recipes.PartStack, error) {
			return r.shop.StackOfPart(ctx, in.Code)
		},
	)
	get(r, "/api/layers", "usualLayers", "What stacks are made of, with usual figures",
		func(context.Context, *none) ([]UsualLayer, error) {
			out := []UsualLayer{}
			for _, l := range heat.UsualLayers {
				one := UsualLayer{l.Name, l.Density, l.Specific, l.Conductivity, 0}
				if l.Name == heat.Laminate {
					one.Resin = heat.LaminateResin
				}
				out = append(out, one)
			}
			return out, nil
		})
	post(r, book.KeepTools, "/api/equipment", "saveEquipment", "Enter what cures are done in, or a version of it",
		func(ctx context.Context, by book.By, in *a[recipes.EquipmentIn]) (recipes.EquipmentView, error) {
			return r.shop.SaveEquipment(ctx, by, in.Body)
		})
}

// planning is what a cure comes to as it stands on the page; nothing is stored.
func (r *routes) planning() {
	post(
		r,
		book.ReleaseMaster,
		"/api/recipes/{id}/release",
		"releaseRecipe",
		"Release a recipe that somebody else wrote",
		func(ctx context.Context, by book.By, in *withID[ownPIN]) (recipes.RecipeView, error) {
			return r.shop.ReleaseRecipe(ctx, by, in.ID, in.Body.PIN)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/forecast",
		"forecast",
		"What a part would feel in a cure as it stands on the page; stores nothing",
		func(ctx context.Context, _ book.By, in *a[recipes.ForecastIn]) (calc.CureOut, error) {
			return r.shop.Forecast(ctx, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/forecast/find",
		"findCycle",
		"Go on with a search for the shortest cycle; stores nothing",
		func(ctx context.Context, _ book.By, in *a[recipes.FindCycle]) (calc.FindState, error) {
			return r.shop.ShortestCycle(ctx, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/forecast/map",
		"mapCure",
		"Where a cure works over thickness and dwell; stores nothing",
		func(ctx context.Context, _ book.By, in *a[recipes.CureMap]) ([]calc.MapCell, error) {
			return r.shop.MapCure(ctx, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/runs/{code}/learn",
		"learnFromRun",
		"What a recorded run tells of its equipment and resin; stores nothing",
		func(ctx context.Context, _ book.By, in *with[curing.LearnIn]) (curing.LearnedFrom, error) {
			return r.shop.LearnFrom(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.KeepMaterials,
		"/api/runs/{code}/learn/keep",
		"keepRate",
		"Keep the rate that a run tells for its resin",
		func(ctx context.Context, by book.By, in *with[curing.KeepLearned]) (recipes.ResinView, error) {
			return r.shop.KeepRate(ctx, by, in.Code, in.Body)
		},
	)
}

// curves are recipes and forecasts as tables.
func (r *routes) curves() {
	op := operation(
		r.api,
		book.AskMaster,
		"/api/forecast/curves",
		"forecastCurves",
		"The curves of a cure as CSV; stores nothing",
	)
	op.Responses = map[string]*huma.Response{
		"200": {Description: "The curves, SI units", Content: map[string]*huma.MediaType{"text/csv": {}}},
	}
	huma.Register(r.api, op, func(ctx context.Context, in *a[recipes.ForecastIn]) (*file, error) {
		f, err := r.shop.Forecast(ctx, in.Body)
		if err != nil {
			return nil, problem(ctx, err)
		}
		var out bytes.Buffer
		if err := sheet.WriteCSV(&out, curvesOf(f)); err != nil {
			return nil, problem(ctx, err)
		}
		return &file{"text/csv; charset=utf-8", attachment(in.Body.Plan.Recipe.Name + ".csv"), out.Bytes()}, nil
	})
	huma.Register(r.api, huma.Operation{
		OperationID: "recipeSchema", Method: http.MethodGet, Path: "/api/recipes/schema",
		Summary: "The JSON Schema of a recipe's file",
		Responses: map[string]*huma.Response{
			"200": {Description: "The schema", Content: map[string]*huma.MediaType{"application/schema+json": {}}},
		},
	}, func(context.Context, *none) (*file, error) {
		return &file{
			"application/schema+json",
			attachment("recipe.schema.json"),
			calc.SchemaOf(reflect.TypeFor[recipes.RecipePlan]()),
		}, nil
	})
	type drawn struct {
		Body struct {
			Name  string `json:"name" minLength:"1" maxLength:"80"`
			Table []byte `json:"table" doc:"CSV or XLSX: a time, a temperature, a pressure, with their units in the header" minLength:"1" maxLength:"4000000"`
		}
	}
	post(
		r,
		book.AskMaster,
		"/api/recipes/curve",
		"recipeFromCurve",
		"The recipe that follows a curve of set points; stores nothing",
		func(_ context.Context, _ book.By, in *drawn) (cure.Recipe, error) {
			points, faults := curve.Read(in.Body.Table)
			if len(faults) > 0 {
				return cure.Recipe{}, &book.Error{
					Rule:    book.Faults,
					Field:   "table",
					Message: "the curve has faults",
					Details: faults,
				}
			}
			of, err := cure.FromCurve(in.Body.Name, points)
			if err != nil {
				return cure.Recipe{}, book.Wrong.At("table", "%s", err)
			}
			return of, nil
		},
	)
}

// curvesOf are the curves of a forecast, a moment a row, SI units.
func curvesOf(f calc.CureOut) sheet.Table {
	t := sheet.Table{
		Name: "curves",
		Columns: []string{
			"time s",
			"set point K",
			"air K",
			"pressure Pa",
			"vacuum Pa",
			"pressure that vapour asks for Pa",
			"segment",
		},
	}
	for _, s := range f.Sections {
		for _, c := range []string{
			"coldest K", "middle K", "hottest K", "least cure", "most cure", "least viscosity Pa s",
			"glass transition K",
		} {
			t.Columns = append(t.Columns, s.Name+": "+c)
		}
	}
	known := func(v *float64) any {
		if v == nil {
			return ""
		}
		return *v
	}
	for _, p := range f.Points {
		row := []any{p.T, p.SetPoint, p.Air, p.Pressure, p.Vacuum, p.Asks, p.Segment + 1}
		for _, q := range p.Parts {
			row = append(row, q.Lag, q.Middle, q.Lead, q.Least, q.Most, known(q.Thin), known(q.Glass))
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}
