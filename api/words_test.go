package api

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMessagesNameTheirFieldInTheWordsOfThePage(t *testing.T) {
	for _, c := range [][3]string{
		{"body.vacuum", "has to be at least 0", "the vacuum has to be at least 0"},
		{"body.rolls[2].length", "has to be above 0", "the rolls 3, the length has to be above 0"},
		{"body", "cureAt is missing", "the planned cure is missing"},
		{"body.process", "massTolerance is missing", "the process: the mass tolerance is missing"},
		{"query.limit", "has to be a whole number", "the limit has to be a whole number"},
	} {
		assert.Equal(t, c[2], worded(c[0], c[1]))
	}
}
