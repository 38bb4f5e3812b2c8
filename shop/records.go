package shop

import (
	"time"

	"juxta/calc"
	"juxta/core/cure"
	"juxta/core/master"
	"juxta/wire"
)

// The records as the database keeps them: one struct a table, SI units.

// Person signs things. Epoch counts the times that all their sessions were
// ended at once; LeftAt is when they left the shop.
type Person struct {
	ID           int64
	Name         string
	Role         string
	PinHash      string
	PasswordHash string
	Badge        *string
	Epoch        int
	CreatedAt    time.Time
	LeftAt       *time.Time
}

// SignInTry counts wrong tries for a person from one address.
type SignInTry struct {
	PersonID int64  `gorm:"primaryKey"`
	Address  string `gorm:"primaryKey"`
	Failed   int
	FailedAt *time.Time
	Until    *time.Time // no try before
	GoodAt   *time.Time // the last right one
}

// Qualification says what somebody may do, from when until when, and on what
// evidence.
type Qualification struct {
	ID          int64
	PersonID    int64
	Kind        string
	ValidFrom   time.Time
	ValidUntil  time.Time
	Evidence    string
	GivenBy     *int64
	WithdrawnAt *time.Time
	WithdrawnBy *int64
}

// File is a paper that is kept: a data sheet, a certificate, a transport log.
type File struct {
	ID        int64
	Name      string
	MediaType string
	Size      int64
	Sha256    []byte
	Content   []byte
	PersonID  *int64
	At        time.Time
}

