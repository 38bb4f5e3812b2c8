package rolled

import (
	"fmt"
	"math"

	"juxta/core/unit"
)

// Instruction tells whoever puts a sheet on how: with its quantities as data.
func (m FlatSheet) Instruction() string {
	s, says := m.Sheet, ""
	switch s.how() {
	case Spiral:
		says = fmt.Sprintf("wound as a spiral at %.1f°", unit.Deg(s.helix()))
		if m.Pitch > 0 && !math.IsInf(m.Pitch, 0) {
			says += fmt.Sprintf(", pitch %s", unit.Size(m.Pitch, 1))
		}
	case Strips:
		says = fmt.Sprintf("%d strips of %s side by side", s.starts(), unit.Size(s.Strip, 1))
		if s.starts() == 1 {
			says = fmt.Sprintf("one strip of %s", unit.Size(s.Strip, 1))
		}
		if m.Pitch > 0 && !math.IsInf(m.Pitch, 0) {
			says += fmt.Sprintf(", pitch %s", unit.Size(m.Pitch, 1))
		}
	case Braid:
		says = fmt.Sprintf("sleeve pulled over, %s of it as made", unit.Size(m.Length, 0))
	default:
		says = "once round"
		if s.turns() > 1 {
			says = fmt.Sprintf("%d times round", s.turns())
		}
		says += fmt.Sprintf(", seam %.0f° round, %s from the middle of the right side", unit.Deg(m.SeamAngle),
			unit.Size(m.Seam[0], 1))
	}
	if s.how() == Wrapped || s.how() == Spiral {
		switch s.join() {
		case Overlap:
			says += fmt.Sprintf(", overlapping %s", unit.Size(s.Width, 1))
		case Gap:
			says += fmt.Sprintf(", a gap of %s", unit.Size(s.Width, 1))
		default:
			says += ", butt"
		}
	}
	if s.From > 0 || s.To > 0 {
		says += fmt.Sprintf("; from %s", unit.Size(s.From, 0))
		if s.To > 0 {
			says += fmt.Sprintf(" to %s", unit.Size(s.To, 0))
		}
		says += " along"
	}
	if s.Crossed {
		says += "; tacked to the next at its seam, and rolled with it"
	}
	return says
}
