package parts

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/drape"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
)

// Surface is a surface of triangles that was brought in from a file. It is written once.
type Surface struct {
	ID        int64
	Name      string
	Unit      string
	Sha256    []byte
	Points    []byte // little-endian float64, m
	Triangles []byte // little-endian int32
	Count     int
	Size      [3]float64         `gorm:"serializer:json"` // of its box, m
	Mended    drape.RepairReport `gorm:"serializer:json"`
	PersonID  *int64
	At        time.Time
}

// SurfaceView is a kept surface without its triangles.
type SurfaceView struct {
	ID        int64      `json:"id" doc:"0: it was not kept yet, see the question"`
	Name      string     `json:"name"`
	Unit      string     `json:"unit" enum:"mm,cm,m,inch" doc:"That its file was read in"`
	Triangles int        `json:"triangles"`
	Size      [3]float64 `json:"size" doc:"Of its box, m"`
	Mended    []string   `json:"mended" doc:"What was put right about it"`
	Question  string     `json:"question,omitempty" doc:"What makes its unit doubtful: nothing is kept until it is said to be right"`
	At        *time.Time `json:"at,omitempty"`
}

func (s Surface) view() SurfaceView {
	v := SurfaceView{ID: s.ID, Name: s.Name, Unit: s.Unit, Triangles: s.Count, Size: s.Size, Mended: []string{}}
	if !s.At.IsZero() {
		v.At = &s.At
	}
	for _, m := range []struct {
		n    int
		says string
	}{
		{s.Mended.Merged, "%d corners that stood at one place are one"},
		{s.Mended.Flipped, "%d triangles that looked the other way are turned"},
		{s.Mended.Left, "%d triangles of no area are left out"},
	} {
		if m.n > 0 {
			v.Mended = append(v.Mended, fmt.Sprintf(m.says, m.n))
		}
	}
	return v
}

// surfaceOf is a mesh as it is kept.
func surfaceOf(name, in string, m *drape.Mesh) Surface {
	lo, hi := m.Box()
	s := Surface{
		Name: name, Unit: in, Count: len(m.Triangles), Mended: m.Mended,
		Size: [3]float64{hi.X - lo.X, hi.Y - lo.Y, hi.Z - lo.Z},
	}
	s.Points = make([]byte, 0, 24*len(m.Points))
	for _, p := range m.Points {
		for _, v := range []float64{p.X, p.Y, p.Z} {
			s.Points = binary.LittleEndian.AppendUint64(s.Points, math.Float64bits(v))
		}
	}
	s.Triangles = make([]byte, 0, 12*len(m.Triangles))
	for _, t := range m.Triangles {
		for _, c := range t {
			s.Triangles = binary.LittleEndian.AppendUint32(s.Triangles, uint32(c))
		}
	}
	sum := sha256.Sum256(append(bytes.Clone(s.Points), s.Triangles...))
	s.Sha256 = sum[:]
	return s
}

// mesh is the kept surface as a mesh again.
func (s Surface) mesh() (*drape.Mesh, error) {
	if len(s.Points)%24 != 0 || len(s.Triangles)%12 != 0 || len(s.Triangles)/12 > drape.MostTriangles {
		return nil, fmt.Errorf("the surface %q is not whole", s.Name)
	}
	points := make([]drape.Vec, len(s.Points)/24)
	for k := range points {
		at := func(n int) float64 { return math.Float64frombits(binary.LittleEndian.Uint64(s.Points[24*k+8*n:])) }
		points[k] = drape.Vec{X: at(0), Y: at(1), Z: at(2)}
	}
	triangles := make([][3]int32, len(s.Triangles)/12)
	for k := range triangles {
		for n := range 3 {
			c := binary.LittleEndian.Uint32(s.Triangles[12*k+4*n:])
			if c >= uint32(len(points)) {
				return nil, fmt.Errorf("the surface %q is not whole", s.Name)
			}
			triangles[k][n] = int32(c)
		}
	}
	return drape.NewMesh(points, triangles)
}

// Bounds beyond which a part is asked about: smaller and larger ones are rare, and a wrong unit is not.
const (
	smallPart = 0.06 // m
	largePart = 12.0
)

// doubt is what makes the unit of a surface doubtful.
func (s Surface) doubt() string {
	long := max(s.Size[0], s.Size[1], s.Size[2])
	size := fmt.Sprintf("Read in %s the surface is %s long.", s.Unit, unit.Size(long, 1))
	switch {
	case long < smallPart && s.Unit == "mm":
		return fmt.Sprintf("%s Was it drawn in inches? Then it would be %s.", size, unit.Size(long*25.4, 0))
	case long < smallPart:
		return size + " Is that its unit?"
	case long > largePart:
		return size + " Is that its unit? Surfaces are mostly drawn in mm."
	}
	return ""
}

// NewSurface is a surface as it was read from a file.
type NewSurface struct {
	Name, Unit string
	Sure       bool // the question about its unit is answered
	Mesh       *drape.Mesh
}

