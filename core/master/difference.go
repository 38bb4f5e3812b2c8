package master

import (
	"encoding/json"
	"maps"
	"slices"
)

// Change is one line of a difference: an item as it was, as it is, or both.
type Change struct {
	Was    *Item    // nil: it is new
	Is     *Item    // nil: it is gone
	Fields []string // that differ, by their names in the document; "place in the stack" if it moved
}

// Difference lines two masters up item by item, in the order of the newer with
// what is gone at the place where it was. Items are paired by their keys; where
// the two share no keys, as after an import, by what they say. Outlines are
// compared as they are drawn, so that an edited outline shows at every item
// that uses it.
func Difference(before, after Document) []Change {
	was, is := before.Items(), after.Items()
	keyed := map[string]int{}
	for i, w := range was {
		keyed[w.Key] = i
	}
	partner := make([]int, len(is)) // index into was, -1: none
	shared := false
	for i, n := range is {
		partner[i] = -1
		if k, ok := keyed[n.Key]; ok {
			partner[i], shared = k, true
		}
	}
	if !shared {
		alike(was, is, partner)
	}
	kept := keptInOrder(partner)
	var out []Change
	next := 0 // of was, for those that are gone
	taken := map[int]bool{}
	for _, k := range partner {
		if k >= 0 {
			taken[k] = true
		}
	}
	goneUpTo := func(limit int) {
		for ; next < limit; next++ {
			if !taken[next] {
				w := was[next]
				out = append(out, Change{Was: &w})
			}
		}
	}
	for i, n := range is {
		k := partner[i]
		if k < 0 {
			out = append(out, Change{Is: &n})
			continue
		}
		if kept[i] {
			goneUpTo(k)
		}
		w := was[k]
		c := Change{Was: &w, Is: &n, Fields: fields(before, after, w, n)}
		if !kept[i] {
			c.Fields = append(c.Fields, "place in the stack")
		}
		out = append(out, c)
	}
	goneUpTo(len(was))
	return out
}

// Differs says whether a line of a difference shows any.
func (c Change) Differs() bool { return c.Was == nil || c.Is == nil || len(c.Fields) > 0 }

// alike pairs items that say the same by their longest common sequence.
func alike(was, is []Item, partner []int) {
	pair(was, is, partner, func(i Item) any {
		i.Key = ""
		return i
	})
}

// pair pairs what says the same by its longest common sequence.
func pair[T any](was, is []T, partner []int, of func(T) any) {
	text := func(all []T) []string {
		out := make([]string, len(all))
		for k, one := range all {
			raw, _ := json.Marshal(of(one))
			out[k] = string(raw)
		}
		return out
	}
	a, b := text(is), text(was)
	common := make([][]int, len(a)+1)
	for i := range common {
		common[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for j := len(b) - 1; j >= 0; j-- {
			common[i][j] = max(common[i+1][j], common[i][j+1])
			if a[i] == b[j] {
				common[i][j] = max(common[i][j], common[i+1][j+1]+1)
			}
		}
	}
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch {
		case a[i] == b[j] && common[i][j] == common[i+1][j+1]+1:
			partner[i] = j
			i, j = i+1, j+1
		case common[i][j] == common[i+1][j]:
			i++
		default:
			j++
		}
	}
}

// keptInOrder marks the longest run of partners that did not change order: the
// longest increasing subsequence.
func keptInOrder(partner []int) map[int]bool {
	best, prev, last := make([]int, len(partner)), make([]int, len(partner)), -1
	for i, p := range partner {
		prev[i] = -1
		if p < 0 {
			continue
		}
		best[i] = 1
		for j := range i {
			if partner[j] >= 0 && partner[j] < p && best[j]+1 > best[i] {
				best[i], prev[i] = best[j]+1, j
			}
		}
		if last < 0 || best[i] > best[last] {
			last = i
		}
	}
	kept := map[int]bool{}
	for i := last; i >= 0; i = prev[i] {
		kept[i] = true
	}
	return kept
}

// fields are the names of the fields in which two items differ.
func fields(before, after Document, was, is Item) []string {
	differ := ChangedFields(was, is)
	if was.Outline == "" || is.Outline == "" {
		return differ
	}
	// An outline is what it draws, whatever it is called.
	x, errX := before.Ring(was.Outline)
	y, errY := after.Ring(is.Outline)
	if errX == nil && errY == nil {
		differ = slices.DeleteFunc(differ, func(f string) bool { return f == "outline" })
		if !slices.Equal(x, y) {
			differ = slices.Sorted(slices.Values(append(differ, "outline")))
		}
	}
	return differ
}

// ChangedFields are the names in the document of the fields in which two things differ, but for
// their keys.
func ChangedFields(was, is any) []string {
	members := func(v any) map[string]any {
		raw, _ := json.Marshal(v)
		m := map[string]any{}
		_ = json.Unmarshal(raw, &m)
		delete(m, "key")
		return m
	}
	a, b := members(was), members(is)
	differ := map[string]bool{}
	for k, v := range a {
		differ[k] = !same(v, b[k])
	}
	for k, v := range b {
		differ[k] = !same(v, a[k])
	}
	var out []string
	for _, k := range slices.Sorted(maps.Keys(differ)) {
		if differ[k] {
			out = append(out, k)
		}
	}
	return out
}

// StageChange is a stage that differs beside its items, and in what; in nothing: it is new or
// gone.
type StageChange struct {
	Name   string
	Fields []string
}

// StageDifference are the stages that differ beside their items. What a stage is rolled on is
// told field by field.
func StageDifference(before, after Document) []StageChange {
	var out []StageChange
	was := map[string]Stage{}
	for _, s := range before.Stages {
		was[s.Key] = s
	}
	for _, s := range after.Stages {
		old, there := was[s.Key]
		delete(was, s.Key)
		if !there {
			out = append(out, StageChange{s.Name, []string{}})
			continue
		}
		old.Items, s.Items = nil, nil
		fields := ChangedFields(old, s)
		if old.Rolled != nil && s.Rolled != nil {
			fields = slices.DeleteFunc(fields, func(f string) bool { return f == "rolled" })
			for _, f := range ChangedFields(*old.Rolled, *s.Rolled) {
				fields = append(fields, "rolled."+f)
			}
		}
		if len(fields) > 0 {
			out = append(out, StageChange{s.Name, fields})
		}
	}
	for _, s := range before.Stages {
		if _, gone := was[s.Key]; gone {
			out = append(out, StageChange{s.Name, []string{}})
		}
	}
	return out
}
