package stock

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/core/material"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/recipes"
)

// Kinds of material, in the order in which they are offered.
var Kinds = []string{
	"unidirectional",
	"woven",
	"film adhesive",
	"core",
	"paste adhesive",
	"sleeve",
	"dry fabric",
	"liquid resin",
	"consumable",
}

// PlyKind says whether a kind can be a ply of a laminate.
func PlyKind(kind string) bool { return kind == "unidirectional" || kind == "woven" }

// UnitOf is what an amount of a kind is counted in.
func UnitOf(kind string) string {
	if kind == "paste adhesive" || kind == "liquid resin" {
		return "kg"
	}
	return "m"
}

// Amount is how much there is of what is counted in a unit, m or kg.
func Amount(of string, n float64) unit.Quantity {
	if of == "kg" {
		return unit.Mass(n, 2)
	}
	return unit.RollLength(n, 2)
}

// MaterialSheet is what a data sheet says besides what the computation of a
// ply needs. SI; zero or empty means that the sheet does not say.
type MaterialSheet struct {
	FibreMass          float64           `json:"fibreMass,omitempty" doc:"Areal mass of the fibre, kg/m²" minimum:"0"`
	ResinShare         float64           `json:"resinShare,omitempty" doc:"Of the mass of the prepreg, 0 to 1" minimum:"0" maximum:"1"`
	Weave              string            `json:"weave,omitempty" doc:"Plain, 2/2 twill, 5-harness satin …" maxLength:"40"`
	WarpEqualsWeft     bool              `json:"warpEqualsWeft,omitempty"`
	FilmUp             string            `json:"filmUp,omitempty" doc:"Backing on the upper face as wound" maxLength:"60"`
	FilmDown           string            `json:"filmDown,omitempty" doc:"Backing on the lower face" maxLength:"60"`
	Widths             []float64         `json:"widths,omitempty" doc:"Widths in which it is sold, m" maxItems:"20"`
	BulkFactor         float64           `json:"bulkFactor,omitempty" doc:"Thickness as laid over thickness as cured" minimum:"0" maximum:"10"`
	ThicknessTolerance float64           `json:"thicknessTolerance,omitempty" doc:"Of its cured thickness, a share either way" minimum:"0" maximum:"0.5"`
	SleeveDiameter     float64           `json:"sleeveDiameter,omitempty" doc:"Sleeve: as made, m" minimum:"0" maximum:"2"`
	SleeveAngle        float64           `json:"sleeveAngleDeg,omitempty" doc:"Sleeve: of its yarns from the axis as made, degrees" minimum:"0" maximum:"89"`
	SleeveLeast        float64           `json:"sleeveLeastDeg,omitempty" doc:"Sleeve: its yarns gape below" minimum:"0" maximum:"89"`
	SleeveMost         float64           `json:"sleeveMostDeg,omitempty" doc:"Sleeve: it jams beyond" minimum:"0" maximum:"89"`
	LockDeg            float64           `json:"lockDeg,omitempty" doc:"Woven: shear at which it locks, degrees" minimum:"0" maximum:"89"`
	HollowRadius       float64           `json:"hollowRadius,omitempty" doc:"Tightest hollow that it goes into without bridging, m" minimum:"0" maximum:"10"`
	SteerRadius        float64           `json:"steerRadius,omitempty" doc:"Unidirectional: tightest radius that a strip is steered round, m" minimum:"0" maximum:"100"`
	SpliceOverlap      float64           `json:"spliceOverlap,omitempty" doc:"Of pieces side by side along the fibre, where a ply does not say its own, m; 0: butt" minimum:"0" maximum:"1"`
	StorageMax         float64           `json:"storageMax,omitempty" doc:"Warmest storage, K" minimum:"0"`
	ShelfLife          float64           `json:"shelfLife,omitempty" doc:"In storage, from the day it was made, s" minimum:"0" maximum:"1000000000"`
	CoreTube           float64           `json:"coreTube,omitempty" doc:"Radius of the tube that it is wound on, m" minimum:"0" maximum:"1"`
	Density            float64           `json:"density,omitempty" doc:"Core: kg/m³" minimum:"0"`
	CompressionLimit   float64           `json:"compressionLimit,omitempty" doc:"Core: pressure in cure that it stands, Pa" minimum:"0"`
	Fibre              string            `json:"fibre,omitempty" doc:"What it is made of: carbon conducts" enum:"carbon,glass,aramid,other"`
	FaceShift          float64           `json:"faceShift,omitempty" doc:"Asymmetric weave: share by which warp prevails on the warp face" minimum:"0" maximum:"1"`
	G13                float64           `json:"g13,omitempty" doc:"Core: shear stiffness along its ribbon, Pa" minimum:"0"`
	G23                float64           `json:"g23,omitempty" doc:"Core: shear stiffness across, Pa" minimum:"0"`
	XT                 float64           `json:"xt,omitempty" doc:"Strength in tension along, Pa" minimum:"0"`
	XC                 float64           `json:"xc,omitempty" doc:"In compression along, Pa" minimum:"0"`
	YT                 float64           `json:"yt,omitempty" doc:"In tension across, Pa" minimum:"0"`
	YC                 float64           `json:"yc,omitempty" doc:"In compression across, Pa" minimum:"0"`
	S                  float64           `json:"s,omitempty" doc:"In shear, Pa" minimum:"0"`
	MixRatio           string            `json:"mixRatio,omitempty" doc:"Resin pair: parts by mass" maxLength:"40"`
	PotLife            float64           `json:"potLife,omitempty" doc:"Mixed, s" minimum:"0"`
	Caution            string            `json:"caution,omitempty" doc:"Handling, as the supplier words it" maxLength:"600"`
	Acceptance         []AcceptanceLimit `json:"acceptance,omitempty" doc:"Tests that a batch must pass before it is cut" maxItems:"20"`
}

