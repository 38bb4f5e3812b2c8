package curing

import (
	"time"

	"juxta/core/cure"
	"juxta/shop/parts"
	"juxta/shop/recipes"
)

// The records as the database keeps them: one struct a table, SI units.

// Run is one cure run of an oven.
type Run struct {
	ID         int64
	Code       string
	State      string
	Oven       string // host:port
	OvenName   string
	Process    parts.Process `gorm:"serializer:json"`
	Alpha0     float64
	Kinetics   cure.Kinetics   `gorm:"serializer:json"`
	Viscosity  *cure.Viscosity `gorm:"serializer:json"`
	Controller cure.Controller `gorm:"serializer:json"`
	Recorder   string
	Heartbeat  *time.Time
	CreatedAt  time.Time
	StartedAt  *time.Time
	EndedAt    *time.Time
	StartedBy  int64
	Stop       bool
	Verdict    *cure.Verdict           `gorm:"serializer:json"`
	Message    string                  `gorm:"column:says"`
	Simulation *recipes.CureSimulation `gorm:"column:foreseen;serializer:json"` // nil: of before cures were simulated, or it could not be
}

// RunBuild puts a build into a run.
type RunBuild struct {
	RunID     int64  `gorm:"primaryKey"`
	BuildID   int64  `gorm:"primaryKey"`
	Operation string `gorm:"primaryKey"` // that it completes, of a build with a route
}

// Sample is one reading of a run; a failed sensor is nil.
type Sample struct {
	RunID    int64    `json:"-" gorm:"primaryKey"`
	T        float64  `json:"t" gorm:"primaryKey" doc:"s from the start by the oven's clock"`
	SetPoint float64  `json:"setPoint" doc:"K"`
	Air      *float64 `json:"air"`
	Tool     *float64 `json:"tool"`
	Lead     *float64 `json:"lead"`
	Lag      *float64 `json:"lag"`
	Vacuum   *float64 `json:"vacuum" doc:"Pa below the air outside"`
	Pressure *float64 `json:"pressure,omitempty" doc:"Pa above the air outside; missing: there is none, or of before it was recorded"`
}
