package shop_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop"
)

func TestGuessingAPINIsSlowedAndNobodyIsLockedOutForLong(t *testing.T) {
	h := open(t)
	id := h.as("Ines Falk").Person.ID
	for range 5 {
		_, err := h.SignIn(h.ctx, id, "000000")
		refusal(t, err, shop.Refused, "do not belong together")
	}
	_, err := h.SignIn(h.ctx, id, pin)
	refusal(t, err, shop.Refused, "try again in 30s")
	h.at = h.at.Add(31 * time.Second)
	p, err := h.SignIn(h.ctx, id, pin)
	require.NoError(t, err)
	assert.Equal(t, "Ines Falk", p.Name)
	for range 40 {
		_, _ = h.SignIn(h.ctx, id, "000000")
		h.at = h.at.Add(10 * time.Second)
	}
	h.at = h.at.Add(5 * time.Minute)
	_, err = h.SignIn(h.ctx, id, pin)
	assert.NoError(t, err, "five minutes are the most")
	_, err = h.SignIn(h.ctx, 9999, pin)
	refusal(t, err, shop.Refused, "do not belong together")
}

func TestPeopleAreAddedByAdministratorsWithADecentPIN(t *testing.T) {
	h := open(t)
	_, err := h.AddPerson(h.ctx, h.as("Ines Falk"), "New Hand", "technician", "123456")
	refusal(t, err, shop.Refused, "administrator")
	for _, bad := range []string{"1234", "12345a", ""} {
		_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", bad)
		refusal(t, err, shop.Invalid, "6 to 12 digits")
	}
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", "123456")
	require.NoError(t, err)
	_, err = h.AddPerson(h.ctx, h.as("Ada Wren"), "New Hand", "technician", "123456")
	refusal(t, err, shop.Conflict, "already somebody called New Hand")
}
