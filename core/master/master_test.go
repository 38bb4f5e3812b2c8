package master

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/unit"
)

var materials = map[int64]Material{
	1: {
		Name:  "UD",
		Kind:  "unidirectional",
		Films: 1,
		Lamina: laminate.Lamina{
			E1:         125e9,
			E2:         8.5e9,
			Nu12:       0.3,
			G12:        4.4e9,
			Thickness:  0.15e-3,
			ArealMass:  0.23,
			ResinShare: 0.35,
			Conducts:   true,
		},
	},
	2: {
		Name:   "film",
		Kind:   "film adhesive",
		Lamina: laminate.Lamina{E1: 3e9, E2: 3e9, G12: 1e9, Nu12: 0.3, Thickness: 0.2e-3, ArealMass: 0.25},
	},
	3: {Name: "core", Kind: "core", Lamina: laminate.Lamina{Thickness: 4e-3, ArealMass: 0.19, G13: 30e6, G23: 18e6}},
	4: {Name: "paste", Kind: "paste adhesive"},
}

func panel() Document {
	return Document{Format: Format,
		Outlines: []Outline{
			{Name: "full", Kind: "rectangle", Dims: map[string]float64{"length": 0.4, "width": 0.3}},
			{Name: "core", Kind: "rectangle", Dims: map[string]float64{"length": 0.3, "width": 0.2}},
		},
		Stages: []Stage{
			{
				Key:  "s1",
				Kind: "skin",
				Items: []Item{
					{Key: "a", Kind: Ply, MaterialID: 1, Outline: "full"},
					{Key: "b", Kind: Ply, MaterialID: 1, Outline: "full", AngleDeg: 90},
				},
			},
			{
				Key:  "s2",
				Kind: "core",
				Items: []Item{
					{Key: "f", Kind: Film, MaterialID: 2, Outline: "core", X: 0.05, Y: 0.05},
					{Key: "k", Kind: Core, MaterialID: 3, Outline: "core", X: 0.05, Y: 0.05, Chamfer: 20},
					{
						Key:   "i",
						Kind:  Insert,
						Name:  "bush",
						X:     0.2,
						Y:     0.15,
						Mass:  0.02,
						Metal: true,
					},
					{Key: "g", Kind: Film, MaterialID: 2, Outline: "core", X: 0.05, Y: 0.05},
				},
			},
			{
				Key:     "s3",
				Kind:    "second skin",
				Rosette: 45,
				Items: []Item{
					{Key: "c", Kind: Ply, MaterialID: 1, Outline: "full", AngleDeg: 45},
					{Key: "d", Kind: Ply, MaterialID: 1, Outline: "full", AngleDeg: -45},
				},
			},
		}}
}

