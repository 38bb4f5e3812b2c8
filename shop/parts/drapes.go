package parts

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"sync"

	"juxta/core/drape"
	"juxta/core/master"
)

// drapes keeps how plies lie on their surfaces, and the surfaces: a master is asked about at
// every key of whoever writes it, and most of its plies lie as they lay.
type drapes struct {
	mu       sync.Mutex
	surfaces map[[sha256.Size]byte]*drape.Mesh
	laid     map[[sha256.Size]byte]laid
}

type laid struct {
	pieces []*drape.DrapedPiece
	err    error
}

// loader loads a surface that was brought in.
type loader func(id int64) (*drape.Mesh, error)

const (
	surfacesMost = 8
	drapesMost   = 100 // some MB each: their nodes
)

// built is what lies on surfaces that their own figures say: the same in every shop of the process. What was brought in
// is known by its number in one shop alone.
var built drapes

// lay lays a ply, or tells how it lay before.
func (k *drapes) lay(of master.DrapeOf, load loader) ([]*drape.DrapedPiece, error) {
	if of.Surface.Kind != master.MeshSurface {
		k = &built
	}
	key, err := hashed(of)
	if err != nil {
		return nil, err
	}
	k.mu.Lock()
	before, known := k.laid[key]
	k.mu.Unlock()
	if known {
		return before.pieces, before.err
	}
	m, err := k.surface(of.Surface, load)
	if err != nil {
		return nil, err
	}
	all, err := of.Lay(context.Background(), m)
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.laid == nil || len(k.laid) >= drapesMost {
		k.laid = map[[sha256.Size]byte]laid{}
	}
	k.laid[key] = laid{all, err}
	return all, err
}

// surface is a surface as a mesh.
func (k *drapes) surface(s master.Surface, load loader) (*drape.Mesh, error) {
	key, err := hashed(s)
	if err != nil {
		return nil, err
	}
	k.mu.Lock()
	m, known := k.surfaces[key]
	k.mu.Unlock()
	if known {
		return m, nil
	}
	if s.Kind == master.MeshSurface {
		m, err = load(s.MeshID)
	} else {
		m, err = s.Built()
	}
	if err != nil {
		return nil, err
	}
	if s.Kind == master.MeshSurface && s.Turned {
		m.Turn()
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.surfaces == nil || len(k.surfaces) >= surfacesMost {
		k.surfaces = map[[sha256.Size]byte]*drape.Mesh{}
	}
	k.surfaces[key] = m
	return m, nil
}

func hashed(v any) (key [sha256.Size]byte, err error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return key, err
	}
	return sha256.Sum256(raw), nil
}
