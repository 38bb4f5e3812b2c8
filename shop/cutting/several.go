package cutting

import (
	"slices"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/core/nest"
	"juxta/shop/book"
	"juxta/shop/stock"
)

// OtherRoll is another roll that a nest was searched with.
type OtherRoll struct {
	Roll   string  `json:"roll"`
	Nest   string  `json:"nest,omitempty" doc:"On it; missing while it is searched"`
	State  string  `json:"state,omitempty"`
	Plies  int     `json:"plies" doc:"That lie on it"`
	Length float64 `json:"length" doc:"Of it that they take, m"`
}

// others are the rolls that were nested with a nest.
func others(db *gorm.DB, n Nest) ([]OtherRoll, error) {
	out := []OtherRoll{}
	for k, s := range n.Problem.Sheets[1:] {
		one := OtherRoll{Roll: s.Name}
		if n.Best != nil {
			one.Length = n.Best.Used[k+1]
			for _, at := range n.Best.Placements {
				if at.Sheet == k+1 {
					one.Plies++
				}
			}
		}
		out = append(out, one)
	}
	if len(out) > 0 {
		return out, nil
	}
	err := db.Raw(`select r.code as roll, n.code as nest, n.state, (n.best->>'length')::float8 as length,
		jsonb_array_length(n.best->'placements') as plies
		from nests n join rolls r on r.id = n.roll_id
		where n.id <> ? and (n.lead_id = ? or n.id = ? or n.lead_id = ?) and n.best is not null order by n.id`,
		n.ID, n.ID, leadOf(n), leadOf(n)).Scan(&out).Error
	return out, err
}

// leadOf is the nest that a nest was searched with.
func leadOf(n Nest) int64 {
	if n.LeadID != nil {
		return *n.LeadID
	}
	return n.ID
}

// apart makes of a nest on several rolls one on each that is used, for each is cut, recorded and kept by itself: the
// nest itself keeps the first.
func apart(tx *book.Tx, n *Nest) error {
	best, all := n.Best, n.Problem
	first := slices.IndexFunc(best.Used, func(v float64) bool { return v > 0 })
	if len(all.Sheets) < 2 || first < 0 {
		return nil
	}
	for k, used := range best.Used {
		if used == 0 {
			continue
		}
		var roll stock.Roll
		if err := tx.Where("code = ?", all.Sheets[k].Name).Take(&roll).Error; err != nil {
			return err
		}
		part := nest.Layout{Step: best.Step, Dropped: best.Dropped}
		problem := all
		problem.Sheets, problem.Pieces = all.Sheets[k:k+1], nil
		var own []string
		for _, at := range best.Placements {
			if at.Sheet == k {
				at.Sheet = 0
				part.Placements, own = append(part.Placements, at), append(own, at.ID)
			}
		}
		if k == first {
			part.Left = best.Left // they wait to be cut, as they do beside any nest
		}
		for _, q := range all.Pieces {
			if slices.Contains(own, q.ID) || slices.Contains(part.Left, q.ID) {
				q.Sheets, q.Batch = nil, ""
				problem.Pieces = append(problem.Pieces, q)
			}
		}
		found := nest.Measure(problem.Problem, part)
		if k == first {
			n.RollID, n.Problem, n.Best = roll.ID, problem, &found
			continue
		}
		id, code, err := book.NextCode(tx.DB, "nests", ident.Nest)
		if err != nil {
			return err
		}
		lead := leadOf(*n)
		other := *n
		other.ID, other.Code, other.LeadID, other.RollID = id, code, &lead, roll.ID
		other.Problem, other.Best, other.Before = problem, &found, nil
		if err := tx.Create(&other).Error; err != nil {
			return err
		}
		if err := tx.Model(&NestPiece{}).Where("nest_id = ? and piece in ?", n.ID, own).Update("nest_id",
			id).Error; err != nil {
			return err
		}
		if err := tx.Log("nest moved to another roll", code, "", map[string]any{"with": n.Code, "roll": roll.Code,
			"plies": len(own)}); err != nil {
			return err
		}
	}
	return nil
}
