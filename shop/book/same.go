package book

import (
	"bytes"
	"encoding/json"
)

// SameJSON says whether two values are kept as the same JSON: what is missing and what is empty differ only where
// their JSON does.
func SameJSON(a, b any) bool {
	one, err := json.Marshal(a)
	if err != nil {
		return false
	}
	other, err := json.Marshal(b)
	return err == nil && bytes.Equal(one, other)
}
