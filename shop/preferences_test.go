package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/unit"
	"juxta/shop/book"
)

func TestEverybodyHasTheirOwnUnitsAndKeys(t *testing.T) {
	h := open(t)
	preferences := book.Preferences{
		Units: unit.System{Length: "in", Vacuum: "inHg"},
		Keys:  book.KeyPreferences{Off: true, Moved: map[string]string{"f": "g"}},
	}
	by := h.as("Ines Falk")
	_, err := h.ChangePreferences(h.ctx, by, preferences)
	require.NoError(t, err)
	p, err := h.PersonByID(h.ctx, by.Person.ID)
	require.NoError(t, err)
	assert.Equal(t, preferences, p.Preferences)
	other, err := h.PersonByID(h.ctx, h.as("Jonas Quist").Person.ID)
	require.NoError(t, err)
	assert.Equal(t, book.Preferences{}, other.Preferences, "of nobody else")
	for says, moved := range map[string]map[string]string{
		`"R" is where a scanned id begins`: {"f": "R"},
		`"3" is where a scanned id begins`: {"f": "3"},
		"two things have the key":          {"f": "x", "g": "x"},
		"a key is one letter":              {"f": "xy"},
		`" " cannot stand for f`:           {"f": " "},
		`"" cannot stand for f: a key`:     {"f": ""},
	} {
		_, err := h.ChangePreferences(
			h.ctx,
			h.as("Ines Falk"),
			book.Preferences{Keys: book.KeyPreferences{Moved: moved}},
		)
		refusal(t, err, book.Invalid, says)
	}
}

// A finding that was let stand before findings held their quantities as data is
// let stand now: its words are those of then.
func TestAWaiverOfBeforeGoesOnToStand(t *testing.T) {
	h := open(t)
	draft := h.named("SP-28")
	require.NotNil(t, draft.Worked)
	for _, f := range draft.Worked.Findings {
		if f.Waived != "" {
			continue
		}
		said := unit.InMetric(f.Message)
		require.NoError(t, h.DB.Gorm.Exec(`insert into waivers (revision_id, rule, says, reason, person_id, at)
			select max(r.id), ?, ?, 'as it was', 1, now() from revisions r join parts p on p.id = r.part_id
			where p.number = 'SP-28'`, f.Rule, said).Error)
	}
	for _, f := range h.named("SP-28").Worked.Findings {
		assert.NotEmpty(t, f.Waived, f.Message)
	}
}
