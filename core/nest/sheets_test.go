package nest

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"juxta/core/geom"
)

func TestAPlyOfSeveralPiecesIsCutFromOneSheet(t *testing.T) {
	narrow, wide := Sheet{Width: 0.3, Length: 5, EdgeTrim: 0.01}, Sheet{Width: 1.2, Length: 5}
	small, high := geom.Rect(0.2, 0.27), geom.Rect(0.2, 0.29)
	for name, c := range map[string]struct {
		flats  []geom.Ring
		sheets []Sheet
		want   []int
	}{
		"one piece":               {[]geom.Ring{high}, []Sheet{narrow, wide}, nil},
		"one sheet":               {[]geom.Ring{small, small}, []Sheet{narrow}, nil},
		"all within the edges":    {[]geom.Ring{small, small}, []Sheet{narrow, wide}, []int{0}},
		"one over the trim":       {[]geom.Ring{small, high}, []Sheet{narrow, wide}, []int{1}},
		"none is wide enough":     {[]geom.Ring{small, geom.Rect(0.1, 2)}, []Sheet{narrow, wide}, []int{0}},
		"the wide one lies first": {[]geom.Ring{small, high}, []Sheet{wide, narrow}, []int{0}},
	} {
		assert.Equal(t, c.want, OneSheet(c.flats, c.sheets), name)
	}
}
