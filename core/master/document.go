package master

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"

	"juxta/core/geom"
	"juxta/core/laminate"
	"juxta/core/pattern"
	"juxta/core/unit"
)

// Format names the document's shape and its edition. Edition 2 has a route; a document
// of edition 1 still reads, as one pass.
const (
	Format    = "juxta master 2"
	FormatOne = "juxta master 1"
)

// Document is the master of one revision of a part, or of one family.
type Document struct {
	Format     string      `json:"format" enum:"juxta master 1,juxta master 2"`
	Trim       string      `json:"trim,omitempty" doc:"Name of the outline that the cured part is trimmed to" maxLength:"60"`
	Outlines   []Outline   `json:"outlines" maxItems:"500"`
	Stages     []Stage     `json:"stages" maxItems:"40"`
	Parameters []Parameter `json:"parameters,omitempty" doc:"Of a family" maxItems:"40"`
	Variants   []Variant   `json:"variants,omitempty" doc:"Sizes and options of a family" maxItems:"100"`
	Route      []Operation `json:"route,omitempty" doc:"What is done to a build, and what waits for what; empty: one pass" maxItems:"300"`
	Loads      []Load      `json:"loads,omitempty" doc:"Load cases for the shop's check" maxItems:"20"`
}

// Outline is a shape with a name, shared by all items that use it.
type Outline struct {
	Name        string             `json:"name" minLength:"1" maxLength:"60"`
	Kind        string             `json:"kind" enum:"points,rectangle,strip,ring sector,circle,ellipse,patch,taper,regular"`
	Dims        map[string]float64 `json:"dims,omitempty" doc:"By name: m; angles in degrees; sides as a number"`
	Points      []Corner           `json:"points,omitempty" doc:"Of an outline of points" maxItems:"5000"`
	Placeholder string             `json:"placeholder,omitempty" doc:"Set where the outline stands for one that a later stage derives: from what" maxLength:"200"`
	Expr        map[string]string  `json:"expr,omitempty" doc:"Family: expressions for dimensions, in mm and degrees"`
	Marks       []DrawnMark        `json:"marks,omitempty" doc:"What a drawing held in it: holes, lines, texts" maxItems:"2000"`
}

// DrawnMark is a mark of an outline: a text at a place, or a line; a hole is a closed one.
type DrawnMark struct {
	Text   string   `json:"says,omitempty" maxLength:"120"`
	Points []Corner `json:"points" maxItems:"5000"`
	Closed bool     `json:"closed,omitempty"`
}

// Corner is a point of an outline, m. Bulge makes the edge to the next point
// an arc: the tangent of a quarter of the angle that it sweeps, positive
// anticlockwise.
type Corner struct {
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	Bulge float64 `json:"bulge,omitempty"`
}

// StageKinds are the kinds of stage.
var StageKinds = []string{
	"skin",
	"core",
	"second skin",
	"pre-form",
	"co-cure",
	"bond",
	"over-wrap",
	"wet layup",
	"injection",
}

// Stage is a part of the work with its own rosette.
type Stage struct {
	Key     string   `json:"key" minLength:"1" maxLength:"24"`
	Name    string   `json:"name" maxLength:"60"`
	Kind    string   `json:"kind" enum:"skin,core,second skin,pre-form,co-cure,bond,over-wrap,wet layup,injection"`
	Rosette float64  `json:"rosette,omitempty" doc:"Its 0° from the tool's, degrees" minimum:"-360" maximum:"360"`
	Note    string   `json:"note,omitempty" maxLength:"600"`
	Cavity  float64  `json:"cavity,omitempty" doc:"Injection: volume of the mould's cavity, m³" minimum:"0" maximum:"10"`
	Resin   float64  `json:"resin,omitempty" doc:"Injection: resin that fills it, kg" minimum:"0" maximum:"10000"`
	Rolled  *Rolled  `json:"rolled,omitempty" doc:"Its items are rolled on a mandrel"`
	Surface *Surface `json:"surface,omitempty" doc:"Its plies are laid over a curved surface"`
	Items   []Item   `json:"items" maxItems:"2000"`
}

