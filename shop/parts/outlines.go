package parts

import (
	"crypto/sha256"
	"sync"

	"juxta/core/laminate"
)

// outlines keeps what the outlines of masters say of themselves, however their
// plies are turned and moved: a master is asked about at every key of whoever
// writes it.
type outlines struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]*laminate.Outlines
}

const outlinesMost = 50 // masters written at once, a few states of each

// of are the outlines of layers, as they were worked out before if it was.
func (p *outlines) of(layers []laminate.PlacedPly) *laminate.Outlines {
	now := laminate.NewOutlines(layers)
	key := now.Key()
	p.mu.Lock()
	defer p.mu.Unlock()
	if kept, ok := p.kept[key]; ok {
		return kept
	}
	if p.kept == nil || len(p.kept) >= outlinesMost {
		p.kept = map[[sha256.Size]byte]*laminate.Outlines{}
	}
	p.kept[key] = now
	return now
}
