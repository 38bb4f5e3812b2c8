package api_test

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What use, reading and hostile hands found, so that it stays mended.

// What was sent is not sent back: it may be a secret, or 20 MB.
func TestAnInputIsNotEchoed(t *testing.T) {
	b := open(t)
	got := b.send("POST", "/api/session", `{"personId":1,"secret":"`+strings.Repeat("s3cret", 100)+`"}`)
	assert.Equal(t, http.StatusUnprocessableEntity, got.StatusCode)
	assert.NotContains(t, string(got.body), "s3cret")
	assert.Contains(t, string(got.body), "the PIN or password has more than 200 characters")
	got = b.send("POST", "/api/first", `{"code":"`+strings.Repeat("x", 1<<20)+`","name":"A","pin":"314158","password":"twelve letters"}`)
	assert.Equal(t, http.StatusRequestEntityTooLarge, got.StatusCode)
	assert.Less(t, len(got.body), 2000)
}
