package shop

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/bag"
	"juxta/core/cure"
	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/laminate"
	"juxta/wire"
)

// PartLine is a part in the list of parts.
type PartLine struct {
	Code     string `json:"code"`
	Number   string `json:"number"`
	Name     string `json:"name"`
	Released string `json:"released,omitempty" doc:"Letter of the newest released revision"`
	Draft    string `json:"draft,omitempty" doc:"Letter of the draft, if there is one"`
	Plies    int    `json:"plies"`
	Builds   int    `json:"builds"`
}

// PlyView is a ply as drawn; its outline is in place on the tool.
type PlyView struct {
	Number     int          `json:"number"`
	Shape      string       `json:"shape"`
	MaterialID int64        `json:"materialId"`
	Material   string       `json:"material"`
	Woven      bool         `json:"woven"`
	AngleDeg   float64      `json:"angleDeg"`
	Outline    wire.Outline `json:"outline" doc:"On the tool, m from the datum"`
	X          float64      `json:"x" doc:"Place on the tool, m"`
	Y          float64      `json:"y"`
	FaceUp     bool         `json:"faceUp" doc:"Warp face looks away from the tool"`
	Films      int          `json:"films"`
	Thickness  float64      `json:"thickness"`
	Area       float64      `json:"area" doc:"m²"`
}

// ZoneView is a region with one stack all over.
type ZoneView struct {
	Plies  []int            `json:"plies"`
	Area   float64          `json:"area"`
	Worked calc.LaminateOut `json:"worked"`
}

// Worked is what the core makes of a revision.
type Worked struct {
	Mass  float64    `json:"mass" doc:"As laid, kg"`
	Zones []ZoneView `json:"zones" doc:"Largest first"`
	Span  float64    `json:"span" doc:"Over which the bow is told, m"`
	Delta float64    `json:"deltaT" doc:"From the hottest hold to the room, K"`
}

// RevisionView is a revision with what is worked out from it.
type RevisionView struct {
	Part     PartLine         `json:"part"`
	Letter   string           `json:"letter"`
	State    string           `json:"state" enum:"draft,released"`
	Version  int              `json:"version"`
	Process  Process          `json:"process"`
	Plies    []PlyView        `json:"plies"`
	Worked   *Worked          `json:"worked,omitempty"`
	Plan     []wire.PlanPoint `json:"plan" doc:"The recipe walked in time"`
	Against  string           `json:"against,omitempty" doc:"Letter of the revision before"`
	Before   *Worked          `json:"before,omitempty"`
	Changed  []int            `json:"changed" doc:"Plies that the revision before did not have"`
	Gone     int              `json:"gone" doc:"Plies of the revision before that are gone"`
	Letters  []string         `json:"letters" doc:"All revisions, newest first"`
	Builds   []BuildLine      `json:"builds"`
	SignedBy string           `json:"signedBy,omitempty"`
	SignedAt *time.Time       `json:"signedAt,omitempty"`
}

const (
	room     = 294.15 // K, 21 °C: where the part is measured after cure
	bowSpan  = 1.0
	planStep = 60.0
	planMost = 3 * 24 * 3600.0
)

// Parts lists the parts by number.
func (s *Shop) Parts(ctx context.Context) ([]PartLine, error) {
	return view(ctx, s, func(db *gorm.DB) ([]PartLine, error) { return s.partLines(db, "") })
}

func (s *Shop) partLines(db *gorm.DB, code string) ([]PartLine, error) {
	out := []PartLine{}
	return out, db.Raw(`select p.code, p.number, p.name,
		coalesce((select letter from revisions r where r.part_id = p.id and r.state = 'released' order by r.id desc limit 1), '') as released,
		coalesce((select letter from revisions r where r.part_id = p.id and r.state = 'draft' order by r.id desc limit 1), '') as draft,
		(select count(*) from plies y where y.revision_id = (select max(id) from revisions r where r.part_id = p.id)) as plies,
		(select count(*) from builds b join revisions r on r.id = b.revision_id where r.part_id = p.id) as builds
		from parts p where ? = '' or p.code = ? order by p.number`, code, code).Scan(&out).Error
}

