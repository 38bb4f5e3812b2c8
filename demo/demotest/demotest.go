package demotest

import (
	"context"
	"testing"

	"juxta/demo"
	"juxta/shop/people"
	"juxta/store"
	"juxta/store/storetest"
)

// What the demo's people sign in with.
const PIN, Password = "271828", "twelve letters"

var secrets = demo.Secrets{PIN: PIN, Password: Password}

// Shop is the demo without the builds of its other parts.
var Shop = &storetest.Template{
	Name: "shop", From: storetest.Empty,
	Trees: []string{"core", "calc", "format", "device", "shop", "demo", "go.sum"},
	Fill: func(ctx context.Context, of storetest.Urls) error {
		return with(ctx, of, func(db *store.DB) error { return demo.Load(ctx, db, secrets, storetest.Now) })
	},
}

// Works is the whole demo, with a build of every part.
var Works = &storetest.Template{
	Name: "works", From: Shop,
	Fill: func(ctx context.Context, of storetest.Urls) error {
		return with(ctx, of, func(db *store.DB) error { return demo.Works(ctx, db, secrets, storetest.Now) })
	},
}

func with(ctx context.Context, of storetest.Urls, do func(db *store.DB) error) error {
	db, err := store.Open(ctx, of.App)
	if err != nil {
		return err
	}
	defer db.Close()
	return do(db)
}

// Run is a package's TestMain: secrets are hashed cheaply, for a test signs in often.
func Run(m *testing.M) int {
	people.HashCheaply()
	return storetest.Run(m)
}
