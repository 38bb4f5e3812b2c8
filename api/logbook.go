package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"juxta/format/sheet"
	"juxta/shop/book"
)

// LogQuery asks for entries. It is exported because only then its fields are
// seen where it is embedded.
type LogQuery struct {
	Person  int64     `query:"person"`
	What    string    `query:"what" maxLength:"80"`
	Subject string    `query:"subject" maxLength:"80"`
	From    time.Time `query:"from"`
	To      time.Time `query:"to"`
}

func (q LogQuery) shop() book.LogQuery {
	return book.LogQuery{Person: q.Person, What: q.What, Subject: q.Subject, From: q.From, To: q.To}
}

var errSignedOut = errors.New("signed out meanwhile")

// patience is how long a stream waits for its reader to take what is written.
var patience = 20 * time.Second

func (r *routes) logbook() {
	type page struct {
		LogQuery
		Before int64 `query:"before" doc:"Entries before this number"`
	}
	get(
		r,
		"/api/log",
		"log",
		"Entries of the log, newest first",
		func(ctx context.Context, in *page) ([]book.LogEntry, error) {
			q := in.shop()
			q.Before = in.Before
			return r.shop.Log(ctx, q)
		},
	)
	get(
		r,
		"/api/log/check",
		"checkLog",
		"Whether the hash chain of the log is intact",
		func(ctx context.Context, _ *none) (book.LogState, error) {
			return r.shop.CheckLog(ctx)
		},
	)
	huma.Register(
		r.api,
		huma.Operation{
			OperationID: "logFile",
			Method:      http.MethodGet,
			Path:        "/api/log/entries.csv",
			Summary:     "The log as CSV, oldest first",
			Responses: map[string]*huma.Response{
				"200": {Description: "The file", Content: map[string]*huma.MediaType{"text/csv": {}}},
			},
		},
		func(_ context.Context, in *LogQuery) (*huma.StreamResponse, error) {
			return &huma.StreamResponse{Body: func(ctx huma.Context) {
				ctx.SetHeader("Content-Type", "text/csv; charset=utf-8")
				ctx.SetHeader("Content-Disposition", `attachment; filename="log.csv"`)
				w := ctx.BodyWriter()
				out := sheet.NewCSV(w, "entry", "at", "person", "what", "subject", "why", "detail", "hash")
				n, still := 0, stillIn(ctx.Context())
				err := r.shop.EachEntry(ctx.Context(), in.shop(), func(e book.LogEntry) error {
					// Who does not read, or has signed out, is let go.
					if n++; n%100 == 1 {
						if !still() {
							return errSignedOut
						}
						if to, ok := w.(http.ResponseWriter); ok {
							_ = http.NewResponseController(to).SetWriteDeadline(time.Now().Add(patience))
						}
					}
					return out.Row(e.Seq, e.At.UTC(), e.Person, e.What, e.Subject, e.Why, e.Detail, e.Hash)
				})
				// The answer has begun: what can be said is said in the file.
				if err != nil {
					_ = out.Row("the file breaks off here")
				}
				_ = out.Close()
			}}, nil
		},
	)
}
