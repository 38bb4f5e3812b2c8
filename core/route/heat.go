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

// Cured are the stages besides its own that the runs before an operation have cured: they lie in its run as well, and cure
// no more.
func (r *Route) Cured(k int) (out []string) {
	past := r.before(k)
	for w, o := range r.Operations {
		if !past[w] || !o.Heats() {
			continue
		}
		for _, stage := range o.Stages {
			if !slices.Contains(r.Operations[k].Stages, stage) && !slices.Contains(out, stage) {
				out = append(out, stage)
			}
		}
	}
	return out
}
