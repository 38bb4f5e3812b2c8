package cutting

import (
	"time"

	"juxta/calc"
	"juxta/core/nest"
)

// The records as the database keeps them: one struct a table, SI units.

// Nest is a cut plan for one roll, the first sheet of its problem, which carries its seed and steps; while it is
// searched there may be more sheets.
type Nest struct {
	ID        int64
	Code      string
	RollID    int64
	LeadID    *int64 // the nest that it was searched with, on several rolls
	State     string
	Problem   calc.NestIn  `gorm:"serializer:json"`
	Best      *nest.Layout `gorm:"serializer:json"`
	Before    *StoredNest  `gorm:"serializer:json"`
	StepsDone int
	Stop      bool
	Message   string `gorm:"column:says"`
	CreatedAt time.Time
	SeenAt    time.Time // when its worker was last at it
	StartedAt *time.Time
	EndedAt   *time.Time
	CutAt     *time.Time
}

// StoredNest is a problem with the nest that was found for it.
type StoredNest struct {
	Problem calc.NestIn `json:"problem"`
	Best    nest.Layout `json:"best"`
}

// NestPiece says which ply of which build a piece of a nest is.
type NestPiece struct {
	NestID  int64  `gorm:"primaryKey"`
	Piece   string `gorm:"primaryKey"`
	BuildID int64
	PlyID   int64
}

// CutMiss is a ply that a nest was to give and that did not come off the table good.
type CutMiss struct {
	ID      int64
	NestID  int64
	BuildID int64
	PlyID   int64
	Why     string
	Note    string
}

// CutJob is a nest on a table with a knife.
type CutJob struct {
	ID        int64
	NestID    int64
	Name      string   // as the table knows it
	Address   string   // of the table
	Pieces    []string `gorm:"serializer:json"` // that it cuts
	ByKit     bool
	State     string
	Stop      bool
	X, Y      float64  // on the sheet, m
	Share     float64  // of the program
	Seconds   float64  // that it takes by the plan
	Piece     string   // that the knife is at
	Freed     []string `gorm:"serializer:json"`
	Message   string   `gorm:"column:says"`
	CreatedAt time.Time
	SeenAt    time.Time
	StartedAt *time.Time
	EndedAt   *time.Time
}
