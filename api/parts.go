package api

import (
	"context"

	"juxta/format/mesh"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

func (r *routes) parts() {
	r.exchange()
	r.book()
	r.drafts()
	r.questions()
	r.drapes()
	r.shapes()
	r.signatures()
	r.rules()
	r.tools()
	r.parting()
}

// drafts are parts and what is written of them.
func (r *routes) drafts() {
	get(r, "/api/parts", "parts", "Parts", func(ctx context.Context, _ *none) ([]parts.PartLine, error) {
		return r.shop.Parts(ctx)
	})
	type revision struct {
		ByCode
		Letter string `query:"letter" doc:"Empty for the newest"`
		Only   string `query:"only" enum:"written," doc:"written: nothing is worked out; the page asks for that next"`
	}
	get(
		r,
		"/api/parts/{code}",
		"part",
		"A revision with what is worked out from it",
		func(ctx context.Context, in *revision) (parts.RevisionView, error) {
			if in.Only == "written" {
				return r.shop.Written(ctx, in.Code, in.Letter)
			}
			return r.shop.Revision(ctx, in.Code, in.Letter)
		},
	)
	type importing struct{ Body importBody }
	post(
		r,
		book.WriteMaster,
		"/api/parts",
		"importPart",
		"Import a part from a ply table and a drawing",
		func(ctx context.Context, by book.By, in *importing) (parts.RevisionView, error) {
			read, err := readPart(in.Body)
			if err != nil {
				return parts.RevisionView{}, err
			}
			return r.shop.ImportPart(ctx, by, read)
		},
	)
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/draft",
		"changeDraft",
		"Change the draft of a part",
		func(ctx context.Context, by book.By, in *with[parts.DraftChange]) (parts.RevisionView, error) {
			return r.shop.ChangeDraft(ctx, by, in.Code, in.Body)
		},
	)
	get(
		r,
		"/api/parts/{code}/difference",
		"difference",
		"Compare two revisions of a part",
		func(ctx context.Context, in *struct {
			ByCode
			From string `query:"from" required:"true" maxLength:"4"`
			To   string `query:"to" required:"true" maxLength:"4"`
		}) (parts.DifferenceView, error) {
			return r.shop.Difference(ctx, in.Code, in.From, in.To)
		},
	)
}