// AcceptanceLimit is a test that every batch of a material must pass.
type AcceptanceLimit struct {
	What  string   `json:"what" minLength:"1" maxLength:"80"`
	Unit  string   `json:"unit" maxLength:"20"`
	Least *float64 `json:"least,omitempty"`
	Most  *float64 `json:"most,omitempty"`
}

// MaterialIn is a material as entered, new or changed.
type MaterialIn struct {
	Name            string        `json:"name" minLength:"1" maxLength:"80"`
	Kind            string        `json:"kind" enum:"unidirectional,woven,film adhesive,core,paste adhesive,sleeve,dry fabric,liquid resin,consumable"`
	ResinID         int64         `json:"resinId,omitempty"`
	Width           float64       `json:"width" doc:"m" minimum:"0" maximum:"10"`
	E1              float64       `json:"e1,omitempty" doc:"Pa" minimum:"0"`
	E2              float64       `json:"e2,omitempty" doc:"Pa" minimum:"0"`
	Nu12            float64       `json:"nu12,omitempty" minimum:"-1" maximum:"1"`
	G12             float64       `json:"g12,omitempty" doc:"Pa" minimum:"0"`
	Alpha1          float64       `json:"alpha1,omitempty" doc:"1/K"`
	Alpha2          float64       `json:"alpha2,omitempty" doc:"1/K"`
	Thickness       float64       `json:"thickness,omitempty" doc:"Cured, m" minimum:"0" maximum:"1"`
	ArealMass       float64       `json:"arealMass,omitempty" doc:"kg/m²" minimum:"0"`
	AsymmetricWeave bool          `json:"asymmetricWeave,omitempty" doc:"Warp face and weft face differ"`
	HalfTurn        bool          `json:"halfTurn,omitempty" doc:"Pieces may be cut turned by 180°"`
	Films           int           `json:"films,omitempty" minimum:"0" maximum:"2"`
	OutLife         float64       `json:"outLife,omitempty" doc:"s; 0: does not age" minimum:"0" maximum:"1000000000"`
	TackLife        float64       `json:"tackLife,omitempty" doc:"s; 0: not given" minimum:"0" maximum:"1000000000"`
	Sheet           MaterialSheet `json:"sheet"`
	DataSheetID     int64         `json:"dataSheetId,omitempty"`
}

// Room of the materials.
type Room struct {
	*recipes.Room
	// Follow puts a new version of a material into the drafts of masters, which stand
	// in a room above.
	Follow func(tx *book.Tx, family, present int64) error
}

