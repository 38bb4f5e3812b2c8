package recipes

import (
	"context"
	"errors"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/bag"
	"juxta/core/cure/forecast"
	"juxta/core/unit"
	"juxta/shop/book"
)

// ForecastIn asks what a part would feel in a cure as it stands on the page.
type ForecastIn struct {
	ResinID   int64                  `json:"resinId"`
	Equipment string                 `json:"equipment" doc:"Name"`
	Plan      RecipePlan             `json:"plan"`
	Alpha0    float64                `json:"alpha0,omitempty" doc:"Degree of cure that the out-time has brought; 0: as received" minimum:"0" exclusiveMaximum:"1"`
	OutTime   float64                `json:"outTime,omitempty" doc:"Spent at the warmth of the shop, s: by it the resin has begun to cure" minimum:"0" maximum:"31536000"`
	Mishaps   []forecast.Disturbance `json:"mishaps,omitempty" maxItems:"6"`
}

// CureOf is a cure with what the shop keeps of resin and equipment.
func (s *Room) CureOf(db *gorm.DB, in ForecastIn) (calc.CureIn, Resin, error) {
	var resin Resin
	if err := db.Take(&resin, in.ResinID).Error; errors.Is(err, gorm.ErrRecordNotFound) {
		return calc.CureIn{}, resin, book.NotHere.At("resinId", "there is no such resin here")
	} else if err != nil {
		return calc.CureIn{}, resin, err
	}
	e, err := EquipmentOf(db, in.Equipment)
	if err != nil {
		return calc.CureIn{}, resin, err
	}
	out := calc.CureIn{
		Recipe: in.Plan.Recipe, Equipment: e.Facts, Resin: resin.Cures(), Sections: in.Plan.Sections,
		Limits:  in.Plan.Limits,
		Mishaps: in.Mishaps, Atmosphere: bag.Atmosphere(s.Altitude),
	}
	out.Resin.Alpha0 = max(out.Resin.Alpha0, in.Alpha0)
	if out.Resin.Alpha0, err = out.Resin.Kinetics.Aged(out.Resin.Alpha0, in.OutTime); err != nil {
		return calc.CureIn{}, resin, book.Wrong.At("outTime", "%s", err)
	}
	return out, resin, nil
}

// rowsThrough is how many rows a picture through the thickness has.
const rowsThrough = 72

// Forecast works out what a part would feel; nothing is stored.
func (s *Room) Forecast(ctx context.Context, in ForecastIn) (calc.CureOut, error) {
	var resin Resin
	of, err := book.View(ctx, s.Book, func(db *gorm.DB) (of calc.CureIn, err error) {
		of, resin, err = s.CureOf(db, in)
		return of, err
	})
	if err != nil {
		return calc.CureOut{}, err
	}
	out, err := asked(of.Simulate(ctx, rowsThrough))
	mine, supplier := in.Plan.Recipe, resin.Recipe
	if err == nil && mine.MixedUp(supplier) {
		out.Findings = append([]forecast.CureFinding{{
			Rule: "units", Section: -1,
			Message: "the supplier's cycle goes up to " + unit.Temperature(supplier.Hottest(), 0).
				String() +
				" and this one to " +
				unit.Temperature(mine.Hottest(), 0).
					String() +
				": the same number in the other unit",
			Advice: "Was it typed in °F where °C is meant, or the other way round?",
		}}, out.Findings...)
	}
	return out, err
}

// FindCycle asks for the shortest cycle, or goes on with a search for it.
type FindCycle struct {
	ForecastIn
	Search *calc.FindState `json:"search,omitempty" doc:"As far as it has come"`
	Tries  int             `json:"tries" doc:"Cycles to try now" minimum:"1" maximum:"400"`
}

// ShortestCycle goes on with a search for the shortest cycle that meets the limits; nothing is stored.
func (s *Room) ShortestCycle(ctx context.Context, in FindCycle) (calc.FindState, error) {
	of, err := s.cureNow(ctx, in.ForecastIn)
	if err != nil {
		return calc.FindState{}, err
	}
	return asked(calc.FindIn{CureIn: of, Search: in.Search, Seed: 1, Tries: in.Tries}.Find(ctx))
}

// CureMap asks where a cure works over thickness and dwell.
type CureMap struct {
	ForecastIn
	Section   int       `json:"section" minimum:"0" maximum:"11"`
	Layer     int       `json:"layer" doc:"Whose thickness is varied" minimum:"0" maximum:"23"`
	Thickness []float64 `json:"thickness" doc:"m" minItems:"1" maxItems:"40"`
	Segment   int       `json:"segment" doc:"Whose hold is varied" minimum:"0" maximum:"39"`
	Holds     []float64 `json:"holds" doc:"s" minItems:"1" maxItems:"40"`
}

// MapCure works out a part of a map; nothing is stored.
func (s *Room) MapCure(ctx context.Context, in CureMap) ([]calc.MapCell, error) {
	of, err := s.cureNow(ctx, in.ForecastIn)
	if err != nil {
		return nil, err
	}
	return asked(calc.MapIn{
		CureIn: of, Section: in.Section, Layer: in.Layer, Thickness: in.Thickness, Segment: in.Segment, Holds: in.Holds,
	}.Map(ctx))
}

func (s *Room) cureNow(ctx context.Context, in ForecastIn) (calc.CureIn, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (calc.CureIn, error) {
		of, _, err := s.CureOf(db, in)
		return of, err
	})
}

// asked turns what was wrong with a question into a refusal.
func asked[T any](out T, err error) (T, error) {
	var wrong *calc.InputError
	if errors.As(err, &wrong) {
		err = book.Wrong.At(wrong.Field, "%s", wrong.Message)
	}
	return out, err
}
