package cutting

import (
	"context"
	"errors"
	"math"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/cutpath"
	"juxta/core/geom"
	"juxta/core/unit"
	"juxta/shop/book"
)

// KnifePath is the way of pen and knife over a nest.
type KnifePath struct {
	Seconds  float64      `json:"seconds" doc:"That it takes, of the table as it is entered"`
	Cut      float64      `json:"cut" doc:"By the knife, m"`
	Drawn    float64      `json:"drawn" doc:"By the pen, m"`
	Lifted   float64      `json:"lifted" doc:"With the tool lifted, m"`
	Lifts    int          `json:"lifts"`
	Unmarked []string     `json:"unmarked" doc:"Plies too small for their label"`
	Boxed    []string     `json:"boxed" doc:"Letters that the pen does not know: it draws a box for them"`
	Strokes  []StrokeView `json:"strokes"`
}

// RuledView is a cut along a straight edge.
type RuledView struct {
	Ends   geom.Ring `json:"ends" doc:"Where it begins and ends on the sheet, m"`
	Length float64   `json:"length" doc:"m"`
	Plies  []string  `json:"plies" doc:"Labels of the plies whose sides it cuts"`
}

// StrokeView is one way of a tool without a lift.
type StrokeView struct {
	Tool   string    `json:"tool" enum:"pen,knife"`
	Piece  string    `json:"piece,omitempty" doc:"Missing: the cut across the sheet"`
	Points geom.Ring `json:"points" doc:"On the sheet, m"`
	Frees  bool      `json:"frees,omitempty" doc:"After it the piece is free"`
}

// KnifePathView is the knife's way over a nest as the formats of files want it: IDs are those of the pieces.
type KnifePathView struct {
	Nest NestView
	Path cutpath.Path
	IDs  []string

	cutpath.Cutter
}

const cutterKey = "cutter"

// CutterView is the shop's cutting table as it is entered.
type CutterView struct {
	Version   int         `json:"version" doc:"0: the usual one, nobody has entered the shop's own"`
	Cutter    calc.Cutter `json:"cutter"`
	ChangedAt *time.Time  `json:"changedAt,omitempty"`
}

// CutterIn is a change of it.
type CutterIn struct {
	Version int         `json:"version" doc:"That was seen"`
	Cutter  calc.Cutter `json:"cutter"`
	Reason  string      `json:"reason" minLength:"1" maxLength:"400"`
}

func cutterOf(db *gorm.DB) (v CutterView, err error) {
	v.Cutter = calc.FromCutter(cutpath.Usual())
	v.Version, v.ChangedAt, err = book.ReadSetting(db, cutterKey, &v.Cutter)
	return v, err
}

// Cutter is the shop's cutting table.
func (s *Room) Cutter(ctx context.Context) (CutterView, error) {
	return book.View(ctx, s.Book, cutterOf)
}

// ChangeCutter enters what the shop's table does. Nests are cut by it from then on.
func (s *Room) ChangeCutter(ctx context.Context, by book.By, in CutterIn) (CutterView, error) {
	return book.Write(ctx, s.Book, by, book.KeepRules, "change cutter", in, func(tx *book.Tx) (CutterView, error) {
		var wrong *cutpath.FieldError
		if err := in.Cutter.Core().Check(); errors.As(err, &wrong) {
			field := wrong.Field
			if field == "turn" || field == "corner" {
				field += "Deg"
			}
			return CutterView{}, book.Wrong.At("cutter."+field, "%s", wrong.Message)
		}
		usual := calc.FromCutter(cutpath.Usual())
		if err := book.ChangeSetting(tx, cutterKey, "cutting table", usual, in.Cutter, in.Version,
			in.Reason); err != nil {
			return CutterView{}, err
		}
		return cutterOf(tx.DB)
	})
}

// RuledOf are the straight cuts of a nest for who cuts by hand, the longest first.
func (s *Room) RuledOf(ctx context.Context, code string) ([]RuledView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]RuledView, error) {
		v, err := s.nestView(db, code)
		if err != nil {
			return nil, err
		}
		pieces := make([]cutpath.PlacedPiece, len(v.Placed))
		for k, p := range v.Placed {
			pieces[k] = p.toCut()
		}
		out := []RuledView{}
		for _, r := range cutpath.HandCuts(cutpath.Sheet{Length: v.Length, Width: v.Width}, pieces) {
			one := RuledView{Ends: geom.Ring{r.From, r.To}, Length: r.Length()}
			for _, i := range r.Pieces {
				one.Plies = append(one.Plies, v.Placed[i].Label)
			}
			out = append(out, one)
		}
		return out, nil
	})
}

