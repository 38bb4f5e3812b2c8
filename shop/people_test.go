package shop_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/inspect"
	"juxta/shop/parts"
	"juxta/shop/people"
	"juxta/store/storetest"
)

func (h *house) signIn(address string, id int64, secret string) error {
	h.t.Helper()
	_, err := h.SignIn(h.ctx, address, people.Credentials{PersonID: id, Secret: secret})
	return err
}

func TestGuessingAPINIsSlowedAndNobodyIsLockedOutForLong(t *testing.T) {
	h := open(t)
	id := h.as("Ines Falk").Person.ID
	for range 5 {
		refusal(t, h.signIn("bench 3", id, "000000"), book.Refused, "do not match")
	}
	refusal(t, h.signIn("bench 3", id, pin), book.Refused, "try again in 30s")
	require.NoError(t, h.signIn("bench 1", id, pin), "a colleague's wrong tries elsewhere keep nobody out")
	h.at = h.at.Add(31 * time.Second)
	require.NoError(t, h.signIn("bench 3", id, pin))
	for range 40 {
		_ = h.signIn("bench 3", id, "000000")
		h.at = h.at.Add(10 * time.Second)
	}
	h.at = h.at.Add(5 * time.Minute)
	assert.NoError(t, h.signIn("bench 3", id, pin), "five minutes are the most")
	refusal(t, h.signIn("bench 3", 9999, pin), book.Refused, "do not match")
}

func TestGuessingFromManyPlacesStopsAtPlacesThatAreNotKnown(t *testing.T) {
	h := open(t)
	id := h.as("Tilda Brandl").Person.ID
	require.NoError(t, h.signIn("bench 1", id, pin))
	for k := range 31 {
		_ = h.signIn(fmt.Sprintf("elsewhere %d", k), id, "000000")
	}
	refusal(
		t,
		h.signIn("elsewhere 99", id, pin),
		book.Refused,
		"too many failed attempts for Tilda Brandl from other places",
	)
	assert.NoError(t, h.signIn("bench 1", id, pin), "where she usually signs in she still does")
	h.at = h.at.Add(61 * time.Minute)
	assert.NoError(t, h.signIn("elsewhere 99", id, pin))
}

func TestPlannersAndAdministratorsSignInWithAPassword(t *testing.T) {
	h := open(t)
	for _, name := range []string{"Marek Orde", "Ada Wren"} {
		id := h.as(name).Person.ID
		refusal(t, h.signIn("desk", id, pin), book.Refused, "do not match")
		assert.NoError(t, h.signIn("desk", id, password))
	}
	refusal(t, h.signIn("desk", h.as("Ines Falk").Person.ID, password), book.Refused, "do not match")
}

func TestABadgeNamesItsOwnerAndOpensNothingAlone(t *testing.T) {
	h := open(t)
	wren, falk := h.as("Ada Wren"), h.as("Ines Falk")
	first, err := h.IssueBadge(h.ctx, wren, falk.Person.ID, pin)
	require.NoError(t, err)
	who, err := h.WhoseBadge(h.ctx, first.Badge)
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", who.Name)
	_, err = h.SignIn(h.ctx, "bench", people.Credentials{Badge: first.Badge, Secret: "000000"})
	refusal(t, err, book.Refused, "do not match")
	p, err := h.SignIn(h.ctx, "bench", people.Credentials{Badge: first.Badge, Secret: pin})
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", p.Name)
	second, err := h.IssueBadge(h.ctx, wren, falk.Person.ID, pin)
	require.NoError(t, err)
	assert.NotEqual(t, first.Badge, second.Badge)
	_, err = h.WhoseBadge(h.ctx, first.Badge)
	refusal(t, err, book.Missing, "opens nothing here")
	_, err = h.WhoseBadge(h.ctx, h.build("0001").Code)
	refusal(t, err, book.Missing, "opens nothing here")
	_, err = h.WhoseBadge(h.ctx, "W-00000000")
	refusal(t, err, book.Invalid, "check character")
	_, err = h.IssueBadge(h.ctx, falk, falk.Person.ID, pin)
	refusal(t, err, book.Refused, "only an administrator can")
}

