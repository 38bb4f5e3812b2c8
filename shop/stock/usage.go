package stock

import (
	"context"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
)

// Usage is what becomes of the material: what expires soon, what its life was
// spent on, and what was thrown away.
type Usage struct {
	From     time.Time      `json:"from"`
	To       time.Time      `json:"to"`
	Expiring []ExpiringRoll `json:"expiring" doc:"On hand, the first to expire first"`
	Life     []LifeUse      `json:"life"`
	Scrap    []ScrapUse     `json:"scrap"`
}

// ExpiringRoll is a roll whose shelf life ends within 60 days, or of whose
// out-life less than a fifth is left.
type ExpiringRoll struct {
	Code     string     `json:"code"`
	Material string     `json:"material"`
	Lot      string     `json:"lot"`
	Area     float64    `json:"area" doc:"Left, m²"`
	ShelfEnd *time.Time `json:"shelfEnd,omitempty"`
	Left     float64    `json:"left" doc:"Of its out-life, s"`
	Life     float64    `json:"life" doc:"s"`
	Expired  bool       `json:"expired,omitempty" doc:"Its shelf life is over or its out-life spent"`
	Message  string     `json:"message"`
}

// LifeUse is out-time of the rolls of a material by what it was spent on, each
// hour weighed with the area that is or was on the roll.
type LifeUse struct {
	Material string  `json:"material"`
	Rolls    int     `json:"rolls"`
	Bench    float64 `json:"bench" doc:"Mean of the rolls, s"`
	Warm     float64 `json:"warm" doc:"In freezers that were too warm"`
	Before   float64 `json:"before" doc:"Before it came, or on the roll that an off-cut is of"`
}

// ScrapUse is area thrown away for a reason, beside what was used.
type ScrapUse struct {
	Material string  `json:"material"`
	Reason   string  `json:"reason" doc:"used: what became parts"`
	Area     float64 `json:"area" doc:"m²"`
	Times    int     `json:"times"`
}

// Usage adds up the material between two times.
func (s *Room) Usage(ctx context.Context, from, to time.Time) (Usage, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (Usage, error) {
		now := s.Now()
		u := Usage{From: from, To: to, Expiring: []ExpiringRoll{}, Life: []LifeUse{}, Scrap: []ScrapUse{}}
		if err := book.DatesIn(u); err != nil {
			return u, err
		}
		if !to.After(from) {
			return u, book.WrongTime.At("to", "the end lies before the beginning")
		}
		var rolls []Roll
		if err := db.Raw(`select r.* from rolls r join batches b on b.id = r.batch_id where r.length > 0 and
			(coalesce(r.ext_until, b.shelf_end) < ? or r.life > 0
			and r.life_left - case when r.ageing then extract(epoch
			from ?::timestamptz - r.clock_at) else 0 end < r.life / 5)
			order by least(coalesce(r.ext_until, b.shelf_end), ?::timestamptz + r.life_left * interval '1 second')
			limit 200`, now.Add(60*24*time.Hour), now, now).Scan(&rolls).Error; err != nil {
			return u, err
		}
		views, err := s.RollViews(db, rolls)
		if err != nil {
			return u, err
		}
		for _, v := range views {
			e := ExpiringRoll{
				Code:     v.Code,
				Material: v.Material,
				Lot:      v.Batch,
				Area:     v.Length * v.Width,
				ShelfEnd: v.OutTime.ShelfEnd,
				Left:     v.OutTime.Life - v.OutTime.Spent,
				Life:     v.OutTime.Life,
			}
			switch {
			case e.ShelfEnd != nil && now.After(*e.ShelfEnd):
				e.Expired, e.Message = true, "shelf life is over"
			case v.OutTime.Ages && e.Left <= 0:
				e.Expired, e.Message = true, "out-life is spent"
			case e.ShelfEnd != nil && e.ShelfEnd.Before(now.Add(60*24*time.Hour)):
				e.Message = "shelf life ends soon"
			default:
				e.Message = "little out-life left"
			}
			u.Expiring = append(u.Expiring, e)
		}
		if err := db.Raw(`select m.name as material, count(*) as rolls, avg(r.bench + case when r.ageing
			and r.out then extract(epoch from ?::timestamptz - r.clock_at) else 0 end) as bench,
			avg(r.warm) as warm, avg(r.base_spent) as before from rolls r join materials f on f.id = r.material_id
			join materials m on m.family = f.family and m.superseded_at is null
			where r.life > 0 and exists (select from freezer_events e where e.roll_id = r.id and e.at between ? and ?)
			group by m.name order by m.name`, now, from, to).Scan(&u.Life).Error; err != nil {
			return u, err
		}
		err = db.Raw(`select m.name as material, case when e.kind = 'used' then 'used' else split_part(e.note, ':',
			1) end as reason, sum(e.length * r.width) as area, count(*) as times
			from freezer_events e join rolls r on r.id = e.roll_id join materials f on f.id = r.material_id
			join materials m on m.family = f.family and m.superseded_at is null
			where e.kind in ('used', 'scrapped') and e.at between ? and ? and not exists (select from freezer_events c
			where c.cancels = e.id)
			group by 1, 2, e.kind = 'used' order by 1, e.kind = 'used' desc, area desc`, from, to).
			Scan(&u.Scrap).
			Error
		return u, err
	})
}