func TestAPanelIsWholeAndItsFaultsAreNamed(t *testing.T) {
	require.Empty(t, panel().Check(materials))
	assert.Equal(
		t,
		map[string]string{
			"a": "1",
			"b": "2",
			"f": "film adhesive 1",
			"k": "core 1",
			"i": "insert 1",
			"g": "film adhesive 2",
			"c": "3",
			"d": "4",
		},
		panel().Labels(),
	)
	for says, change := range map[string]func(*Document){
		"the format is":                          func(d *Document) { d.Format = "other" },
		"ply 1: this material is not known":      func(d *Document) { d.Stages[0].Items[0].MaterialID = 9 },
		"ply 2: no material is chosen":           func(d *Document) { d.Stages[0].Items[1].MaterialID = 0 },
		"ply 1: film is film adhesive: a ply is": func(d *Document) { d.Stages[0].Items[0].MaterialID = 2 },
		`ply 2: there is no outline "half"`:      func(d *Document) { d.Stages[0].Items[1].Outline = "half" },
		"ply 1: no outline is chosen":            func(d *Document) { d.Stages[0].Items[0].Outline = "" },
		"ply 1: an overlap needs a width":        func(d *Document) { d.Stages[0].Items[0].Join = "overlap" },
		"a seam that does not " +
			"overlap": func(d *Document) { d.Stages[0].Items[0].Join, d.Stages[0].Items[0].JoinWidth = "butt", 0.01 },
		"seams 5 mm apart that overlap by 10 mm": func(d *Document) {
			i := &d.Stages[0].Items[0]
			i.Join, i.JoinWidth, i.Stagger = "overlap", 0.01,
				0.005
		},
		"a stagger is given without a seam": func(d *Document) { d.Stages[0].Items[0].Stagger = 0.1 },
		"only a core has a chamfer":         func(d *Document) { d.Stages[0].Items[0].Chamfer = 10 },
		"every figure must be a number":     func(d *Document) { d.Stages[0].Items[0].AngleDeg = math.NaN() },
		`"tape" is no kind of item`:         func(d *Document) { d.Stages[0].Items[0].Kind = "tape" },
		`have the key "a"`:                  func(d *Document) { d.Stages[2].Items[0].Key = "a" },
		`two outlines are called "full"`:    func(d *Document) { d.Outlines[1].Name = "full" },
		`outline "core": the width along y`: func(d *Document) { d.Outlines[1].Dims = map[string]float64{"length": 1} },
		"encloses no area": func(d *Document) {
			d.Outlines[1] = Outline{Name: "core", Kind: "points", Points: []Corner{{}, {X: 1}, {X: 2}}}
		},
		"touches or crosses itself": func(d *Document) {
			d.Outlines[1] = Outline{Name: "core", Kind: "points", Points: []Corner{{}, {X: 1, Y: 1}, {X: 1}, {Y: 1}}}
		},
		`the trim line "net" is none`: func(d *Document) { d.Trim = "net" },
		"a stage is one of":           func(d *Document) { d.Stages[0].Kind = "third skin" },
		`load case "gust": every figure`: func(d *Document) {
			d.Loads = []Load{{Name: "gust",
				N: [3]float64{math.Inf(1)}}}
		},
		"parameter A depends on itself: A → B → A": func(d *Document) {
			d.Parameters = []Parameter{
				{Name: "A", Expr: "B+1"}, {Name: "B", Expr: "A*2"},
			}
		},
		"variant 60: variant 60 sets " +
			"Q": func(d *Document) { d.Variants = []Variant{{Name: "60", Values: map[string]float64{"Q": 1}}} },
		"501 items are more than": func(d *Document) {
			for k := range 493 {
				d.Stages[0].Items = append(d.Stages[0].Items, Item{
					Key: fmt.Sprint("x", k), Kind: Ply, MaterialID: 1, Outline: "full",
				})
			}
		},
	} {
		d := panel()
		change(&d)
		faults := d.Check(materials)
		if assert.NotEmpty(t, faults, says) {
			found := slices.ContainsFunc(
				faults,
				func(f Fault) bool { return strings.Contains(unit.InMetric(f.Message), says) },
			)
			assert.True(t, found, "%s: %v", says, faults)
		}
	}
}

func TestLayersLieOnTheToolInTheStagesRosette(t *testing.T) {
	layers, err := panel().Layers(materials)
	require.NoError(t, err)
	require.Len(t, layers, 7)
	assert.Equal(t, 90.0, layers[5].AngleDeg, "45° from a rosette at 45°")
	assert.InDelta(t, 0, unit.FoldAngle(unit.Deg(layers[6].Angle)), 1e-9)
	assert.Equal(t, geom.Point{X: 0.05, Y: 0.05}, layers[2].Outline[0])
	assert.True(t, layers[2].Lamina.Soft(), "film adhesive carries nothing")
	assert.Equal(t, []laminate.PointMass{{Mass: 0.02, At: geom.Point{X: 0.2, Y: 0.15}}}, panel().Lumps())
	zones, err := laminate.Zones([]laminate.PlacedPly{layers[0].PlacedPly, layers[3].PlacedPly})
	require.NoError(t, err)
	assert.InDelta(t, 0.06, zones[0].Area, 1e-9)
}

