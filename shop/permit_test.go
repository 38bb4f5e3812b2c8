package shop_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/people"
)

func TestTheMatrixIsWholeAndSaysNothingTwice(t *testing.T) {
	seen := map[book.Act]bool{}
	rooms := []string{"freezer", "parts", "cut", "kits", "layup", "bag", "cure", "finish", "release", "shop"}
	last := 0
	for _, p := range book.Matrix {
		assert.False(t, seen[p.Act], "%q is there twice", p.Act)
		seen[p.Act] = true
		at := slices.Index(rooms, p.Room)
		assert.GreaterOrEqual(t, at, last, "%q stands in the order of the route", p.Act)
		last = at
		for _, r := range p.Roles {
			assert.Contains(t, book.Roles, r)
		}
		if p.Qualification != "" {
			assert.Contains(t, book.Qualifications, p.Qualification)
		}
		if p.Act != book.OwnAccount && p.Act != book.AskMaster {
			assert.NotContains(t, p.Roles, "viewer", "a viewer changes nothing: %q", p.Act)
		}
	}
}

func TestARefusalNamesWhoMay(t *testing.T) {
	viewer, technician := &book.Person{Role: "viewer"}, &book.Person{Role: "technician"}
	refusal(
		t,
		book.CheckRole(viewer, book.DecideBatch),
		book.Refused,
		"only a quality person can decide on batches",
	)
	refusal(t, book.CheckRole(technician, book.ReleaseMaster), book.Refused, "only a planner or a quality person can")
	refusal(
		t,
		book.CheckRole(viewer, book.StopOven),
		book.Refused,
		"only a technician, a planner, a quality person or an administrator can stop a run",
	)
	refusal(t, book.CheckRole(technician, "fly"), book.Refused, "only an administrator can fly")
	assert.NoError(t, book.CheckRole(technician, book.LayPlies))
	assert.NoError(t, book.CheckRole(nil, book.LayPlies), "the system itself is nobody")
}

func TestARoleThatWasTakenAwayCountsAtOnce(t *testing.T) {
	h := open(t)
	falk := h.as("Ines Falk")
	_, err := h.TakeOut(h.ctx, falk, moved(h.roll("SU-2291").Code))
	require.NoError(t, err)
	_, err = h.ChangePerson(
		h.ctx,
		h.as("Ada Wren"),
		falk.Person.ID,
		people.PersonChange{Role: "viewer", Reason: "on leave", PIN: pin},
	)
	require.NoError(t, err)
	h.at = h.at.Add(time.Minute)
	_, err = h.PutBack(h.ctx, h.as("Ines Falk"), moved(h.roll("SU-2291").Code))
	refusal(t, err, book.Refused, "can handle material")
	log, err := h.Log(h.ctx, book.LogQuery{What: "person changed", Limit: 1})
	require.NoError(t, err)
	assert.Contains(t, log[0].Detail, `["technician","viewer"]`, "the log keeps both")
	assert.Equal(t, "on leave", log[0].Why)
}

// What a person may do today is told beforehand in the words in which it would
// be refused.
func TestWhatIsPermittedIsToldBeforehand(t *testing.T) {
	h := open(t)
	of := func(name string) map[book.Act]string {
		permits, err := h.Permits(h.ctx, h.as(name).Person)
		require.NoError(t, err)
		require.Len(t, permits, len(book.Matrix))
		not := map[book.Act]string{}
		for _, p := range permits {
			not[p.Act] = p.Not
		}
		return not
	}
	build := h.build("0002").Code
	for _, name := range []string{"Ines Falk", "Hedda Solm", "Marek Orde"} {
		_, err := h.FoundFilm(h.ctx, h.as(name), build, 99)
		if not := of(name)[book.LayPlies]; not == "" {
			require.Error(t, err)
			assert.NotContains(t, err.Error(), "lay and debulk", name)
		} else {
			refusal(t, err, book.Refused, not)
		}
	}
	assert.Empty(t, of("Ines Falk")[book.LayPlies])
	assert.Equal(
		t,
		"only a technician or an administrator can lay and debulk",
		of("Marek Orde")[book.LayPlies],
	)
	h.at = h.at.AddDate(3, 0, 0)
	_, err := h.FoundFilm(h.ctx, h.as("Ines Falk"), build, 99)
	refusal(t, err, book.Refused, of("Ines Falk")[book.LayPlies])
	assert.Contains(t, of("Ines Falk")[book.LayPlies], `the qualification "laminating" of Ines Falk ended on`)
}

// An act that the matrix has signed with the PIN cannot be written by a verb that
// forgets to ask for it.
func TestNoVerbForgetsThePIN(t *testing.T) {
	h := open(t)
	asked := 0
	for _, p := range book.Matrix {
		person := book.Person{ID: 1, Name: "Somebody", Role: p.Roles[0]}
		by := book.By{Person: &person}
		_, err := book.Write(h.ctx, h.Book, by, p.Act, "test", nil, func(tx *book.Tx) (int, error) {
			return 0, book.NotTheirs.Errorf("as far as the change itself")
		})
		if p.PIN {
			asked++
			assert.ErrorContains(t, err, "nobody was asked for it", string(p.Act))
		} else {
			assert.NotContains(t, err.Error(), "nobody was asked for it", string(p.Act))
		}
	}
	assert.Greater(t, asked, 6)
}
