package laminate

import (
	"math"
	"math/bits"
	"slices"
	"sync"

	"juxta/core/unit"
)

// unpaired names the plies that have no mirror partner. The stack is read as
// two halves, with a ply of its own between them or not, and the reading with
// the most partners is kept, so that one added ply is named alone and not all
// that it has shifted. The partners of two halves are their longest common
// sequence from the outside in, which is found for all splits at once, 64 plies
// at a time (Crochemore et al. 2001, Hyyrö 2004; from memory): O(n²/64).
func unpaired(stack []Ply) []string {
	kind, image := kindsOf(stack)
	// Outermost partners are partners in the best reading, too.
	from, to := 0, len(stack)
	for to-from > 0 && image[from] == kind[to-1] {
		from, to = from+1, to-1
	}
	if to <= from {
		return nil
	}
	stack, kind, image = stack[from:to], kind[from:to], image[from:to]
	n, words := len(stack), (len(stack)+63)/64
	table := tables.Get().(*[]uint64)
	defer tables.Put(table)
	*table = slices.Grow((*table)[:0], (n+1)*words)[:(n+1)*words]
	common := *table
	fill(common, kind, image)
	// The partners of the i outermost plies below with the j outermost above.
	pairs := func(i, j int) int {
		row, ones := common[j*words:], 0
		for w := range i / 64 {
			ones += bits.OnesCount64(row[w])
		}
		if rest := i % 64; rest > 0 {
			ones += bits.OnesCount64(row[i/64] << (64 - rest))
		}
		return i - ones
	}
	// Of the best readings the one with its mid-plane nearest to the middle, rather
	// below than above: the ply that was laid last is the one that was added.
	best, below, above := -1, 0, 0
	for away := range 2*n + 1 {
		half := n + away/2 // where the mid-plane lies, in half plies
		if away%2 == 1 {
			half = n - (away+1)/2
		}
		i, middle := half/2, half%2
		if middle == 1 && lopsided(&stack[i]) {
			continue
		}
		if kept := 2*pairs(i, n-i-middle) + middle; kept > best {
			best, below, above = kept, i, n-i-middle
		}
	}
	odd := make([]bool, n)
	for i, j := below, above; i > 0 || j > 0; {
		switch {
		case i > 0 && j > 0 && image[i-1] == kind[n-j]:
			i, j = i-1, j-1
		case j > 0 && pairs(i, j) == pairs(i, j-1):
			j--
			odd[n-1-j] = true
		default:
			i--
			odd[i] = true
		}
	}
	var names []string
	for i, o := range odd {
		if o {
			names = append(names, stack[i].Name)
		}
	}
	return names
}

// kindsOf numbers the kind of each ply and the kind of its mirror image in
// mid-plane: same material and direction, and for a weave with two faces the
// opposite face up. A ply's partner is one whose kind is its image.
func kindsOf(stack []Ply) (kind, image []int) {
	type looks struct {
		deg      float64
		face     bool
		material string
	}
	var kinds []looks // a handful, however many plies
	of := func(l looks) int {
		k := slices.Index(kinds, l)
		if k < 0 {
			k = len(kinds)
			kinds = append(kinds, l)
		}
		return k
	}
	kind, image = make([]int, len(stack)), make([]int, len(stack))
	for i := range stack {
		p := &stack[i]
		l := looks{material: p.Material}
		if p.laminated() {
			l.deg = direction(p.Angle)
		}
		if !lopsided(p) {
			kind[i] = of(l)
			image[i] = kind[i]
			continue
		}
		l.face = p.FaceUp
		kind[i] = of(l)
		l.face = !l.face
		image[i] = of(l)
	}
	return kind, image
}

// direction is that of a fibre in degrees in (-90, 90], to a millionth: closer
// ones are the same.
func direction(angle float64) float64 {
	return unit.FoldAngle(math.Round(unit.Deg(angle)*1e6) / 1e6)
}

// tables are what [unpaired] works on: large, and asked for at every key.
var tables = sync.Pool{New: func() any { return new([]uint64) }}

// fill writes the table of longest common sequences of a stack from below with
// its mirror image from above, a row for each number of plies from above: a bit
// of a row is 0 where one ply more from below makes the sequence one longer.
func fill(rows []uint64, kind, image []int) {
	n, words := len(kind), (len(kind)+63)/64
	at := make([]uint64, (slices.Max(append(slices.Clone(kind), image...))+1)*words) // where each kind lies
	for i, k := range kind {
		at[k*words+i/64] |= 1 << (i % 64)
	}
	for w := range words {
		rows[w] = ^uint64(0)
	}
	for j := range n {
		match := at[image[n-1-j]*words:]
		row, next, carry := rows[j*words:(j+1)*words], rows[(j+1)*words:], uint64(0)
		for w, v := range row {
			u := v & match[w]
			var sum uint64
			sum, carry = bits.Add64(v, u, carry)
			next[w] = sum | v&^u
		}
	}
}

// lopsided says whether a ply is not even its own mirror image.
func lopsided(p *Ply) bool { return p.laminated() && p.Lamina.AsymmetricWeave }
