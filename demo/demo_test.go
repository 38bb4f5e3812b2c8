package demo_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/demo"
	"juxta/shop"
	"juxta/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Run(m)) }

func TestTheDemoGivesEveryPageSomethingToShow(t *testing.T) {
	ctx, end := context.Background(), time.Now()
	db := storetest.Open(t)
	require.NoError(t, demo.Load(ctx, db, "246810", end))
	s := &shop.Shop{DB: db, Now: func() time.Time { return end }, Altitude: demo.Altitude}

	rolls, err := s.Rolls(ctx)
	require.NoError(t, err)
	require.Len(t, rolls, 4)
	ages := map[float64]bool{}
	for _, r := range rolls {
		ages[r.Fuse.Spent] = true
		assert.Positive(t, r.Length)
	}
	assert.Len(t, ages, 4, "four rolls of differing age")

	builds, err := s.Builds(ctx, "")
	require.NoError(t, err)
	require.Len(t, builds, 3)
	assert.Equal(t, "cut", builds[0].Stage)
	assert.Equal(t, "layup", builds[1].Stage)
	assert.Equal(t, 6, builds[1].Laid)
	assert.Equal(t, "release", builds[2].Stage)

	run, err := s.Run(ctx, builds[2].Run)
	require.NoError(t, err)
	require.NotNil(t, run.Verdict)
	assert.True(t, run.Verdict.Met, "%+v", run.Verdict)
	assert.Greater(t, len(run.Samples), 150)

	parts, err := s.Parts(ctx)
	require.NoError(t, err)
	require.Len(t, parts, 1)
	a, err := s.Revision(ctx, parts[0].Code, "A")
	require.NoError(t, err)
	for _, z := range a.Worked.Zones {
		assert.Empty(t, z.Worked.Findings, "revision A is symmetric and balanced")
		assert.Zero(t, z.Worked.Bow)
	}
	b, err := s.Revision(ctx, parts[0].Code, "B")
	require.NoError(t, err)
	assert.Equal(t, "draft", b.State)
	assert.NotEmpty(t, b.Changed)
	assert.Greater(t, b.Worked.Zones[1].Worked.Bow, 0.0, "the added pad ply has no partner")

	n, err := s.VerifyLog(ctx)
	require.NoError(t, err)
	assert.Greater(t, n, int64(60))
}
