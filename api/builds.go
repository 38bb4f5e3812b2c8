package api

import (
	"context"

	"juxta/core/material"
	"juxta/paper"
	"juxta/shop/book"
	"juxta/shop/builds"
)

// CutPlyLabel is a label as scanned.
type CutPlyLabel struct {
	CutPly string `json:"cutPly" maxLength:"20" doc:"Label as scanned"`
}

// Because is a reason in words.
type Because struct {
	Reason string `json:"reason" minLength:"1" maxLength:"500"`
}

// ItemKey names an item of a master.
type ItemKey struct {
	Key string `json:"key" minLength:"1" maxLength:"24"`
}

// PlyNumber names a ply of a build.
type PlyNumber struct {
	Ply int `json:"ply" minimum:"1"`
}

func (r *routes) builds() {
	type buildsOf struct {
		ByCode
		Letter string `query:"letter" maxLength:"3"`
		Open   bool   `query:"open" doc:"Only those that are not finished"`
	}
	get(
		r,
		"/api/parts/{code}/builds",
		"buildsOf",
		"Builds to a revision",
		func(ctx context.Context, in *buildsOf) ([]builds.BuildLine, error) {
			return r.shop.BuildsOf(ctx, in.Code, in.Letter, in.Open)
		},
	)
	get(
		r,
		"/api/parts/{code}/next-serial",
		"nextSerial",
		"The serial that a part's next build may have",
		func(ctx context.Context, in *ByCode) (builds.NextSerial, error) {
			return r.shop.ProposedSerial(ctx, in.Code)
		},
	)
	type lastBuilds struct {
		ByCode
		Operation string `query:"operation" required:"true" maxLength:"48" doc:"Its key"`
	}
	get(
		r,
		"/api/parts/{code}/last-builds",
		"lastBuilds",
		"How an operation of a part's route went on its last builds",
		func(ctx context.Context, in *lastBuilds) ([]builds.EarlierBuild, error) {
			return r.shop.OnLastBuilds(ctx, in.Code, in.Operation)
		},
	)
	post(
		r,
		book.OpenBuild,
		"/api/parts/{code}/builds",
		"startBuild",
		"Start a build",
		func(ctx context.Context, by book.By, in *with[builds.NewBuild]) (builds.BuildLine, error) {
			return r.shop.StartBuild(ctx, by, in.Code, in.Body)
		},
	)
	type whichBuilds struct {
		Room   string `query:"room" enum:"cut,kits,layup,bag,cure,release,finished," doc:"Where they wait; empty: all"`
		Passed bool   `query:"passed" doc:"Those that have passed the room instead"`
		Find   string `query:"find" maxLength:"60" doc:"Part of number, serial or id"`
		Before int64  `query:"before" minimum:"0" doc:"The last page's next"`
		Limit  int    `query:"limit" minimum:"0" maximum:"200" doc:"0: 60"`
	}
	get(
		r,
		"/api/builds",
		"builds",
		"A page of builds, newest first",
		func(ctx context.Context, in *whichBuilds) (builds.BuildPage, error) {
			return r.shop.Builds(ctx, builds.BuildQuery(*in))
		},
	)
	post(
		r,
		book.GiveUpBuild,
		"/api/builds/{code}/end",
		"endBuild",
		"End a build before its time",
		func(ctx context.Context, by book.By, in *with[builds.Ending]) (builds.BuildLine, error) {
			return r.shop.EndBuild(ctx, by, in.Code, in.Body)
		},
	)
}

// KitClosed is what a counted kit lies in.
type KitClosed struct {
	Container string `json:"container,omitempty" doc:"Of a build on a route: a tray, a bag, a box by its label" maxLength:"60"`
}

