package parts

import (
	"context"

	"gorm.io/gorm"

	"juxta/core/geom"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// DrawingQuestion asks how a master is drawn.
type DrawingQuestion struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Line     *[4]float64      `json:"line,omitempty" doc:"Of the section: x1, y1, x2, y2 in m; missing: through the middle of the smallest layer"`
}

// Drawing is where the layers of a master lie, in plan and along a line.
type Drawing struct {
	Layers  []LayerView  `json:"layers" doc:"In lay order, on the tool"`
	Shapes  []geom.Ring  `json:"shapes" doc:"Outlines on the tool, m from the datum; layers that lie alike share one"`
	Section *SectionView `json:"section,omitempty"`
	Tool    *ToolOutline `json:"tool,omitempty"`
}

// ToolOutline is where the tool's working face lies, as a rectangle of its length
// and width: of a curved tool that is its footprint. It is told of tools that
// have a datum; a mandrel is wrapped, so it has none.
type ToolOutline struct {
	Name    string    `json:"name"`
	Datum   string    `json:"datum" doc:"That places are measured from: the tool's first"`
	Outline geom.Ring `json:"outline" doc:"m from the datum"`
	Beyond  string    `json:"beyond,omitempty" doc:"Layers that reach over its edge, such as 1 to 4, core 1"`
}

// Outline is where a layer lies on the tool, m from the datum.
func (d Drawing) Outline(l LayerView) geom.Ring { return d.Shapes[l.Shape] }

// LayerView is a layer on the tool.
type LayerView struct {
	Key        string       `json:"key"`
	Label      string       `json:"label"`
	Kind       string       `json:"kind"`
	Stage      string       `json:"stage" doc:"Key"`
	Material   string       `json:"material"`
	MaterialID int64        `json:"materialId"`
	Woven      bool         `json:"woven"`
	AngleDeg   float64      `json:"angleDeg" doc:"From the tool's rosette"`
	Shape      int          `json:"shape" doc:"Its outline on the tool, among the shapes"`
	FaceUp     bool         `json:"faceUp"`
	Films      int          `json:"films"`
	Thickness  float64      `json:"thickness"`
	Running    float64      `json:"running" doc:"Sum of the thicknesses up to and with it, where all lie on each other, m"`
	Area       float64      `json:"area" doc:"m²"`
	Flat       *master.Flat `json:"flat,omitempty" doc:"Its shape on the table, where it is not its outline"`
}

// SectionView is the stack along a line.
type SectionView struct {
	Line    [4]float64   `json:"line" doc:"m"`
	Length  float64      `json:"length"`
	Height  float64      `json:"height"`
	Courses []CourseView `json:"courses" doc:"In lay order"`
}

// CourseView is a layer along a section without a gap.
type CourseView struct {
	Layer int          `json:"layer" doc:"Among the layers"`
	At    [][3]float64 `json:"at" doc:"m along the line, lower and upper face, m from the tool, in between straight; two at one place are a step"`
}

// Drawing draws a part's master, kept or as it stands on a page, and cuts it.
// It stores nothing. It is asked apart from what is worked out: findings do not
// wait for a drawing.
func (s *Room) Drawing(ctx context.Context, partCode string, q DrawingQuestion) (Drawing, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Drawing, error) {
		m, _, err := s.asked(db, partCode, q.Letter, q.Document)
		if err != nil {
			return Drawing{}, err
		}
		if faults := m.Doc.Check(m.Materials); len(faults) > 0 {
			return Drawing{}, faulty(faults)
		}
		d, layers, err := m.drawn()
		if err != nil {
			return d, err
		}
		var tools []Tool
		if err := db.Where("name = ?", m.process.Tool).Limit(1).Find(&tools).Error; err != nil {
			return d, err
		}
		if len(tools) > 0 {
			d.Tool = tools[0].outline(layers)
		}
		if len(layers) == 0 {
			return d, nil
		}
		d.Section, err = sectioned(layers, q.Line)
		return d, err
	})
}

// outline is where the tool lies about its first datum, or nil.
func (t Tool) outline(layers []master.Layer) *ToolOutline {
	s := t.Sheet
	if len(s.Datums) == 0 || s.Length <= 0 || s.Width <= 0 || t.Kind == "male mandrel" || t.Kind == "bladder" {
		return nil
	}
	d := s.Datums[0]
	face := geom.Rect(s.Length, s.Width).Move(-d.X, -d.Y)
	return &ToolOutline{t.Name, d.Name, face.Fine(), master.JoinNames(master.LayersBeyond(layers, face))}
}

// drawn is the plan of a master, without a section, and its layers.
func (m MasterOf) drawn() (Drawing, []master.Layer, error) {
	d := Drawing{Layers: []LayerView{}, Shapes: []geom.Ring{}}
	c, err := m.Shown()
	if err != nil {
		return d, nil, undrawn(err)
	}
	layers, err := c.Layers()
	if err != nil {
		return d, nil, undrawn(err)
	}
	shapes, of := master.Shapes(layers)
	for _, ring := range shapes {
		d.Shapes = append(d.Shapes, ring.Fine())
	}
	running := 0.0
	for k, l := range layers {
		running += l.Lamina.Thickness
		mat := c.Materials[l.Item.MaterialID]
		films := mat.Films
		if l.Item.FilmsOff != nil {
			films = *l.Item.FilmsOff
		}
		d.Layers = append(d.Layers, LayerView{
			Key: l.Key, Label: l.Name, Kind: l.Item.Kind, Stage: l.Stage,
			Material: mat.Name, MaterialID: l.Item.MaterialID, Woven: mat.Kind == "woven",
			AngleDeg: unit.FoldAngle(l.AngleDeg), Shape: of[k], FaceUp: l.FaceUp, Films: films,
			Thickness: l.Lamina.Thickness, Running: running, Area: l.Outline.Area(),
			Flat: l.Item.Flat,
		})
	}
	return d, layers, nil
}

// sectioned cuts layers, of which there is at least one, along a line.
func sectioned(layers []master.Layer, line *[4]float64) (*SectionView, error) {
	if line == nil {
		p, q := master.Middle(layers)
		line = &[4]float64{p.X, p.Y, q.X, q.Y}
	}
	cut, err := master.Cut(layers, geom.Point{X: line[0], Y: line[1]}, geom.Point{X: line[2], Y: line[3]})
	if err != nil {
		return nil, book.Wrong.At("line", "%s", err)
	}
	v := &SectionView{*line, cut.Length, cut.Height, []CourseView{}}
	for _, c := range cut.Courses {
		course := CourseView{Layer: c.Layer, At: make([][3]float64, len(c.At))}
		for i, a := range c.At {
			course.At[i] = [3]float64{unit.RoundLength(a.X), unit.RoundLength(a.Low), unit.RoundLength(a.High)}
		}
		v.Courses = append(v.Courses, course)
	}
	return v, nil
}
