package stock

import (
	"context"
	"slices"
	"strings"
	"time"

	"juxta/core/ident"
	"juxta/core/material"
	"juxta/shop/book"
)

// Correction takes a line of a ledger back, and may put a right one in its
// place. Both stay on record.
type Correction struct {
	Line    int64         `json:"line" doc:"Id of the line that is wrong"`
	Reason  string        `json:"reason" minLength:"1" maxLength:"300"`
	Instead *CorrectEvent `json:"instead,omitempty"`
}

// CorrectEvent is how it really was: the same kind of event at another time or
// with another length.
type CorrectEvent struct {
	At     time.Time `json:"at"`
	Length float64   `json:"length,omitempty" minimum:"0"`
}

// stands says why nobody can take a line back.
func (e FreezerEvent) stands(takenBack bool) error {
	kind, _, noCode := ident.Parse(strings.TrimPrefix(e.Note, cutFor))
	switch {
	case takenBack:
		return book.Done.Errorf("this line was already taken back")
	case e.Kind == string(material.Counter):
		return book.Final.Errorf("a counter-entry cannot be taken back: enter the line again")
	case strings.HasPrefix(e.Note, cutFor) && noCode == nil && kind == ident.Nest:
		return book.Final.Errorf("this length was cut for %s: what was cut cannot be uncut", e.Note)
	}
	return nil
}

// cutFor stands before the code of a nest in the note of the line that it took off the roll.
const cutFor = "nest "

// CutForNest is the note of that line.
func CutForNest(code string) string { return cutFor + code }

// Correct enters a counter-entry.
func (s *Room) Correct(ctx context.Context, by book.By, code string, in Correction) (RollView, error) {
	return s.changeRoll(ctx, by, book.CorrectLedger, "correct", code, in, func(tx *book.Tx, r *Roll) error {
		if in.Reason = strings.TrimSpace(in.Reason); in.Reason == "" {
			return book.Needed.At("reason", "say what was wrong")
		}
		var lines []FreezerEvent
		if err := tx.Where("roll_id = ? and (id = ? or cancels = ?)", r.ID, in.Line,
			in.Line).Find(&lines).Error; err != nil {
			return err
		}
		i := slices.IndexFunc(lines, func(e FreezerEvent) bool { return e.ID == in.Line })
		if i < 0 {
			return book.NoSuch.Errorf("there is no such line in the ledger of %s", r.Code)
		}
		wrong := lines[i]
		if err := wrong.stands(len(lines) > 1); err != nil {
			return err
		}
		switch {
		case by.Person != nil && by.Person.Role == "technician" && wrong.PersonID != by.Person.ID:
			return book.NotTheirs.Errorf("this line is not yours: ask its writer or a quality person")
		case wrong.Kind == string(material.Received) && in.Instead == nil:
			return book.Final.Errorf(
				"a roll that was never received is no roll: correct its length or time, or scrap it",
			)
		}
		counter := FreezerEvent{Kind: string(material.Counter), At: tx.Now, Cancels: &wrong.ID, Note: in.Reason}
		if in.Instead == nil {
			return s.rollEvents(tx, r, counter)
		}
		right := wrong
		right.ID, right.At, right.Detail = 0, in.Instead.At.UTC().Truncate(time.Microsecond), EventDetail{}
		if in.Instead.Length > 0 {
			right.Length = in.Instead.Length
		}
		return s.rollEvents(tx, r, counter, right)
	})
}