func TestPeopleAreAddedByAdministratorsWithADecentSecret(t *testing.T) {
	h := open(t)
	in := people.NewPerson{Name: "New Hand", Role: "technician", PIN: "271828", Sign: pin}
	_, err := h.AddPerson(h.ctx, h.as("Ines Falk"), in)
	refusal(t, err, book.Refused, "only an administrator can")
	for bad, says := range map[string]string{
		"1234": "6 to 12 digits", "12345a": "6 to 12 digits", "": "6 to 12 digits", "123456": "anybody tries",
		"777777": "anybody tries", "987654": "anybody tries", "123123": "anybody tries", "112233": "anybody tries",
		"240389": "anybody tries", "19890324": "anybody tries", "121212": "anybody tries", "135791": "anybody tries",
		"123321": "anybody tries",
	} {
		in.PIN = bad
		_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), in)
		refusal(t, err, book.Invalid, says)
	}
	in.PIN = "271828"
	planner := in
	planner.Role, planner.Password = "planner", "too short"
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), planner)
	refusal(t, err, book.Invalid, "a planner signs in with a password of at least 12 characters")
	for _, easy := range []string{"passwordpassword", "Administrator1!", "qwertyuiop123", "aaaaaaaaaaaa",
		"abcabcabcabc"} {
		planner.Password = easy
		_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), planner)
		refusal(t, err, book.Invalid, "one of the first that anybody tries")
	}
	planner.Password = strings.Repeat("long enough ", 20)
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), planner)
	refusal(t, err, book.Invalid, "at most 200 characters")
	unsigned := in
	unsigned.Sign = ""
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), unsigned)
	refusal(t, err, book.Invalid, "asks for your PIN again")
	planner.Role = "owner"
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), planner)
	refusal(t, err, book.Invalid, "the role is technician")
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), in)
	require.NoError(t, err)
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), in)
	refusal(t, err, book.Conflict, "already somebody called New Hand")
}

func TestAChangeOfAPersonIsSignedAndEndsTheirSessions(t *testing.T) {
	h := open(t)
	wren, falk := h.as("Ada Wren"), h.as("Ines Falk").Person
	_, err := h.ChangePerson(h.ctx, wren, falk.ID, people.PersonChange{Role: "quality", PIN: "000000"})
	refusal(t, err, book.Refused, "not your PIN")
	_, err = h.ChangePerson(h.ctx, wren, falk.ID, people.PersonChange{Role: "planner", PIN: pin})
	require.NoError(t, err, "she had a password already")
	assert.Equal(t, falk.Epoch+1, h.as("Ines Falk").Person.Epoch)
	_, err = h.ChangePerson(h.ctx, wren, wren.Person.ID, people.PersonChange{Role: "viewer", PIN: pin})
	refusal(t, err, book.Refused, "somebody must stay an administrator")
	yes, no := true, false
	_, err = h.ChangePerson(h.ctx, wren, falk.ID, people.PersonChange{Left: &yes, Reason: "moved away", PIN: pin})
	require.NoError(t, err)
	refusal(t, h.signIn("desk", falk.ID, password), book.Refused, "do not match")
	_, err = h.PersonByID(h.ctx, falk.ID)
	assert.Error(t, err, "who left has no session")
	_, err = h.ChangePerson(h.ctx, wren, falk.ID, people.PersonChange{Left: &no, NewPIN: "135798", PIN: pin})
	require.NoError(t, err)
	assert.NoError(t, h.signIn("desk", falk.ID, password))
	_, err = h.ChangePerson(h.ctx, wren, falk.ID, people.PersonChange{PIN: pin})
	refusal(t, err, book.Invalid, "nothing is changed")
	_, err = h.ChangePerson(h.ctx, wren, 9999, people.PersonChange{Role: "viewer", PIN: pin})
	refusal(t, err, book.Missing, "no such person")
}

