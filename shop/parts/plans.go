package parts

import (
	"crypto/sha256"
	"sync"

	"juxta/core/laminate"
)

// plans keeps what the outlines of masters say of themselves, however their
// plies are turned and moved: a master is asked about at every key of whoever
// writes it.
type plans struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]*laminate.Plan
}

const plansMost = 50 // masters written at once, a few states of each

// of is the plan of layers, as it was worked out before if it was.
func (p *plans) of(layers []laminate.Placed) *laminate.Plan {
	plan := laminate.NewPlan(layers)
	key := plan.Key()
	p.mu.Lock()
	defer p.mu.Unlock()
	if kept, ok := p.kept[key]; ok {
		return kept
	}
	if p.kept == nil || len(p.kept) >= plansMost {
		p.kept = map[[sha256.Size]byte]*laminate.Plan{}
	}
	p.kept[key] = plan
	return plan
}
