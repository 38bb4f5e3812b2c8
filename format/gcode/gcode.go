package gcode

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"juxta/core/cutpath"
	"juxta/core/geom"
)

// Options of a program.
type Options struct {
	Name       string   // of the nest
	IDs        []string // of the pieces, as the strokes count them
	Cutter     cutpath.Cutter
	Tangential bool // C words turn the knife
}

// up is how high a tool is lifted, mm.
const up = "5"

// Write writes a path as a program.
func Write(w io.Writer, path cutpath.Path, o Options) error {
	out := bufio.NewWriter(w)
	n := 0
	line := func(format string, args ...any) {
		n += 10
		fmt.Fprintf(out, "N%d "+format+"\n", append([]any{n}, args...)...)
	}
	note := func(kind, says string) { fmt.Fprintf(out, "(%s %s)\n", kind, plain(says)) }
	fmt.Fprintln(out, "%")
	note("NEST", o.Name)
	line("G21 G90 G94")
	line("G0 Z%s", up)
	tool, piece, advanced, c := -1, -2, 0, 0.0
	for _, s := range path.Strokes {
		if s.Advanced > advanced {
			for ; advanced < s.Advanced; advanced++ {
				line("M60")
			}
		}
		if int(s.Tool) != tool {
			tool, piece = int(s.Tool), -2
			line("T%d M6", tool+1)
		}
		if s.Piece != piece {
			if piece = s.Piece; piece >= 0 {
				note("PLY", o.IDs[piece])
			} else {
				note("ACROSS", "THE SHEET")
			}
		}
		at := func(p geom.Point) string {
			return fmt.Sprintf("X%s Y%s", mm(p.X-float64(s.Advanced)*o.Cutter.Table), mm(p.Y))
		}
		turn := func(a, b geom.Point) string {
			if !o.Tangential || s.Tool != cutpath.Knife {
				return ""
			}
			c += math.Remainder(cutpath.Heading(a, b)*180/math.Pi-c, 360)
			return " C" + number(c)
		}
		line("G0 %s%s", at(s.Points[0]), turn(s.Points[0], s.Points[1]))
		line("G1 Z0")
		for k := 1; k < len(s.Points); k++ {
			feed := ""
			if k == 1 {
				feed = " F" + number(o.Cutter.Feed*60e3)
			}
			line("G1 %s%s%s", at(s.Points[k]), turn(s.Points[k-1], s.Points[k]), feed)
		}
		line("G0 Z%s", up)
		if s.Frees {
			note("FREE", o.IDs[s.Piece])
		}
	}
	line("M30")
	fmt.Fprintln(out, "%")
	if err := out.Flush(); err != nil {
		return fmt.Errorf("write G-code: %w", err)
	}
	return nil
}

// plain keeps a comment from ending before its end, and the file within ASCII.
func plain(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r == '(' || r == ')' || r < ' ' || r > '~':
			return '_'
		}
		return r
	}, s)
}

func mm(v float64) string { return number(math.Round(v*1e6) / 1e3) }

func number(v float64) string {
	s := strconv.FormatFloat(v, 'f', 3, 64)
	s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	if s == "-0" {
		return "0"
	}
	return s
}

// Kind of a move.
type Kind int

const (
	Rapid   Kind = iota // lifted, to a place
	Feed                // down, to a place
	Raise               // the tool
	Lower               // the tool
	Tool                // another: 1 pen, 2 knife
	Advance             // the cloth
	Ply                 // what follows is of a piece
	Free                // a piece is cut free
	End
)

// Move is one thing that a table does. To is on the table, m.
type Move struct {
	Line int // of the file, from 1
	Kind Kind
	To   geom.Point
	Turn float64 // of the knife, rad; NaN: not said
	Tool int
	ID   string
}

// Read reads a program as [Write] writes it, or another with the same words; anything else is refused with its
// line.
func Read(r io.Reader) ([]Move, error) {
	var out []Move
	p := parser{}
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, 4096)
	for n := 1; lines.Scan(); n++ {
		moves, err := p.line(n, lines.Text())
		if err != nil {
			return nil, fmt.Errorf("line %d of the program: %w", n, err)
		}
		out = append(out, moves...)
		if len(out) > mostMoves {
			return nil, fmt.Errorf("the program is longer than %d moves", mostMoves)
		}
	}
	if err := lines.Err(); err != nil {
		return nil, fmt.Errorf("read G-code: %w", err)
	}
	if len(out) == 0 || out[len(out)-1].Kind != End {
		return nil, fmt.Errorf("the program has no end (M30)")
	}
	return out, nil
}