// Kinds of item. Layers cover an area; the others are lumps at a place.
const (
	Ply     = laminate.KindPly
	Film    = laminate.KindFilm
	Core    = laminate.KindCore
	PeelPly = laminate.KindPeel
	Insert  = "insert"
	Potting = "potting"
	Fillet  = "fillet"
)

// Item is one thing that is laid or placed.
type Item struct {
	Key        string            `json:"key" doc:"Its own for good: edits and differences go by it" minLength:"1" maxLength:"24"`
	Kind       string            `json:"kind" enum:"ply,film adhesive,core,peel ply,insert,potting,fillet"`
	Name       string            `json:"name,omitempty" doc:"What a lump is" maxLength:"60"`
	MaterialID int64             `json:"materialId,omitempty" doc:"Version of the material; a file names it in its materials"`
	Outline    string            `json:"outline,omitempty" doc:"Name among the outlines" maxLength:"60"`
	AngleDeg   float64           `json:"angleDeg" doc:"Fibre angle from the stage's rosette" minimum:"-360" maximum:"360"`
	X          float64           `json:"x" doc:"Place of the outline's origin from the datum, m" minimum:"-100" maximum:"100"`
	Y          float64           `json:"y" minimum:"-100" maximum:"100"`
	TurnDeg    float64           `json:"turnDeg,omitempty" doc:"Outline turned on the tool" minimum:"-360" maximum:"360"`
	FaceUp     bool              `json:"faceUp" doc:"Warp face, or the face that was up on the roll, away from the tool"`
	FilmsOff   *int              `json:"filmsOff,omitempty" doc:"Backing to remove, where it is not all that the material has" minimum:"0" maximum:"2"`
	Join       string            `json:"join,omitempty" doc:"Where its pieces or wraps meet" enum:"butt,overlap,gap"`
	JoinWidth  float64           `json:"joinWidth,omitempty" doc:"Of an overlap or a gap, m" minimum:"0" maximum:"1"`
	Stagger    float64           `json:"stagger,omitempty" doc:"Step between seams of neighbours, m" minimum:"0" maximum:"10"`
	Wrap       *Wrap             `json:"wrap,omitempty" doc:"Of a rolled stage"`
	Laid       *DrapeSettings    `json:"laid,omitempty" doc:"Of a curved stage"`
	Flat       *Flat             `json:"flat,omitempty" doc:"Its shape on the table, where it is not its outline"`
	Splice     bool              `json:"splice,omitempty" doc:"May be spliced along the fibre"`
	Chamfer    float64           `json:"chamfer,omitempty" doc:"Core: angle of its edge from the tool, degrees; 0: square" minimum:"0" maximum:"90"`
	Mass       float64           `json:"mass,omitempty" doc:"Lump: kg each" minimum:"0" maximum:"1000"`
	Metal      bool              `json:"metal,omitempty" doc:"Lump: it is of metal"`
	Second     bool              `json:"second,omitempty" doc:"A second person checks it"`
	Hold       string            `json:"hold,omitempty" doc:"Hold point: work stops until this is done" maxLength:"200"`
	Note       string            `json:"note,omitempty" maxLength:"600"`
	Caution    string            `json:"caution,omitempty" maxLength:"600"`
	PictureID  int64             `json:"pictureId,omitempty" doc:"A kept file"`
	Expr       map[string]string `json:"expr,omitempty" doc:"Family: expressions for angleDeg, x, y, turnDeg, joinWidth and count, in mm and degrees"`
}

// Layer says whether the item covers an area.
func (i Item) Layer() bool {
	return i.Kind == Ply || i.Kind == Film || i.Kind == Core || i.Kind == PeelPly
}

