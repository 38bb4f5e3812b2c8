package master

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// edit makes a change or two to a document.
func edit(rt *rapid.T, d Document, who string) Document {
	raw, err := json.Marshal(d)
	require.NoError(rt, err)
	var out Document
	require.NoError(rt, json.Unmarshal(raw, &out))
	for n := range rapid.IntRange(0, 3).Draw(rt, who+" changes") {
		s := &out.Stages[rapid.IntRange(0, len(out.Stages)-1).Draw(rt, "stage")]
		if len(s.Items) == 0 {
			continue
		}
		k := rapid.IntRange(0, len(s.Items)-1).Draw(rt, "item")
		switch rapid.SampledFrom([]string{"angle", "remove", "insert", "move", "trim"}).Draw(rt, "what") {
		case "angle":
			s.Items[k].AngleDeg = float64(rapid.IntRange(-80, 80).Draw(rt, "angle"))
		case "remove":
			s.Items = slices.Delete(s.Items, k, k+1)
		case "insert":
			s.Items = slices.Insert(
				s.Items,
				k,
				Item{Key: fmt.Sprint(who, n), Kind: Ply, MaterialID: 1, Outline: "full"},
			)
		case "move":
			i := s.Items[k]
			s.Items = slices.Delete(s.Items, k, k+1)
			to := &out.Stages[rapid.IntRange(0, len(out.Stages)-1).Draw(rt, "to")]
			to.Items = append(to.Items, i)
		case "trim":
			out.Trim = "full"
		}
	}
	return out.Normal()
}

func TestMergingKeepsWhatBothDid(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		base := panel().Normal()
		mine, theirs := edit(rt, base, "m"), edit(rt, base, "t")
		alone, conflicts := Merge(base, base, mine)
		require.Empty(rt, conflicts)
		assert.True(rt, same(mine, alone), "only I changed something")
		alone, conflicts = Merge(base, theirs, base)
		require.Empty(rt, conflicts)
		assert.True(rt, same(theirs, alone), "only they did")
		both, conflicts := Merge(base, theirs, mine)
		other, again := Merge(base, mine, theirs)
		assert.Equal(rt, len(conflicts), len(again), "it does not matter who was first")
		if len(conflicts) > 0 {
			return
		}
		at := func(d Document) map[string]Item {
			m := map[string]Item{}
			for _, i := range d.Items() {
				_, twice := m[i.Key]
				assert.False(rt, twice, "nothing is doubled")
				m[i.Key] = i
			}
			return m
		}
		b, m, th, got := at(base), at(mine), at(theirs), at(both)
		assert.Equal(rt, got, at(other))
		for key, i := range got {
			was, before := b[key]
			my, iHave := m[key]
			their, theyHave := th[key]
			switch {
			case before:
				require.True(rt, iHave && theyHave, "what one took away is gone")
				if !same(my, was) {
					assert.Equal(rt, my, i)
				} else {
					assert.Equal(rt, their, i)
				}
			case iHave:
				assert.Equal(rt, my, i)
			default:
				assert.Equal(rt, their, i)
			}
		}
		for _, d := range []map[string]Item{m, th} {
			for key := range d {
				if _, before := b[key]; !before {
					assert.Contains(rt, got, key, "what one added is there")
				}
			}
		}
	})
}

func TestTwoWhoChangeTheSamePlyAreTold(t *testing.T) {
	base, mine, theirs := panel(), panel(), panel()
	mine.Stages[0].Items[1].AngleDeg = 30
	theirs.Stages[0].Items[1].AngleDeg = 60
	_, conflicts := Merge(base, theirs, mine)
	assert.Equal(t, []string{"item 2 was changed by both"}, conflicts)
	theirs = panel()
	theirs.Stages[0].Items = theirs.Stages[0].Items[:1]
	_, conflicts = Merge(base, theirs, mine)
	assert.Equal(t, []string{"item 2 was changed by one and removed by the other"}, conflicts)
}

// One list after the other: what only one changed is taken, what both changed is told.
func TestEveryListOfADocumentIsMerged(t *testing.T) {
	base := panel()
	base.Parameters = []Parameter{{Name: "L", Unit: "mm", Value: 600}}
	base.Variants = []Variant{{Name: "60"}}
	base.Loads = []Load{{Name: "wind"}}
	base.Route = []Operation{{Key: "lay", Kind: "laying", Stages: []string{"s1"}}}
	for conflict, change := range map[string]func(d *Document, by float64){
		`outline "full" was changed by both`: func(d *Document, by float64) {
			d.Outlines = append([]Outline{{
				Name: "full", Kind: "rectangle", Dims: map[string]float64{"length": by, "width": 0.3},
			}}, d.Outlines[1:]...)
		},
		"parameter L was changed by both": func(d *Document, by float64) {
			d.Parameters = []Parameter{{Name: "L", Unit: "mm", Value: by}}
		},
		"variant 60 was changed by both": func(d *Document, by float64) {
			d.Variants = []Variant{{Name: "60", Values: map[string]float64{"L": by}}}
		},
		"load case wind was changed by both": func(d *Document, by float64) {
			d.Loads = []Load{{Name: "wind", DeltaT: by}}
		},
		`operation "lay" was changed by both`: func(d *Document, by float64) {
			d.Route = []Operation{{Key: "lay", Kind: "laying", Stages: []string{"s1"}, Attended: by}}
		},
		"the trim line was changed by both": func(d *Document, by float64) {
			d.Trim = map[bool]string{true: "full", false: "core"}[by > 1]
		},
	} {
		mine, theirs := base, base
		change(&mine, 1)
		both, conflicts := Merge(base, theirs, mine)
		require.Empty(t, conflicts, conflict)
		assert.True(t, same(mine.Normal(), both), conflict)
		both, conflicts = Merge(base, mine, theirs)
		require.Empty(t, conflicts, conflict)
		assert.True(t, same(mine.Normal(), both), conflict)
		change(&theirs, 2)
		_, conflicts = Merge(base, theirs, mine)
		assert.Equal(t, []string{conflict}, conflicts)
	}
	// One takes the first stage away, the other lays a ply into it.
	mine, theirs := panel(), panel()
	mine.Stages = mine.Stages[1:]
	theirs.Stages[0].Items = append(theirs.Stages[0].Items, Item{Key: "c", Kind: Ply, MaterialID: 1, Outline: "full"})
	_, conflicts := Merge(panel(), theirs, mine)
	assert.Contains(t, conflicts, "the first stage was removed by one and filled by the other")
}
