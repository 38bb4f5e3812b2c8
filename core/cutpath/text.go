package cutpath

import (
	"math"
	"slices"
	"strings"

	"juxta/core/geom"
)

// strokesOf are single-line letters on a grid of 4 by 6: polylines of two-digit points.
var strokesOf = map[rune]string{
	'0': "103041453616050110 1135", '1': "152620 1030", '2': "05163645440040", '3': "0516364544334241301001 1333",
	'4': "30360242", '5': "460603334241301001", '6': "36160501103041423303", '7': "064610",
	'8': "13040516364544331302011030414233", '9': "10304145361605041343",
	'A': "002640 1232", 'B': "00063645443303 3342413000", 'C': "4536160501103041", 'D': "00062644422000",
	'E': "46060040 0333", 'F': "460600 0333", 'G': "45361605011030414323", 'H': "0006 4046 0343", 'I': "1030 2026 1636",
	'J': "0110304146", 'K': "0006 4602 1340", 'L': "060040", 'M': "0006244640", 'N': "00064046",
	'O': "103041453616050110", 'P': "00063645443303", 'Q': "103041453616050110 2240", 'R': "00063645443303 2340",
	'S': "453616050413334241301001", 'T': "0646 2026", 'U': "060110304146", 'V': "062046", 'W': "0610243046",
	'X': "0046 0640", 'Y': "062346 2320", 'Z': "06460040",
	'-': "1333", '·': "2324", '.': "2021", '/': "0046", '+': "1333 2224", ':': "2122 2425", ',': "2110",
	'(': "36252130",
	')': "16252110", ' ': "",
}

// unknown stands for a letter that the pen does not know.
const unknown = "0006464000"

const letterStep = 5.5 / 6 // from letter to letter, of their height

// LetterStrokes are the lines of a text in letters of a height from where it starts, m.
func LetterStrokes(text string, at geom.Point, height float64) [][]geom.Point {
	var out [][]geom.Point
	for _, r := range strings.ToUpper(text) {
		glyph, known := strokesOf[r]
		if !known {
			glyph = unknown
		}
		for _, line := range strings.Fields(glyph) {
			var points []geom.Point
			for k := 0; k+1 < len(line); k += 2 {
				points = append(points, geom.Point{
					X: at.X + float64(line[k]-'0')*height/6, Y: at.Y + float64(line[k+1]-'0')*height/6,
				})
			}
			out = append(out, points)
		}
		at.X += letterStep * height
	}
	return out
}

// MissingLetters are the letters of a text that the pen does not know, each once: it draws a box for them.
func MissingLetters(text string) (letters []string) {
	for _, r := range strings.ToUpper(text) {
		if _, known := strokesOf[r]; !known && !slices.Contains(letters, string(r)) {
			letters = append(letters, string(r))
		}
	}
	return letters
}

// LabelPlace is where a text of n letters goes inside an outline: on its widest level, in letters of at most
// 12 mm.
func LabelPlace(ring geom.Ring, n int) (at geom.Point, height float64) {
	box := ring.Bounds()
	best, from, level := 0.0, box.Min.X, (box.Min.Y+box.Max.Y)/2
	for k := 1; k < 12; k++ {
		y := box.Min.Y + box.Height()*float64(k)/12
		if lo, hi := ring.WidestAt(y); hi-lo > best*1.02 {
			best, from, level = hi-lo, lo, y
		}
	}
	height = min(0.012, 0.8*best/(letterStep*float64(n)), 0.4*box.Height())
	return geom.Point{X: from + 0.1*best, Y: level - height/2}, height
}

// leastLetter is how small the pen writes, m.
const leastLetter = 0.002

// marked are the lines that the pen draws on a piece: its own, its label, and the arrow of the 0° direction
// beside it where there is room.
func (p PlacedPiece) marked() (lines [][]geom.Point, labelled bool) {
	for _, l := range p.Lines {
		if len(l) > 1 {
			lines = append(lines, l)
		}
	}
	labelled = true
	foot := p.Outline.Centroid()
	if p.Label != "" {
		at, height := LabelPlace(p.Outline, len([]rune(p.Label)))
		foot = geom.Point{X: at.X, Y: at.Y - height}
		text := LetterStrokes(p.Label, at, height)
		if labelled = height >= leastLetter && p.holds(text); labelled {
			lines = append(lines, text...)
		}
	}
	if p.Zero == nil {
		return lines, labelled
	}
	for _, long := range []float64{0.03, 0.02, 0.012, 0.008} {
		for _, from := range []geom.Point{foot, {X: foot.X + long, Y: foot.Y - long}, p.Outline.Centroid()} {
			if arrow := arrowOf(from, *p.Zero, long); p.holds(arrow) {
				return append(lines, arrow...), labelled
			}
		}
	}
	return lines, labelled
}

// arrowOf is an arrow of a length along a direction about a middle.
func arrowOf(middle geom.Point, angle, long float64) [][]geom.Point {
	to := func(x, y float64) geom.Point {
		sin, cos := math.Sincos(angle)
		return geom.Point{X: middle.X + (x*cos-y*sin)*long, Y: middle.Y + (x*sin+y*cos)*long}
	}
	return [][]geom.Point{{to(-0.5, 0), to(0.5, 0)}, {to(0.25, 0.12), to(0.5, 0), to(0.25, -0.12)}}
}

// holds says whether lines lie on the cloth of a piece.
func (p PlacedPiece) holds(lines [][]geom.Point) bool {
	for _, l := range lines {
		for _, q := range l {
			if !p.Outline.Contains(q) {
				return false
			}
			for _, h := range p.Holes {
				if h.Contains(q) {
					return false
				}
			}
		}
	}
	return true
}
