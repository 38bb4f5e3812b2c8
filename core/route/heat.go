package route

import "slices"

// Begun is the degree of cure with which an operation that heats begins: what the runs
// before it left, by left, in the stage of its own that has come the least way; 0 where a
// stage was in none yet.
func (r *Route) Begun(k int, left func(k int) float64) float64 {
	past := r.before(k)
	begun := 1.0
	for _, stage := range r.Operations[k].Stages {
		most := 0.0
		for w, o := range r.Operations {
			if past[w] && o.Heats() && slices.Contains(o.Stages, stage) {
				most = max(most, left(w))
			}
		}
		begun = min(begun, most)
	}
	if len(r.Operations[k].Stages) == 0 {
		return 0
	}
	return begun
}

// Cured are the stages besides its own that operations before it have hardened: they lie in its run as well, and cure
// no more. What was only debulked, hot or not, is not hard.
func (r *Route) Cured(k int) (out []string) {
	past := r.before(k)
	for _, s := range r.Stages {
		hard := false
		for w, o := range r.Operations {
			hard = hard || past[w] && slices.Contains(o.Stages, s.Key) && slices.Contains(s.hardens(), o.Kind)
		}
		if hard && !slices.Contains(r.Operations[k].Stages, s.Key) {
			out = append(out, s.Key)
		}
	}
	return out
}