func (r *routes) kits() {
	get(
		r,
		"/api/kits/{code}",
		"kit",
		"The kit of a build",
		func(ctx context.Context, in *ByOperation) (builds.KitView, error) {
			return r.shop.Kit(ctx, in.Code, in.Operation)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/count",
		"countPly",
		"Count a cut ply into the kit",
		func(ctx context.Context, by book.By, in *with[CutPlyLabel]) (builds.KitView, error) {
			return r.shop.CountPly(ctx, by, in.Code, in.Body.CutPly)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/aside",
		"setAside",
		"Set a counted ply aside",
		func(ctx context.Context, by book.By, in *with[CutPlyLabel]) (builds.KitView, error) {
			return r.shop.SetAside(ctx, by, in.Code, in.Body.CutPly)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/void",
		"voidPly",
		"Void a cut ply that was lost or spoiled: it is cut again",
		func(ctx context.Context, by book.By, in *with[builds.VoidPly]) (builds.KitView, error) {
			return r.shop.VoidPly(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/close",
		"closeKit",
		"Sign the count",
		func(ctx context.Context, by book.By, in *at[KitClosed]) (builds.KitView, error) {
			return r.shop.CloseKit(ctx, by, in.Code, in.Operation, in.Body.Container)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/item",
		"countItem",
		"Count an item besides the plies into the kit, or set it aside",
		func(ctx context.Context, by book.By, in *at[builds.CountItem]) (builds.KitView, error) {
			return r.shop.CountItemOf(ctx, by, in.Code, in.Operation, in.Body)
		},
	)
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/out",
		"kitOut",
		"Take the kit out of the freezer",
		func(ctx context.Context, by book.By, in *ByOperation) (builds.KitView, error) {
			return r.shop.MoveKit(ctx, by, in.Code, material.Out, 0, in.Operation)
		},
	)
	type into struct {
		FreezerID int64 `json:"freezerId,omitempty" doc:"May be left out where there is only one"`
	}
	post(
		r,
		book.CountKit,
		"/api/kits/{code}/in",
		"kitIn",
		"Put the kit into a freezer",
		func(ctx context.Context, by book.By, in *at[into]) (builds.KitView, error) {
			return r.shop.MoveKit(ctx, by, in.Code, material.In, in.Body.FreezerID, in.Operation)
		},
	)
}

func (r *routes) layup() {
	r.download(
		"/api/preforms/{code}/label.pdf",
		"preformLabel",
		"The label of a pre-form, PDF",
		"application/pdf",
		func(ctx context.Context, code string) (string, []byte, error) {
			f, err := r.shop.PreformOf(ctx, code)
			if err != nil {
				return "", nil, err
			}
			raw, err := paper.Labels(false, paper.PreformLabel(f))
			return f.Code + ".pdf", raw, err
		},
	)
	get(
		r,
		"/api/layup/{code}",
		"layup",
		"The bench: next step and what is laid",
		func(ctx context.Context, in *ByOperation) (builds.LayupView, error) {
			return r.shop.Layup(ctx, in.Code, in.Operation)
		},
	)
	r.plies()
	r.films()
}

// plies are laid, signed and taken back.
func (r *routes) plies() {
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/sign",
		"signPly",
		"Sign a ply laid",
		func(ctx context.Context, by book.By, in *with[builds.SignPly]) (builds.SignResult, error) {
			return r.shop.Sign(ctx, by, in.Code, in.Body)
		},
	)
	type scanned struct {
		ByCode
		Label string `query:"label" maxLength:"20" doc:"As scanned"`
	}
	get(
		r,
		"/api/layup/{code}/expecting",
		"expecting",
		"Whose label was scanned, and whether it comes next; signs nothing",
		func(ctx context.Context, in *scanned) (builds.ScannedLabel, error) {
			return r.shop.Expecting(ctx, in.Code, in.Label)
		},
	)
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/hold",
		"meetHold",
		"Sign that a hold point is done",
		func(ctx context.Context, by book.By, in *with[ItemKey]) (builds.LayupView, error) {
			return r.shop.Meet(ctx, by, in.Code, builds.MeetDemand{Kind: "hold", Key: in.Body.Key})
		},
	)
	type looked struct {
		ItemKey
		PersonID int64  `json:"personId" doc:"Checked by"`
		PIN      string `json:"pin" maxLength:"12" doc:"Theirs"`
	}
	post(
		r,
		book.SecondLook,
		"/api/layup/{code}/second",
		"meetSecond",
		"Sign that a second person signed",
		func(ctx context.Context, by book.By, in *with[looked]) (builds.LayupView, error) {
			return r.shop.Meet(
				ctx,
				by,
				in.Code,
				builds.MeetDemand{Kind: "second", Key: in.Body.Key, PersonID: in.Body.PersonID, PIN: in.Body.PIN},
			)
		},
	)
	type takeBack struct {
		PlyNumber
		Because
	}
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/take-back",
		"takeBack",
		"Take the last ply back",
		func(ctx context.Context, by book.By, in *with[takeBack]) (builds.LayupView, error) {
			return r.shop.TakeBack(ctx, by, in.Code, in.Body.Ply, in.Body.Reason)
		},
	)
}

// films and debulks between the plies, and what is referred.
func (r *routes) films() {
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/film",
		"foundFilm",
		"Account for a missing film",
		func(ctx context.Context, by book.By, in *with[PlyNumber]) (builds.LayupView, error) {
			return r.shop.FoundFilm(ctx, by, in.Code, in.Body.Ply)
		},
	)
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/debulk",
		"startDebulk",
		"Start the debulk that is due",
		func(ctx context.Context, by book.By, in *ByOperation) (builds.LayupView, error) {
			return r.shop.StartDebulk(ctx, by, in.Code, in.Operation)
		},
	)
	post(
		r,
		book.LayPlies,
		"/api/layup/{code}/debulk/end",
		"endDebulk",
		"End the running debulk",
		func(ctx context.Context, by book.By, in *at[builds.DebulkEnd]) (builds.LayupView, error) {
			return r.shop.EndDebulk(ctx, by, in.Code, in.Operation, in.Body)
		},
	)
	post(
		r,
		book.ReferPart,
		"/api/layup/{code}/refer",
		"referBuild",
		"Write down that somebody has to look",
		func(ctx context.Context, by book.By, in *at[Because]) (builds.LayupView, error) {
			return r.shop.ReferBuild(ctx, by, in.Code, in.Operation, in.Body.Reason)
		},
	)
}

func (r *routes) bag() {
	get(
		r,
		"/api/bag/{code}",
		"bag",
		"The bag of a build",
		func(ctx context.Context, in *ByOperation) (builds.BagView, error) {
			return r.shop.Bag(ctx, in.Code, in.Operation)
		},
	)
	type stack struct {
		Stack string `json:"stack" maxLength:"40"`
	}
	post(
		r,
		book.BagPart,
		"/api/bag/{code}/close",
		"closeBag",
		"Close the bag with a stack",
		func(ctx context.Context, by book.By, in *at[stack]) (builds.BagView, error) {
			return r.shop.CloseBag(ctx, by, in.Code, in.Operation, in.Body.Stack)
		},
	)
	post(
		r,
		book.BagPart,
		"/api/bag/{code}/leak",
		"checkLeak",
		"Record a leak check",
		func(ctx context.Context, by book.By, in *at[builds.NewLeakCheck]) (builds.BagView, error) {
			return r.shop.CheckLeak(ctx, by, in.Code, in.Operation, in.Body)
		},
	)
}
