package builds

import (
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"juxta/core/layup"
	"juxta/core/master"
	"juxta/core/unit"
	"juxta/shop/book"
	"juxta/shop/parts"
)

// BenchNote is what the master says at a ply besides the ply itself.
type BenchNote struct {
	Ply  int    `json:"ply" doc:"That it stands before, or is about; one more than there are: after the last"`
	Kind string `json:"kind" enum:"first,note,caution,hold,second,picture"`
	Text string `json:"text"`

	Picture int64 `json:"picture,omitempty" doc:"File"`
}

// benchNotes are the items between the plies, which come first, and what the plies' own
// items say; of some stages alone where they are named.
func benchNotes(m parts.MasterOf, here func(stage string) bool) []BenchNote {
	out, ply, labels := []BenchNote{}, 1, m.Doc.Labels()
	for _, stage := range m.Doc.Stages {
		for _, i := range stage.Items {
			add := func(n BenchNote) {
				if (n.Text != "" || n.Picture != 0) && here(stage.Key) {
					out = append(out, n)
				}
			}
			if i.Kind != master.Ply {
				says := labels[i.Key]
				for _, part := range []string{i.Name, m.Records[i.MaterialID].Name} {
					if part != "" {
						says += ", " + part
					}
				}
				says = fmt.Sprintf("%s at x %s, y %s", says, unit.Size(i.X, 1), unit.Size(i.Y, 1))
				add(BenchNote{Ply: ply, Kind: "first", Text: says})
			}
			add(BenchNote{Ply: ply, Kind: "note", Text: i.Note})
			add(BenchNote{Ply: ply, Kind: "caution", Text: i.Caution})
			add(BenchNote{Ply: ply, Kind: "hold", Text: i.Hold})
			if i.Second {
				add(BenchNote{Ply: ply, Kind: "second", Text: "a second person checks it"})
			}
			if i.PictureID != 0 {
				add(BenchNote{ply, "picture", labels[i.Key], i.PictureID})
			}
			if i.Kind == master.Ply {
				ply++
			}
		}
	}
	return out
}

// stageDemand is what the master asks for at an item besides laying it, and the stage
// that the item stands in.
type stageDemand struct {
	layup.Demand
	Stage string
}

// demandsOf are a master's demands at its items.
func demandsOf(doc master.Document) (demands []stageDemand, says map[layup.MetDemand]string) {
	says = map[layup.MetDemand]string{}
	ply, labels := 1, doc.Labels()
	for _, s := range doc.Stages {
		for _, i := range s.Items {
			laid := i.Kind == master.Ply
			called := labels[i.Key]
			if laid {
				called = "ply " + called
			}
			add := func(kind string) {
				demands = append(
					demands,
					stageDemand{layup.Demand{Kind: kind, Key: i.Key, Ply: ply, Laid: laid}, s.Key},
				)
			}
			if i.Hold != "" {
				add(layup.Hold)
				says[layup.MetDemand{Kind: layup.Hold, Key: i.Key}] = i.Hold
			}
			if i.Second {
				add(layup.Second)
				says[layup.MetDemand{Kind: layup.Second, Key: i.Key}] = "a second person checks " + called
			}
			if laid {
				ply++
			}
		}
	}
	return demands, says
}

// ofStages are the demands of some stages.
func ofStages(demands []stageDemand, stages []string) []layup.Demand {
	var out []layup.Demand
	for _, d := range demands {
		if slices.Contains(stages, d.Stage) {
			out = append(out, d.Demand)
		}
	}
	return out
}

// stepsOf is the order of work for some of a part's plies, in their order: they keep
// their numbers.
func stepsOf(numbers []int, p layup.Policy, demands []layup.Demand) []layup.Step {
	local := make([]layup.Demand, len(demands))
	for k, d := range demands {
		local[k] = d
		// Of what lies after the last ply the number is one of another stage, or of none.
		local[k].Ply, _ = slices.BinarySearch(numbers, d.Ply)
		local[k].Ply++
	}
	steps := layup.Steps(len(numbers), p, local...)
	for k, s := range steps {
		if s.Ply <= len(numbers) {
			steps[k].Ply = numbers[s.Ply-1]
		} else if len(numbers) > 0 {
			steps[k].Ply = numbers[len(numbers)-1] + 1
		}
	}
	return steps
}

// layupPlan is what the bench of a revision has to do.
type layupPlan struct{ layup.Bench }

// planOf is the bench of an operation of a build's route, or of all its plies where it
// has no route.
func planOf(r parts.Revision, plies int, w *RouteProgress, k int) layupPlan {
	var p layupPlan
	var demands []stageDemand
	if r.Doc != nil {
		demands, p.Demands = demandsOf(*r.Doc)
	}
	if w != nil {
		p.Steps = stepsOf(w.numbers(k), w.process(r.Process, k).Debulks().Policy(), ofStages(demands, w.Lays(k)))
		return p
	}
	all := make([]layup.Demand, len(demands))
	for k, d := range demands {
		all[k] = d.Demand
	}
	p.Steps = layup.Steps(plies, r.Process.Debulks().Policy(), all...)
	return p
}

// refusalOf is a refusal of the bench as the shop tells it.
func refusalOf(r *layup.Refusal) error {
	switch {
	case r == nil:
		return nil
	case r.Unknown:
		return book.NoSuch.Errorf("%s", r.Message)
	case r.Late:
		return book.NotNow.Errorf("%s", r.Message)
	}
	return book.First.Errorf("%s", r.Message)
}

func (p layupPlan) view(s layup.Step) StepView {
	return StepView{
		Ply:    s.Ply,
		Debulk: s.Debulk,
		Demand: s.Kind,
		Key:    s.Key,
		Text:   p.Demands[layup.MetDemand{Kind: s.Kind, Key: s.Key}],
	}
}

// layupDone is what counts as done of a build's layup.
func layupDone(db *gorm.DB, buildID int64) (layup.Done, error) {
	done := layup.Done{Laid: map[int]bool{}, Debulks: map[int]bool{}, Met: map[layup.MetDemand]bool{}}
	var rows []struct {
		What, Key string
		Ply       int
	}
	err := db.Raw(`select 'laid' as what, '' as key, p.number as ply from ply_records l join plies p on p.id = l.ply_id
			where l.build_id = @b and l.taken_back_at is null
		union all select 'debulk', '', after_ply from debulks where build_id = @b and counts
		union all select kind, item_key, ply from marks where build_id = @b
		and void_at is null`, map[string]any{"b": buildID}).Scan(&rows).Error
	for _, r := range rows {
		switch r.What {
		case "laid":
			done.Laid[r.Ply] = true
		case "debulk":
			done.Debulks[r.Ply] = true
		default:
			done.Met[layup.MetDemand{Kind: r.What, Key: r.Key}] = true
		}
	}
	return done, err
}

func PlyList(numbers []int) string {
	parts := make([]string, len(numbers))
	for i, n := range numbers {
		parts[i] = fmt.Sprint(n)
	}
	switch len(parts) {
	case 0:
		return "no ply"
	case 1:
		return "ply " + parts[0]
	}
	return "plies " + strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
}
