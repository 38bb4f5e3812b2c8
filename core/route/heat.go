package route

import "slices"

// about are the stages that an operation is about: all where it names none, as a post-cure of the whole part.
func (r *Route) about(k int) []string {
	if own := r.Operations[k].Stages; len(own) > 0 {
		return own
	}
	all := make([]string, len(r.Stages))
	for i, s := range r.Stages {
		all[i] = s.Key
	}
	return all
}

// Begun is the degree of cure with which an operation that heats begins: what the runs
// before it left, by left, in the stage of its own that has come the least way; 0 where a
// stage was in none yet. A bond that has set without a run tells none.
func (r *Route) Begun(k int, left func(k int) float64) float64 {
	past, hard := r.before(k), r.hard(k)
	begun, told := 1.0, false
	for _, stage := range r.about(k) {
		most, ran := 0.0, false
		for w, o := range r.Operations {
			if past[w] && o.Heats() && slices.Contains(r.about(w), stage) {
				most, ran = max(most, left(w)), true
			}
		}
		if ran || !slices.Contains(hard, stage) {
			begun, told = min(begun, most), true
		}
	}
	if !told {
		return 0
	}
	return begun
}

// hard are the stages that operations before one have hardened. What was only debulked, hot or not, is not hard.
func (r *Route) hard(k int) (out []string) {
	past := r.before(k)
	for _, s := range r.Stages {
		for w, o := range r.Operations {
			if past[w] && slices.Contains(o.Stages, s.Key) && slices.Contains(s.hardens(), o.Kind) {
				out = append(out, s.Key)
				break
			}
		}
	}
	return out
}

// Cured are the stages besides its own that operations before it have hardened: they lie in its run as well, and cure
// no more.
func (r *Route) Cured(k int) []string {
	own := r.about(k)
	return slices.DeleteFunc(r.hard(k), func(stage string) bool { return slices.Contains(own, stage) })
}
