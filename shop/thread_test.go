package shop_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/core/ident"
	"juxta/shop/book"
)

func TestFindAndScan(t *testing.T) {
	h := open(t)
	hits, err := h.Find(h.ctx, "SU-22")
	require.NoError(t, err)
	assert.Len(t, hits, 4, "two rolls and their batches")
	hits, err = h.Find(h.ctx, "100%_")
	require.NoError(t, err)
	assert.Empty(t, hits, "wildcards are letters")
	for serial, path := range map[string]string{"0001": "/release/", "0002": "/layup/"} {
		code := h.build(serial).Code
		hit, err := h.Scan(h.ctx, code)
		require.NoError(t, err)
		assert.Equal(t, path+code, hit.Path)
	}
	_, err = h.Scan(h.ctx, fmt.Sprintf("C-%s", "00000"))
	assert.Error(t, err)
}

func TestTheThreadRunsBothWays(t *testing.T) {
	h := open(t)
	build, roll := h.build("0001").Code, h.roll("SU-2207").Code
	back, err := h.ThreadOfBuild(h.ctx, build)
	require.NoError(t, err)
	rolls := map[string][]int{}
	for _, r := range back.Rolls {
		rolls[r.Code] = r.Plies
	}
	assert.Equal(t, []int{2, 3, 4, 5, 6, 7, 8, 9}, rolls[roll])
	forward, err := h.ThreadOfRoll(h.ctx, roll)
	require.NoError(t, err)
	require.Len(t, forward.Builds, 2)
	for _, b := range forward.Builds {
		assert.Len(t, b.FromRoll, 8, b.Serial)
	}
}

func TestAScanOfAnyLabelLeadsToItsPage(t *testing.T) {
	h := open(t)
	kit, err := h.Kit(h.ctx, h.build("0002").Code, "")
	require.NoError(t, err)
	nests, err := h.Nests(h.ctx)
	require.NoError(t, err)
	run := h.build("0001").Run
	for code, path := range map[string]string{
		h.roll("SU-2207").Code:    "/freezer/" + h.roll("SU-2207").Code,
		h.part():                  "/parts/" + h.part(),
		kit.Plies[3].Cut[0].Code:  "/kits/" + kit.Build.Code,
		nests[0].Code:             "/cut/" + nests[0].Code,
		run:                       "/cure/" + run,
		h.build("0003").Code:      "/cut",
		strings.ToLower(h.part()): "/parts/" + h.part(),
	} {
		hit, err := h.Scan(h.ctx, code)
		require.NoError(t, err, code)
		assert.Equal(t, path, hit.Path, code)
	}
	_, err = h.Scan(h.ctx, "N-00000")
	refusal(t, err, book.Invalid, "wrong check character")
	_, err = h.Scan(h.ctx, ident.Format(ident.Nest, 999))
	refusal(t, err, book.Missing, "there is no nest N-")
	for q, kind := range map[string]string{
		"hinge": "build", "SU-2291": "roll", "SP-11": "build", strings.ToLower(run): "run",
	} {
		hits, err := h.Find(h.ctx, q)
		require.NoError(t, err)
		require.NotEmpty(t, hits, q)
		assert.Equal(t, kind, hits[0].Kind, q)
	}
	hits, err := h.Find(h.ctx, "  ")
	require.NoError(t, err)
	assert.Empty(t, hits)
}
