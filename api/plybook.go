package api

import (
	"bytes"
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"juxta/format/pdf"
	"juxta/paper"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// BookQuery asks for a ply book.
type BookQuery struct {
	ByCode
	Letter    string `query:"letter" maxLength:"4" doc:"Empty for the newest"`
	Paper     string `query:"paper" enum:"a4,letter," doc:"Empty: A4"`
	Templates string `query:"templates" enum:"yes,no," doc:"With templates at 1:1 for hand cutting"`
}

func (r *routes) book() {
	huma.Register(
		r.api,
		huma.Operation{
			OperationID: "plyBook",
			Method:      http.MethodGet,
			Path:        "/api/parts/{code}/book",
			Summary:     "The ply book of a revision, PDF",
			Responses: map[string]*huma.Response{
				"200": {Description: "The ply book", Content: map[string]*huma.MediaType{"application/pdf": {}}},
			},
		},
		func(ctx context.Context, in *BookQuery) (*file, error) {
			v, err := r.shop.Written(ctx, in.Code, in.Letter)
			if err != nil {
				return nil, problem(ctx, err)
			}
			reply, err := r.shop.Ask(ctx, in.Code, parts.Question{Letter: v.Letter})
			if err != nil {
				return nil, problem(ctx, err)
			}
			tools, err := r.shop.Tools(ctx)
			if err != nil {
				return nil, problem(ctx, err)
			}
			if reply.Worked == nil {
				return nil, problem(
					ctx,
					&book.Error{
						Rule:    book.NotNow,
						Message: "there is nothing to print yet: the stack is empty, or has a fault",
					},
				)
			}
			drawing, err := r.shop.Drawing(ctx, in.Code, parts.DrawingQuestion{Letter: v.Letter})
			if err != nil {
				return nil, problem(ctx, err)
			}
			cures, err := r.shop.SimulateCures(ctx, v)
			if err != nil {
				return nil, problem(ctx, err)
			}
			var out bytes.Buffer
			pictures := map[int64][]byte{}
			for _, i := range v.Document.Items() {
				if i.PictureID != 0 && pictures[i.PictureID] == nil {
					if _, pictures[i.PictureID], err = r.shop.File(ctx, i.PictureID); err != nil {
						return nil, problem(ctx, err)
					}
				}
			}
			b, err := paper.PlyBook(
				paper.Master{
					Revision: v,
					Worked:   *reply.Worked,
					Drawing:  drawing,
					Tools:    tools,
					Cures:    cures,
					Pictures: pictures,
				},
				in.Templates == "yes",
				unitsOf(ctx),
			)
			if err != nil {
				return nil, problem(ctx, err)
			}
			b.Letterpaper = in.Paper == "letter"
			if err := pdf.WriteBook(&out, b); err != nil {
				return nil, problem(ctx, err)
			}
			return &file{
				"application/pdf",
				disposed("inline", v.Part.Number+"-"+v.Letter+"-plies.pdf"),
				out.Bytes(),
			}, nil
		},
	)
}
