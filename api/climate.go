package api

import (
	"context"

	"juxta/shop/book"
	"juxta/shop/climate"
	"juxta/shop/stock"
)

// Climate is all that is measured: freezers, sensors, alarms and failures.
type Climate struct {
	Freezers []stock.FreezerView  `json:"freezers"`
	Sensors  []climate.SensorView `json:"sensors"`
	Alarms   []climate.AlarmView  `json:"alarms" doc:"The last hundred"`
	Failures []stock.FailureView  `json:"failures"`
}

func (r *routes) climate() {
	get(
		r,
		"/api/freezers",
		"freezers",
		"Freezers with what is in them",
		func(ctx context.Context, _ *none) ([]stock.FreezerView, error) {
			return r.shop.Freezers(ctx)
		},
	)
	get(
		r,
		"/api/room",
		"room",
		"The air of the room as measured last",
		func(ctx context.Context, _ *none) (climate.RoomState, error) {
			return r.shop.Air(ctx)
		},
	)
	get(
		r,
		"/api/alarms",
		"alarms",
		"Alarms that nobody has seen, or that go on",
		func(ctx context.Context, _ *none) ([]climate.AlarmView, error) {
			return r.shop.Alarms(ctx, false)
		},
	)
	get(
		r,
		"/api/climate",
		"climate",
		"Freezers, sensors with their last day, alarms and failures",
		func(ctx context.Context, _ *none) (c Climate, err error) {
			if c.Freezers, err = r.shop.Freezers(ctx); err != nil {
				return c, err
			}
			if c.Sensors, err = r.shop.Sensors(ctx); err != nil {
				return c, err
			}
			if c.Alarms, err = r.shop.Alarms(ctx, true); err != nil {
				return c, err
			}
			c.Failures, err = r.shop.Failures(ctx)
			return c, err
		},
	)
	r.freezers()
}

// freezers, sensors and their failures are kept and told of.
func (r *routes) freezers() {
	post(
		r,
		book.KeepFreezers,
		"/api/freezers/{id}",
		"saveFreezer",
		"Enter a freezer (id 0) or change one",
		func(ctx context.Context, by book.By, in *withID[stock.FreezerIn]) (stock.FreezerView, error) {
			return r.shop.SaveFreezer(ctx, by, in.ID, in.Body)
		},
	)
	post(
		r,
		book.KeepFreezers,
		"/api/sensors/{id}",
		"saveSensor",
		"Enter a sensor (id 0) or change one",
		func(ctx context.Context, by book.By, in *withID[climate.SensorIn]) (climate.SensorIn, error) {
			return r.shop.SaveSensor(ctx, by, in.ID, in.Body)
		},
	)
	post(
		r,
		book.TellFailure,
		"/api/freezers/{id}/failure",
		"reportFailure",
		"Say that a freezer was too warm: everything inside aged",
		func(ctx context.Context, by book.By, in *withID[stock.NewFailure]) (stock.FailureView, error) {
			return r.shop.ReportFailure(ctx, by, in.ID, in.Body)
		},
	)
	post(
		r,
		book.TellFailure,
		"/api/failures/{id}",
		"changeFailure",
		"End a failure, or withdraw it",
		func(ctx context.Context, by book.By, in *withID[stock.FailureChange]) (stock.FailureView, error) {
			return r.shop.ChangeFailure(ctx, by, in.ID, in.Body)
		},
	)
	type seen struct {
		Note string `json:"note" minLength:"1" maxLength:"300" doc:"What was found and done"`
	}
	post(
		r,
		book.SeeAlarm,
		"/api/alarms/{id}/seen",
		"seeAlarm",
		"Acknowledge an alarm",
		func(ctx context.Context, by book.By, in *withID[seen]) (climate.AlarmView, error) {
			return r.shop.SeeAlarm(ctx, by, in.ID, in.Body.Note)
		},
	)
}