// MaterialView is a version of a material.
type MaterialView struct {
	MaterialIn
	ID           int64          `json:"id"`
	Family       int64          `json:"family"`
	Version      int            `json:"version"`
	SupersededAt *time.Time     `json:"supersededAt,omitempty"`
	Resin        string         `json:"resin,omitempty"`
	Unit         string         `json:"unit" enum:"m,kg"`
	DataSheet    *book.FileView `json:"dataSheet,omitempty"`
	InUse        bool           `json:"inUse" doc:"A roll or a ply refers to this version: a change makes a new one"`
	OnHand       int            `json:"onHand" doc:"Rolls with something left, of this version"`
}

func (m Material) view() MaterialView {
	v := MaterialView{
		ID:           m.ID,
		Family:       m.Family,
		Version:      m.Version,
		SupersededAt: m.SupersededAt,
		Unit:         UnitOf(m.Kind),
		MaterialIn: MaterialIn{
			Name: m.Name, Kind: m.Kind, Width: m.Width, E1: m.E1, E2: m.E2, Nu12: m.Nu12, G12: m.G12, Alpha1: m.Alpha1,
			Alpha2: m.Alpha2, Thickness: m.Thickness,
			ArealMass: m.ArealMass, AsymmetricWeave: m.AsymmetricWeave, HalfTurn: m.HalfTurn, Films: m.Films,
			OutLife: m.OutLife, TackLife: m.TackLife, Sheet: m.Sheet},
	}
	if m.ResinID != nil {
		v.ResinID = *m.ResinID
	}
	if m.DataSheetID != nil {
		v.DataSheetID = *m.DataSheetID
	}
	return v
}

// QuarterTurn says whether its plies may also be cut turned by 90°: a woven whose warp and weft are declared equal
// and whose faces are alike, that may be turned at all.
func (m Material) QuarterTurn() bool {
	return m.Kind == "woven" && m.HalfTurn && m.Sheet.WarpEqualsWeft && !m.AsymmetricWeave
}

func (m *Material) take(in MaterialIn) {
	m.Name, m.Kind, m.Width, m.E1, m.E2, m.Nu12, m.G12 = in.Name, in.Kind, in.Width, in.E1, in.E2, in.Nu12, in.G12
	m.Alpha1, m.Alpha2, m.Thickness, m.ArealMass = in.Alpha1, in.Alpha2, in.Thickness, in.ArealMass
	m.AsymmetricWeave, m.HalfTurn = in.AsymmetricWeave, in.HalfTurn
	m.Films, m.OutLife, m.TackLife, m.Sheet = in.Films, in.OutLife, in.TackLife, in.Sheet
	m.ResinID, m.DataSheetID = nil, nil
	if in.ResinID != 0 {
		m.ResinID = &in.ResinID
	}
	if in.DataSheetID != 0 {
		m.DataSheetID = &in.DataSheetID
	}
}

func (m Material) Limits(shelfEnd *time.Time) material.Limits {
	l := material.Limits{OutLife: Seconds(m.OutLife), TackLife: Seconds(m.TackLife)}
	if shelfEnd != nil {
		l.ShelfEnd = *shelfEnd
	}
	return l
}

// wound is a roll of the material as a body that warms.
func (m Material) wound(length float64) material.RollGeometry {
	thickness := m.Thickness * max(1, m.Sheet.BulkFactor)
	// Backing papers and films are about 0.1 mm each (common practice, no source).
	thickness += 1e-4 * float64(m.Films)
	tube := m.Sheet.CoreTube
	if tube == 0 {
		tube = 0.038 // a 3 in tube (common practice, no source)
	}
	return material.Roll(length, thickness, m.ArealMass+0.08*float64(m.Films), tube)
}

