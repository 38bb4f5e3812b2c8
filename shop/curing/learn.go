package curing

import (
	"context"
	"fmt"
	"math"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/cure/forecast"
	"juxta/core/ident"
	"juxta/shop/book"
	"juxta/shop/recipes"
)

// LearnIn names what lay in a run: the resin, the equipment as it is kept, and the place of the part as a stack.
type LearnIn struct {
	ResinID   int64            `json:"resinId"`
	Equipment string           `json:"equipment" doc:"Name"`
	Section   calc.CureSection `json:"section"`
}

// LearnedFigure is a figure with one standard deviation.
type LearnedFigure struct {
	Was    float64 `json:"was" doc:"As it is kept"`
	Value  float64 `json:"value"`
	Spread float64 `json:"spread"`
}

// LearnedFrom is what a run says of its equipment and its resin.
type LearnedFrom struct {
	Film    LearnedFigure  `json:"film" doc:"Heat transfer of the air at no pressure, or of the platens, W/(m² K)"`
	Platens bool           `json:"platens" doc:"It is that of the platens"`
	Lag     LearnedFigure  `json:"lag" doc:"Of the air behind its set point, s"`
	Rate    *LearnedFigure `json:"rate,omitempty" doc:"Of the reaction, as a part of what its law says; missing: the readings do not tell it"`
	Off     float64        `json:"off" doc:"Root mean square of what is left between sensors and model, K"`
	Used    int            `json:"used" doc:"Readings of part sensors"`

	ResinVersion     int `json:"resinVersion" doc:"Of the resin that it is held against"`
	EquipmentVersion int `json:"equipmentVersion"`
}

// LearnFrom fits what a recorded run tells of its equipment and its resin; nothing is stored.
func (s *Room) LearnFrom(ctx context.Context, code string, in LearnIn) (LearnedFrom, error) {
	var of calc.CureIn
	var log []cure.Sample
	var resin recipes.Resin
	var equipment recipes.EquipmentVersion
	var ran cure.Recipe
	var told *recipes.CureSimulation
	_, err := book.View(ctx, s.Book, func(db *gorm.DB) (struct{}, error) {
		run, err := book.Find[Run](db, ident.Run, code, "run")
		if err != nil {
			return struct{}{}, err
		}
		if run.State == "queued" || run.State == "running" {
			return struct{}{}, book.NotNow.Errorf("this run is not over yet")
		}
		ran, told = run.Process.Recipe, run.Simulation
		of, resin, err = s.CureOf(db, recipes.ForecastIn{
			ResinID: in.ResinID, Equipment: in.Equipment,
			Plan: recipes.RecipePlan{Sections: []calc.CureSection{in.Section}}, Alpha0: run.Alpha0,
		})
		if err == nil {
			equipment, err = recipes.EquipmentOf(db, in.Equipment)
		}
		if err == nil {
			log, err = logOf(db, run.ID)
		}
		return struct{}{}, err
	})
	if err != nil {
		return LearnedFrom{}, err
	}
	j := of.Job()
	// What a part sensor rules, the air is told something else than the set point.
	lead, _ := told.Told()
	for k, x := range log {
		log[k].SetPoint = ran.Aim(x.SetPoint, cure.PartState{Lag: x.Lag, Lead: x.Lead}, lead)
	}
	l, err := forecast.Learn(ctx, j.Sections[0], j.Equipment, log)
	if err != nil {
		return LearnedFrom{}, book.Wrong.At("run", "%s", err)
	}
	platens := j.Sections[0].ByPlatens()
	was := j.Equipment.Film
	if platens {
		was = j.Equipment.Contact
	}
	out := LearnedFrom{
		Platens: platens,
		Film: LearnedFigure{
			was,
			l.Film.Value,
			l.Film.Spread,
		}, Lag: LearnedFigure{j.Equipment.Lag, l.Lag.Value, l.Lag.Spread},
		Off: l.Off, Used: l.Used, ResinVersion: resin.Version, EquipmentVersion: equipment.Version,
	}
	if l.Cures {
		out.Rate = &LearnedFigure{1, l.Rate.Value, l.Rate.Spread}
	}
	return out, nil
}

// KeepLearned keeps a rate that was learned from a run.
type KeepLearned struct {
	ResinID int64   `json:"resinId"`
	Version int     `json:"version" doc:"Of the resin that the run was held against"`
	Rate    float64 `json:"rate" doc:"As a part of what the law says" minimum:"0.01" maximum:"100"`
}

// KeepRate keeps the rate of the reaction that a run tells for its resin, with the run and its date as source.
func (s *Room) KeepRate(ctx context.Context, by book.By, code string, in KeepLearned) (recipes.ResinView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepMaterials,
		"keep rate "+code,
		in,
		func(tx *book.Tx) (recipes.ResinView, error) {
			run, err := book.Find[Run](tx.DB, ident.Run, code, "run")
			if err != nil {
				return recipes.ResinView{}, err
			}
			return recipes.ScaleResinRate(
				tx,
				in.ResinID,
				in.Version,
				in.Rate,
				fmt.Sprintf("learned from run %s of %s", run.Code, run.CreatedAt.Format(time.DateOnly)),
			)
		},
	)
}

// logOf is what was recorded of a run; a sensor that failed is NaN.
func logOf(db *gorm.DB, run int64) ([]cure.Sample, error) {
	var samples []Sample
	if err := db.Where("run_id = ?", run).Order("t").Find(&samples).Error; err != nil {
		return nil, err
	}
	value := func(v *float64) float64 {
		if v == nil {
			return math.NaN()
		}
		return *v
	}
	log := make([]cure.Sample, len(samples))
	for i, x := range samples {
		log[i] = cure.Sample{
			T: x.T, SetPoint: x.SetPoint, Air: value(x.Air), Tool: value(x.Tool), Lead: value(x.Lead),
			Lag:    value(x.Lag),
			Vacuum: value(x.Vacuum), Pressure: value(x.Pressure),
		}
	}
	return log, nil
}
