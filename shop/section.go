package shop

import (
	"context"

	"gorm.io/gorm"

	"juxta/core/geom"
	"juxta/core/master"
	"juxta/wire"
)

// Cutting asks for the section of a master along a line.
type Cutting struct {
	Document *master.Document `json:"document,omitempty" doc:"As it stands on the page; missing: as kept"`
	Letter   string           `json:"letter,omitempty"`
	Line     *[4]float64      `json:"line,omitempty" doc:"x1, y1, x2, y2 in m; missing: through the middle of the smallest layer"`
}

// SectionView is the stack along a line; without layers it has no courses.
type SectionView struct {
	Line    [4]float64   `json:"line" doc:"m"`
	Length  float64      `json:"length"`
	Height  float64      `json:"height"`
	Courses []CourseView `json:"courses" doc:"In lay order"`
}

// CourseView is a layer along a section without a gap.
type CourseView struct {
	Key string       `json:"key"`
	At  [][3]float64 `json:"at" doc:"m along the line, lower and upper face, m from the tool, in between straight; two at one place are a step"`
}

// Section cuts a part's master, kept or as it stands on a page. It stores
// nothing. It is asked apart from what is worked out: findings do not wait for
// a drawing.
func (s *Shop) Section(ctx context.Context, partCode string, c Cutting) (SectionView, error) {
	return view(ctx, s, func(db *gorm.DB) (SectionView, error) {
		m, _, err := s.asked(db, partCode, c.Letter, c.Document)
		if err != nil {
			return SectionView{}, err
		}
		if faults := m.doc.Check(m.materials); len(faults) > 0 {
			return SectionView{}, faulty(faults)
		}
		if m, err = m.shown(); err != nil {
			return SectionView{}, err
		}
		layers, err := m.doc.Layers(m.materials)
		if err != nil {
			return SectionView{}, invalid("document", "%s", err)
		}
		return sectioned(layers, c.Line)
	})
}

func sectioned(layers []master.Layer, line *[4]float64) (SectionView, error) {
	v := SectionView{Courses: []CourseView{}}
	if len(layers) == 0 {
		return v, nil
	}
	if line == nil {
		smallest, all := layers[0].Outline, geom.Ring{}
		for _, l := range layers {
			if l.Outline.Area() < smallest.Area() {
				smallest = l.Outline
			}
			all = append(all, l.Outline...)
		}
		// A little off the middle, where outlines like to have corners.
		in, b := smallest.Bounds(), all.Bounds()
		y := (in.Min.Y+in.Max.Y)/2 + in.Height()*1e-3
		if c := smallest.Crossings(y); len(c) == 0 {
			y = (in.Min.Y + in.Max.Y) / 2
		}
		pad := b.Width() * 0.02
		line = &[4]float64{b.Min.X - pad, y, b.Max.X + pad, y}
	}
	cut, err := master.Cut(layers, geom.Point{X: line[0], Y: line[1]}, geom.Point{X: line[2], Y: line[3]})
	if err != nil {
		return v, invalid("line", "%s", err)
	}
	v.Line, v.Length, v.Height = *line, cut.Length, cut.Height
	for _, c := range cut.Courses {
		course := CourseView{Key: c.Key, At: make([][3]float64, len(c.At))}
		for i, a := range c.At {
			course.At[i] = [3]float64{wire.Fine(a.X), wire.Fine(a.Low), wire.Fine(a.High)}
		}
		v.Courses = append(v.Courses, course)
	}
	return v, nil
}