// Resin is a resin system with the supplier's cycle, its kinetics and, if
// known, its viscosity.
type Resin struct {
	ID        int64
	Name      string
	Kinetics  wire.Kinetics   `gorm:"serializer:json"`
	Viscosity *wire.Viscosity `gorm:"serializer:json"`
	Alpha0    float64         // degree of cure as received
	Recipe    wire.Recipe     `gorm:"serializer:json"`
}

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
func (m Material) Lamina() wire.Lamina {
	return wire.Lamina{E1: m.E1, E2: m.E2, Nu12: m.Nu12, G12: m.G12, Alpha1: m.Alpha1, Alpha2: m.Alpha2,
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
	Outline    wire.Outline `gorm:"serializer:json"`
	Width      float64
	FreezerID  *int64
	Place      string
	Flaws      []wire.Flaw `gorm:"serializer:json"`
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
	Life               float64    // s, with what re-tests added
	LifeLeft           float64    // s at ClockAt, for the order of the list; material that does not age comes last
	DewAt, RoomAt      *time.Time // when a roll that is out and sealed is past the dew point, and at the room's temperature
	ClockAt            *time.Time
}

// FreezerEvent is one line in the ledger of a roll or of a build's kit.
type FreezerEvent struct {
	ID        int64
	RollID    *int64
	BuildID   *int64
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

// Freezer with the warmest that it may be, and its places.
type Freezer struct {
	ID        int64
	Name      string
	LimitTemp float64  // K
	Places    []string `gorm:"serializer:json"`
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

// Sensor of a freezer, or of the room when FreezerID is nil.
type Sensor struct {
	ID        int64
	Topic     string
	Name      string
	FreezerID *int64
}

// SensorReading is what a sensor said; a value it did not give is nil.
type SensorReading struct {
	SensorID    int64     `gorm:"primaryKey"`
	At          time.Time `gorm:"primaryKey"`
	Temperature *float64  // K
	Humidity    *float64  // 0 to 1
}

// Alarm of a sensor that must be acknowledged by a person.
type Alarm struct {
	ID       int64
	SensorID int64
	Kind     string
	RaisedAt time.Time
	EndedAt  *time.Time
	Worst    *float64
	SeenAt   *time.Time
	SeenBy   *int64
	Note     string
}

// Part is a drawing number with its revisions.
type Part struct {
	ID           int64
	Code         string
	Number, Name string
	FamilyID     *int64 // the part that it is a variant of
	Variant      string
	CreatedAt    time.Time
	PutAwayAt    *time.Time // begun by mistake
	PutAwayBy    *int64
	PutAwayWhy   string
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
	Tool               string         `json:"tool"`
	DebulkFirst        bool           `json:"debulkFirst" doc:"Debulk after ply 1"`
	DebulkEvery        int            `json:"debulkEvery" doc:"Plies between debulks; 0: never" minimum:"0" maximum:"100"`
	DebulkSeconds      float64        `json:"debulkSeconds" minimum:"0"`
	DebulkVacuum       float64        `json:"debulkVacuum" doc:"Least vacuum, Pa" minimum:"0" maximum:"101325"`
	BagStack           string         `json:"bagStack"`
	LeakStart          float64        `json:"leakStart" doc:"Least vacuum at the start, Pa" minimum:"0" maximum:"101325"`
	LeakDrop           float64        `json:"leakDrop" doc:"Vacuum that may be lost, Pa" exclusiveMinimum:"0"`
	LeakSeconds        float64        `json:"leakSeconds" doc:"Over this time, s" exclusiveMinimum:"0"`
	Recipe             wire.Recipe    `json:"recipe"`
	PartLag            float64        `json:"partLag" doc:"Expected time constant of the part behind the air, s" exclusiveMinimum:"0"`
	RunLimits          wire.RunLimits `json:"runLimits"`
	MassTolerance      float64        `json:"massTolerance" doc:"Fraction" exclusiveMinimum:"0" maximum:"1"`
	ThicknessTolerance float64        `json:"thicknessTolerance" doc:"Fraction" exclusiveMinimum:"0" maximum:"1"`

	Bleed          float64      `json:"bleed,omitempty" doc:"Share of the plies' resin that the bag takes out" minimum:"0" maximum:"0.5"`
	PressureMax    float64      `json:"pressureMax,omitempty" doc:"Most pressure in cure, Pa; 0: vacuum alone" minimum:"0" maximum:"10000000"`
	PressForce     float64      `json:"pressForce,omitempty" doc:"Press: closing force, N" minimum:"0"`
	Demould        string       `json:"demould,omitempty" maxLength:"600"`
	Trimming       string       `json:"trimming,omitempty" maxLength:"600"`
	Bonding        string       `json:"bonding,omitempty" maxLength:"600"`
	Inspections    []Inspection `json:"inspections,omitempty" doc:"Values that are measured on the finished part" maxItems:"60"`
	Qualifications []string     `json:"qualifications,omitempty" doc:"That whoever lays or bags it must hold besides those of the steps" maxItems:"10"`
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
	Outline    wire.Outline `gorm:"serializer:json"`
	X, Y       float64
	FaceUp     bool
}

// Build is one serial-numbered part to one revision.
type Build struct {
	ID           int64
	Code         string
	RevisionID   int64
	Serial       string
	CureAt       time.Time // planned
	CreatedAt    time.Time
	KitCountedAt *time.Time
	KitCountedBy *int64
	EndedAt      *time.Time // before its time
	EndedBy      *int64
	EndedWhy     string
	DoneAt       *time.Time // signed off, or ended
}

// Mark is a demand of the master that somebody signed as met.
type Mark struct {
	ID        int64
	BuildID   int64
	Kind      string // hold or second
	ItemKey   string
	Ply       int
	Says      string
	PersonID  int64 // who signed
	EnteredBy int64 // at whose session
	At        time.Time
	VoidAt    *time.Time
}

// Nest is a cut plan for one roll; Problem carries its seed and steps.
type Nest struct {
	ID        int64
	Code      string
	RollID    int64
	State     string
	Problem   calc.NestIn      `gorm:"serializer:json"`
	Best      *wire.NestResult `gorm:"serializer:json"`
	StepsDone int
	Stop      bool
	Says      string
	CreatedAt time.Time
	StartedAt *time.Time
	EndedAt   *time.Time
	CutAt     *time.Time
}

// NestPiece says which ply of which build a piece of a nest is.
type NestPiece struct {
	NestID  int64  `gorm:"primaryKey"`
	Piece   string `gorm:"primaryKey"`
	BuildID int64
	PlyID   int64
}

// CutPly is a ply that was cut; Spent is the roll's out-time at the cut, s.
type CutPly struct {
	ID      int64
	Code    string
	BuildID int64
	PlyID   int64
	NestID  int64
	RollID  int64
	// MaterialID is the version of the material that it was cut from.
	MaterialID int64
	CutAt      time.Time
	// What it took along of its roll: out-time spent, and what re-tests gave, s.
	Spent, More float64
	Until       *time.Time
	CountedAt   *time.Time
	CountedBy   *int64
}

// PlyRecord is a signature for one ply laid.
type PlyRecord struct {
	ID          int64
	BuildID     int64
	PlyID       int64
	CutPlyID    int64
	PersonID    int64
	At          time.Time
	FilmsOff    int
	How         string // it was identified: scanned or chosen
	TakenBackAt *time.Time
	TakenBackBy *int64
	Reason      string
}

// Debulk is one pressing of the stack under vacuum.
type Debulk struct {
	ID        int64
	BuildID   int64
	AfterPly  int
	StartedAt time.Time
	StartedBy int64
	EndedAt   *time.Time
	EndedBy   *int64
	Vacuum    *float64
	Counts    bool
	Says      string
}

// Bag is the closed bag of a build.
type Bag struct {
	BuildID  int64    `gorm:"primaryKey"`
	Stack    []string `gorm:"serializer:json"`
	ClosedAt time.Time
	ClosedBy int64
}

// LeakCheck is one leak check of a bag.
type LeakCheck struct {
	ID          int64
	BuildID     int64
	At          time.Time
	PersonID    int64
	StartVacuum float64
	EndVacuum   float64
	Seconds     float64
	Pass        bool
	Says        string
}

// Run is one cure run of an oven.
type Run struct {
	ID         int64
	Code       string
	State      string
	Oven       string // host:port
	OvenName   string
	Process    Process `gorm:"serializer:json"`
	Alpha0     float64
	Kinetics   wire.Kinetics   `gorm:"serializer:json"`
	Controller cure.Controller `gorm:"serializer:json"`
	Recorder   string
	Heartbeat  *time.Time
	CreatedAt  time.Time
	StartedAt  *time.Time
	EndedAt    *time.Time
	StartedBy  int64
	Stop       bool
	Verdict    *wire.Verdict `gorm:"serializer:json"`
	Says       string
}

// RunBuild puts a build into a run.
type RunBuild struct {
	RunID   int64 `gorm:"primaryKey"`
	BuildID int64 `gorm:"primaryKey"`
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
}

// Release is what became of a build.
type Release struct {
	ID          int64
	BuildID     int64
	Mass        float64
	Thickness   []float64     `gorm:"serializer:json"`
	Lines       []ReleaseLine `gorm:"serializer:json"`
	Disposition string
	Reason      string
	PersonID    int64
	At          time.Time
}
