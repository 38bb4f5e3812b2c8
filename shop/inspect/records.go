package inspect

import (
	"time"

	"juxta/core/release"
)

// The records as the database keeps them: one struct a table, SI units.

// Release is what became of a build.
type Release struct {
	ID          int64
	BuildID     int64
	Mass        float64
	Thickness   []float64             `gorm:"serializer:json"`
	Lines       []release.ReleaseLine `gorm:"serializer:json"`
	Disposition string
	Reason      string
	PersonID    int64
	At          time.Time
}
