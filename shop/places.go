package shop

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"juxta/core/route"
	"juxta/shop/book"
	"juxta/shop/builds"
	"juxta/shop/stock"
)

// Places is the shop's day by place: what was done, what goes on, and what would come next
// if each place did one thing after another in the order of what presses.
type Places struct {
	Now    time.Time `json:"now"`
	From   time.Time `json:"from"`
	To     time.Time `json:"to"`
	Places []Place   `json:"places"`
}

// Place is a bench, an oven, a cutter, or a room where no place was planned.
type Place struct {
	Name string `json:"name"`
	Bars []Bar  `json:"bars"`

	order int
}

// Bar is an operation at a place.
type Bar struct {
	From  time.Time `json:"from"`
	To    time.Time `json:"to"`
	Kind  string    `json:"kind" enum:"done,in work,unattended,planned"`
	Label string    `json:"label"`
}

// inOrder are the rooms in which operations are done, in the order of a plain part's work.
var inOrder = []route.Room{route.Cut, route.Kit, route.Layup, route.Bag, route.Cure, route.Finish, route.Release}

// The window of the day that is shown.
const (
	shownBack  = 8 * time.Hour
	shownAhead = 10 * time.Hour
)

// ShopPlaces is the shop's day by place.
func (s *Shop) ShopPlaces(ctx context.Context) (Places, error) {
	return book.Cached(ctx, s.Book, "places", func(ctx context.Context) (Places, error) {
		return book.View(ctx, s.Book, func(db *gorm.DB) (Places, error) {
			now := s.Now()
			v := Places{Now: now, From: now.Add(-shownBack), To: now.Add(shownAhead), Places: []Place{}}
			rows, err := s.BuildRows(db, "b.done_at is null or b.done_at > ?", v.From)
			if err != nil {
				return v, err
			}
			places := map[string]*Place{}
			at := func(o builds.RouteStep) *Place {
				name := cmp.Or(o.Place, o.Room)
				if places[name] == nil {
					order := slices.Index(inOrder, route.Room(o.Room))
					places[name] = &Place{Name: name, Bars: []Bar{}, order: order}
				}
				return places[name]
			}
			spans, err := s.Spans(db, rows, v.From)
			if err != nil {
				return v, err
			}
			for _, b := range rows {
				for key, span := range spans[b.ID] {
					o := b.RouteProgress().Step(b.RouteProgress().Index(key))
					bar := Bar{
						From:  span.Begun,
						To:    span.Ended,
						Kind:  "done",
						Label: fmt.Sprintf("%s, %s · %s", o.Label, b.Number, b.Serial),
					}
					if o.State == string(route.InWork) || o.State == string(route.Held) {
						bar.Kind, bar.To = "in work", now
						if ends := span.Begun.Add(stock.Seconds(o.Takes)); o.Unattended > 0 && ends.After(now) {
							bar.Kind, bar.To = "unattended", ends
						}
					}
					p := at(o)
					p.Bars = append(p.Bars, bar)
				}
			}
			jobs, err := s.JobsOf(db)
			if err != nil {
				return v, err
			}
			v.plan(jobs, at)
			for _, p := range places {
				slices.SortFunc(
					p.Bars,
					func(a, b Bar) int { return cmp.Or(a.From.Compare(b.From), cmp.Compare(a.Label, b.Label)) },
				)
				v.Places = append(v.Places, *p)
			}
			slices.SortFunc(v.Places, func(a, b Place) int {
				return cmp.Or(cmp.Compare(a.order, b.order), cmp.Compare(a.Name, b.Name))
			})
			return v, nil
		})
	})
}

// plan adds what would come next at each place, as far as it is shown.
func (v *Places) plan(jobs []builds.Job, at func(builds.RouteStep) *Place) {
	var next []builds.Job
	var turns []route.QueuedWork
	free := map[string]time.Time{}
	for _, j := range jobs {
		if j.Step.State != string(route.Ready) && j.Step.State != string(route.Waiting) || j.Step.Takes == 0 {
			continue
		}
		p := at(j.Step)
		for _, b := range p.Bars {
			if b.Kind != "done" && b.To.After(free[p.Name]) {
				free[p.Name] = b.To
			}
		}
		next = append(next, j)
		from := j.From
		if from.Before(v.Now) {
			from = v.Now
		}
		turns = append(turns, route.QueuedWork{Place: p.Name, From: from, Takes: stock.Seconds(j.Step.Takes)})
	}
	for k, begins := range route.ExpectedStarts(free, turns) {
		if begins.Before(v.To) {
			p := at(next[k].Step)
			p.Bars = append(p.Bars, Bar{
				From: begins, To: begins.Add(turns[k].Takes), Kind: "planned",
				Label: fmt.Sprintf("%s, %s · %s", next[k].Step.Label, next[k].Number, next[k].Serial),
			})
		}
	}
}