// KeepSurface keeps a surface, or asks about its unit. One that is here already is that.
func (s *Room) KeepSurface(ctx context.Context, by book.By, in NewSurface) (SurfaceView, error) {
	row := surfaceOf(strings.TrimSpace(in.Name), in.Unit, in.Mesh)
	if row.Name == "" {
		return SurfaceView{}, book.Needed.At("name", "a surface needs a name")
	}
	if q := row.doubt(); q != "" && !in.Sure {
		v := row.view()
		v.Question = q
		return v, nil
	}
	asked := map[string]any{"name": row.Name, "sha256": row.Sha256}
	return book.Write(ctx, s.Book, by, book.WriteMaster, "keep surface", asked, func(tx *book.Tx) (SurfaceView, error) {
		err := bringSurface(tx, &row)
		return row.view(), err
	})
}

// bringSurface keeps a surface unless it is here already.
func bringSurface(tx *book.Tx, row *Surface) error {
	var here []Surface
	if err := tx.Omit("points", "triangles").Where("sha256 = ?", row.Sha256).Limit(1).Find(&here).Error; err != nil {
		return err
	}
	if len(here) > 0 {
		*row = here[0]
		return tx.Log("surface imported again", row.Name, "", map[string]any{"id": row.ID})
	}
	row.PersonID, row.At = tx.By.ID(), tx.Now
	if err := tx.Create(row).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
		return book.Changed.Errorf("somebody brought this surface in a moment ago: choose it again")
	} else if err != nil {
		return err
	}
	return tx.Log("surface saved", row.Name, "", map[string]any{"id": row.ID, "triangles": row.Count, "unit": row.Unit})
}

// Surfaces are those that were brought in, the newest first.
func (s *Room) Surfaces(ctx context.Context) ([]SurfaceView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]SurfaceView, error) {
		var rows []Surface
		if err := db.Omit("points", "triangles").Order("id desc").Limit(200).Find(&rows).Error; err != nil {
			return nil, err
		}
		out := make([]SurfaceView, len(rows))
		for k, r := range rows {
			out[k] = r.view()
		}
		return out, nil
	})
}

// meshes loads kept surfaces.
func meshes(db *gorm.DB) func(id int64) (*drape.Mesh, error) {
	return func(id int64) (*drape.Mesh, error) {
		var row Surface
		if err := db.Where("id = ?", id).Limit(1).Find(&row).Error; err != nil {
			return nil, err
		}
		if row.ID == 0 {
			return nil, errNoSurface
		}
		return row.mesh()
	}
}

var errNoSurface = errors.New("the surface of this stage is not kept here: bring it in")

// SurfaceMesh is a surface as a mesh: built, or of a file that was brought in.
func (s *Room) SurfaceMesh(ctx context.Context, of master.Surface) (*drape.Mesh, error) {
	return s.drapes.surface(of, meshes(s.DB.Gorm.WithContext(ctx)))
}

// FileSurface is a surface of a master file.
type FileSurface struct {
	ID        int64  `json:"id"`
	Name      string `json:"name" maxLength:"120"`
	Unit      string `json:"unit" enum:"mm,cm,m,inch" doc:"That its own file was read in; here all is in m"`
	Points    []byte `json:"points" doc:"x, y, z of every point in m, little-endian float64, in base64"`
	Triangles []byte `json:"triangles" doc:"Three points of each from 0, little-endian int32, in base64"`
}

// takeSurfaces are the surfaces that a document refers to, for its file.
func takeSurfaces(db *gorm.DB, doc master.Document) ([]FileSurface, error) {
	var out []FileSurface
	taken := map[int64]bool{}
	for _, st := range doc.Stages {
		if st.Surface == nil || st.Surface.MeshID == 0 || taken[st.Surface.MeshID] {
			continue
		}
		taken[st.Surface.MeshID] = true
		var row Surface
		if err := db.Take(&row, st.Surface.MeshID).Error; err != nil {
			return nil, err
		}
		out = append(out, FileSurface{row.ID, row.Name, row.Unit, row.Points, row.Triangles})
	}
	return out, nil
}

// bringSurfaces keeps the surfaces of a file and puts their ids into the document.
func bringSurfaces(tx *book.Tx, doc *master.Document, brought []FileSurface) error {
	next := map[int64]int64{}
	for _, f := range brought {
		m, err := Surface{Name: f.Name, Points: f.Points, Triangles: f.Triangles}.mesh()
		if err != nil {
			return book.Wrong.At("surfaces", "%s: %s", f.Name, err)
		}
		row := surfaceOf(strings.TrimSpace(f.Name), f.Unit, m)
		if err := bringSurface(tx, &row); err != nil {
			return err
		}
		next[f.ID] = row.ID
	}
	for k := range doc.Stages {
		s := doc.Stages[k].Surface
		if s == nil || s.MeshID == 0 {
			continue
		}
		id, ok := next[s.MeshID]
		if !ok {
			return book.Wrong.At("surfaces", "a stage lies on surface %d, which the file does not hold", s.MeshID)
		}
		own := *s
		own.MeshID = id
		doc.Stages[k].Surface = &own
	}
	return nil
}
