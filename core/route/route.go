package route

import (
	"fmt"
	"slices"
	"strings"
)

// Fault is what cannot be right about a route, at the operation and its field.
type Fault struct {
	Key, Field, Message string
}

func (f Fault) Error() string { return f.Message }

// Route is the operations of a revision and what each waits for: a partial order.
type Route struct {
	Operations []Operation
	Stages     []Stage

	says  []string // what each operation is called
	at    map[string]int
	after [][]int // by operation: those that it waits for itself
	next  [][]int // those that wait for it
	order []int   // all, none before what it waits for; else as they stand
}

// MostOperations is how many operations one route holds.
const MostOperations = 300

// New orders operations, or tells every fault of theirs: keys that are there twice,
// operations or stages that do not exist, times below zero, and what waits for itself.
func New(operations []Operation, stages []Stage) (*Route, []Fault) {
	r := &Route{Operations: operations, Stages: stages, at: map[string]int{}}
	var faults []Fault
	add := func(key, field, format string, args ...any) {
		if len(faults) < 50 {
			faults = append(faults, Fault{key, field, fmt.Sprintf(format, args...)})
		}
	}
	if len(operations) > MostOperations {
		add("", "route", "%d operations are more than the %d that one route holds", len(operations), MostOperations)
		return nil, faults
	}
	known := map[string]bool{}
	for _, s := range stages {
		known[s.Key] = true
	}
	for k, o := range operations {
		says := o.Label(stages)
		r.says = append(r.says, says)
		if _, twice := r.at[o.Key]; twice || o.Key == "" {
			add(o.Key, "key", "%s: two operations have the key %q", says, o.Key)
			continue
		}
		r.at[o.Key] = k
		if o.Kind.Room() == "" {
			add(o.Key, "kind", "%q is no kind of operation", o.Kind)
		}
		if o.SetUp < 0 || o.Attended < 0 || o.Unattended < 0 {
			add(o.Key, "time", "%s: a time is below zero", says)
		}
		for _, s := range o.Stages {
			if !known[s] {
				add(o.Key, "stages", "%s: there is no stage %q", says, s)
			}
		}
	}
	r.after, r.next = make([][]int, len(operations)), make([][]int, len(operations))
	for k, o := range operations {
		for _, key := range o.After {
			w, there := r.at[key]
			switch {
			case !there:
				add(o.Key, "after", "%s waits for an operation that is not there (%s)", r.says[k], key)
			case slices.Contains(r.after[k], w):
				// Named twice means no more than once.
			default:
				r.after[k] = append(r.after[k], w)
				r.next[w] = append(r.next[w], k)
			}
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	if r.sort(); len(r.order) < len(operations) {
		ring := r.cycle()
		names := make([]string, len(ring))
		for k, i := range ring {
			names[k] = r.says[i]
		}
		add(operations[ring[0]].Key, "after", "these wait for each other, so none can begin: %s, and %s again",
			strings.Join(names, ", then "), names[0])
		return nil, faults
	}
	return r, nil
}

// sort puts operations into an order in which each comes after what it waits for;
// those of a cycle, and what waits for them, are left out.
func (r *Route) sort() {
	waits := make([]int, len(r.after))
	var free []int
	for k := range r.after {
		if waits[k] = len(r.after[k]); waits[k] == 0 {
			free = append(free, k)
		}
	}
	for len(free) > 0 {
		k := free[0] // as they stand in the list, where nothing else is asked
		free = free[1:]
		r.order = append(r.order, k)
		for _, n := range r.next[k] {
			if waits[n]--; waits[n] == 0 {
				at, _ := slices.BinarySearch(free, n)
				free = slices.Insert(free, at, n)
			}
		}
	}
}

// cycle is one ring of operations that wait for each other, from one to the one that
// waits for it.
func (r *Route) cycle() []int {
	sorted := map[int]bool{}
	for _, k := range r.order {
		sorted[k] = true
	}
	// What is left over waits for something that is left over as well: going back along
	// the lines comes round.
	at := slices.IndexFunc(r.Operations, func(o Operation) bool { return !sorted[r.at[o.Key]] })
	seen, path := map[int]int{}, []int{}
	for {
		if from, again := seen[at]; again {
			ring := slices.Clone(path[from:])
			slices.Reverse(ring)
			return ring
		}
		seen[at] = len(path)
		path = append(path, at)
		at = r.after[at][slices.IndexFunc(r.after[at], func(w int) bool { return !sorted[w] })]
	}
}

// Find is the operation with a key.
func (r *Route) Find(key string) (Operation, bool) {
	if k := r.Index(key); k >= 0 {
		return r.Operations[k], true
	}
	return Operation{}, false
}

// Index is the place of the operation with a key in the list; -1: there is none.
func (r *Route) Index(key string) int {
	if k, there := r.at[key]; there {
		return k
	}
	return -1
}

// Called is what the operation at a place of the list is called.
func (r *Route) Called(k int) string { return r.says[k] }

// Before says whether an operation comes before another, however far.
func (r *Route) Before(k, earlier int) bool { return r.before(k)[earlier] }

// before marks an operation's predecessors of every degree.
func (r *Route) before(k int) []bool { return reach(r.after, k) }

// behind marks what waits for an operation, however far behind it.
func (r *Route) behind(k int) []bool { return reach(r.next, k) }

func reach(lines [][]int, from int) []bool {
	marked, stack := make([]bool, len(lines)), slices.Clone(lines[from])
	for len(stack) > 0 {
		k := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if !marked[k] {
			marked[k] = true
			stack = append(stack, lines[k]...)
		}
	}
	return marked
}

// With is the route of one build that has operations of its own besides: a rework. Before
// names, by an added operation, those of the route that wait for it as well. Nothing
// that is recorded as begun or done may be made to wait: a rework reopens nothing silently.
func (r *Route) With(added []Operation, before map[string][]string, marks map[string]RecordedStatus) (*Route, []Fault) {
	// One that is added may wait for another.
	all := append(slices.Clone(r.Operations), added...)
	var faults []Fault
	for _, o := range added {
		for _, key := range before[o.Key] {
			k := slices.IndexFunc(all, func(x Operation) bool { return x.Key == key })
			if k < 0 {
				faults = append(
					faults,
					Fault{o.Key, "before", fmt.Sprintf("there is no operation %q to wait for it", key)},
				)
				continue
			}
			if m, begun := marks[key]; begun && k < len(r.says) {
				faults = append(faults, Fault{o.Key, "before", fmt.Sprintf(
					"%s is %s already: take it back first, or let what comes next wait", r.says[k], m.State)})
				continue
			}
			all[k].After = append(slices.Clone(all[k].After), o.Key)
		}
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return New(all, r.Stages)
}

// Order are the places of all operations in the list, none before what it waits for; where
// nothing else is asked, as they stand.
func (r *Route) Order() []int { return r.order }