// Parameter of a family: a value, or an expression of the others.
type Parameter struct {
	Name   string  `json:"name" doc:"As expressions call it" pattern:"^[A-Za-z][A-Za-z0-9_]*$" maxLength:"20"`
	Called string  `json:"called,omitempty" maxLength:"60"`
	Unit   string  `json:"unit" enum:"mm,°,number"`
	Value  float64 `json:"value"`
	Expr   string  `json:"expr,omitempty" maxLength:"200"`
}

// Variant sets parameters of a family.
type Variant struct {
	Name   string             `json:"name" doc:"Added to the part number" minLength:"1" maxLength:"20"`
	Values map[string]float64 `json:"values" doc:"By parameter, in its unit"`
}

// Load is a load case: forces and moments per width, and a temperature change.
type Load struct {
	Name   string     `json:"name" minLength:"1" maxLength:"60"`
	N      [3]float64 `json:"n" doc:"Nx, Ny, Nxy in N/m"`
	M      [3]float64 `json:"m" doc:"Mx, My, Mxy in N"`
	DeltaT float64    `json:"deltaT" doc:"K" minimum:"-500" maximum:"500"`
}

// Items are all items in lay order.
func (d Document) Items() []Item {
	var all []Item
	for _, s := range d.Stages {
		all = append(all, s.Items...)
	}
	return all
}

// Labels are what the items are called, by key: plies by their number through
// all stages, the others by kind and number.
func (d Document) Labels() map[string]string {
	labels, count := map[string]string{}, map[string]int{}
	for _, i := range d.Items() {
		count[i.Kind]++
		labels[i.Key] = strconv.Itoa(count[i.Kind])
		if i.Kind != Ply {
			labels[i.Key] = i.Kind + " " + labels[i.Key]
		}
	}
	return labels
}

// Ring is an outline by its name, in its own axes.
func (d Document) Ring(name string) (geom.Ring, error) {
	k := slices.IndexFunc(d.Outlines, func(o Outline) bool { return o.Name == name })
	if k < 0 {
		return nil, fmt.Errorf("there is no outline %q", name)
	}
	return d.Outlines[k].Ring()
}

// Ring draws an outline in its own axes.
func (o Outline) Ring() (geom.Ring, error) {
	s := pattern.Shape{Kind: o.Kind, Dims: maps.Clone(o.Dims)}
	if a, ok := s.Dims["angle"]; ok {
		s.Dims["angle"] = unit.Rad(a)
	}
	for _, p := range o.Points {
		s.Points = append(s.Points, pattern.Corner(p))
	}
	return s.Outline()
}

// Moved is an outline of points that lies an offset outside another one, or inside it, with its corners
// rounded; its marks go with it.
func (o Outline) Moved(name string, offset, radius float64) (Outline, error) {
	out := Outline{Name: name, Kind: "points", Marks: o.Marks}
	ring, err := o.Ring()
	if err == nil {
		ring, err = ring.Offset(offset)
	}
	if err == nil {
		ring, err = ring.Rounded(radius)
	}
	if err != nil {
		return out, err
	}
	if len(ring) > 5000 {
		return out, fmt.Errorf("the outline would have %d points, at most 5000 are kept", len(ring))
	}
	for _, p := range ring {
		out.Points = append(out.Points, Corner{X: tenth(p.X), Y: tenth(p.Y)})
	}
	return out, ring.Check()
}

// OnTool is where the item's outline lies, and what its fibre angle is from
// the tool's rosette, in degrees.
func (s Stage) OnTool(i Item, own geom.Ring) (geom.Ring, float64) {
	if i.TurnDeg != 0 {
		own = own.Rotate(unit.Rad(i.TurnDeg))
	}
	if i.X != 0 || i.Y != 0 {
		own = own.Move(i.X, i.Y)
	}
	return own, math.Mod(s.Rosette+i.AngleDeg, 360)
}
