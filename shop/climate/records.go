package climate

import (
	"time"
)

// The records as the database keeps them: one struct a table, SI units.

// Freezer with the warmest that it may be, and its places.
type Freezer struct {
	ID        int64
	Name      string
	LimitTemp float64  // K
	Places    []string `gorm:"serializer:json"`
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
