package master

import (
	"juxta/core/cure"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// The versions of a recipe read back from their difference, and a segment that is put in changes no other.
func TestARecipesDifferenceHoldsBothVersions(t *testing.T) {
	segments := rapid.SliceOfN(rapid.Custom(func(rt *rapid.T) cure.Segment {
		return cure.Segment{
			Target: rapid.Float64Range(300, 304).Draw(rt, "target"),
			Rate:   0.02,
			Hold:   float64(rapid.IntRange(0, 2).Draw(rt, "hold")),
		}
	}), 1, 6)
	rapid.Check(t, func(rt *rapid.T) {
		was, is := cure.Recipe{Segments: segments.Draw(rt, "was")}, cure.Recipe{Segments: segments.Draw(rt, "is")}
		var before, after []cure.Segment
		for _, c := range SegmentDifference(was, is) {
			if c.Was != nil {
				before = append(before, *c.Was)
			}
			if c.Is != nil {
				after = append(after, *c.Is)
			}
			assert.Equal(rt, c.Differs(), c.Was == nil || c.Is == nil || *c.Was != *c.Is)
		}
		assert.Equal(rt, was.Segments, before)
		assert.Equal(rt, is.Segments, after)
		for _, c := range SegmentDifference(is, is) {
			assert.False(rt, c.Differs())
		}
		at := rapid.IntRange(0, len(was.Segments)).Draw(rt, "at")
		more := cure.Recipe{Segments: slices.Insert(slices.Clone(was.Segments), at, cure.Segment{Target: 400, Rate: 1})}
		differ := 0
		for _, c := range SegmentDifference(was, more) {
			if c.Differs() {
				differ++
				assert.Nil(rt, c.Was)
			}
		}
		assert.Equal(rt, 1, differ)
	})
	c := SegmentDifference(
		cure.Recipe{Segments: []cure.Segment{{Target: 350, Rate: 1, Hold: 60}}},
		cure.Recipe{Segments: []cure.Segment{{Target: 360, Rate: 1, WaitViscosityMinimum: true, Hold: 60}}},
	)
	assert.Equal(t, []string{"target", "waitTurn"}, c[0].Fields)
}
