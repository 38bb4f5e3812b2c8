package book

import (
	"time"

	"juxta/core/unit"
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
	Preferences  Preferences `gorm:"column:ways;serializer:json"`
}

// Preferences are how somebody likes to work: what they read and type in, and what single
// keys do.
type Preferences struct {
	Units unit.System    `json:"units"`
	Keys  KeyPreferences `json:"keys"`
}

// KeyPreferences say what the single keys of the pages do for somebody.
type KeyPreferences struct {
	Off   bool              `json:"off,omitempty" doc:"Single keys do nothing; scans are read"`
	Moved map[string]string `json:"moved,omitempty" doc:"Another key, by the usual one"`
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
