package finish

import (
	"time"

	"juxta/core/master"
)

// OperationLine is what was recorded of an operation of a build: a line each time it is
// begun, signed, held, left out or taken back. The last line is how it stands.
type OperationLine struct {
	ID        int64
	BuildID   int64
	Operation string // its key in the document
	State     string
	At        time.Time
	PersonID  int64
	SecondID  *int64
	Reason    string
	Fields    map[string]master.Value `gorm:"serializer:json"`
}
