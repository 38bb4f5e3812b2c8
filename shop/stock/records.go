package stock

import (
	"time"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/nest"
)

// The records as the database keeps them: one struct a table, SI units.

// Material is one version of a material as its data sheet describes it. Family
// is the id of the first version.
type Material struct {
	ID                   int64
	Family               int64
	Version              int
	SupersededAt         *time.Time
	Name, Kind           string
	ResinID              *int64
	Width                float64
	E1, E2, Nu12, G12    float64
	Alpha1, Alpha2       float64
	Thickness, ArealMass float64
	AsymmetricWeave      bool
	HalfTurn             bool
	Films                int
	OutLife, TackLife    float64       // s; an OutLife of 0 does not age
	Sheet                MaterialSheet `gorm:"serializer:json"`
	DataSheetID          *int64
}

// Lamina is the material as lamination theory sees it.
func (m Material) Lamina() laminate.Lamina {
	return laminate.Lamina{E1: m.E1, E2: m.E2, Nu12: m.Nu12, G12: m.G12, Alpha1: m.Alpha1, Alpha2: m.Alpha2,
		Thickness: m.Thickness, ArealMass: m.ArealMass, AsymmetricWeave: m.AsymmetricWeave}
}

// Batch is a lot of a material as a supplier sent it.
type Batch struct {
	ID            int64
	Code          string
	MaterialID    int64
	Lot           string
	MadeOn        *time.Time
	ReceivedAt    time.Time
	ReceivedBy    *int64
	ArrivalTemp   *float64 // K
	ShelfEnd      *time.Time
	State         string
	DecidedAt     *time.Time
	DecidedBy     *int64
	Decision      string
	Quarantine    string // why; empty: it is not
	OverrideAt    *time.Time
	OverrideBy    *int64
	OverrideWhy   string
	CertificateID *int64
	TransportID   *int64
}

// AcceptanceTest is one value that a batch is accepted by.
type AcceptanceTest struct {
	ID          int64
	BatchID     int64
	What, Unit  string
	Least, Most *float64
	Value       *float64
	PersonID    *int64
	At          *time.Time
}

// Roll of a material, or an off-cut of one. From Spent on, its columns are the
// clock of its ledger at ClockAt (durations in s).
type Roll struct {
	ID         int64
	Code       string
	MaterialID int64
	BatchID    int64
	Kind       string
	ParentID   *int64
	Outline    geom.Ring `gorm:"serializer:json"`
	Width      float64
	FreezerID  *int64
	Place      string
	Flaws      []nest.Flaw `gorm:"serializer:json"`
	BaseSpent  float64     // what it brought along: out-time in s,
	BaseMore   float64     // and what re-tests gave the roll that it is of
	BaseUntil  *time.Time

	Spent, Bench, Warm float64
	Ageing, Out, Open  bool
	Since              *time.Time
	FullLength         float64 // as received
	Length             float64 // m left, or kg
	ExtUntil           *time.Time
	ExtMore            float64
	Life               float64 // s, with what re-tests added
	LifeLeft           float64 // s at ClockAt, for the order of the list; material that does not age comes last
	DewAt,
	RoomAt *time.Time // when a roll that is out and sealed is past the dew point, and at the room's temperature
	ClockAt *time.Time
}

// FreezerEvent is one line in the ledger of a roll or of a build's kit.
type FreezerEvent struct {
	ID        int64
	RollID    *int64
	BuildID   *int64
	Operation string // of a kit: that of its build's route which it is counted in
	Kind      string
	At        time.Time
	EnteredAt time.Time
	Length    float64
	PersonID  int64
	Note      string
	Cancels   *int64
	FreezerID *int64
	Until     *time.Time
	More      float64
	Detail    EventDetail `gorm:"serializer:json"`
}

// EventDetail is what was known when a bag was opened.
type EventDetail struct {
	Room     *float64 `json:"room,omitempty" doc:"K"`
	Humidity *float64 `json:"humidity,omitempty" doc:"0 to 1"`
	DewPoint *float64 `json:"dewPoint,omitempty" doc:"K"`
	Coldest  *float64 `json:"coldest,omitempty" doc:"Of the roll, K"`
	Source   string   `json:"source,omitempty" doc:"Where room and roll temperature came from"`
	Override string   `json:"override,omitempty" doc:"Why it was opened although it was too cold"`
}

// FreezerFailure is a time in which a freezer was too warm; without ToAt it
// still is.
type FreezerFailure struct {
	ID          int64
	FreezerID   int64
	FromAt      time.Time
	ToAt        *time.Time
	Reason      string
	PersonID    int64
	EnteredAt   time.Time
	WithdrawnAt *time.Time
	WithdrawnBy *int64
}