func TestOnesOwnSecretAndSessions(t *testing.T) {
	h := open(t)
	falk := h.as("Ines Falk")
	_, err := h.ChangeSecret(h.ctx, falk, people.NewSecret{PIN: "000000", NewPIN: "135798"})
	refusal(t, err, book.Refused, "not your PIN")
	_, err = h.ChangeSecret(h.ctx, falk, people.NewSecret{PIN: pin})
	refusal(t, err, book.Invalid, "give a new PIN")
	_, err = h.ChangeSecret(h.ctx, falk, people.NewSecret{PIN: pin, NewPIN: "135798"})
	require.NoError(t, err)
	assert.NoError(t, h.signIn("bench", falk.Person.ID, "135798"))
	refusal(t, h.signIn("bench", falk.Person.ID, pin), book.Refused, "do not match")
	before := h.as("Ines Falk").Person.Epoch
	_, err = h.EndSessions(h.ctx, falk, falk.Person.ID, "")
	require.NoError(t, err)
	assert.Equal(t, before+1, h.as("Ines Falk").Person.Epoch)
	_, err = h.EndSessions(h.ctx, falk, h.as("Tilda Brandl").Person.ID, pin)
	refusal(t, err, book.Refused, "only an administrator can")
	_, err = h.EndSessions(h.ctx, h.as("Ada Wren"), falk.Person.ID, pin)
	assert.NoError(t, err)
}

func TestAStepDemandsAQualificationInDate(t *testing.T) {
	h := open(t)
	build := h.build("0002").Code
	in := h.nextPly(build)
	brandl, quist := h.as("Tilda Brandl"), h.as("Jonas Quist")
	h.at = h.at.Add(20 * 24 * time.Hour) // hers ends in 19 days
	_, err := h.Sign(h.ctx, brandl, build, in)
	refusal(t, err, book.Refused, `the qualification "laminating" of Tilda Brandl ended on`)
	q := people.NewQualification{
		Kind:       "laminating",
		ValidFrom:  h.at.Add(time.Hour),
		ValidUntil: h.at.Add(1000 * time.Hour),
		Evidence:   "paper 144",
	}
	_, err = h.Qualify(h.ctx, quist, brandl.Person.ID, q)
	require.NoError(t, err)
	_, err = h.Sign(h.ctx, brandl, build, in)
	refusal(t, err, book.Refused, "begins on")
	h.at = h.at.Add(2 * time.Hour)
	_, err = h.Sign(h.ctx, brandl, build, in)
	require.Error(t, err, "the kit has aged meanwhile")
	assert.NotContains(t, err.Error(), "qualification")
	files, err := h.PeopleFiles(h.ctx)
	require.NoError(t, err)
	states := map[string]string{}
	for _, f := range files {
		for _, x := range f.Qualifications {
			states[f.Name+" "+x.Kind+" "+x.Evidence] = x.State
			if f.Name == "Tilda Brandl" && x.Evidence == "paper 144" {
				_, err = h.WithdrawQualification(h.ctx, quist, x.ID, "")
				refusal(t, err, book.Invalid, "say why")
				_, err = h.WithdrawQualification(h.ctx, quist, x.ID, "wrong paper")
				require.NoError(t, err)
				_, err = h.WithdrawQualification(h.ctx, quist, x.ID, "again")
				refusal(t, err, book.Conflict, "already withdrawn")
			}
		}
	}
	assert.Equal(t, "in date", states["Ines Falk oven trained on the oven by A. Wren"])
	assert.Equal(t, "ended", states["Tilda Brandl laminating course L2, paper 131"])
	_, err = h.Sign(h.ctx, brandl, build, in)
	refusal(t, err, book.Refused, "ended on")
	_, err = h.Qualify(h.ctx, quist, quist.Person.ID, q)
	refusal(t, err, book.Refused, "nobody qualifies themselves")
	_, err = h.CloseBag(h.ctx, brandl, build, "", "no bleed")
	refusal(t, err, book.Refused, `"bagging", which Tilda Brandl does not hold`)
}

