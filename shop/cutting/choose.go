package cutting

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"juxta/calc"
	"juxta/core/ident"
	"juxta/core/material"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/stock"
)

// CutDemand is what waits to be cut from one material, with the rolls weighed
// for it.
type CutDemand struct {
	MaterialID int64        `json:"materialId" doc:"Family of the material"`
	Material   string       `json:"material"`
	Unit       string       `json:"unit"`
	Builds     []CutBuild   `json:"builds"`
	Plies      int          `json:"plies"`
	Area       float64      `json:"area" doc:"Of the plies, m²"`
	Longest    float64      `json:"longest" doc:"Longest piece along the roll, m"`
	Widest     float64      `json:"widest" doc:"Widest piece across the roll, m"`
	Rolls      []RollChoice `json:"rolls" doc:"Best first, then those passed over"`
	MoreFit    int          `json:"moreFit" doc:"Rolls that would fit as well and are not told of"`
	NotWeighed int          `json:"notWeighed" doc:"Rolls that expire later than those weighed"`
}

// CutBuild is a build with plies of a material still to cut, by operation of its route.
type CutBuild struct {
	Code   string    `json:"code"`
	Number string    `json:"number"`
	Serial string    `json:"serial"`
	Plies  int       `json:"plies" doc:"Still to cut from this material"`
	Area   float64   `json:"area" doc:"m²"`
	CureAt time.Time `json:"cureAt"`

	Operation string `json:"operation,omitempty" doc:"Of its route, that cuts these plies"`
	Label     string `json:"label,omitempty" doc:"What the operation is called"`
	Waits     string `json:"waits,omitempty" doc:"What it still waits for: it is not nested before"`

	Shares []string `json:"shares" doc:"Builds due about the same time whose plies lie beside its widest on one roll: they share a nest well"`
	Misfit string   `json:"misfit,omitempty" doc:"Why no roll on hand can be cut for it: the rolls are weighed without it"`

	longest, widest float64
}

// RollChoice is a roll weighed for a cut.
type RollChoice struct {
	Code    string             `json:"code"`
	Kind    string             `json:"kind" enum:"roll,off-cut"`
	Batch   string             `json:"batch"`
	Place   string             `json:"place"`
	Width   float64            `json:"width"`
	Length  float64            `json:"length"`
	Open    bool               `json:"open"`
	OutTime calc.OutTimeStatus `json:"outTime"`
	Passed  string             `json:"passed,omitempty" doc:"Why it was passed over"`
	Warns   string             `json:"warns,omitempty" doc:"What to keep an eye on"`
}

// CutQueue lists what waits to be cut, by material, with the rolls ranked for it:
// for all builds, or for some.
func (s *Room) CutQueue(ctx context.Context, builds ...string) ([]CutDemand, error) {
	return book.Cached(ctx, s.Book, fmt.Sprint("cut queue ", builds), func(ctx context.Context) ([]CutDemand, error) {
		return book.View(ctx, s.Book, func(db *gorm.DB) ([]CutDemand, error) {
			return s.cutDemands(db, builds, "true")
		})
	})
}

// WhichRoll weighs the rolls for what is still to be cut of one build, or for
// some of its plies.
func (s *Room) WhichRoll(ctx context.Context, code string, plies []int) ([]CutDemand, error) {
	return book.Cached(
		ctx,
		s.Book,
		fmt.Sprint("which roll ", code, plies),
		func(ctx context.Context) ([]CutDemand, error) {
			return book.View(ctx, s.Book, func(db *gorm.DB) ([]CutDemand, error) {
				b, err := book.Find[builds.Build](db, ident.Build, code, "build")
				if err != nil {
					return nil, err
				}
				if len(plies) > 0 {
					return s.cutDemands(db, nil, "b.id = ? and p.number in ?", b.ID, plies)
				}
				return s.cutDemands(db, nil, "b.id = ?", b.ID)
			})
		},
	)
}

// cutDemands are the demands of some plies not cut yet with the rolls weighed for
// each.
func (s *Room) cutDemands(db *gorm.DB, only []string, where string, args ...any) ([]CutDemand, error) {
	demands, err := s.cutAreas(db, only, where, args...)
	if err != nil {
		return nil, err
	}
	freezers, err := s.FreezerNames(db)
	if err != nil {
		return nil, err
	}
	for i := range demands {
		d, until := &demands[i], time.Time{}
		widest, err := misfits(db, d)
		if err != nil {
			return nil, err
		}
		d.share(widest)
		for _, b := range d.Builds {
			// The nearest: a roll that lasts for one is not passed over because of another.
			if b.Misfit == "" && b.Waits == "" && (until.IsZero() || b.CureAt.Before(until)) {
				until = b.CureAt
			}
		}
		if err := s.choices(db, d, until, freezers); err != nil {
			return nil, err
		}
	}
	return demands, nil
}

