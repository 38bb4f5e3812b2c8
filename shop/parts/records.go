package parts

import (
	"time"

	"juxta/core/cure"
	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/pattern"
	"juxta/core/unit"
)

// The records as the database keeps them: one struct a table, SI units.

// Part is a drawing number with its revisions.
type Part struct {
	ID           int64
	Code         string
	Number, Name string
	FamilyID     *int64 // the part that it is a variant of
	Variant      string
	CreatedAt    time.Time
	ArchivedAt   *time.Time `gorm:"column:put_away_at"` // begun by mistake
	ArchivedBy   *int64     `gorm:"column:put_away_by"`
	ArchivedWhy  string     `gorm:"column:put_away_why"`
}

// Revision of a part; released ones are frozen, also by the database.
type Revision struct {
	ID         int64
	PartID     int64
	Letter     string
	State      string
	Version    int
	Process    Process          `gorm:"serializer:json"`
	Doc        *master.Document `gorm:"serializer:json"` // nil: of before there were documents
	CheckedAt  *time.Time
	CheckedBy  *int64
	ReleasedAt *time.Time
	ReleasedBy *int64
	ChangedBy  *int64 // who wrote the draft last
	CreatedAt  time.Time
}

// Process is how a revision is made and what it is held against.
type Process struct {
	Tool               string           `json:"tool"`
	DebulkFirst        bool             `json:"debulkFirst" doc:"Debulk after ply 1"`
	DebulkEvery        int              `json:"debulkEvery" doc:"Plies between debulks; 0: never" minimum:"0" maximum:"100"`
	DebulkSeconds      float64          `json:"debulkSeconds" minimum:"0"`
	DebulkVacuum       float64          `json:"debulkVacuum" doc:"Least vacuum, Pa" minimum:"0" maximum:"101325"`
	BagStack           string           `json:"bagStack"`
	LeakStart          float64          `json:"leakStart" doc:"Least vacuum at the start, Pa" minimum:"0" maximum:"101325"`
	LeakDrop           float64          `json:"leakDrop" doc:"Vacuum that may be lost, Pa" exclusiveMinimum:"0"`
	LeakSeconds        float64          `json:"leakSeconds" doc:"Over this time, s" exclusiveMinimum:"0"`
	Recipe             cure.Recipe      `json:"recipe"`
	PartLag            float64          `json:"partLag,omitempty" doc:"Of revisions that were signed before cures were simulated; used by nothing" minimum:"0"`
	RunLimits          master.RunLimits `json:"runLimits"`
	MassTolerance      float64          `json:"massTolerance" doc:"Fraction" exclusiveMinimum:"0" maximum:"1"`
	ThicknessTolerance float64          `json:"thicknessTolerance" doc:"Fraction" exclusiveMinimum:"0" maximum:"1"`

	From           *master.ReleasedRecipe `json:"from,omitempty" doc:"The released recipe that it is"`
	Equipment      string                 `json:"equipment,omitempty" doc:"What it is cured in, by its name; missing: as is usual" maxLength:"60"`
	Bleed          float64                `json:"bleed,omitempty" doc:"Share of the plies' resin that the bag takes out" minimum:"0" maximum:"0.5"`
	PressureMax    float64                `json:"pressureMax,omitempty" doc:"Most pressure in cure, Pa; 0: vacuum alone" minimum:"0" maximum:"10000000"`
	PressForce     float64                `json:"pressForce,omitempty" doc:"Press: closing force, N" minimum:"0"`
	Demould        string                 `json:"demould,omitempty" maxLength:"600"`
	Trimming       string                 `json:"trimming,omitempty" maxLength:"600"`
	Bonding        string                 `json:"bonding,omitempty" maxLength:"600"`
	Inspections    []Inspection           `json:"inspections,omitempty" doc:"Values that are measured on the finished part" maxItems:"60"`
	Qualifications []string               `json:"qualifications,omitempty" doc:"That whoever lays or bags it must hold besides those of the steps" maxItems:"10"`
}

// Inspection is a value that is measured and its limits.
type Inspection struct {
	What       string   `json:"what" minLength:"1" maxLength:"80"`
	Unit       string   `json:"unit" maxLength:"20"`
	Least      *float64 `json:"least,omitempty"`
	Most       *float64 `json:"most,omitempty"`
	Target     *float64 `json:"target,omitempty"`
	Instrument string   `json:"instrument,omitempty" maxLength:"80"`
}

// Ply of a revision. Outline is in the ply's own axes, X and Y its place on
// the tool.
type Ply struct {
	ID         int64
	RevisionID int64
	Number     int
	ItemKey    string // of the document
	Shape      string
	MaterialID int64
	AngleDeg   float64
	Outline    geom.Ring `gorm:"serializer:json"`
	X, Y       float64
	FaceUp     bool
	Flat       *master.Flat       `gorm:"serializer:json"` // its shape on the table, where it is not its outline
	Marks      []master.DrawnMark `gorm:"serializer:json"` // of its outline, as it lies on the tool
}

// MarksOnRoll are the marks of each piece that is cut of the ply, as it lies on its roll.
func (p Ply) MarksOnRoll() [][]master.DrawnMark {
	carry := func(outline geom.Ring, marks []master.DrawnMark, angle float64) []master.DrawnMark {
		out := make([]master.DrawnMark, len(marks))
		for k, m := range marks {
			out[k] = m.At(pattern.PlacePoints(outline, m.Places(), angle, p.FaceUp))
		}
		return out
	}
	if p.Flat == nil {
		return [][]master.DrawnMark{carry(p.Outline, p.Marks, unit.Fibre(p.AngleDeg))}
	}
	out := make([][]master.DrawnMark, len(p.Flat.Pieces))
	for k, piece := range p.Flat.Pieces {
		out[k] = carry(piece.Ring(), piece.Drawn(), unit.Fibre(piece.FibreDeg))
	}
	return out
}

// OnRoll are the pieces that are cut of the ply, each as it lies on its roll.
func (p Ply) OnRoll() []geom.Ring {
	if p.Flat == nil {
		return []geom.Ring{pattern.OnRoll(p.Outline, unit.Fibre(p.AngleDeg), p.FaceUp)}
	}
	out := make([]geom.Ring, len(p.Flat.Pieces))
	for k, piece := range p.Flat.Pieces {
		out[k] = pattern.OnRoll(piece.Ring(), unit.Fibre(piece.FibreDeg), p.FaceUp)
	}
	return out
}