// Revision is one revision of a part; an empty letter means the newest.
func (s *Shop) Revision(ctx context.Context, partCode, letter string) (RevisionView, error) {
	return view(ctx, s, func(db *gorm.DB) (RevisionView, error) { return s.revisionView(db, partCode, letter) })
}

func (s *Shop) revisionView(db *gorm.DB, partCode, letter string) (RevisionView, error) {
	part, err := find[Part](db, ident.Part, partCode, "part")
	if err != nil {
		return RevisionView{}, err
	}
	var revisions []Revision
	if err := db.Where("part_id = ?", part.ID).Order("id desc").Find(&revisions).Error; err != nil {
		return RevisionView{}, err
	}
	at := 0
	if letter != "" {
		if at = slices.IndexFunc(revisions, func(r Revision) bool { return r.Letter == letter }); at < 0 {
			return RevisionView{}, missing("%s has no revision %s", part.Number, letter)
		}
	}
	r := revisions[at]
	lines, err := s.partLines(db, part.Code)
	if err != nil {
		return RevisionView{}, err
	}
	plies, materials, err := loadPlies(db, r.ID)
	if err != nil {
		return RevisionView{}, err
	}
	v := RevisionView{Part: lines[0], Letter: r.Letter, State: r.State, Version: r.Version, Process: r.Process,
		Plies: plyViews(plies, materials), Changed: []int{}, Plan: wire.FromPlan(cure.Plan(r.Process.Recipe.Core(), r.Process.PartLag, planStep, planMost))}
	for _, each := range revisions {
		v.Letters = append(v.Letters, each.Letter)
	}
	if v.Worked, err = workOut(plies, materials, r.Process.Recipe); err != nil {
		return RevisionView{}, err
	}
	if at+1 < len(revisions) {
		before := revisions[at+1]
		old, oldMaterials, err := loadPlies(db, before.ID)
		if err != nil {
			return RevisionView{}, err
		}
		v.Against = before.Letter
		if v.Before, err = workOut(old, oldMaterials, before.Process.Recipe); err != nil {
			return RevisionView{}, err
		}
		v.Changed, v.Gone = changed(plies, old)
	}
	if v.Builds, err = s.buildLines(db, "b.revision_id = ?", r.ID); err != nil {
		return RevisionView{}, err
	}
	if r.ReleasedBy != nil {
		names, err := s.names(db)
		if err != nil {
			return RevisionView{}, err
		}
		v.SignedBy, v.SignedAt = names[*r.ReleasedBy], r.ReleasedAt
	}
	return v, nil
}

func loadPlies(db *gorm.DB, revisionID int64) ([]Ply, map[int64]Material, error) {
	var plies []Ply
	if err := db.Where("revision_id = ?", revisionID).Order("number").Find(&plies).Error; err != nil {
		return nil, nil, err
	}
	var ids []int64
	for _, p := range plies {
		ids = append(ids, p.MaterialID)
	}
	materials, err := byID(db, ids, func(m Material) int64 { return m.ID })
	return plies, materials, err
}

// onTool is the ply's outline in place.
func (p Ply) onTool() geom.Ring { return p.Outline.Ring().Move(p.X, p.Y) }

func plyViews(plies []Ply, materials map[int64]Material) []PlyView {
	out := make([]PlyView, len(plies))
	for i, p := range plies {
		m := materials[p.MaterialID]
		out[i] = PlyView{Number: p.Number, Shape: p.Shape, MaterialID: m.ID, Material: m.Name, Woven: m.Kind == "woven", AngleDeg: p.AngleDeg,
			Outline: wire.FromRing(p.onTool()), X: p.X, Y: p.Y, FaceUp: p.FaceUp, Films: m.Films, Thickness: m.Thickness, Area: p.Outline.Ring().Area()}
	}
	return out
}