const mostMoves = 2_000_000

// parser holds what goes on from line to line.
type parser struct {
	motion int // 0 or 1
	at     geom.Point
	tool   int
	ended  bool
}

func (p *parser) line(n int, text string) ([]Move, error) {
	var out []Move
	add := func(m Move) { m.Line = n; out = append(out, m) }
	for {
		from := strings.IndexByte(text, '(')
		if from < 0 {
			break
		}
		to := strings.IndexByte(text, ')')
		if to < from {
			return nil, fmt.Errorf("a comment has no end")
		}
		kind, id, _ := strings.Cut(text[from+1:to], " ")
		switch kind {
		case "PLY":
			add(Move{Kind: Ply, ID: id})
		case "FREE":
			add(Move{Kind: Free, ID: id})
		case "ACROSS":
			add(Move{Kind: Ply})
		}
		text = text[:from] + " " + text[to+1:]
	}
	text = strings.TrimSpace(text)
	if text == "" || text == "%" {
		return out, nil
	}
	if p.ended {
		return nil, fmt.Errorf("goes on after its end")
	}
	to, moves := p.at, false
	z, turn := math.NaN(), math.NaN()
	for _, word := range strings.Fields(strings.ToUpper(text)) {
		v, err := strconv.ParseFloat(word[1:], 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil, fmt.Errorf("%q is no word of a letter and a number", word)
		}
		switch letter := word[0]; {
		case letter == 'N' || letter == 'F':
		case letter == 'G' && (v == 0 || v == 1):
			p.motion = int(v)
		case letter == 'G' && (v == 21 || v == 90 || v == 94):
		case letter == 'X':
			to.X, moves = v/1e3, true
		case letter == 'Y':
			to.Y, moves = v/1e3, true
		case letter == 'Z':
			z = v
		case letter == 'C':
			turn = v * math.Pi / 180
		case letter == 'T' && (v == 1 || v == 2):
			p.tool = int(v)
		case letter == 'M' && v == 6 && p.tool > 0:
			add(Move{Kind: Tool, Tool: p.tool})
		case letter == 'M' && v == 60:
			add(Move{Kind: Advance})
		case letter == 'M' && v == 30:
			p.ended = true
			add(Move{Kind: End})
		default:
			return nil, fmt.Errorf("%q is not known to the table", word)
		}
	}
	if moves {
		p.at = to
		add(Move{Kind: []Kind{Rapid, Feed}[p.motion], To: to, Turn: turn})
	}
	if z == z {
		add(Move{Kind: map[bool]Kind{true: Raise, false: Lower}[z > 0]})
	}
	return out, nil
}

// Strokes are what a program draws and cuts, on the sheet whose table is so long, m; pieces are counted as they
// come first.
func Strokes(moves []Move, table float64) (all []cutpath.Stroke, ids []string) {
	at, advanced, down := geom.Point{}, 0, false
	index := map[string]int{}
	s := cutpath.Stroke{Piece: -1}
	on := func(q geom.Point) geom.Point { return geom.Point{X: q.X + float64(advanced)*table, Y: q.Y} }
	for _, m := range moves {
		switch m.Kind {
		case Rapid, Feed:
			if down {
				s.Points = append(s.Points, on(m.To))
			}
			at = m.To
		case Lower:
			down = true
			s.Points = []geom.Point{on(at)}
		case Raise:
			if down && len(s.Points) > 1 {
				all = append(all, s)
			}
			down, s.Points = false, nil
		case Tool:
			s.Tool = cutpath.Tool(m.Tool - 1)
		case Advance:
			advanced++
			s.Advanced = advanced
		case Ply:
			s.Piece = -1
			if m.ID != "" {
				k, known := index[m.ID]
				if !known {
					k = len(ids)
					index[m.ID], ids = k, append(ids, m.ID)
				}
				s.Piece = k
			}
		case Free:
			for k := len(all) - 1; k >= 0; k-- {
				if all[k].Piece == index[m.ID] {
					all[k].Frees = true
					break
				}
			}
		}
	}
	return all, ids
}
