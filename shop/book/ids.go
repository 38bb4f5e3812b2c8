package book

import (
	"database/sql/driver"
	"strconv"
)

// IDs are ids as one parameter of a query (= any(?)), so that its text is the same for few
// and for many, and the database plans it once.
type IDs []int64

// Value is the array as PostgreSQL reads it.
func (ids IDs) Value() (driver.Value, error) {
	out := []byte{'{'}
	for k, id := range ids {
		if k > 0 {
			out = append(out, ',')
		}
		out = strconv.AppendInt(out, id, 10)
	}
	return string(append(out, '}')), nil
}
