package cutting

import (
	"context"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/geom"
	"juxta/core/ident"
	"juxta/core/master"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/parts"
	"juxta/shop/stock"
)

// Room of the cutting table.
type Room struct{ *builds.Room }

// NestLine is a nest in the list.
type NestLine struct {
	Code     string    `json:"code"`
	Roll     string    `json:"roll"`
	Material string    `json:"material"`
	State    string    `json:"state" enum:"queued,running,done,failed,cut,released"`
	Pieces   int       `json:"pieces"`
	Length   float64   `json:"length"`
	Yield    float64   `json:"yield"`
	At       time.Time `json:"at"`
}

// PieceView is one piece of a nest: which ply of which build, and its outline
// as laid on the sheet.
type PieceView struct {
	ID      string             `json:"id"`
	Build   string             `json:"build"`
	Number  string             `json:"number"`
	Serial  string             `json:"serial"`
	Ply     int                `json:"ply"`
	Outline geom.Ring          `json:"outline" doc:"On the sheet, m"`
	Label   string             `json:"label" doc:"What is written on the backing"`
	CutPly  string             `json:"cutPly,omitempty" doc:"Id of the cut ply, once cut"`
	Missing string             `json:"missing,omitempty" enum:"damaged,lost,flawed,not cut" doc:"Cut, but this one did not come off the table good"`
	Angle   float64            `json:"angleDeg" doc:"Of the fibre in the part"`
	FaceUp  bool               `json:"faceUp"`
	ZeroDeg float64            `json:"zeroDeg" doc:"Direction of the part's 0° on the sheet, anticlockwise"`
	X       float64            `json:"x" doc:"Of the origin of its own points on the sheet, m"`
	Y       float64            `json:"y" doc:"m"`
	Turn    int                `json:"turn" doc:"About that origin, degrees"`
	May     []int              `json:"may" doc:"Turns that its material allows, degrees"`
	Marks   []master.DrawnMark `json:"marks,omitempty" doc:"Drawn on the backing, on the sheet: notches, datum, holes, lines, texts"`
}

// NestView is a nest as far as it has come.
type NestView struct {
	NestLine
	Width       float64            `json:"width"`
	RollLeft    float64            `json:"rollLeft" doc:"On the roll before the cut, m"`
	EdgeTrim    float64            `json:"edgeTrim"`
	Gap         float64            `json:"gap"`
	Flaws       []nest.Flaw        `json:"flaws"`
	Placed      []PieceView        `json:"placed"`
	Builds      []builds.BuildLine `json:"builds"`
	Step        int                `json:"step"`
	Steps       int                `json:"steps" doc:"Places to seek for a ply; 0: as long as the limit"`
	Limit       float64            `json:"limit,omitempty" doc:"Seconds to search for at most"`
	AtMost      float64            `json:"atMost" doc:"The yield that no nest is above: of the width between the edge trims, filled without a gap"`
	Rest        nest.Remnant       `json:"rest,omitzero" doc:"The largest rectangle within what is used on which nothing lies"`
	Seconds     float64            `json:"seconds" doc:"Since it was started, or that it took"`
	Message     string             `gorm:"column:says" json:"message,omitempty"`
	Advice      string             `json:"advice,omitempty" doc:"Failed: what can be done"`
	Wide        []WidePly          `json:"wide" doc:"Failed: plies that are wider than the roll"`
	CutAt       *time.Time         `json:"cutAt,omitempty"`
	RollOutTime calc.OutTimeStatus `json:"rollOutTime"`
	RollRanOut  bool               `json:"rollRanOut,omitempty" doc:"Its out-life is spent or its shelf life over"`
	Woven       bool               `json:"woven"`
	Thickness   float64            `json:"thickness"`
	Films       int                `json:"films" doc:"Backings of the material"`
	Batch       string             `json:"batch" doc:"Lot of the roll"`
	Left        []string           `json:"left" doc:"Plies that were left out, for the rest of the cloth does not hold them"`
	Spoiled     []geom.Ring        `json:"spoiled" doc:"What the knife has spoiled of the cloth"`
	Stale       string             `json:"stale,omitempty" doc:"Why it fits its roll no more"`
	Others      []OtherRoll        `json:"others" doc:"Rolls that were nested with it: while it is searched, and the nests that came of it"`
	Again       bool               `json:"again" doc:"It was arranged again, and that can be taken back"`
	Table       bool               `json:"table" doc:"A cutting table is there"`
	Job         *CutJobView        `json:"job,omitempty" doc:"On the table"`
}

// Nests lists the newest nests.
func (s *Room) Nests(ctx context.Context) ([]NestLine, error) {
	db := s.DB.Gorm.WithContext(ctx)
	out := []NestLine{}
	err := db.Raw(`select n.code, r.code as roll, m.name as material, n.state, n.created_at as at,
		(select count(*) from nest_pieces p where p.nest_id = n.id) as pieces,
		coalesce((n.best->>'length')::float8, 0) as length, coalesce((n.best->>'yield')::float8, 0) as yield
		from nests n join rolls r on r.id = n.roll_id join materials m on m.id = r.material_id
		order by n.id desc limit 50`).Scan(&out).Error
	return out, err
}