// misfits marks the builds that no roll on hand is wide enough for, and leaves them
// out of what the rolls are weighed for: one of them would pass over every roll for
// all others. It gives the width of the widest roll.
func misfits(db *gorm.DB, d *CutDemand) (widest float64, err error) {
	if err := db.Raw(`select coalesce(max(width), 0) from rolls where length > 0 and material_id in (select id
		from materials where family = ?)`, d.MaterialID).Scan(&widest).Error; err != nil {
		return 0, err
	}
	fit := *d
	fit.Plies, fit.Area, fit.Longest, fit.Widest = 0, 0, 0, 0
	for i := range d.Builds {
		b := &d.Builds[i]
		if widest > 0 && b.widest > widest+1e-9 {
			b.Misfit = fmt.Sprintf(
				"it needs %s across the roll, the widest on hand has %s",
				unit.Size(b.widest, 0),
				unit.Size(widest, 0),
			)
			continue
		}
		if b.Waits != "" {
			continue
		}
		fit.Plies += b.Plies
		fit.Area += b.Area
		fit.Longest, fit.Widest = max(fit.Longest, b.longest), max(fit.Widest, b.widest)
	}
	if fit.Plies > 0 { // else there is nothing to spoil
		d.Plies, d.Area, d.Longest, d.Widest = fit.Plies, fit.Area, fit.Longest, fit.Widest
	}
	return widest, nil
}

// cutAreas are the demands of some plies not cut yet, without rolls.
func (s *Room) cutAreas(db *gorm.DB, only []string, where string, args ...any) ([]CutDemand, error) {
	open, err := s.uncut(db, only, where, args...)
	if err != nil {
		return nil, err
	}
	waits, err := s.waits(db, open)
	if err != nil {
		return nil, err
	}
	materialIDs := make([]int64, len(open))
	for i, p := range open {
		materialIDs[i] = p.MaterialID
	}
	materials, err := book.ByID(db, materialIDs, func(m stock.Material) int64 { return m.ID })
	if err != nil {
		return nil, err
	}
	out := []CutDemand{}
	at, of := map[int64]int{}, map[string]int{}
	for _, p := range open {
		m := materials[p.MaterialID]
		i, seen := at[m.Family]
		if !seen {
			i = len(out)
			at[m.Family] = i
			out = append(
				out,
				CutDemand{
					MaterialID: m.Family,
					Material:   m.Name,
					Unit:       stock.UnitOf(m.Kind),
					Builds:     []CutBuild{},
					Rolls:      []RollChoice{},
				},
			)
		}
		d := &out[i]
		key := fmt.Sprint(m.Family, " ", p.Build, " ", p.Operation)
		n, known := of[key]
		if !known {
			n = len(d.Builds)
			of[key] = n
			d.Builds = append(d.Builds, CutBuild{
				Code: p.Build, Number: p.Part, Serial: p.Serial, CureAt: p.CureAt, Operation: p.Operation,
				Label: p.Label,
				Waits: waits[p.BuildID][p.Operation], Shares: []string{},
			})
		}
		b := &d.Builds[n]
		b.Plies++
		d.Plies++
		for _, ring := range p.OnRoll() {
			box, area := ring.Bounds(), ring.Area()
			b.Area += area
			b.longest, b.widest = max(b.longest, box.Width()), max(b.widest, box.Height())
			d.Area += area
			d.Longest, d.Widest = max(d.Longest, box.Width()), max(d.Widest, box.Height())
		}
	}
	return out, nil
}

// onHand is what choosing needs to know of a roll: few columns, for there may
// be hundreds.
type onHand struct {
	stock.Roll
	Batch stock.Batch
}

// firstToExpire are the codes of all rolls on hand of a family in the order in which
// they should be used, as the core ranks them. There may be thousands: only what their
// end follows from is loaded.
func firstToExpire(db *gorm.DB, family int64, materials map[int64]stock.Material, now time.Time) ([]string, error) {
	var rolls []struct {
		stock.Roll
		ShelfEnd *time.Time
	}
	if err := db.Raw(`select r.code, r.kind, r.material_id, r.spent, r.ageing, r.ext_until, r.ext_more, r.clock_at,
		b.shelf_end
		from rolls r join batches b on b.id = r.batch_id
		where r.length > 0 and r.material_id in (select id from materials where family = ?)`, family).
		Scan(&rolls).Error; err != nil {
		return nil, err
	}
	dues := make([]material.Due, len(rolls))
	for k, r := range rolls {
		outTime := material.NewOutTimeStatus(r.Clock().Later(now), materials[r.MaterialID].Limits(r.ShelfEnd), 0, now)
		dues[k] = material.Due{ID: r.Code, OffCut: r.Kind == "off-cut", Ends: outTime.Ends()}
	}
	material.FirstToExpire(dues)
	codes := make([]string, len(dues))
	for k, d := range dues {
		codes[k] = d.ID
	}
	return codes, nil
}

