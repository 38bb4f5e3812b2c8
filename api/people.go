package api

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"juxta/paper"
	"juxta/shop/book"
	"juxta/shop/people"
)

// ownPIN signs a change.
type ownPIN struct {
	PIN string `json:"pin" maxLength:"12" doc:"Of who signs the change"`
}

func (r *routes) people() {
	r.tablets()
	r.keepPeople()
	r.ownAccount()
}

// tablets are the shop's own devices.
func (r *routes) tablets() {
	get(
		r,
		"/api/tablets",
		"tablets",
		"Devices that are told the people's names",
		func(ctx context.Context, _ *none) ([]people.TabletView, error) {
			return r.shop.Tablets(ctx)
		},
	)
	post(
		r,
		book.EndTablet,
		"/api/tablets/{id}/end",
		"endTablet",
		"Unregister a device",
		func(ctx context.Context, by book.By, in *ByID) (people.TabletView, error) {
			return r.shop.EndTablet(ctx, by, in.ID)
		},
	)
	get(
		r,
		"/api/people/files",
		"peopleFiles",
		"Everybody with their qualifications",
		func(ctx context.Context, _ *none) ([]people.PersonFile, error) {
			return r.shop.PeopleFiles(ctx)
		},
	)
}

// keepPeople is who works here, and what they may.
func (r *routes) keepPeople() {
	get(r, "/api/matrix", "matrix", "Who may do what", func(context.Context, *none) ([]book.Permit, error) {
		return book.Matrix, nil
	})
	post(
		r,
		book.KeepPeople,
		"/api/people",
		"addPerson",
		"Let somebody sign in",
		func(ctx context.Context, by book.By, in *a[people.NewPerson]) (people.PersonView, error) {
			return r.shop.AddPerson(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.KeepPeople,
		"/api/people/{id}",
		"changePerson",
		"Change somebody's role, secret or place in the shop",
		func(ctx context.Context, by book.By, in *withID[people.PersonChange]) (people.PersonView, error) {
			return r.shop.ChangePerson(ctx, by, in.ID, in.Body)
		},
	)
	huma.Register(
		r.api,
		operation(
			r.api,
			book.KeepPeople,
			"/api/people/{id}/badge",
			"issueBadge",
			"Give somebody a badge; the answer is its label, PDF",
		),
		func(ctx context.Context, in *withID[ownPIN]) (*file, error) {
			b, err := r.shop.IssueBadge(ctx, by(ctx), in.ID, in.Body.PIN)
			if err != nil {
				return nil, problem(ctx, err)
			}
			raw, err := paper.Labels(false, paper.Badge(b))
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &file{"application/pdf", `attachment; filename="badge.pdf"`, raw}, nil
		},
	)
	post(
		r,
		book.Qualify,
		"/api/people/{id}/qualify",
		"qualify",
		"Enter a qualification",
		func(ctx context.Context, by book.By, in *withID[people.NewQualification]) (people.QualificationView, error) {
			return r.shop.Qualify(ctx, by, in.ID, in.Body)
		},
	)
	huma.Register(
		r.api,
		operation(
			r.api,
			book.Qualify,
			"/api/qualifications/{id}/withdraw",
			"withdrawQualification",
			"Withdraw a qualification",
		),
		func(ctx context.Context, in *withID[Because]) (*struct{}, error) {
			if _, err := r.shop.WithdrawQualification(ctx, by(ctx), in.ID, in.Body.Reason); err != nil {
				return nil, problem(ctx, err)
			}
			return nil, nil
		},
	)
}

// ownAccount is what people change of themselves, and what ends their sessions.
func (r *routes) ownAccount() {
	post(
		r,
		book.OwnAccount,
		"/api/preferences",
		"changePreferences",
		"Set one's own units and keys",
		func(ctx context.Context, by book.By, in *a[book.Preferences]) (book.Preferences, error) {
			return r.shop.ChangePreferences(ctx, by, in.Body)
		},
	)
	post(
		r,
		book.OwnAccount,
		"/api/sign-out",
		"signOutEverywhere",
		"End all of one's own sessions",
		func(ctx context.Context, by book.By, _ *none) (people.PersonView, error) {
			return r.shop.EndSessions(ctx, by, by.Person.ID, "")
		},
	)
	post(
		r,
		book.KeepPeople,
		"/api/people/{id}/sign-out",
		"endSessions",
		"End all sessions of somebody",
		func(ctx context.Context, by book.By, in *withID[ownPIN]) (people.PersonView, error) {
			return r.shop.EndSessions(ctx, by, in.ID, in.Body.PIN)
		},
	)
	post(
		r,
		book.OwnAccount,
		"/api/secret",
		"changeSecret",
		"Change one's own PIN or password",
		func(ctx context.Context, by book.By, in *a[people.NewSecret]) (people.PersonView, error) {
			return r.shop.ChangeSecret(ctx, by, in.Body)
		},
	)
}
