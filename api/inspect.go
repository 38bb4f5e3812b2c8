package api

import (
	"context"

	checks "juxta/core/release"
	"juxta/shop/book"
	"juxta/shop/inspect"
)

func (r *routes) release() {
	get(
		r,
		"/api/release/{code}",
		"release",
		"The inspection sheet of a build",
		func(ctx context.Context, in *ByCode) (inspect.ReleaseView, error) {
			return r.shop.ReleaseOf(ctx, in.Code)
		},
	)
	post(
		r,
		book.OwnAccount,
		"/api/release/{code}/compare",
		"compare",
		"Hold measurements against the limits; stores nothing",
		func(ctx context.Context, _ book.By, in *with[inspect.Measured]) ([]checks.ReleaseLine, error) {
			return r.shop.Compare(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.InspectPart,
		"/api/release/{code}",
		"dispose",
		"Sign what becomes of a part",
		func(ctx context.Context, by book.By, in *with[inspect.Disposition]) (inspect.ReleaseView, error) {
			return r.shop.Dispose(ctx, by, in.Code, in.Body)
		},
	)
}