// KnifePath is the way of pen and knife over a nest, kit by kit if that is asked for.
func (s *Room) KnifePath(ctx context.Context, code string, byKit bool) (KnifePathView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (KnifePathView, error) {
		v, err := s.nestView(db, code)
		if err != nil {
			return KnifePathView{}, err
		}
		return wayOver(db, v, byKit)
	})
}

// wayOver is the way over a nest, or over some of its pieces: it keeps clear of the others.
func wayOver(db *gorm.DB, v NestView, byKit bool, only ...string) (w KnifePathView, err error) {
	if len(v.Placed) == 0 {
		return w, book.NotNow.Errorf("there is no nest to cut yet")
	}
	w.Nest = v
	cutter, err := cutterOf(db)
	if err != nil {
		return w, err
	}
	w.Cutter = cutter.Cutter.Core()
	var pieces []cutpath.PlacedPiece
	for _, p := range v.Placed {
		box := p.Outline.Bounds()
		if t := w.Table; t > 0 && math.Floor((box.Min.X+1e-6)/t) != math.Floor((box.Max.X-1e-6)/t) {
			return w, book.NotNow.Errorf("%s lies across the end of the cutting table: nest again", p.Label)
		}
		one := p.toCut()
		one.Cut = len(only) > 0 && !slices.Contains(only, p.ID)
		pieces, w.IDs = append(pieces, one), append(w.IDs, p.ID)
	}
	sheet := cutpath.Sheet{Length: v.Length, Width: v.Width}
	w.Path, err = cutpath.Plan(sheet, pieces, w.Cutter, cutpath.Options{ByKit: byKit, Across: true})
	return w, err
}

// markLetter is how high the texts of marks are written, m.
const markLetter = 0.005

// toCut is a piece as the knife's way wants it.
func (p PieceView) toCut() cutpath.PlacedPiece {
	zero := unit.Fibre(p.ZeroDeg)
	out := cutpath.PlacedPiece{ID: p.ID, Kit: p.Build, Outline: p.Outline, Label: p.Label, Zero: &zero}
	for _, m := range p.Marks {
		points := m.Places()
		switch {
		case m.Closed:
			out.Holes = append(out.Holes, points)
		case len(points) > 1:
			out.Lines = append(out.Lines, points)
		case len(points) == 1 && m.Text != "":
			for _, l := range cutpath.LetterStrokes(m.Text, points[0], markLetter) {
				if out.Outline.ContainsAll(l) {
					out.Lines = append(out.Lines, l)
				}
			}
		}
	}
	return out
}

// boxed are the letters of labels and marks that the pen does not know.
func (w KnifePathView) boxed() []string {
	out := []string{}
	add := func(text string) {
		for _, l := range cutpath.MissingLetters(text) {
			if !slices.Contains(out, l) {
				out = append(out, l)
			}
		}
	}
	for _, p := range w.Nest.Placed {
		add(p.Label)
		for _, m := range p.Marks {
			add(m.Text)
		}
	}
	return out
}

// View is the way as a page draws it.
func (w KnifePathView) View() KnifePath {
	v := KnifePath{
		Seconds: w.Path.Seconds, Cut: w.Path.Cut, Drawn: w.Path.Drawn, Lifted: w.Path.Lifted,
		Lifts:    len(w.Path.Strokes),
		Unmarked: []string{}, Boxed: w.boxed(), Strokes: make([]StrokeView, len(w.Path.Strokes)),
	}
	of := map[string]string{}
	for _, p := range w.Nest.Placed {
		of[p.ID] = p.Label
	}
	for _, id := range w.Path.Unmarked {
		v.Unmarked = append(v.Unmarked, of[id])
	}
	for k, s := range w.Path.Strokes {
		one := StrokeView{Tool: [...]string{"pen", "knife"}[s.Tool], Points: s.Points, Frees: s.Frees}
		if s.Piece >= 0 {
			one.Piece = w.IDs[s.Piece]
		}
		v.Strokes[k] = one
	}
	return v
}
