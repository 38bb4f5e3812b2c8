package api

import (
	"context"

	"juxta/shop"
	"juxta/shop/book"
)

func (r *routes) today() {
	get(
		r,
		"/api/today",
		"today",
		"The day of whoever asks: what is ready for them, what runs unattended, what is at risk",
		func(ctx context.Context, _ *none) (shop.Day, error) { return r.shop.Today(ctx, by(ctx).Person) },
	)
	get(
		r,
		"/api/today/places",
		"places",
		"The shop's day by place: what was done, what goes on, what would come next",
		func(ctx context.Context, _ *none) (shop.Places, error) { return r.shop.ShopPlaces(ctx) },
	)
	post(
		r,
		book.LeaveNote,
		"/api/today/notes",
		"handOver",
		"Leave a note to the next shift",
		func(ctx context.Context, by book.By, in *a[shop.NewHandover]) (shop.Handover, error) {
			return r.shop.HandOver(ctx, by, in.Body)
		},
	)
	get(
		r,
		"/api/wall",
		"wall",
		"The day of the whole shop, for a screen in the room: told to the shop's own devices without a session",
		func(ctx context.Context, in *device) (shop.Wall, error) {
			if by(ctx).Person == nil && !here(ctx) {
				knows, err := r.shop.KnowsNames(ctx, in.Token)
				if err != nil {
					return shop.Wall{}, err
				}
				if !knows {
					return shop.Wall{}, book.NotTheirs.Errorf(
						"this screen is not one of the shop's: an administrator registers it",
					)
				}
			}
			return r.shop.OnTheWall(ctx)
		},
	)
}