func TestMetalOnCarbonAndSteepCoresAreFound(t *testing.T) {
	d := panel()
	layers, err := d.Layers(materials)
	require.NoError(t, err)
	assert.Empty(
		t,
		d.Inspect(layers, laminate.NewOutlines(PlacedPlies(layers)), laminate.DefaultRules()),
		"the insert lies between core and film",
	)
	d.Stages[1].Items[2].Metal = true
	d.Stages[1].Items[1].Chamfer = 45
	// The bush now pokes through the skin: laid after the last ply.
	d.Stages[2].Items = append(d.Stages[2].Items, d.Stages[1].Items[2])
	d.Stages[1].Items = slices.Delete(d.Stages[1].Items, 2, 3)
	layers, err = d.Layers(materials)
	require.NoError(t, err)
	found := d.Inspect(layers, laminate.NewOutlines(PlacedPlies(layers)), laminate.DefaultRules())
	require.Len(t, found, 2)
	assert.Equal(t, "core 1 is chamfered at 45°, at most 30° is the rule", found[0].Message)
	assert.Equal(t, "insert 1 is of metal and touches what conducts: isolate it from ply 4", found[1].Message)
}

func TestASectionDropsAndRamps(t *testing.T) {
	layers, err := panel().Layers(materials)
	require.NoError(t, err)
	s, err := Cut(layers, geom.Point{X: -0.1, Y: 0.15}, geom.Point{X: 0.5, Y: 0.15})
	require.NoError(t, err)
	assert.InDelta(t, 0.6, s.Length, 1e-12)
	assert.InDelta(t, 4*0.15e-3+2*0.2e-3+4e-3, s.Height, 1e-12)
	ramp := 4e-3 / math.Tan(unit.Rad(20))
	area, core := map[string]float64{}, Course{}
	for _, c := range s.Courses {
		area[layers[c.Layer].Key] += c.area()
		if layers[c.Layer].Key == "k" {
			core = c
		}
	}
	require.Len(t, core.At, 4)
	assert.InDelta(t, 0.15, core.At[0].X, 1e-9, "0.05 from the datum, which lies 0.1 in")
	assert.InDelta(t, 0.15+ramp, core.At[1].X, 1e-9)
	assert.InDelta(t, 0.5e-3, core.At[0].High, 1e-9, "nothing at its edge but what lies below")
	assert.InDelta(t, 4.5e-3, core.At[1].High, 1e-9)
	// The area that the section shows of every ply is length times thickness.
	assert.InDelta(t, 0.4*0.15e-3, area["a"], 1e-12)
	assert.InDelta(t, 0.4*0.15e-3, area["d"], 1e-12)
	assert.InDelta(t, (0.3-ramp)*4e-3, area["k"], 1e-9)
	_, err = Cut(layers, geom.Point{}, geom.Point{})
	assert.ErrorContains(t, err, "needs a length")
}

func TestDifferenceNamesWhatChanged(t *testing.T) {
	before, after := panel(), panel()
	after.Stages[0].Items[1].AngleDeg = 45
	after.Stages[2].Items = append(
		after.Stages[2].Items[:1:1],
		Item{Key: "new", Kind: Ply, MaterialID: 1, Outline: "full"},
	)
	after.Outlines[1].Dims = map[string]float64{"length": 0.3, "width": 0.21}
	said := map[string]string{}
	for _, c := range Difference(before, after) {
		switch {
		case c.Was == nil:
			said[c.Is.Key] = "new"
		case c.Is == nil:
			said[c.Was.Key] = "gone"
		default:
			said[c.Is.Key] = fmt.Sprint(c.Fields)
		}
	}
	assert.Equal(
		t,
		map[string]string{
			"a":   "[]",
			"b":   "[angleDeg]",
			"f":   "[outline]",
			"k":   "[outline]",
			"i":   "[]",
			"g":   "[outline]",
			"c":   "[]",
			"d":   "gone",
			"new": "new",
		},
		said,
	)
	// Another key for everything, as from a file: paired by what they say.
	other := panel()
	for s := range other.Stages {
		for i := range other.Stages[s].Items {
			other.Stages[s].Items[i].Key = "z" + other.Stages[s].Items[i].Key
		}
	}
	for _, c := range Difference(before, other) {
		assert.False(t, c.Differs())
	}
	moved := panel()
	items := moved.Stages[0].Items
	items[0], items[1] = items[1], items[0]
	n := 0
	for _, c := range Difference(before, moved) {
		if c.Differs() {
			n++
			assert.Equal(t, []string{"place in the stack"}, c.Fields)
		}
	}
	assert.Equal(t, 1, n, "of two that change places one moved")
}

