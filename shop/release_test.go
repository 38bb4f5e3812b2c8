package shop_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"juxta/shop/book"
	"juxta/shop/inspect"
)

// flat is what the demo's panel is measured for: its flatness in mm.
var flat = []*float64{new(float64)}

func TestOnlyQualitySignsAPartOffAndOnlyWithinLimits(t *testing.T) {
	h := open(t)
	build := h.build("0001").Code
	v, err := h.ReleaseOf(h.ctx, build)
	require.NoError(t, err)
	good := inspect.Disposition{
		Measured:    inspect.Measured{Mass: v.Mass.Expected, Thickness: []float64{v.Thickness.Expected}, Values: flat},
		Disposition: "good",
		PIN:         pin,
	}
	_, err = h.Dispose(h.ctx, h.as("Ines Falk"), build, good)
	refusal(t, err, book.Refused, "only a quality person can")
	wrong := good
	wrong.PIN = "000000"
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, wrong)
	refusal(t, err, book.Refused, "not your PIN")
	wrong.PIN = ""
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, wrong)
	refusal(t, err, book.Invalid, "asks for your PIN again")
	unmeasured := good
	unmeasured.Values = []*float64{nil}
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, unmeasured)
	refusal(t, err, book.Refused, "the record is not complete: flatness is not measured")
	bent := 0.31
	unmeasured.Values = []*float64{&bent}
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, unmeasured)
	refusal(t, err, book.Refused, "the flatness is outside its limits")
	heavy := good
	heavy.Mass *= 1.05
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, heavy)
	refusal(t, err, book.Refused, "mass is outside its limits")
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), h.build("0002").Code, good)
	refusal(t, err, book.Refused, "waits at layup")
	done, err := h.Dispose(h.ctx, h.as("Jonas Quist"), build, good)
	require.NoError(t, err)
	assert.Equal(t, "finished", done.Build.Room)
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, good)
	refusal(t, err, book.Conflict, "Jonas Quist already signed")
}

func TestMeasuringStoresNothingAndSigningKeepsWhatWasMeasured(t *testing.T) {
	h := open(t)
	build := h.build("0001").Code
	v, err := h.ReleaseOf(h.ctx, build)
	require.NoError(t, err)
	// By hand: 4 % of the mass, 6 % of the thickness.
	assert.InDelta(t, 0.96*v.Mass.Expected, v.Mass.Low, 1e-12)
	assert.InDelta(t, 1.06*v.Thickness.Expected, v.Thickness.High, 1e-12)
	entries := h.count(`select count(*) from entries`)
	lines, err := h.Compare(
		h.ctx,
		build,
		inspect.Measured{
			Mass:      v.Mass.Expected * 1.03,
			Thickness: []float64{v.Thickness.Expected * 0.9, v.Thickness.Expected},
		},
	)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.True(t, lines[0].Met, "3 % of 4 % allowed")
	assert.False(t, lines[1].Met, "10 % of 6 % allowed")
	assert.True(t, lines[2].Met)
	_, err = h.Compare(h.ctx, build, inspect.Measured{Mass: -1, Thickness: []float64{1e-3}})
	refusal(t, err, book.Invalid, "above zero")
	assert.Equal(t, entries, h.count(`select count(*) from entries`))

	off := inspect.Disposition{
		Measured: inspect.Measured{
			Mass:      v.Mass.Expected * 1.2,
			Thickness: []float64{v.Thickness.Expected},
			Values:    flat,
		},
		Disposition: "scrap",
		PIN:         pin,
	}
	_, err = h.Dispose(h.ctx, h.as("Jonas Quist"), build, off)
	refusal(t, err, book.Refused, "say why")
	off.Reason = "resin rich, 20 % over"
	done, err := h.Dispose(h.ctx, h.as("Jonas Quist"), build, off)
	require.NoError(t, err)
	assert.Equal(t, "scrap", done.Disposition)
	assert.Equal(t, "resin rich, 20 % over", done.Reason)
	require.Len(t, done.Lines, 3)
	assert.Equal(t, "mm", done.Lines[2].Unit)
	assert.Nil(t, done.Lines[2].Low, "flatness has no least")
	assert.False(t, done.Lines[0].Met, "the limit not met is kept as not met")
	assert.Equal(t, "finished", h.build("0001").Room)
	thread, err := h.ThreadOfBuild(h.ctx, build)
	require.NoError(t, err)
	assert.Equal(t, "part signed scrap", thread.Log[len(thread.Log)-1].What)
	hit, err := h.Scan(h.ctx, build)
	require.NoError(t, err)
	assert.Equal(t, "/thread/"+build, hit.Path)
}