// changed are the plies of a stack that the one before did not have, by the
// longest common sequence of the two, and how many of its plies are gone.
func changed(now, before []Ply) (added []int, gone int) {
	same := func(a, b Ply) bool {
		return a.Shape == b.Shape && a.MaterialID == b.MaterialID && a.AngleDeg == b.AngleDeg && a.X == b.X && a.Y == b.Y && a.FaceUp == b.FaceUp && slices.Equal(a.Outline, b.Outline)
	}
	// common[i][j]: most plies in common of now[i:] and before[j:].
	common := make([][]int, len(now)+1)
	for i := range common {
		common[i] = make([]int, len(before)+1)
	}
	for i := len(now) - 1; i >= 0; i-- {
		for j := len(before) - 1; j >= 0; j-- {
			common[i][j] = max(common[i+1][j], common[i][j+1])
			if same(now[i], before[j]) {
				common[i][j] = max(common[i][j], common[i+1][j+1]+1)
			}
		}
	}
	added = []int{}
	i, j := 0, 0
	for i < len(now) {
		switch {
		case j < len(before) && same(now[i], before[j]) && common[i][j] == common[i+1][j+1]+1:
			i, j = i+1, j+1
		case j < len(before) && common[i][j] == common[i][j+1]:
			j++
		default:
			added = append(added, now[i].Number)
			i++
		}
	}
	return added, len(before) - common[0][0]
}

// workOut asks the core about a stack of plies; nil for none.
func workOut(plies []Ply, materials map[int64]Material, recipe wire.Recipe) (*Worked, error) {
	if len(plies) == 0 {
		return nil, nil
	}
	placed := make([]laminate.Placed, len(plies))
	for i, p := range plies {
		m := materials[p.MaterialID]
		placed[i] = laminate.Placed{Ply: laminate.Ply{Name: fmt.Sprint(p.Number), Material: m.Name, Lamina: m.Lamina().Core(), Angle: wire.Degrees(p.AngleDeg), FaceUp: p.FaceUp}, Outline: p.onTool()}
	}
	zones, err := laminate.Zones(placed)
	if err != nil {
		return nil, invalid("plies", "%s", err)
	}
	hottest := room
	for _, s := range recipe.Segments {
		hottest = max(hottest, s.Target)
	}
	w := &Worked{Mass: laminate.Mass(placed), Span: bowSpan, Delta: room - hottest}
	for _, z := range zones {
		out, err := calc.Stack(z.Stack, w.Delta, bowSpan)
		if err != nil {
			return nil, err
		}
		for _, p := range z.Stack {
			out.ArealMass += p.Lamina.ArealMass
		}
		view := ZoneView{Area: z.Area, Worked: out}
		for _, p := range z.Stack {
			n := 0
			_, _ = fmt.Sscan(p.Name, &n)
			view.Plies = append(view.Plies, n)
		}
		w.Zones = append(w.Zones, view)
	}
	return w, nil
}

// NewPly is a ply as a planner writes it; its outline is in its own axes.
type NewPly struct {
	Shape      string       `json:"shape" minLength:"1" maxLength:"60"`
	MaterialID int64        `json:"materialId"`
	AngleDeg   float64      `json:"angleDeg" minimum:"-360" maximum:"360"`
	Outline    wire.Outline `json:"outline" maxItems:"5000"`
	X          float64      `json:"x" doc:"m" minimum:"-100" maximum:"100"`
	Y          float64      `json:"y" doc:"m" minimum:"-100" maximum:"100"`
	FaceUp     bool         `json:"faceUp"`
}