// Whatever a file holds, it has faults that are told, or it can be laid and cut.
func FuzzDocument(f *testing.F) {
	raw, err := json.Marshal(panel())
	require.NoError(f, err)
	f.Add(raw)
	f.Add(
		[]byte(
			`{"format":"juxta master 1","outlines":[{"name":"a","kind":"circle","dims":{"diameter":1e300}}],
				"stages":[{"key":"s","kind":"skin","items":[{"key":"k","kind":"ply","materialId":1,"outline":"a"}]}]}`,
		),
	)
	f.Add(
		[]byte(
			`{"format":"juxta master 1","parameters":[{"name":"n","unit":"number","value":3}],
				"variants":[{"name":"v","values":{}}],"stages":[{"key":"s","kind":"skin","items":[
				{"key":"k","kind":"ply","expr":{"count":"n*n"}}]}]}`,
		),
	)
	f.Fuzz(func(t *testing.T, raw []byte) {
		var d Document
		if json.Unmarshal(raw, &d) != nil || len(d.Items()) > 40 {
			return
		}
		if len(d.Check(materials)) > 0 {
			return
		}
		for _, v := range append(d.Variants, Variant{}) {
			one, err := d.Of(v)
			if err != nil || len(one.Check(materials)) > 0 {
				continue
			}
			layers, err := one.Layers(materials)
			require.NoError(t, err)
			_, err = Cut(layers, geom.Point{X: -1}, geom.Point{X: 1, Y: 0.1})
			require.NoError(t, err)
			one.Inspect(layers, laminate.NewOutlines(PlacedPlies(layers)), laminate.DefaultRules())
			Difference(d, one)
		}
		both, conflicts := Merge(d, d, d)
		require.Empty(t, conflicts)
		require.True(t, same(d.Normal(), both))
	})
}

// However the line runs, the section shows of every layer without a chamfer as
// much as the line has of it: counted along the line as the second method.
func TestASectionShowsWhatTheLineCrosses(t *testing.T) {
	layers, err := panel().Layers(materials)
	require.NoError(t, err)
	rapid.Check(t, func(rt *rapid.T) {
		at := func(name string) geom.Point {
			// A little off round numbers: along an edge either answer is right.
			return geom.Point{
				X: rapid.Float64Range(-0.1, 0.5).Draw(rt, name+"x") + 1.234e-4,
				Y: rapid.Float64Range(-0.1, 0.4).Draw(rt, name+"y") + 1.234e-4,
			}
		}
		p, q := at("p"), at("q")
		if math.Hypot(q.X-p.X, q.Y-p.Y) < 0.01 {
			return
		}
		s, err := Cut(layers, p, q)
		require.NoError(rt, err)
		const steps = 4000
		for k, l := range layers {
			shown, area := 0.0, 0.0
			for _, c := range s.Courses {
				if c.Layer == k {
					shown += c.At[len(c.At)-1].X - c.At[0].X
					area += c.area()
				}
			}
			inside := 0
			for k := range steps {
				f := (float64(k) + 0.5) / steps
				if l.Outline.Contains(geom.Point{X: p.X + f*(q.X-p.X), Y: p.Y + f*(q.Y-p.Y)}) {
					inside++
				}
			}
			assert.InDelta(rt, s.Length*float64(inside)/steps, shown, 3*s.Length/steps, l.Key)
			if l.Item.Chamfer == 0 {
				assert.InDelta(rt, shown*l.Lamina.Thickness, area, 1e-12, "%s at its thickness", l.Key)
			} else {
				assert.LessOrEqual(rt, area, shown*l.Lamina.Thickness+1e-12, "a chamfer takes away")
			}
		}
		// Nothing hangs in the air: wherever one looks, each layer stands on the
		// one below it, the lowest on the tool.
		for k := range 50 {
			x, floor := s.Length*(float64(k)+rapid.Float64Range(0, 1).Draw(rt, "within"))/50, 0.0
			for _, c := range s.Courses {
				if low, high, ok := c.faces(x); ok {
					assert.InDelta(rt, floor, low, 1e-9, "%s at %g", layers[c.Layer].Key, x)
					floor = high
				}
			}
			assert.LessOrEqual(rt, floor, s.Height+1e-12)
		}
	})
}