// Nest is one nest as far as it has come.
func (s *Room) Nest(ctx context.Context, code string) (NestView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (NestView, error) { return s.nestView(db, code) })
}

func (s *Room) nestView(db *gorm.DB, code string) (NestView, error) {
	n, err := book.Find[Nest](db, ident.Nest, code, "nest")
	if err != nil {
		return NestView{}, err
	}
	var roll stock.Roll
	if err := db.Take(&roll, n.RollID).Error; err != nil {
		return NestView{}, err
	}
	var m stock.Material
	if err := db.Take(&m, roll.MaterialID).Error; err != nil {
		return NestView{}, err
	}
	// Its roll by the last cure of what this nest is cut for.
	var until time.Time
	if err := db.Raw(`select coalesce(max(b.cure_at), now()) from nest_pieces np join builds b on b.id = np.build_id
		where np.nest_id = ?`, n.ID).Scan(&until).Error; err != nil {
		return NestView{}, err
	}
	view, err := s.RollViewUntil(db, roll, until)
	if err != nil {
		return NestView{}, err
	}
	p, sheet := n.Problem, n.Problem.Sheets[0]
	v := NestView{
		NestLine: NestLine{
			Code:     n.Code,
			Roll:     roll.Code,
			Material: m.Name,
			State:    n.State,
			Pieces:   len(p.Pieces),
			At:       n.CreatedAt,
		},
		Width:       sheet.Width,
		RollLeft:    sheet.Length,
		EdgeTrim:    sheet.EdgeTrim,
		Gap:         p.Gap,
		Flaws:       flawsOf(n, roll),
		Step:        n.StepsDone,
		Steps:       p.Steps,
		Limit:       p.Seconds,
		AtMost:      1 - 2*sheet.EdgeTrim/sheet.Width,
		Message:     n.Message,
		CutAt:       n.CutAt,
		Placed:      []PieceView{},
		RollOutTime: view.OutTime,
		RollRanOut:  view.OutTime.Core().RanOut(s.Now(), s.Now()),
		Woven:       m.Kind == "woven",
		Thickness:   m.Thickness,
		Films:       m.Films,
		Left:        []string{},
		Wide:        []WidePly{},
		Spoiled:     append([]geom.Ring{}, sheet.Spoiled...),
		Batch:       view.Batch,
	}
	if v.Flaws == nil {
		v.Flaws = []nest.Flaw{}
	}
	if n.StartedAt != nil {
		end := s.Now()
		if n.EndedAt != nil {
			end = *n.EndedAt
		}
		v.Seconds = end.Sub(*n.StartedAt).Seconds()
	}
	if v.Builds, err = s.BuildLines(db, "b.id in (select build_id from nest_pieces where nest_id = ?)",
		n.ID); err != nil {
		return NestView{}, err
	}
	if err := v.told(db, n); err != nil {
		return NestView{}, err
	}
	if err := v.layout(db, n); err != nil {
		return NestView{}, err
	}
	v.Table, v.Again = s.Table != "", n.Before != nil
	if v.Job, err = jobView(db, n, v.Placed); err != nil {
		return NestView{}, err
	}
	if err := v.stale(db, n, roll); err != nil {
		return NestView{}, err
	}
	v.Others, err = others(db, n)
	return v, err
}

// told adds why a search failed, or what it noted.
func (v *NestView) told(db *gorm.DB, n Nest) (err error) {
	if n.State == "failed" {
		if v.Message, v.Advice, err = whyFailed(db, n); err != nil {
			return err
		}
		if v.Wide, _, err = tooWide(db, n); err != nil {
			return err
		}
	}
	if n.Message != "" && n.State != "failed" {
		if v.Message, err = inWords(db, n.ID, place.ReplaceAllString(n.Message, "")); err != nil {
			return err
		}
	}
	return nil
}

// layout adds how the best nest so far lies, and what of it was left out.
func (v *NestView) layout(db *gorm.DB, n Nest) (err error) {
	if n.Best == nil {
		return nil
	}
	v.Length, v.Yield, v.Rest = n.Best.Used[0], n.Best.Yield, n.Best.Rest
	if v.Rest.Sheet > 0 {
		v.Rest = nest.Remnant{}
	}
	if v.Placed, err = placed(db, n); err != nil {
		return err
	}
	if len(n.Best.Left) > 0 {
		all, err := called(db, n.ID)
		if err != nil {
			return err
		}
		for _, id := range n.Best.Left {
			v.Left = append(v.Left, all[id].Label)
		}
	}
	return nil
}

