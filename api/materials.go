package api

import (
	"bytes"
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"juxta/format/sheet"
	"juxta/format/stocklist"
	"juxta/shop/book"
	"juxta/shop/recipes"
	"juxta/shop/stock"
)

// anotherRoll is one more roll of a batch that is here already.
type anotherRoll struct {
	stock.NewRoll
	FreezerID int64 `json:"freezerId,omitempty"`
}

// stockFile is a stock list to bring in.
type stockFile struct {
	Name    string `json:"name" maxLength:"120"`
	Content []byte `json:"content" doc:"CSV or XLSX, base64"`
	Store   bool   `json:"store,omitempty" doc:"Without it: a dry run"`
}

func (r *routes) material() {
	get(
		r,
		"/api/materials",
		"materials",
		"Materials in their present version",
		func(ctx context.Context, _ *none) ([]stock.MaterialView, error) {
			return r.shop.Materials(ctx)
		},
	)
	get(
		r,
		"/api/materials/{id}/versions",
		"materialVersions",
		"All versions of a material, newest first",
		func(ctx context.Context, in *ByID) ([]stock.MaterialView, error) {
			return r.shop.MaterialVersions(ctx, in.ID)
		},
	)
	post(
		r,
		book.KeepMaterials,
		"/api/materials",
		"addMaterial",
		"Enter a material",
		func(ctx context.Context, by book.By, in *a[stock.MaterialIn]) (stock.MaterialView, error) {
			return r.shop.AddMaterial(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.KeepMaterials,
		"/api/materials/{id}",
		"changeMaterial",
		"Change a material; one in use gets a new version",
		func(ctx context.Context, by book.By, in *withID[stock.MaterialChange]) (stock.MaterialView, error) {
			return r.shop.ChangeMaterial(ctx, by, in.ID, in.Body)
		},
	)
	r.resins()
	r.batches()
	r.files()
	r.usage()
}

// resins are the resin systems.
func (r *routes) resins() {
	get(r, "/api/resins", "resins", "Resin systems", func(ctx context.Context, _ *none) ([]recipes.ResinView, error) {
		return r.shop.Resins(ctx)
	})
	get(r, "/api/resins/{id}/versions", "resinVersions", "The versions of a resin system, newest first",
		func(ctx context.Context, in *ByID) ([]recipes.ResinVersionView, error) {
			return r.shop.ResinVersions(ctx, in.ID)
		})
	post(
		r,
		book.KeepMaterials,
		"/api/resins/{id}",
		"saveResin",
		"Enter a resin system (id 0) or a version of it",
		func(ctx context.Context, by book.By, in *withID[recipes.ResinChange]) (recipes.ResinView, error) {
			return r.shop.SaveResin(ctx, by, in.ID, in.Body)
		},
	)
}

// batches are deliveries, their tests and decisions.
func (r *routes) batches() {
	type batches struct {
		All bool `query:"all" doc:"Also those that are decided and used up"`
	}
	get(
		r,
		"/api/batches",
		"batches",
		"Batches, those that wait for a decision first",
		func(ctx context.Context, in *batches) ([]stock.BatchView, error) {
			return r.shop.Batches(ctx, in.All)
		},
	)
	get(
		r,
		"/api/batches/{code}",
		"batch",
		"One batch with its log",
		func(ctx context.Context, in *ByCode) (stock.BatchView, error) {
			return r.shop.Batch(ctx, in.Code)
		},
	)
	post(
		r,
		book.ReceiveStock,
		"/api/batches",
		"receiveBatch",
		"Take a delivery in",
		func(ctx context.Context, by book.By, in *a[stock.NewBatch]) (stock.BatchView, error) {
			return r.shop.ReceiveBatch(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.ReceiveStock,
		"/api/batches/{code}/rolls",
		"addRoll",
		"Take one more roll of a batch in",
		func(ctx context.Context, by book.By, in *with[anotherRoll]) (stock.RollView, error) {
			return r.shop.AddRoll(ctx, by, in.Code, in.Body.FreezerID, in.Body.NewRoll)
		},
	)
	r.acceptance()
}

// acceptance is how a batch is tested and decided.
func (r *routes) acceptance() {
	post(
		r,
		book.RecordTests,
		"/api/batches/{code}/test",
		"recordTest",
		"Write down what an acceptance test found",
		func(ctx context.Context, by book.By, in *with[stock.TestValue]) (stock.BatchView, error) {
			return r.shop.RecordTest(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.DecideBatch,
		"/api/batches/{code}/decide",
		"decideBatch",
		"Sign a decision about a batch",
		func(ctx context.Context, by book.By, in *with[stock.BatchDecision]) (stock.BatchView, error) {
			return r.shop.DecideBatch(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CorrectLedger,
		"/api/batches/{code}/correct",
		"correctReceipt",
		"Put right what was entered when a batch came",
		func(ctx context.Context, by book.By, in *with[stock.ReceiptChange]) (stock.BatchView, error) {
			return r.shop.CorrectReceipt(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.DecideBatch,
		"/api/batches/{code}/retest",
		"retestBatch",
		"Extend the life of a batch by a re-test",
		func(ctx context.Context, by book.By, in *with[stock.Retest]) (stock.BatchView, error) {
			return r.shop.RetestBatch(ctx, by, in.Code, in.Body)
		},
	)
}

// files are papers that are kept, and the stock list.
func (r *routes) files() {
	post(
		r,
		book.ReceiveStock,
		"/api/files",
		"keepFile",
		"Keep a paper",
		func(ctx context.Context, by book.By, in *a[book.NewFile]) (book.FileView, error) {
			return r.shop.KeepFile(ctx, by, in.Body)
		},
	)
	huma.Register(
		r.api,
		huma.Operation{
			OperationID: "file",
			Method:      http.MethodGet,
			Path:        "/api/files/{id}",
			Summary:     "A paper that is kept",
			Responses: map[string]*huma.Response{
				"200": {Description: "The file", Content: map[string]*huma.MediaType{"application/octet-stream": {}}},
			},
		},
		func(ctx context.Context, in *ByID) (*file, error) {
			v, raw, err := r.shop.File(ctx, in.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &file{v.MediaType, attachment(v.Name), raw}, nil
		},
	)
	post(
		r,
		book.ReceiveStock,
		"/api/stock-list",
		"stockList",
		"Import a stock list, or see what it would do",
		func(ctx context.Context, by book.By, in *a[stockFile]) (stock.StockImport, error) {
			if len(in.Body.Content) == 0 || len(in.Body.Content) > book.FileMost {
				return stock.StockImport{}, &book.Error{
					Rule:    book.TooMuch,
					Field:   "content",
					Message: "the stock list is empty or larger than 10 MB",
				}
			}
			read, wrong := stocklist.Read(in.Body.Content, time.Local)
			rows, faults := make([]stock.StockRow, len(read)), make([]stock.StockFault, len(wrong))
			for i, row := range read {
				rows[i] = stock.StockRow(row)
			}
			for i, f := range wrong {
				faults[i] = stock.StockFault(f)
			}
			if in.Body.Store {
				return r.shop.StoreStock(ctx, by, rows, faults)
			}
			return r.shop.PlanStock(ctx, by, rows, faults)
		},
	)
}

// usage is what life was spent on.
func (r *routes) usage() {
	usage := func(ctx context.Context, in *Period) (stock.Usage, error) {
		if in.To.IsZero() {
			in.To = r.shop.Now()
		}
		if in.From.IsZero() {
			in.From = in.To.Add(-90 * 24 * time.Hour)
		}
		return r.shop.Usage(ctx, in.From, in.To)
	}
	get(r, "/api/usage", "usage", "What expires soon, what life was spent on, what was thrown away", usage)
	type tablePeriod struct {
		Period
		Table string `path:"table" enum:"expiring,life,scrap,all"`
	}
	huma.Register(
		r.api,
		huma.Operation{
			OperationID: "usageFile",
			Method:      http.MethodGet,
			Path:        "/api/usage/{table}",
			Summary:     "One table as CSV, or all as an XLSX workbook",
			Responses: map[string]*huma.Response{
				"200": {Description: "The file", Content: map[string]*huma.MediaType{"text/csv": {}}},
			},
		},
		func(ctx context.Context, in *tablePeriod) (*file, error) {
			u, err := usage(ctx, &in.Period)
			if err != nil {
				return nil, problem(ctx, err)
			}
			var out bytes.Buffer
			tables := usageTables(u)
			if in.Table == "all" {
				if err := sheet.WriteXLSX(&out, tables...); err != nil {
					return nil, problem(ctx, err)
				}
				return &file{
					"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
					`attachment; filename="material.xlsx"`,
					out.Bytes(),
				}, nil
			}
			for _, t := range tables {
				if t.Name == in.Table {
					if err := sheet.WriteCSV(&out, t); err != nil {
						return nil, problem(ctx, err)
					}
				}
			}
			return &file{"text/csv; charset=utf-8", attachment(in.Table + ".csv"), out.Bytes()}, nil
		},
	)
}

// Period is a time to report on.
type Period struct {
	From time.Time `query:"from" doc:"Missing: 90 days ago"`
	To   time.Time `query:"to" doc:"Missing: now"`
}

// usageTables are the three tables in people's units.
func usageTables(u stock.Usage) []sheet.Table {
	expiring := sheet.Table{
		Name:    "expiring",
		Columns: []string{"roll", "material", "lot", "area m2", "shelf end", "out-life left h", "out-life h", "why"},
	}
	for _, e := range u.Expiring {
		end := ""
		if e.ShelfEnd != nil {
			end = e.ShelfEnd.Local().Format("2006-01-02")
		}
		expiring.Rows = append(
			expiring.Rows,
			[]any{e.Code, e.Material, e.Lot, round(e.Area), end, round(e.Left / 3600), round(e.Life / 3600), e.Message},
		)
	}
	life := sheet.Table{
		Name:    "life",
		Columns: []string{"material", "rolls", "on the bench h", "in warm freezers h", "before it came h"},
	}
	for _, l := range u.Life {
		life.Rows = append(
			life.Rows,
			[]any{l.Material, l.Rolls, round(l.Bench / 3600), round(l.Warm / 3600), round(l.Before / 3600)},
		)
	}
	scrap := sheet.Table{Name: "scrap", Columns: []string{"material", "what became of it", "area m2", "times"}}
	for _, x := range u.Scrap {
		scrap.Rows = append(scrap.Rows, []any{x.Material, x.Reason, round(x.Area), x.Times})
	}
	return []sheet.Table{expiring, life, scrap}
}

// round keeps three digits behind the point, which no scale or clock of the
// shop goes beyond.
func round(v float64) float64 { return float64(int64(v*1e3+0.5*sign(v))) / 1e3 }

func sign(v float64) float64 {
	if v < 0 {
		return -1
	}
	return 1
}