// storePlies replaces the plies of a draft; numbers follow the order.
func (tx *Tx) storePlies(revisionID int64, plies []NewPly) error {
	if err := tx.Where("revision_id = ?", revisionID).Delete(&Ply{}).Error; err != nil {
		return err
	}
	for i, p := range plies {
		if err := p.Outline.Ring().Check(); err != nil {
			return invalid(fmt.Sprintf("plies[%d].outline", i), "ply %d: %s", i+1, err)
		}
		var known int64
		if err := tx.Model(&Material{}).Where("id = ? and kind in ('unidirectional', 'woven')", p.MaterialID).Count(&known).Error; err != nil {
			return err
		}
		if known == 0 {
			return invalid(fmt.Sprintf("plies[%d].materialId", i), "ply %d: this material is not known here", i+1)
		}
		ply := Ply{RevisionID: revisionID, Number: i + 1, Shape: strings.TrimSpace(p.Shape), MaterialID: p.MaterialID, AngleDeg: p.AngleDeg, Outline: p.Outline, X: p.X, Y: p.Y, FaceUp: p.FaceUp}
		if err := tx.Create(&ply).Error; err != nil {
			return err
		}
	}
	stored, materials, err := loadPlies(tx.DB, revisionID)
	if err != nil {
		return err
	}
	// What cannot be worked out is not stored either.
	_, err = workOut(stored, materials, wire.Recipe{})
	return err
}

// draft finds and holds the draft of a part, at the version the person saw.
func (tx *Tx) draft(partCode string, version int) (Part, Revision, error) {
	part, err := find[Part](tx.DB, ident.Part, partCode, "part")
	if err != nil {
		return part, Revision{}, err
	}
	var r Revision
	if err := locked(tx.DB).Where("part_id = ?", part.ID).Order("id desc").Take(&r).Error; err != nil {
		return part, r, err
	}
	if r.State != "draft" {
		return part, r, conflict("revision %s of %s is released and frozen: start a new revision", r.Letter, part.Number)
	}
	if r.Version != version {
		return part, r, conflict("somebody changed revision %s of %s in the meantime: look at it again", r.Letter, part.Number)
	}
	return part, r, nil
}

// DraftChange is a new stack, a new process, or both, for a draft.
type DraftChange struct {
	Version int       `json:"version" doc:"That the change was made from"`
	Plies   *[]NewPly `json:"plies,omitempty" maxItems:"500"`
	Process *Process  `json:"process,omitempty"`
}

// ChangeDraft stores a change to the draft of a part.
func (s *Shop) ChangeDraft(ctx context.Context, by By, partCode string, in DraftChange) (RevisionView, error) {
	return write(ctx, s, by, WriteMaster, "change draft "+partCode, in, func(tx *Tx) (RevisionView, error) {
		part, r, err := tx.draft(partCode, in.Version)
		if err != nil {
			return RevisionView{}, err
		}
		if in.Plies != nil {
			if err := tx.storePlies(r.ID, *in.Plies); err != nil {
				return RevisionView{}, err
			}
		}
		if in.Process != nil {
			if err := in.Process.check(); err != nil {
				return RevisionView{}, err
			}
			r.Process = *in.Process
		}
		r.Version++
		r.ChangedBy = tx.by.id()
		if err := tx.Save(&r).Error; err != nil {
			return RevisionView{}, err
		}
		if err := tx.log("draft changed", part.Code, "", map[string]any{"letter": r.Letter, "version": r.Version, "change": in}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, r.Letter)
	})
}

// check says whether parts can be made by this process.
func (p Process) check() error {
	if err := p.Recipe.Core().Check(); err != nil {
		return invalid("process.recipe", "%s", err)
	}
	if _, ok := bag.Stacks[p.BagStack]; !ok {
		return invalid("process.bagStack", "there is no bag stack %q", p.BagStack)
	}
	if plan := cure.Plan(p.Recipe.Core(), p.PartLag, planStep, planMost); plan[len(plan)-1].T >= planMost {
		return invalid("process.partLag", "the part would not reach the recipe's holds within three days")
	}
	return nil
}

// ReleaseSign signs a draft as released.
type ReleaseSign struct {
	Version int    `json:"version" doc:"That was looked at"`
	PIN     string `json:"pin" maxLength:"12" doc:"Of who signs"`
}