// stale says that a nest does not fit its roll any more. While the knife is at it nobody nests again.
func (v *NestView) stale(db *gorm.DB, n Nest, roll stock.Roll) error {
	if n.State == "done" && n.Best != nil && !v.Moving() && !sameCloth(roll, n) {
		jobs, err := cutJobs(db, n.ID)
		if err != nil {
			return err
		}
		if err := stillFits(roll, n, jobs); err != nil {
			if v.Stale, err = inWords(db, n.ID, err.Error()); err != nil {
				return err
			}
		}
	}
	return nil
}

// placed says of every placed piece whose ply it is, and draws it.
func placed(db *gorm.DB, n Nest) ([]PieceView, error) {
	views, err := called(db, n.ID)
	if err != nil {
		return nil, err
	}
	outlines := map[string]geom.Ring{}
	turns := map[string][]int{}
	for _, p := range n.Problem.Pieces {
		outlines[p.ID] = p.Outline
		switch {
		case p.QuarterTurn:
			turns[p.ID] = []int{0, 90, 180, 270}
		case p.HalfTurn:
			turns[p.ID] = []int{0, 180}
		default:
			turns[p.ID] = []int{0}
		}
	}
	marks, err := marked(db, n)
	if err != nil {
		return nil, err
	}
	out := make([]PieceView, 0, len(n.Best.Placements))
	for _, at := range n.Best.Placements {
		if at.Sheet > 0 {
			continue // on another roll, while it is searched
		}
		v, own := views[at.ID], outlines[at.ID]
		// The fibre lies along the sheet; a ply that is laid face down is cut as its mirror image.
		v.X, v.Y, v.Turn, v.ZeroDeg, v.May = at.X, at.Y, at.Turn, float64(at.Turn)-v.Angle, turns[at.ID]
		if !v.FaceUp {
			v.ZeroDeg = float64(at.Turn) + v.Angle
		}
		v.Outline = nest.PlaceOutline(own, at)
		for _, m := range marks[at.ID] {
			v.Marks = append(v.Marks, m.At(nest.PlacePoints(m.Places(), at)))
		}
		out = append(out, v)
	}
	return out, nil
}

// marked are the marks of a nest's pieces, each as it lies on its roll.
func marked(db *gorm.DB, n Nest) (map[string][]master.DrawnMark, error) {
	var rows []NestPiece
	if err := db.Where("nest_id = ?", n.ID).Find(&rows).Error; err != nil {
		return nil, err
	}
	plyOf := map[string]int64{}
	var ids []int64
	for _, r := range rows {
		plyOf[r.Piece] = r.PlyID
		ids = append(ids, r.PlyID)
	}
	var plies []parts.Ply
	if err := db.Where("id in ? and (flat is not null or marks is not null)", ids).Find(&plies).Error; err != nil {
		return nil, err
	}
	of := map[int64][][]master.DrawnMark{}
	for _, p := range plies {
		of[p.ID] = p.MarksOnRoll()
	}
	// The pieces of a ply of a build stand in their order.
	out, before := map[string][]master.DrawnMark{}, map[string]int{}
	for _, p := range n.Problem.Pieces {
		id := plyOf[p.ID]
		build, _, _ := strings.Cut(p.ID, "/")
		key := fmt.Sprintf("%s/%d", build, id)
		if k := before[key]; k < len(of[id]) {
			out[p.ID] = of[id][k]
		}
		before[key]++
	}
	return out, nil
}

// called says whose plies the pieces of a nest are, by piece.
func called(db *gorm.DB, nestID int64) (map[string]PieceView, error) {
	var rows []struct {
		Piece, Build, Part, Serial, CutPly, Missing string
		Ply                                         int
		AngleDeg                                    float64
		FaceUp                                      bool
	}
	err := db.Raw(`select np.piece, b.code as build, t.number as part, b.serial, p.number as ply,
		coalesce((select c.code from cut_plies c where c.nest_id = np.nest_id and c.build_id = np.build_id
		and c.ply_id = np.ply_id), '') as cut_ply,
		coalesce((select m.why from cut_misses m where m.nest_id = np.nest_id and m.build_id = np.build_id
		and m.ply_id = np.ply_id), '') as missing, p.angle_deg, p.face_up
		from nest_pieces np join builds b on b.id = np.build_id join plies p on p.id = np.ply_id
		join revisions r on r.id = p.revision_id join parts t on t.id = r.part_id
		where np.nest_id = ?`, nestID).Scan(&rows).Error
	if err != nil {
		return nil, err
	}
	views := map[string]PieceView{}
	for _, r := range rows {
		views[r.Piece] = PieceView{
			ID:     r.Piece,
			Build:  r.Build,
			Number: r.Part,
			Serial: r.Serial,
			Ply:    r.Ply,
			CutPly: r.CutPly,

			Missing: r.Missing,
			Angle:   r.AngleDeg,
			FaceUp:  r.FaceUp,
			Label: fmt.Sprintf(
				"%s · %s · %d%s",
				r.Part,
				r.Serial,
				r.Ply,
				strings.TrimLeft(r.Piece[strings.LastIndexByte(r.Piece, '/')+1:], "0123456789"),
			),
		}
	}
	return views, nil
}
