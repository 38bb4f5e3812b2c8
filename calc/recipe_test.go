package calc

import (
	"context"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mapOf is a map of the thick ring: so many thicknesses by so many dwells.
func mapOf(rows, columns int) MapIn {
	in := MapIn{CureIn: ExampleCure(), Layer: 1}
	for k := range rows {
		in.Thickness = append(in.Thickness, 0.0288*float64(k+1)/float64(rows))
	}
	for k := range columns {
		in.Holds = append(in.Holds, 10800*float64(k+1)/float64(columns))
	}
	return in
}

// A map has a cell a pair, the same whatever runs beside it, and says why a cure fails; one that is stopped says so.
func TestAMapOfThicknessAndDwell(t *testing.T) {
	in := mapOf(3, 4)
	a, err := in.Map(context.Background())
	require.NoError(t, err)
	b, err := in.Map(context.Background())
	require.NoError(t, err)
	assert.Equal(t, a, b)
	require.Len(t, a, 12)
	thin, thick := a[1], a[9]
	assert.InDelta(t, 0.0096, thin.Thickness, 1e-9)
	assert.InDelta(t, 5400, thin.Hold, 1e-9)
	assert.Greater(t, thick.Hottest, thin.Hottest)
	assert.NotEmpty(t, thick.Why)
	in.Thickness[0] = 2
	a, err = in.Map(context.Background())
	require.NoError(t, err)
	assert.Contains(t, a[0].Why, "is a block")
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = in.Map(ctx)
	assert.ErrorIs(t, err, context.Canceled)
	for field, change := range map[string]func(*MapIn){
		"section": func(in *MapIn) { in.Section = 4 }, "layer": func(in *MapIn) { in.Layer = 9 },
		"segment": func(in *MapIn) { in.Segment = 9 },
	} {
		bad := mapOf(1, 1)
		change(&bad)
		_, err := bad.Map(context.Background())
		var wrong *InputError
		require.True(t, errors.As(err, &wrong))
		assert.Equal(t, field, wrong.Field)
	}
}

// A search is gone on with from where it was, as it travels.
func TestASearchTravels(t *testing.T) {
	in := FindIn{CureIn: ExampleCure(), Seed: 1, Tries: 30}
	one, err := in.Find(context.Background())
	require.NoError(t, err)
	in.Search = &one
	two, err := in.Find(context.Background())
	require.NoError(t, err)
	assert.Greater(t, two.Tried, one.Tried)
	assert.LessOrEqual(t, two.Misses, one.Misses)
	in.Search = &FindState{}
	_, err = in.Find(context.Background())
	assert.ErrorContains(t, err, "search.recipe")
}

// BenchmarkMap1000 is a thousand cures of the thick ring, from thin to twice as thick.
func BenchmarkMap1000(b *testing.B) {
	in := mapOf(40, 25)
	for b.Loop() {
		_, err := in.Map(context.Background())
		require.NoError(b, err)
	}
}
