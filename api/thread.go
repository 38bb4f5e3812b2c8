package api

import (
	"bytes"
	"context"
	"fmt"

	"juxta/format/pdf"
	"juxta/paper"
	"juxta/shop"
	"juxta/shop/curing"
)

func (r *routes) thread() {
	type query struct {
		Q string `query:"q" maxLength:"80"`
	}
	get(
		r,
		"/api/find",
		"find",
		"Find anything by id, number, name, serial or batch",
		func(ctx context.Context, in *query) ([]shop.SearchHit, error) {
			return r.shop.Find(ctx, in.Q)
		},
	)
	get(
		r,
		"/api/scan/{code}",
		"scan",
		"What an id is and where it leads",
		func(ctx context.Context, in *ByCode) (shop.ScanResult, error) {
			return r.shop.Scan(ctx, in.Code)
		},
	)
	get(
		r,
		"/api/thread/builds/{code}",
		"threadOfBuild",
		"From a part to all that went into it",
		func(ctx context.Context, in *ByCode) (shop.BuildThread, error) {
			return r.shop.ThreadOfBuild(ctx, in.Code)
		},
	)
	get(
		r,
		"/api/thread/rolls/{code}",
		"threadOfRoll",
		"From a roll to every part it went into",
		func(ctx context.Context, in *ByCode) (shop.RollThread, error) {
			return r.shop.ThreadOfRoll(ctx, in.Code)
		},
	)
	r.download(
		"/api/thread/builds/{code}/record.pdf",
		"asBuilt",
		"The as-built record, PDF",
		"application/pdf",
		func(ctx context.Context, code string) (string, []byte, error) {
			t, err := r.shop.ThreadOfBuild(ctx, code)
			if err != nil {
				return "", nil, err
			}
			var runs []curing.RunView
			for _, run := range t.Runs {
				v, err := r.shop.Run(ctx, run.Code)
				if err != nil {
					return "", nil, err
				}
				runs = append(runs, v)
			}
			var file bytes.Buffer
			if err := pdf.Write(&file, paper.AsBuilt(t, runs, r.shop.Now(), unitsOf(ctx))); err != nil {
				return "", nil, err
			}
			return fmt.Sprintf("%s-%s.pdf", t.Build.Number, t.Build.Serial), file.Bytes(), nil
		},
	)
}
