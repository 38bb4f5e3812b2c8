package nest

import "slices"

// buckets finds the pieces near a stretch of the common axis.
type buckets struct {
	step  float64
	cells [][]int32
	from  []int32 // of a piece; below zero: it lies nowhere
	to    []int32
	out   []int32
	seen  []uint32
	mark  uint32
}

func (b *buckets) init(g *ground) {
	long := 0.0
	for _, t := range g.things {
		long += t.long
	}
	n := len(g.things)
	b.step = max(long/float64(n), 1e-3)
	far := g.bands[len(g.bands)-1].end()
	b.cells = make([][]int32, min(int(far/b.step)+2, 4000))
	b.step = max(b.step, far/float64(len(b.cells)-1))
	b.from, b.to = make([]int32, n), make([]int32, n)
	for i := range b.from {
		b.from[i] = -1
	}
	b.out, b.seen = make([]int32, 0, n), make([]uint32, n)
}

func (b *buckets) cell(x float64) int32 {
	return int32(min(max(0, x/b.step), float64(len(b.cells)-1)))
}

func (b *buckets) drop(i int) {
	if b.from[i] < 0 {
		return
	}
	for c := b.from[i]; c <= b.to[i]; c++ {
		list := b.cells[c]
		k := slices.Index(list, int32(i))
		list[k] = list[len(list)-1]
		b.cells[c] = list[:len(list)-1]
	}
	b.from[i] = -1
}

func (b *buckets) put(i int, from, to float64) {
	f, t := b.cell(from), b.cell(to)
	if b.from[i] == f && b.to[i] == t {
		return
	}
	b.drop(i)
	for c := f; c <= t; c++ {
		b.cells[c] = append(b.cells[c], int32(i))
	}
	b.from[i], b.to[i] = f, t
}

// near are the pieces that may lie over a stretch; the list is good until it is asked again.
func (b *buckets) near(from, to float64) []int32 {
	f, t := b.cell(from), b.cell(to)
	if f == t {
		return b.cells[f]
	}
	b.mark++
	b.out = b.out[:0]
	for c := f; c <= t; c++ {
		for _, i := range b.cells[c] {
			if b.seen[i] != b.mark {
				b.seen[i] = b.mark
				b.out = append(b.out, i)
			}
		}
	}
	return b.out
}
