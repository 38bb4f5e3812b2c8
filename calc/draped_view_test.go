package calc

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/drape"
)

func TestPiecesThatCoverNothingHaveNoShare(t *testing.T) {
	nothing := FromDrapedPieces([]*drape.DrapedPiece{{Area: 1e-6}}, 0, drape.Options{})
	assert.Nil(t, nothing.More)
	_, err := json.Marshal(nothing)
	assert.NoError(t, err, "as it is sent")

	flat := FromDrapedPieces([]*drape.DrapedPiece{{Area: 2, Surface: 2}}, 0, drape.Options{})
	require.NotNil(t, flat.More, "a flat one covers what it is: 0, not missing")
	assert.Zero(t, *flat.More)
	two := []*drape.DrapedPiece{{Area: 2, Surface: 2}, {Area: 0.5, Surface: 0.25}}
	more := FromDrapedPieces(two, 0, drape.Options{})
	assert.InDelta(t, 2.5/2.25-1, *more.More, 1e-12)
}