// check says what cannot be right about a material.
func (in *MaterialIn) check() error {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return book.Needed.At("name", "the material needs a name")
	}
	if !slices.Contains(Kinds, in.Kind) {
		return book.Wrong.At("kind", "the kind is one of %s", strings.Join(Kinds, ", "))
	}
	facts := material.Facts{
		Kind: in.Kind, Prepreg: PlyKind(in.Kind), HasResin: in.ResinID != 0, Width: in.Width,
		E1: in.E1, E2: in.E2, G12: in.G12, Nu12: in.Nu12, Alpha1: in.Alpha1, Alpha2: in.Alpha2,
		Thickness: in.Thickness, ArealMass: in.ArealMass, FibreMass: in.Sheet.FibreMass,
		ResinShare: in.Sheet.ResinShare, BulkFactor: in.Sheet.BulkFactor, OutLife: in.OutLife, Tack: in.TackLife,
	}
	if f := facts.Check(); f != nil {
		refused := book.Wrong
		if f.Missing {
			refused = book.Needed
		}
		return refused.At(f.Field, "%s", f.Message)
	}
	for _, a := range in.Sheet.Acceptance {
		if a.Least == nil && a.Most == nil {
			return book.Needed.At("sheet.acceptance", "the test %q needs a limit", a.What)
		}
		if err := unit.Between(a.Least, nil, a.Most); err != nil {
			return book.Wrong.At("sheet.acceptance", "%s: %s", a.What, err)
		}
	}
	return nil
}

// Materials lists the present version of every material, by name.
func (s *Room) Materials(ctx context.Context) ([]MaterialView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]MaterialView, error) {
		return s.materialViews(db, "superseded_at is null")
	})
}

// MaterialVersions lists every version of a family, newest first.
func (s *Room) MaterialVersions(ctx context.Context, family int64) ([]MaterialView, error) {
	all, err := book.View(
		ctx,
		s.Book,
		func(db *gorm.DB) ([]MaterialView, error) { return s.materialViews(db, "family = ?", family) },
	)
	if err == nil && len(all) == 0 {
		return nil, book.NoSuch.Errorf("there is no such material")
	}
	return all, err
}

func (s *Room) materialViews(db *gorm.DB, where string, args ...any) ([]MaterialView, error) {
	var all []Material
	if err := db.Where(where, args...).Order("lower(name), version desc").Find(&all).Error; err != nil {
		return nil, err
	}
	var resins []recipes.Resin
	if err := db.Find(&resins).Error; err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for _, r := range resins {
		names[r.ID] = r.Name
	}
	var uses []struct {
		ID     int64
		InUse  bool
		OnHand int
	}
	if err := db.Raw(`select m.id, exists (select from rolls r where r.material_id = m.id) or exists (select
		from plies p where p.material_id = m.id)
		or exists (select from batches b where b.material_id = m.id) as in_use,
		(select count(*) from rolls r where r.material_id = m.id and r.length > 0) as on_hand
		from materials m`).Scan(&uses).Error; err != nil {
		return nil, err
	}
	files, err := book.FileViews(db, `id in (select data_sheet_id from materials)`)
	if err != nil {
		return nil, err
	}
	views := make([]MaterialView, len(all))
	for i, m := range all {
		v := m.view()
		v.Resin = names[v.ResinID]
		for _, u := range uses {
			if u.ID == m.ID {
				v.InUse, v.OnHand = u.InUse, u.OnHand
			}
		}
		if f, ok := files[v.DataSheetID]; ok {
			v.DataSheet = &f
		}
		views[i] = v
	}
	return views, nil
}

// MaterialChange is a change to the present version of a material.
type MaterialChange struct {
	MaterialIn
	Version int  `json:"version" doc:"That the change was made from"`
	Stock   bool `json:"stock,omitempty" doc:"Rolls on hand and drafts follow the new version; without it only what comes later does"`
}

// AddMaterial enters a material.
func (s *Room) AddMaterial(ctx context.Context, by book.By, in MaterialIn) (MaterialView, error) {
	return book.Write(ctx, s.Book, by, book.KeepMaterials, "add material", in, func(tx *book.Tx) (MaterialView, error) {
		if err := checkMaterial(tx, &in); err != nil {
			return MaterialView{}, err
		}
		m := Material{Version: 1}
		m.take(in)
		if err := tx.Raw(`select nextval(pg_get_serial_sequence('materials', 'id'))`).Scan(&m.ID).Error; err != nil {
			return MaterialView{}, err
		}
		m.Family = m.ID
		if err := tx.Create(&m).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
			return MaterialView{}, book.Taken.Errorf("there is already a material called %s", m.Name)
		} else if err != nil {
			return MaterialView{}, err
		}
		return s.materialView(tx, m, "material entered", "", in)
	})
}

