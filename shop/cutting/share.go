package cutting

import (
	"slices"
	"time"
)

// Plies of builds that are due within so long of one another are cut together; between them lie the knife's gap and
// the edge trims, about.
const (
	dueTogether = 72 * time.Hour
	betweenThem = 0.012
)

// share sorts the builds by when they are due, and names those that share a nest well: the widest plies of both lie
// beside each other on the widest roll.
func (d *CutDemand) share(width float64) {
	slices.SortStableFunc(d.Builds, func(a, b CutBuild) int { return a.CureAt.Compare(b.CureAt) })
	for i := range d.Builds {
		b := &d.Builds[i]
		for j, o := range d.Builds {
			apart := o.CureAt.Sub(b.CureAt).Abs()
			if i == j || b.Misfit != "" || o.Misfit != "" || o.Waits != "" ||
				o.Code == b.Code && o.Operation == b.Operation {
				continue
			}
			if apart <= dueTogether && b.widest+o.widest+betweenThem <= width {
				b.Shares = append(b.Shares, o.Number+" · "+o.Serial)
			}
		}
	}
}
