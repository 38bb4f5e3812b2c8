package api

import (
	"context"

	"juxta/shop"
)

func (r *routes) freezer() {
	get(r, "/api/route", "route", "The stages with what waits at each", func(ctx context.Context, _ *none) ([]shop.StageCount, error) {
		return r.shop.Route(ctx)
	})
	get(r, "/api/materials", "materials", "Materials", func(ctx context.Context, _ *none) ([]shop.MaterialView, error) {
		return r.shop.Materials(ctx)
	})
	get(r, "/api/rolls", "rolls", "Rolls with their fuses", func(ctx context.Context, _ *none) ([]shop.RollView, error) {
		return r.shop.Rolls(ctx)
	})
	get(r, "/api/rolls/{code}", "roll", "One roll with its ledger", func(ctx context.Context, in *ByCode) (shop.RollDetail, error) {
		return r.shop.Roll(ctx, in.Code)
	})
	type newRoll struct{ Body shop.NewRoll }
	post(r, "/api/rolls", "receiveRoll", "Receive a roll into the freezer", func(ctx context.Context, by shop.By, in *newRoll) (shop.RollView, error) {
		return r.shop.ReceiveRoll(ctx, by, in.Body)
	})
	post(r, "/api/rolls/{code}/out", "takeOut", "Take a roll out", func(ctx context.Context, by shop.By, in *with[shop.Moved]) (shop.RollView, error) {
		return r.shop.TakeOut(ctx, by, in.Code, in.Body)
	})
	post(r, "/api/rolls/{code}/in", "putBack", "Put a roll back", func(ctx context.Context, by shop.By, in *with[shop.Moved]) (shop.RollView, error) {
		return r.shop.PutBack(ctx, by, in.Code, in.Body)
	})
}