// questions are what is asked of a master as it stands on the page; nothing is stored.
func (r *routes) questions() {
	// It is a question, though it is sent: a document does not fit into an address.
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/ask",
		"ask",
		"Work out a master as it stands on the page; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.Question]) (parts.Reply, error) {
			return r.shop.Ask(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/route",
		"route",
		"The route of a master as it stands on the page, or as a template would have it; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.RouteQuestion]) (parts.RouteReply, error) {
			return r.shop.Route(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/drawing",
		"drawing",
		"Draw a master as it stands on the page and cut it along a line; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.DrawingQuestion]) (parts.Drawing, error) {
			return r.shop.Drawing(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/rolled",
		"rolled",
		"Develop the sheets of a stage that is rolled on a mandrel; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.RolledQuestion]) (parts.RolledReply, error) {
			return r.shop.Rolled(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/draped",
		"draped",
		"Lay a ply of a curved stage over its surface; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.DrapedQuestion]) (parts.DrapedReply, error) {
			return r.shop.Draped(ctx, in.Code, in.Body)
		},
	)
}

// drapes are the searches over draped plies, and the surfaces that they lie on.
func (r *routes) drapes() {
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/drapes",
		"seekDrape",
		"Search where a ply is laid on first, or by which cuts it no longer locks",
		func(ctx context.Context, by book.By, in *with[parts.NewDrapeSearch]) (parts.DrapeSearchView, error) {
			return r.shop.SeekDrape(ctx, by, in.Code, in.Body)
		},
	)
	type search struct {
		ID int64 `path:"id"`
	}
	get(r, "/api/drapes/{id}", "drapeSearch", "A search as far as it has come",
		func(ctx context.Context, in *search) (parts.DrapeSearchView, error) {
			return r.shop.SeenDrape(ctx, in.ID)
		})
	post(r, book.WriteMaster, "/api/drapes/{id}/stop", "stopDrape", "Stop a search and keep its best",
		func(ctx context.Context, by book.By, in *search) (parts.DrapeSearchView, error) {
			return r.shop.StopDrape(ctx, by, in.ID)
		})
	get(r, "/api/meshes", "meshes", "Surfaces that were brought in from files, newest first",
		func(ctx context.Context, _ *none) ([]parts.SurfaceView, error) { return r.shop.Surfaces(ctx) })
	post(r, book.WriteMaster, "/api/meshes", "keepMesh", "Bring a surface in from its file (STL, OBJ)",
		func(ctx context.Context, by book.By, in *a[meshBody]) (parts.SurfaceView, error) {
			m, err := mesh.Read(in.Body.Content, in.Body.Unit)
			if err != nil {
				return parts.SurfaceView{}, book.Wrong.At("content", "%s", err)
			}
			return r.shop.KeepSurface(
				ctx,
				by,
				parts.NewSurface{Name: in.Body.Name, Unit: in.Body.Unit, Sure: in.Body.Sure, Mesh: m},
			)
		})
	get(
		r,
		"/api/surfaces",
		"surfaces",
		"Kinds of surfaces that plies can be laid over",
		func(context.Context, *none) ([]surfaceKind, error) {
			return surfaceKinds(), nil
		},
	)
}

// shapes are the cure that a master comes to, and what outlines and stacks are written in.
func (r *routes) shapes() {
	post(
		r,
		book.AskMaster,
		"/api/parts/{code}/simulate",
		"simulateCure",
		"Simulate a process's recipe and hold it against its limits; stores nothing",
		func(ctx context.Context, _ book.By, in *with[parts.ProcessQuestion]) (recipes.CureSimulation, error) {
			return r.shop.SimulateCure(ctx, in.Code, in.Body)
		},
	)
	get(
		r,
		"/api/shapes",
		"shapes",
		"Kinds of shapes that an outline can be drawn by",
		func(context.Context, *none) ([]shapeKind, error) {
			return shapeKinds(), nil
		},
	)
	type code struct {
		Code string `query:"code" maxLength:"16000" doc:"As laminate.ReadCode documents it"`
	}
	get(r, "/api/stack", "readCode", "Plies of a stacking code", func(_ context.Context, in *code) (stackRead, error) {
		return readStack(in.Code), nil
	})
}

// signatures are what signs a revision, lets findings stand, and makes variants.
func (r *routes) signatures() {
	post(
		r,
		book.CheckMaster,
		"/api/parts/{code}/check",
		"checkRevision",
		"Sign that the draft was checked",
		func(ctx context.Context, by book.By, in *with[parts.RevisionSign]) (parts.RevisionView, error) {
			return r.shop.CheckRevision(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.ReleaseMaster,
		"/api/parts/{code}/release",
		"releaseRevision",
		"Release the checked draft: it is frozen",
		func(ctx context.Context, by book.By, in *with[parts.RevisionSign]) (parts.RevisionView, error) {
			return r.shop.ReleaseRevision(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.WaiveRule,
		"/api/parts/{code}/waivers",
		"waive",
		"Let a finding of the draft stand",
		func(ctx context.Context, by book.By, in *with[parts.NewWaiver]) (parts.RevisionView, error) {
			return r.shop.Waive(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.WithdrawWaiver,
		"/api/waivers/{id}/withdraw",
		"withdrawWaiver",
		"Take a waiver of a draft back",
		func(ctx context.Context, by book.By, in *ByID) (parts.RevisionView, error) {
			return r.shop.WithdrawWaiver(ctx, by, in.ID)
		},
	)
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/variants",
		"makeVariants",
		"Make the parts of a family, or bring them up to date",
		func(ctx context.Context, by book.By, in *ByCode) (parts.RevisionView, error) {
			return r.shop.MakeVariants(ctx, by, in.Code)
		},
	)
}

// rules are the laminate rules and the settings of the shop.
func (r *routes) rules() {
	get(
		r,
		"/api/rules",
		"rules",
		"The shop's rules for laminates",
		func(ctx context.Context, _ *none) (parts.RuleView, error) {
			return r.shop.Rules(ctx)
		},
	)
	post(
		r,
		book.KeepRules,
		"/api/rules",
		"changeRules",
		"Change the shop's rules",
		func(ctx context.Context, by book.By, in *a[parts.RulesIn]) (parts.RuleView, error) {
			return r.shop.ChangeRules(ctx, by, in.Body)
		},
	)
	get(
		r,
		"/api/settings",
		"shopSettings",
		"What the shop has decided",
		func(ctx context.Context, _ *none) (book.ShopSettingsView, error) {
			return r.shop.ShopSettings(ctx)
		},
	)
	post(
		r,
		book.KeepRules,
		"/api/settings",
		"changeShopSettings",
		"Change what the shop has decided",
		func(ctx context.Context, by book.By, in *struct{ Body book.ShopSettingsIn }) (book.ShopSettingsView, error) {
			return r.shop.ChangeShopSettings(ctx, by, in.Body)
		},
	)
}

// tools are what parts are made on.
func (r *routes) tools() {
	get(
		r,
		"/api/tools",
		"tools",
		"Tools with their logs",
		func(ctx context.Context, _ *none) ([]parts.ToolView, error) {
			return r.shop.Tools(ctx)
		},
	)
	post(
		r,
		book.KeepTools,
		"/api/tools/{id}",
		"saveTool",
		"Enter a tool (id 0) or change one",
		func(ctx context.Context, by book.By, in *withID[parts.ToolIn]) (parts.ToolView, error) {
			return r.shop.SaveTool(ctx, by, in.ID, in.Body)
		},
	)
	post(
		r,
		book.LogTool,
		"/api/tools/{id}/events",
		"logTool",
		"Log work on a tool",
		func(ctx context.Context, by book.By, in *withID[parts.NewToolEvent]) (parts.ToolView, error) {
			return r.shop.LogToolWork(ctx, by, in.ID, in.Body)
		},
	)
}

// parting is what ends a revision or archives a part.
func (r *routes) parting() {
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/revisions",
		"newRevision",
		"Start a new revision as a copy",
		func(ctx context.Context, by book.By, in *ByCode) (parts.RevisionView, error) {
			return r.shop.NewRevision(ctx, by, in.Code)
		},
	)
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/archive",
		"archivePart",
		"Archive a part that was begun by mistake",
		func(ctx context.Context, by book.By, in *with[builds.Ending]) (parts.PartLine, error) {
			return r.shop.ArchivePart(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.WriteMaster,
		"/api/parts/{code}/restore",
		"restorePart",
		"Restore an archived part",
		func(ctx context.Context, by book.By, in *ByCode) (parts.PartLine, error) {
			return r.shop.RestorePart(ctx, by, in.Code)
		},
	)
}
