package api

import (
	"context"

	"juxta/calc"
	"juxta/core/cure/heat"
	"juxta/shop/book"
	"juxta/shop/curing"
)

// UsualLayer is what stacks are made of, with usual figures.
type UsualLayer struct {
	Name         string  `json:"name"`
	Density      float64 `json:"density" doc:"kg/m³"`
	Specific     float64 `json:"specific" doc:"J/(kg K)"`
	Conductivity float64 `json:"conductivity" doc:"W/(m K)"`
}

func (r *routes) recipes() {
	get(r, "/api/recipes", "recipes", "The newest version of every cure recipe",
		func(ctx context.Context, _ *none) ([]curing.RecipeView, error) { return r.shop.Recipes(ctx) })
	get(r, "/api/recipes/{id}", "recipe", "A version of a cure recipe",
		func(ctx context.Context, in *ByID) (curing.RecipeView, error) { return r.shop.RecipeByID(ctx, in.ID) })
	get(r, "/api/equipment", "equipment", "Ovens, autoclaves and presses as they heat",
		func(ctx context.Context, _ *none) ([]curing.EquipmentView, error) { return r.shop.AllEquipment(ctx) })
	get(r, "/api/parts/{code}/stack", "partStack", "The thickest, the thinnest and the largest place of a part as stacks on its tool",
		func(ctx context.Context, in *ByCode) (curing.PartStack, error) {
			return r.shop.StackOfPart(ctx, in.Code)
		})
	get(r, "/api/layers", "usualLayers", "What stacks are made of, with usual figures",
		func(context.Context, *none) ([]UsualLayer, error) {
			out := []UsualLayer{}
			for _, l := range heat.Usual {
				out = append(out, UsualLayer{l.Name, l.Density, l.Specific, l.Conductivity})
			}
			return out, nil
		})
	post(r, book.KeepTools, "/api/equipment", "saveEquipment", "Enter what cures are done in, or a version of it",
		func(ctx context.Context, by book.By, in *a[curing.EquipmentIn]) (curing.EquipmentView, error) {
			return r.shop.SaveEquipment(ctx, by, in.Body)
		})
	post(r, book.WriteMaster, "/api/recipes", "saveRecipe", "Save a recipe as a new version, a draft",
		func(ctx context.Context, by book.By, in *a[curing.RecipeIn]) (curing.RecipeView, error) {
			return r.shop.SaveRecipe(ctx, by, in.Body)
		})
	post(r, book.ReleaseMaster, "/api/recipes/{id}/release", "releaseRecipe", "Release a recipe that somebody else wrote",
		func(ctx context.Context, by book.By, in *withID[ownPIN]) (curing.RecipeView, error) {
			return r.shop.ReleaseRecipe(ctx, by, in.ID, in.Body.PIN)
		})
	post(r, book.AskMaster, "/api/forecast", "forecast", "What a part would feel in a cure as it stands on the page; stores nothing",
		func(ctx context.Context, _ book.By, in *a[curing.ForecastIn]) (calc.CureOut, error) {
			return r.shop.Forecast(ctx, in.Body)
		})
	post(r, book.AskMaster, "/api/forecast/find", "findCycle", "Go on with a search for the shortest cycle; stores nothing",
		func(ctx context.Context, _ book.By, in *a[curing.FindCycle]) (calc.FindState, error) {
			return r.shop.ShortestCycle(ctx, in.Body)
		})
	post(r, book.AskMaster, "/api/forecast/map", "mapCure", "Where a cure works over thickness and dwell; stores nothing",
		func(ctx context.Context, _ book.By, in *a[curing.CureMap]) ([]calc.MapCell, error) {
			return r.shop.MapCure(ctx, in.Body)
		})
	post(r, book.AskMaster, "/api/runs/{code}/learn", "learnFromRun", "What a recorded run tells of its equipment and resin; stores nothing",
		func(ctx context.Context, _ book.By, in *with[curing.LearnIn]) (curing.LearnedFrom, error) {
			return r.shop.LearnFrom(ctx, in.Code, in.Body)
		})
}
