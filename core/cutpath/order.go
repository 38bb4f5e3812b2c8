package cutpath

import (
	"math"

	"juxta/core/geom"
)

// item is what is drawn or cut at once, with the ways in which that can be done.
type item struct {
	options []option
	before  []int // items that come first
}

// option is where the tool comes down and where it is lifted; back is the option of the other direction.
type option struct {
	in, out geom.Point
	back    int
}

// tour is an order of items, each with the option it is done by.
type tour struct {
	items  []item
	start  geom.Point
	order  []int
	option []int
	place  []int
}

// order is a short way over items from a start: the nearest next, then improved by turning stretches round
// and moving items, with the best options for the order found each time. It is never longer than the nearest
// next.
func order(items []item, start geom.Point) *tour {
	t := &tour{items: items, start: start, option: make([]int, len(items)), place: make([]int, len(items))}
	t.nearest()
	for range 20 {
		moved := t.improve()
		if !t.choose() && !moved {
			break
		}
	}
	return t
}

// nearest goes to the nearest item that may come next, each time.
func (t *tour) nearest() {
	n := len(t.items)
	done := make([]bool, n)
	at := t.start
	for range n {
		best, by, least := -1, 0, math.Inf(1)
		for i := range t.items {
			if done[i] || !t.ready(i, done) {
				continue
			}
			for k, o := range t.items[i].options {
				if d := apart(at, o.in); d < least {
					best, by, least = i, k, d
				}
			}
		}
		done[best] = true
		t.option[best], t.place[best] = by, len(t.order)
		t.order = append(t.order, best)
		at = t.items[best].options[by].out
	}
}

func (t *tour) ready(i int, done []bool) bool {
	for _, b := range t.items[i].before {
		if !done[b] {
			return false
		}
	}
	return true
}

// out is where the tool is after the place of an order; before the first at the start.
func (t *tour) out(place int) geom.Point {
	if place < 0 {
		return t.start
	}
	i := t.order[place]
	return t.items[i].options[t.option[i]].out
}

func (t *tour) in(i int) geom.Point { return t.items[i].options[t.option[i]].in }

// length is of all that the lifted tool goes.
func (t *tour) length() float64 {
	sum := 0.0
	for k, i := range t.order {
		sum += apart(t.out(k-1), t.in(i))
	}
	return sum
}

// within is how far apart in an order places are changed: with many items not all with all.
func (t *tour) within() int { return max(40, min(len(t.order), 40_000/max(1, len(t.order)))) }

// improve turns stretches of the order round and moves items while that makes it shorter.
func (t *tour) improve() bool {
	any := false
	for better := true; better; {
		better = false
		for i := range t.order {
			for j := i + 1; j < min(len(t.order), i+t.within()); j++ {
				if t.turnRound(i, j) || t.bring(i, j) || t.bring(j, i) {
					better, any = true, true
				}
			}
		}
	}
	return any
}

// span is the way over the places from a to b and on to the next.
func (t *tour) span(a, b int) float64 {
	sum := 0.0
	for k := a; k <= min(b+1, len(t.order)-1); k++ {
		sum += apart(t.out(k-1), t.in(t.order[k]))
	}
	return sum
}

// least is by how much a change has to be shorter, m.
const least = 1e-6

// turnRound turns the stretch from place a to b round, if that is allowed and shorter.
func (t *tour) turnRound(a, b int) bool {
	// Quickly: the two ends alone, which is all where nothing has a direction.
	first, last := t.order[a], t.order[b]
	was := apart(t.out(a-1), t.in(first))
	now := apart(t.out(a-1), t.items[last].options[t.items[last].options[t.option[last]].back].in)
	if b+1 < len(t.order) {
		next := t.in(t.order[b+1])
		was += apart(t.out(b), next)
		now += apart(t.items[first].options[t.items[first].options[t.option[first]].back].out, next)
	}
	if now > was-least || !t.loose(a, b) {
		return false
	}
	long := t.span(a, b)
	t.flip(a, b)
	if t.span(a, b) < long-least {
		return true
	}
	t.flip(a, b)
	return false
}

// loose says whether no item of a stretch must come before another of it.
func (t *tour) loose(a, b int) bool {
	for _, i := range t.order[a : b+1] {
		for _, p := range t.items[i].before {
			if t.place[p] >= a && t.place[p] <= b {
				return false
			}
		}
	}
	return true
}

func (t *tour) flip(a, b int) {
	for k := a; k <= b; k++ {
		i := t.order[k]
		t.option[i] = t.items[i].options[t.option[i]].back
	}
	for x, y := a, b; x < y; x, y = x+1, y-1 {
		t.order[x], t.order[y] = t.order[y], t.order[x]
	}
	for k := a; k <= b; k++ {
		t.place[t.order[k]] = k
	}
}

// bring moves the item of one place to another, if that is allowed and shorter.
func (t *tour) bring(from, to int) bool {
	if from == to {
		return false
	}
	lo, hi := min(from, to), max(from, to)
	i := t.order[from]
	// Only where the new neighbours are nearer than the old: most are not.
	was := apart(t.out(from-1), t.in(i))
	if from+1 < len(t.order) {
		was += apart(t.out(from), t.in(t.order[from+1]))
	}
	if apart(t.out(to), t.in(i)) > was && (to == 0 || apart(t.out(to-1), t.in(i)) > was) {
		return false
	}
	for k := lo; k <= hi; k++ {
		j := t.order[k]
		for _, p := range t.items[j].before {
			if (j == i || p == i) && t.place[p] >= lo && t.place[p] <= hi {
				return false
			}
		}
	}
	long := t.span(lo, hi)
	t.shift(from, to)
	if t.span(lo, hi) < long-least {
		return true
	}
	t.shift(to, from)
	return false
}

func (t *tour) shift(from, to int) {
	i := t.order[from]
	for k := from; k < to; k++ {
		t.order[k] = t.order[k+1]
	}
	for k := from; k > to; k-- {
		t.order[k] = t.order[k-1]
	}
	t.order[to] = i
	for k := min(from, to); k <= max(from, to); k++ {
		t.place[t.order[k]] = k
	}
}

// choose takes the options that make the order shortest (by dynamic programming over them).
func (t *tour) choose() bool {
	if len(t.order) == 0 {
		return false
	}
	was := t.length()
	costs := make([][]float64, len(t.order))
	from := make([][]int, len(t.order))
	for k, i := range t.order {
		options := t.items[i].options
		costs[k], from[k] = make([]float64, len(options)), make([]int, len(options))
		for n, o := range options {
			if k == 0 {
				costs[k][n] = apart(t.start, o.in)
				continue
			}
			costs[k][n] = math.Inf(1)
			for m, p := range t.items[t.order[k-1]].options {
				if c := costs[k-1][m] + apart(p.out, o.in); c < costs[k][n] {
					costs[k][n], from[k][n] = c, m
				}
			}
		}
	}
	last := len(t.order) - 1
	by := 0
	for n, c := range costs[last] {
		if c < costs[last][by] {
			by = n
		}
	}
	if costs[last][by] >= was-least {
		return false
	}
	for k := last; k >= 0; k-- {
		t.option[t.order[k]] = by
		by = from[k][by]
	}
	return true
}