func checkMaterial(tx *book.Tx, in *MaterialIn) error {
	if err := in.check(); err != nil {
		return err
	}
	var n int64
	if in.ResinID != 0 {
		if err := tx.Model(&recipes.Resin{}).Where("id = ?", in.ResinID).Count(&n).Error; err != nil {
			return err
		}
		if n == 0 {
			return book.NotHere.At("resinId", "this resin is not known here")
		}
	}
	return tx.KnowsFile("dataSheetId", in.DataSheetID)
}

func (s *Room) materialView(tx *book.Tx, m Material, said, why string, detail any) (MaterialView, error) {
	if err := tx.Log(said, m.Name, why, detail); err != nil {
		return MaterialView{}, err
	}
	views, err := s.materialViews(tx.DB, "id = ?", m.ID)
	if err != nil {
		return MaterialView{}, err
	}
	return views[0], nil
}

// ChangeMaterial changes a material. One in use gets a new version; what was
// built keeps the old one.
func (s *Room) ChangeMaterial(ctx context.Context, by book.By, family int64, in MaterialChange) (MaterialView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepMaterials,
		"change material",
		[]any{family, in},
		func(tx *book.Tx) (MaterialView, error) {
			var old Material
			err := book.Locked(tx.DB).Where("family = ? and superseded_at is null", family).Take(&old).Error
			if errors.Is(err, gorm.ErrRecordNotFound) {
				return MaterialView{}, book.NoSuch.Errorf("there is no such material")
			} else if err != nil {
				return MaterialView{}, err
			}
			if old.Version != in.Version {
				return MaterialView{}, book.Changed.Errorf(
					"somebody changed %s in the meantime: look at it again",
					old.Name,
				)
			}
			if err := checkMaterial(tx, &in.MaterialIn); err != nil {
				return MaterialView{}, err
			}
			before, err := s.materialViews(tx.DB, "id = ?", old.ID)
			if err != nil {
				return MaterialView{}, err
			}
			if before[0].InUse && old.Kind != in.Kind {
				return MaterialView{}, book.Wrong.At(
					"kind",
					"%s is in use as %s: enter the other kind as a new material",
					old.Name,
					old.Kind,
				)
			}
			next := Material{Family: old.Family, Version: old.Version + 1}
			if before[0].InUse {
				if err := tx.Model(&Material{ID: old.ID}).Update("superseded_at", tx.Now).Error; err != nil {
					return MaterialView{}, err
				}
			} else {
				next.ID = old.ID
			}
			next.take(in.MaterialIn)
			if err := tx.Save(&next).Error; errors.Is(err, gorm.ErrDuplicatedKey) {
				return MaterialView{}, book.Taken.Errorf("there is already a material called %s", next.Name)
			} else if err != nil {
				return MaterialView{}, err
			}
			if in.Stock {
				if err := tx.Exec(`update plies p set material_id = ? from revisions r where r.id = p.revision_id
					and r.state = 'draft'
				and p.material_id in (select id from materials
				where family = ?)`, next.ID, old.Family).Error; err != nil {
					return MaterialView{}, err
				}
				if err := s.Follow(tx, old.Family, next.ID); err != nil {
					return MaterialView{}, err
				}
				if err := s.followMaterial(tx, old.Family, next.ID); err != nil {
					return MaterialView{}, err
				}
			}
			return s.materialView(
				tx,
				next,
				"material changed",
				"",
				map[string]any{"from": before[0].MaterialIn, "to": in.MaterialIn, "stock": in.Stock},
			)
		},
	)
}

// SoldIn are the widths in which the material can be had, m.
func (m Material) SoldIn() []float64 {
	widths := slices.Clone(m.Sheet.Widths)
	if m.Width > 0 && !slices.Contains(widths, m.Width) {
		widths = append(widths, m.Width)
	}
	return widths
}