func TestASecondPersonSigns(t *testing.T) {
	h := open(t)
	// Who laid a ply does not inspect the part, whatever else they may do.
	require.NoError(t, h.DB.Gorm.Exec(`update people set role = 'quality' where name = 'Ines Falk'`).Error)
	_, err := h.Qualify(
		h.ctx,
		h.as("Jonas Quist"),
		h.as("Ines Falk").Person.ID,
		people.NewQualification{
			Kind:       "inspection",
			ValidFrom:  h.at.Add(-time.Hour),
			ValidUntil: h.at.Add(time.Hour),
			Evidence:   "x",
		},
	)
	require.NoError(t, err)
	build := h.build("0001").Code
	v, err := h.ReleaseOf(h.ctx, build)
	require.NoError(t, err)
	_, err = h.Dispose(
		h.ctx,
		h.as("Ines Falk"),
		build,
		inspect.Disposition{
			Measured: inspect.Measured{
				Mass:      v.Mass.Expected,
				Thickness: []float64{v.Thickness.Expected},
				Values:    flat,
			},
			Disposition: "good",
			PIN:         pin,
		},
	)
	refusal(t, err, book.Refused, "you laid plies of this part")
	// Who wrote the draft last does not release it.
	part := h.part()
	draft, err := h.Revision(h.ctx, part, "B")
	require.NoError(t, err)
	_, err = h.CheckRevision(h.ctx, h.as("Marek Orde"), part, parts.RevisionSign{Version: draft.Version, PIN: pin})
	refusal(t, err, book.Refused, "you wrote this draft")
	_, err = h.ReleaseRevision(h.ctx, h.as("Marek Orde"), part, parts.RevisionSign{Version: draft.Version, PIN: pin})
	refusal(t, err, book.Refused, "you wrote this draft")
	h.release(draft)
}

func TestTheFirstAdministratorEntersWithAOneTimeCode(t *testing.T) {
	h := &house{t: t, ctx: t.Context(), at: now}
	h.Shop = shop.New(&book.Book{DB: storetest.Open(t, storetest.Empty), Now: func() time.Time { return h.at }})
	empty, err := h.Empty(h.ctx)
	require.NoError(t, err)
	require.True(t, empty)
	in := people.FirstAdministrator{Code: "aaaa-bbbb-cccc-dddd", Name: "Somebody", PIN: pin, Password: password}
	_, err = h.FirstAdministrator(h.ctx, in)
	refusal(t, err, book.Refused, "this code is wrong")
	old, err := h.NewSetupCode(h.ctx)
	require.NoError(t, err)
	code, err := h.NewSetupCode(h.ctx)
	require.NoError(t, err)
	in.Code = old
	_, err = h.FirstAdministrator(h.ctx, in)
	refusal(t, err, book.Refused, "this code is wrong")
	in.Code = code
	h.at = h.at.Add(25 * time.Hour)
	_, err = h.FirstAdministrator(h.ctx, in)
	refusal(t, err, book.Refused, "older than a day")
	h.at = h.at.Add(-24 * time.Hour)
	in.Password = "short"
	_, err = h.FirstAdministrator(h.ctx, in)
	refusal(t, err, book.Invalid, "at least 12 characters")
	in.Password = password
	v, err := h.FirstAdministrator(h.ctx, in)
	require.NoError(t, err)
	assert.Equal(t, "administrator", v.Role)
	in.Name = "Somebody else"
	_, err = h.FirstAdministrator(h.ctx, in)
	refusal(t, err, book.Conflict, "has people in it already: ask an administrator")
	_, err = h.NewSetupCode(h.ctx)
	refusal(t, err, book.Conflict, "has people in it")
	_, err = h.VerifyLog(h.ctx)
	assert.NoError(t, err)
}
