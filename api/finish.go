package api

import (
	"context"

	"juxta/shop/book"
	"juxta/shop/finish"
)

func (r *routes) finish() {
	get(
		r,
		"/api/finish",
		"finish",
		"The operations that are ready, in work or held, of all builds",
		func(ctx context.Context, _ *none) ([]finish.Waiting, error) { return r.shop.ToFinish(ctx) },
	)
	get(
		r,
		"/api/finish/{code}",
		"work",
		"A build with the operations of its route",
		func(ctx context.Context, in *ByCode) (finish.WorkView, error) { return r.shop.Work(ctx, in.Code) },
	)
	post(
		r,
		book.OwnAccount,
		"/api/finish/{code}/judge",
		"judgeStep",
		"Hold what is typed into an operation's fields against them; stores nothing",
		func(ctx context.Context, _ book.By, in *with[finish.SignStep]) ([]finish.FieldCheckView, error) {
			return r.shop.Judge(ctx, in.Code, in.Body)
		},
	)
	post(
		r,
		book.OwnAccount,
		"/api/finish/{code}/label",
		"labelAtJoin",
		"What a scanned label is to a join; stores nothing",
		func(ctx context.Context, _ book.By, in *with[finish.LabelAt]) (finish.LabelCheck, error) {
			return r.shop.Label(ctx, in.Code, in.Body)
		},
	)
	r.finishSteps()
}

// finishSteps are what is done to an operation.
func (r *routes) finishSteps() {
	post(
		r,
		book.FinishPart,
		"/api/finish/{code}/start",
		"startStep",
		"Take an operation up",
		func(ctx context.Context, by book.By, in *with[finish.Step]) (finish.WorkView, error) {
			return r.shop.StartStep(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.FinishPart,
		"/api/finish/{code}/sign",
		"signStep",
		"Sign an operation as done, with what it records",
		func(ctx context.Context, by book.By, in *with[finish.SignStep]) (finish.WorkView, error) {
			return r.shop.SignStepDone(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.FinishPart,
		"/api/finish/{code}/hold",
		"holdStep",
		"Hold an operation and refer it to quality",
		func(ctx context.Context, by book.By, in *with[finish.StepReason]) (finish.WorkView, error) {
			return r.shop.HoldStep(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.FinishPart,
		"/api/finish/{code}/take-back",
		"takeBackStep",
		"Take the last signature of an operation back by a counter-entry",
		func(ctx context.Context, by book.By, in *with[finish.StepReason]) (finish.WorkView, error) {
			return r.shop.TakeBackStep(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.ReworkPart,
		"/api/finish/{code}/rework",
		"addRework",
		"Add an operation to one build alone, with a second person",
		func(ctx context.Context, by book.By, in *with[finish.NewRework]) (finish.WorkView, error) {
			return r.shop.AddRework(ctx, by, in.Code, in.Body)
		},
	)
	post(
		r,
		book.LeaveOutStep,
		"/api/finish/{code}/leave-out",
		"leaveOutStep",
		"Leave an operation out of one build",
		func(ctx context.Context, by book.By, in *with[finish.LeaveStepOut]) (finish.WorkView, error) {
			return r.shop.LeaveOut(ctx, by, in.Code, in.Body)
		},
	)
}