// area is what a section shows of a course, m².
func (c Course) area() (sum float64) {
	for i := 1; i < len(c.At); i++ {
		a, b := c.At[i-1], c.At[i]
		sum += (b.X - a.X) * (a.High - a.Low + b.High - b.Low) / 2
	}
	return sum
}

// faces are a course's lower and upper face at a place along the line.
func (c Course) faces(x float64) (low, high float64, ok bool) {
	for i := 1; i < len(c.At); i++ {
		a, b := c.At[i-1], c.At[i]
		if a.X < x && x < b.X {
			f := (x - a.X) / (b.X - a.X)
			return a.Low + f*(b.Low-a.Low), a.High + f*(b.High-a.High), true
		}
	}
	return 0, 0, false
}

// What is worked out grows with the points of all outlines in all places: there
// is a bound, and it is told once.
func TestPointsAreBounded(t *testing.T) {
	round := func(n int, bulge float64) []Corner {
		points := make([]Corner, n)
		for i := range points {
			s, c := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			points[i] = Corner{X: c, Y: s, Bulge: bulge}
		}
		return points
	}
	says := func(d Document) (out []string) {
		for _, f := range d.Check(materials) {
			out = append(out, f.Message)
		}
		return out
	}
	d := panel()
	d.Outlines[1] = Outline{Name: "core", Kind: "points", Points: round(300, 0)}
	require.Empty(t, says(d))
	d.Outlines[1].Points = round(5000, 0.9)
	for k := range d.Outlines[1].Points {
		d.Outlines[1].Points[k].X *= 90 // arcs that long are drawn with many points
	}
	assert.Contains(
		t,
		strings.Join(says(d), "; "),
		`outline "core": the outline has more than 20000 points once its arcs are drawn`,
	)

	many := panel()
	for k := range 60 {
		many.Outlines = append(many.Outlines, Outline{Name: fmt.Sprint("o", k), Kind: "points", Points: round(1000, 0)})
	}
	assert.Equal(t, []string{fmt.Sprintf(tooMany, MaxPoints)}, says(many))

	moved := panel()
	moved.Outlines[1] = Outline{Name: "core", Kind: "points", Points: round(1000, 0)}
	ply := Item{Kind: Ply, MaterialID: 1, Outline: "core"}
	for k := range 60 {
		ply.Key = fmt.Sprint("p", k)
		moved.Stages[0].Items = append(moved.Stages[0].Items, ply)
	}
	assert.Empty(t, says(moved), "plies on each other are one outline")
	for k := range moved.Stages[0].Items {
		moved.Stages[0].Items[k].X = 1e-3 * float64(k)
	}
	assert.Equal(t, []string{fmt.Sprintf(tooMany, MaxPoints)}, says(moved))
}

// An outline beside another one: a rectangle 10 mm larger all round, with its corners rounded.
func TestAnOutlineIsMoved(t *testing.T) {
	o := Outline{Name: "net", Kind: "rectangle", Dims: map[string]float64{"length": 0.3, "width": 0.2}}
	moved, err := o.Moved("rough", -0.01, 0.02)
	require.NoError(t, err)
	assert.Equal(t, "rough", moved.Name)
	ring, err := moved.Ring()
	require.NoError(t, err)
	assert.InDelta(t, 0.28*0.18-(4-math.Pi)*0.02*0.02, ring.Area(), 3e-6)
	_, err = o.Moved("none", -0.1, 0)
	require.ErrorContains(t, err, "nothing is left of the outline 100.0 mm inwards")
	_, err = Outline{Kind: "rectangle"}.Moved("x", 0.01, 0)
	require.Error(t, err)
}
