package api

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"juxta/core/nest"
	"juxta/format/pdf"
	"juxta/paper"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/cutting"
	"juxta/shop/stock"
)

func (r *routes) freezer() {
	get(
		r,
		"/api/rooms",
		"rooms",
		"The rooms with what waits in each",
		func(ctx context.Context, _ *none) ([]shop.RoomCount, error) {
			return r.shop.Rooms(ctx)
		},
	)
	r.rollLists()
	r.rollMoves()
	r.rollChoice()
	r.stockLabels()
}

// rollLists are rolls as they are found.
func (r *routes) rollLists() {
	type rolls struct {
		Find   string `query:"find" maxLength:"80" doc:"In id, lot, material or place"`
		Family int64  `query:"family" doc:"Of a material"`
		State  string `query:"state" enum:"hand,out,finished,all" doc:"Missing: hand"`
		Kind   string `query:"kind" enum:"roll,off-cut" doc:"Missing: both"`
		Offset int    `query:"offset" minimum:"0"`
		Limit  int    `query:"limit" minimum:"0" maximum:"200" doc:"Missing: 60"`
	}
	get(
		r,
		"/api/rolls",
		"rolls",
		"Rolls with their out-time, a page at a time",
		func(ctx context.Context, in *rolls) (stock.Stock, error) {
			return r.shop.Rolls(
				ctx,
				stock.RollQuery{
					Find: in.Find, Family: in.Family, State: in.State, Kind: in.Kind, Offset: in.Offset,
					Limit: in.Limit,
				},
			)
		},
	)
	get(
		r,
		"/api/rolls/{code}",
		"roll",
		"One roll with its ledger",
		func(ctx context.Context, in *ByCode) (stock.RollDetail, error) {
			return r.shop.Roll(ctx, in.Code)
		},
	)
}

// rollMoves are what is done to a roll.
func (r *routes) rollMoves() {
	post(
		r,
		book.HandleMaterial,
		"/api/rolls/out",
		"takeOut",
		"Take rolls out",
		func(ctx context.Context, by book.By, in *a[stock.MoveRolls]) ([]stock.RollView, error) {
			return r.shop.TakeOut(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.HandleMaterial,
		"/api/rolls/in",
		"putBack",
		"Put rolls back",
		func(ctx context.Context, by book.By, in *a[stock.MoveRolls]) ([]stock.RollView, error) {
			return r.shop.PutBack(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.HandleMaterial,
		"/api/rolls/{code}/open",
		"openBag",
		"Open the bag of a roll, above the dew point",
		func(ctx context.Context, by book.By, in *with[stock.OpenBag]) (stock.RollView, error) {
			return r.shop.Open(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.HandleMaterial,
		"/api/rolls/{code}/seal",
		"sealBag",
		"Seal the bag of a roll",
		func(ctx context.Context, by book.By, in *with[stock.EventTime]) (stock.RollView, error) {
			return r.shop.Seal(ctx, by, in.Code, in.Body)
		},
	)
	r.rollCuts()
}

// rollCuts are what is taken off a roll, and what is put right of it.
func (r *routes) rollCuts() {
	type flaws struct {
		Flaws []nest.Flaw `json:"flaws" maxItems:"200"`
	}
	post(
		r,
		book.HandleMaterial,
		"/api/rolls/{code}/flaws",
		"setFlaws",
		"Write the flaw map of a roll",
		func(ctx context.Context, by book.By, in *with[flaws]) (stock.RollView, error) {
			return r.shop.SetFlaws(ctx, by, in.Code, in.Body.Flaws)
		},
	)
	post(
		r,
		book.CutPlies,
		"/api/rolls/{code}/use",
		"useLength",
		"Take length off a roll by hand",
		func(ctx context.Context, by book.By, in *with[stock.TakeLength]) (stock.RollView, error) {
			return r.shop.UseLength(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.ScrapMaterial,
		"/api/rolls/{code}/scrap",
		"scrapLength",
		"Throw length of a roll away",
		func(ctx context.Context, by book.By, in *with[stock.ScrapLength]) (stock.RollView, error) {
			return r.shop.Scrap(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CutPlies,
		"/api/rolls/{code}/offcut",
		"keepOffCut",
		"Keep a piece of a roll",
		func(ctx context.Context, by book.By, in *with[stock.NewOffCut]) (stock.RollView, error) {
			return r.shop.KeepOffCut(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CorrectLedger,
		"/api/rolls/{code}/correct",
		"correctLedger",
		"Take a line of a ledger back by a counter-entry",
		func(ctx context.Context, by book.By, in *with[stock.Correction]) (stock.RollView, error) {
			return r.shop.Correct(ctx, by, in.Code, in.Body)
		},
	)
}

// rollChoice is which roll a build takes.
func (r *routes) rollChoice() {
	type which struct {
		ByCode
		Plies string `query:"plies" maxLength:"400" doc:"Ply numbers with commas; missing: all that is not cut"`
	}
	get(
		r,
		"/api/builds/{code}/which-roll",
		"whichRoll",
		"The rolls weighed for what is still to be cut of a build",
		func(ctx context.Context, in *which) ([]cutting.CutDemand, error) {
			plies := []int{}
			for _, text := range strings.Split(in.Plies, ",") {
				if text = strings.TrimSpace(text); text == "" {
					continue
				}
				n, err := strconv.Atoi(text)
				if err != nil {
					return nil, &book.Error{
						Rule:    book.Unreadable,
						Field:   "plies",
						Message: fmt.Sprintf("%q is not a ply number", text),
					}
				}
				plies = append(plies, n)
			}
			return r.shop.WhichRoll(ctx, in.Code, plies)
		},
	)
	get(
		r,
		"/api/scarcity",
		"scarcity",
		"What is on hand against what open builds need, by date",
		func(ctx context.Context, _ *none) ([]cutting.ScarceView, error) {
			return r.shop.Scarcity(ctx)
		},
	)
}

// stockLabels are what is stuck to rolls.
func (r *routes) stockLabels() {
	r.download(
		"/api/rolls/{code}/label.pdf",
		"rollLabel",
		"The label of a roll, PDF",
		"application/pdf",
		func(ctx context.Context, code string) (string, []byte, error) {
			d, err := r.shop.Roll(ctx, code)
			if err != nil {
				return "", nil, err
			}
			raw, err := paper.Labels(false, paper.RollLabel(d.RollView, unitsOf(ctx)))
			return d.Code + ".pdf", raw, err
		},
	)
	r.download(
		"/api/batches/{code}/labels.pdf",
		"batchLabels",
		"The labels of a batch's rolls on a sheet, PDF",
		"application/pdf",
		func(ctx context.Context, code string) (string, []byte, error) {
			b, err := r.shop.Batch(ctx, code)
			if err != nil {
				return "", nil, err
			}
			rolls, err := r.shop.RollsOf(ctx, b.Code)
			if err != nil {
				return "", nil, err
			}
			all := make([]pdf.Label, len(rolls))
			for i, roll := range rolls {
				all[i] = paper.RollLabel(roll, unitsOf(ctx))
			}
			if len(all) == 0 {
				return "", nil, &book.Error{Rule: book.NotNow, Message: "this batch has no rolls"}
			}
			raw, err := paper.Labels(true, all...)
			return b.Code + "-labels.pdf", raw, err
		},
	)
}
