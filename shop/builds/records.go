package builds

import (
	"time"
)

// The records as the database keeps them: one struct a table, SI units.

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

// SignedDemand is a demand of the master that somebody signed as met.
type SignedDemand struct {
	ID        int64
	BuildID   int64
	Kind      string // hold or second
	ItemKey   string
	Ply       int
	Text      string `gorm:"column:says"`
	PersonID  int64  // who signed
	EnteredBy int64  // at whose session
	At        time.Time
	VoidAt    *time.Time
}

// TableName is that of the database.
func (SignedDemand) TableName() string { return "marks" }

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
	CutBy       *int64 // who reported the cut
	// Lost or spoiled, and cut again.
	VoidAt  *time.Time
	VoidBy  *int64
	VoidWhy string
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
	Operation string // at whose bench; empty: of the one pass
	AfterPly  int
	StartedAt time.Time
	StartedBy int64
	EndedAt   *time.Time
	EndedBy   *int64
	Vacuum    *float64
	Counts    bool
	Message   string `gorm:"column:says"`
}

// Bag is the closed bag of a build.
type Bag struct {
	BuildID    int64    `gorm:"primaryKey"`
	Operation  string   `gorm:"primaryKey"` // empty: of the one pass
	Stack      []string `gorm:"serializer:json"`
	NeedsCheck bool     // it is drawn down by vacuum
	ClosedAt   time.Time
	ClosedBy   int64
}

// LeakCheck is one leak check of a bag.
type LeakCheck struct {
	ID          int64
	BuildID     int64
	Operation   string // that the bag was closed in; empty: the one pass
	At          time.Time
	PersonID    int64
	StartVacuum float64
	EndVacuum   float64
	Seconds     float64
	Pass        bool
	Message     string `gorm:"column:says"`
}
