package people

import (
	"time"
)

// The records as the database keeps them: one struct a table, SI units.

// SignInTry counts wrong tries for a person from one address.
type SignInTry struct {
	PersonID int64  `gorm:"primaryKey"`
	Address  string `gorm:"primaryKey"`
	Failed   int
	FailedAt *time.Time
	Until    *time.Time // no try before
	GoodAt   *time.Time // the last right one
}
