package unit

import (
	"cmp"
	"encoding/json"
)

// WithOldMessage reads a value, and its message by the name "says" that it had in what was kept before. What it reads
// into must not unmarshal itself.
func WithOldMessage(raw []byte, into any, message *string) error {
	var old struct {
		Says string `json:"says"`
	}
	if err := json.Unmarshal(raw, &old); err != nil {
		return err
	}
	if err := json.Unmarshal(raw, into); err != nil {
		return err
	}
	*message = cmp.Or(*message, old.Says)
	return nil
}