// ReleaseRevision freezes the draft of a part. Who wrote it last does not sign
// it.
func (s *Shop) ReleaseRevision(ctx context.Context, by By, partCode string, in ReleaseSign) (RevisionView, error) {
	if err := May(by.Person, ReleaseMaster); err != nil {
		return RevisionView{}, err
	}
	if err := s.signature(ctx, by, in.PIN); err != nil {
		return RevisionView{}, err
	}
	return write(ctx, s, by, ReleaseMaster, "release revision "+partCode, in.Version, func(tx *Tx) (RevisionView, error) {
		part, r, err := tx.draft(partCode, in.Version)
		if err != nil {
			return RevisionView{}, err
		}
		if by.Person != nil && r.ChangedBy != nil && *r.ChangedBy == by.Person.ID {
			return RevisionView{}, refused("you wrote this draft: a second person has to look at it and sign")
		}
		plies, materials, err := loadPlies(tx.DB, r.ID)
		if err != nil {
			return RevisionView{}, err
		}
		if len(plies) == 0 {
			return RevisionView{}, invalid("plies", "a revision without plies cannot be released")
		}
		resin := *materials[plies[0].MaterialID].ResinID
		for _, p := range plies {
			if m := materials[p.MaterialID]; *m.ResinID != resin {
				return RevisionView{}, invalid("plies", "ply %d has another resin than ply 1: one cure needs one resin", p.Number)
			}
		}
		r.State, r.ReleasedAt, r.ReleasedBy = "released", &tx.now, tx.by.id()
		if err := tx.Save(&r).Error; err != nil {
			return RevisionView{}, err
		}
		if err := tx.log("revision released", part.Code, "", map[string]string{"letter": r.Letter, "meaning": "released", "role": tx.role()}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, r.Letter)
	})
}

// NewRevision starts a draft as a copy of the newest released revision.
func (s *Shop) NewRevision(ctx context.Context, by By, partCode string) (RevisionView, error) {
	return write(ctx, s, by, WriteMaster, "new revision "+partCode, nil, func(tx *Tx) (RevisionView, error) {
		part, err := find[Part](locked(tx.DB), ident.Part, partCode, "part")
		if err != nil {
			return RevisionView{}, err
		}
		var last Revision
		if err := tx.Where("part_id = ?", part.ID).Order("id desc").Take(&last).Error; err != nil {
			return RevisionView{}, err
		}
		if last.State == "draft" {
			return RevisionView{}, conflict("%s already has a draft, revision %s", part.Number, last.Letter)
		}
		plies, _, err := loadPlies(tx.DB, last.ID)
		if err != nil {
			return RevisionView{}, err
		}
		r := Revision{PartID: part.ID, Letter: nextLetter(last.Letter), State: "draft", Version: 1, Process: last.Process, ChangedBy: tx.by.id(), CreatedAt: tx.now}
		if err := tx.Create(&r).Error; err != nil {
			return RevisionView{}, err
		}
		for _, p := range plies {
			// A new draft is made of what is bought today.
			if err := tx.Raw(`select id from materials where superseded_at is null and family = (select family from materials where id = ?)`, p.MaterialID).Scan(&p.MaterialID).Error; err != nil {
				return RevisionView{}, err
			}
			p.ID, p.RevisionID = 0, r.ID
			if err := tx.Create(&p).Error; err != nil {
				return RevisionView{}, err
			}
		}
		if err := tx.log("revision started", part.Code, "", map[string]string{"letter": r.Letter, "from": last.Letter}); err != nil {
			return RevisionView{}, err
		}
		return s.revisionView(tx.DB, part.Code, r.Letter)
	})
}

// nextLetter counts A, B … Z, AA, AB, leaving out I, O and Q, which drawings
// avoid (common practice, no source).
func nextLetter(letter string) string {
	const letters = "ABCDEFGHJKLMNPRSTUVWXYZ"
	b := []byte(letter)
	for i := len(b) - 1; i >= 0; i-- {
		at := strings.IndexByte(letters, b[i])
		if at+1 < len(letters) {
			b[i] = letters[at+1]
			return string(b)
		}
		b[i] = letters[0]
	}
	return "A" + string(b)
}