// goods loads rolls with what decides about their batch.
func goods(db *gorm.DB, where string, args ...any) ([]onHand, error) {
	rows, err := db.Raw(`select r.code, r.kind, r.material_id, r.freezer_id, r.place, r.width, r.full_length, r.length,
		case when r.flaws = '[]' then '' else r.flaws::text end, r.open, r.out, r.ageing,
		r.spent, r.ext_until, r.ext_more, r.clock_at, b.lot, b.state, b.quarantine, b.override_at, b.shelf_end
		from rolls r join batches b on b.id = r.batch_id where `+where, args...).
		Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []onHand
	for rows.Next() {
		var r onHand
		var flaws string
		if err := rows.Scan(&r.Code, &r.Kind, &r.MaterialID, &r.FreezerID, &r.Place, &r.Width, &r.FullLength, &r.Length,
			&flaws,
			&r.Open, &r.Out, &r.Ageing,
			&r.Spent, &r.ExtUntil, &r.ExtMore, &r.ClockAt, &r.Batch.Lot, &r.Batch.State, &r.Batch.Quarantine,
			&r.Batch.OverrideAt, &r.Batch.ShelfEnd); err != nil {
			return nil, err
		}
		if flaws != "" {
			if err := json.Unmarshal([]byte(flaws), &r.Flaws); err != nil {
				return nil, err
			}
		}
		out = append(out, r)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	return out, nil
}

// versions are the versions of a family, by id.
func versions(db *gorm.DB, family int64) (map[int64]stock.Material, error) {
	var all []stock.Material
	if err := db.Where("family = ?", family).Find(&all).Error; err != nil {
		return nil, err
	}
	out := map[int64]stock.Material{}
	for _, m := range all {
		out[m.ID] = m
	}
	return out, nil
}

// shownFits is how many rolls that fit are told of: nobody reads on when there
// are hundreds. Rolls are weighed in steps of atOnce, in the order in which
// they expire, until so many are found.
const (
	shownFits = 12
	atOnce    = 150
)

// choices ranks the rolls on hand for a demand.
func (s *Room) choices(db *gorm.DB, d *CutDemand, until time.Time, freezers map[int64]string) error {
	materials, err := versions(db, d.MaterialID)
	if err != nil {
		return err
	}
	now := s.Now()
	job := material.Job{Area: d.Area, Longest: d.Longest, Widest: d.Widest}
	codes, err := firstToExpire(db, d.MaterialID, materials, now)
	if err != nil {
		return err
	}
	weighed, byCode := []material.Choice{}, map[string]onHand{}
	var ranked []material.Choice
	for found := 0; found < shownFits && len(weighed) < len(codes); {
		rows, err := goods(db, "r.code in ?", codes[len(weighed):min(len(weighed)+atOnce, len(codes))])
		if err != nil {
			return err
		}
		for _, r := range rows {
			byCode[r.Code] = r
			f := material.NewOutTimeStatus(
				r.Clock().Later(now),
				materials[r.MaterialID].Limits(r.Batch.ShelfEnd),
				until.Sub(now),
				now,
			)
			c := material.Choice{
				ID:      r.Code,
				OutTime: f,
				Length:  r.Length,
				Width:   r.Width,
				OffCut:  r.Kind == "off-cut",
				Blocked: r.Batch.Blocked(),
			}
			for _, flaw := range r.FlawsLeft() {
				c.Left = append(c.Left, material.Stretch{From: flaw.From, To: flaw.To})
			}
			weighed = append(weighed, c)
		}
		ranked = material.Choose(weighed, job, now)
		found = 0
		for _, c := range ranked {
			if c.Passed == "" {
				found++
			}
		}
	}
	d.NotWeighed = len(codes) - len(weighed)
	fits := 0
	for _, c := range ranked {
		if c.Passed == "" {
			if fits++; fits > shownFits {
				d.MoreFit++
				continue
			}
		}
		r := byCode[c.ID]
		choice := RollChoice{
			Code:    r.Code,
			Kind:    r.Kind,
			Batch:   r.Batch.Lot,
			Place:   r.Place,
			Width:   r.Width,
			Length:  r.Length,
			Open:    r.Open,
			OutTime: calc.FromOutTime(c.OutTime),
			Passed:  c.Passed,
			Warns:   c.Warns,
		}
		if r.FreezerID != nil {
			choice.Place = freezers[*r.FreezerID] + ", " + r.Place
		}
		d.Rolls = append(d.Rolls, choice)
	}
	return nil
}
