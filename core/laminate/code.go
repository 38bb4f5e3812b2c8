package laminate

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
)

// CodedPly is one ply of a stacking code: its angle in degrees, and whether it is
// the mirror image of one written, so that a weave with two faces is turned
// over.
type CodedPly struct {
	AngleDeg float64
	Mirrored bool
}

// CodeError says what a stacking code cannot mean, and at which character,
// counted from 0.
type CodeError struct {
	At      int
	Message string
}

func (e *CodeError) Error() string { return fmt.Sprintf("character %d: %s", e.At+1, e.Message) }

// MaxCoded is the most plies that a code may make.
const MaxCoded = 500

// ReadCode reads a stacking code, ply 1 first:
//
//	code   = [ "[" ] list [ "]" ] [ times ] [ "s" ]
//	list   = item { ( "/" | "," ) item }
//	item   = ( angle | "(" list ")" ) [ times ] [ "~" ]
//	angle  = [ "+" | "-" | "±" | "∓" ] number [ "°" ]
//	times  = number after "]" or ")"; after an angle "_" and a number
//
// "s" mirrors the list in its end; "~" after the last item of a mirrored list
// says that this ply lies on mid-plane and is not repeated. "+-" and "-+" do
// for ± and ∓, "−" for "-". Blanks may stand anywhere but in numbers. So
// "0/45/-45/90 s" has 8 plies and "[(0/90)2/±45]s" has 12.
func ReadCode(code string) ([]CodedPly, error) {
	r := &reader{text: []rune(strings.ReplaceAll(code, "−", "-"))}
	if r.skip(); r.end() {
		return nil, r.fault("the code is empty: write angles separated by /, such as 0/45/-45/90 s")
	}
	opened := r.at
	bracket := r.take('[')
	list, err := r.list()
	if err != nil {
		return nil, err
	}
	if bracket && !r.take(']') {
		if r.end() {
			return nil, &CodeError{opened, "this bracket is not closed"}
		}
		return nil, r.fault("%q does not belong here", r.text[r.at])
	}
	times := 1
	if bracket {
		if times, err = r.times(); err != nil {
			return nil, err
		}
	}
	mirrored := r.take('s') || r.take('S')
	if !r.end() {
		return nil, r.fault("%q does not belong here", r.text[r.at])
	}
	var out []CodedPly
	for range times {
		out = append(out, list...)
		if len(out) > MaxCoded {
			return nil, &CodeError{opened, fmt.Sprintf("this makes more than %d plies", MaxCoded)}
		}
	}
	if r.middle >= 0 && (!mirrored || times > 1) {
		return nil, &CodeError{r.middle, "a ply lies on mid-plane only in a list that is mirrored and not repeated"}
	}
	if mirrored {
		last := len(out) - 1
		if r.middle >= 0 {
			last--
		}
		for i := last; i >= 0; i-- {
			out = append(out, CodedPly{out[i].AngleDeg, true})
		}
	}
	if len(out) > MaxCoded {
		return nil, &CodeError{opened, fmt.Sprintf("this makes %d plies, at most %d", len(out), MaxCoded)}
	}
	return out, nil
}

type reader struct {
	text   []rune
	at     int
	depth  int
	middle int // where the sign for a middle ply stands, -1: nowhere; set by list
}

func (r *reader) skip() {
	for r.at < len(r.text) && unicode.IsSpace(r.text[r.at]) {
		r.at++
	}
}

func (r *reader) end() bool { r.skip(); return r.at == len(r.text) }

func (r *reader) peek() rune {
	if r.end() {
		return 0
	}
	return r.text[r.at]
}

func (r *reader) take(c rune) bool {
	if r.peek() != c {
		return false
	}
	r.at++
	return true
}

func (r *reader) fault(format string, args ...any) error {
	return &CodeError{r.at, fmt.Sprintf(format, args...)}
}

func (r *reader) list() ([]CodedPly, error) {
	if r.depth == 0 {
		r.middle = -1
	}
	if r.depth++; r.depth > 20 {
		return nil, r.fault("brackets are nested too deep")
	}
	defer func() { r.depth-- }()
	var out []CodedPly
	for {
		item, err := r.item()
		if err != nil {
			return nil, err
		}
		if out = append(out, item...); len(out) > MaxCoded {
			return nil, r.fault("this makes more than %d plies", MaxCoded)
		}
		if r.peek() == '~' {
			if r.depth > 1 || len(item) != 1 || r.middle >= 0 {
				return nil, r.fault("~ stands after one single angle, the last of the list")
			}
			r.middle = r.at
			r.at++
			if c := r.peek(); c == '/' || c == ',' {
				return nil, r.fault("nothing may follow the ply on mid-plane")
			}
		}
		if !r.take('/') && !r.take(',') {
			return out, nil
		}
	}
}

func (r *reader) item() ([]CodedPly, error) {
	if opened := r.at; r.take('(') {
		list, err := r.list()
		if err != nil {
			return nil, err
		}
		if !r.take(')') {
			if r.end() {
				return nil, &CodeError{opened, "this bracket is not closed"}
			}
			return nil, r.fault("%q does not belong here", r.text[r.at])
		}
		times, err := r.times()
		if err != nil {
			return nil, err
		}
		if times*len(list) > MaxCoded {
			return nil, &CodeError{opened, fmt.Sprintf("this makes more than %d plies", MaxCoded)}
		}
		var out []CodedPly
		for range times {
			out = append(out, list...)
		}
		return out, nil
	}
	signs := []float64{1}
	switch {
	case r.take('±'):
		signs = []float64{1, -1}
	case r.take('∓'):
		signs = []float64{-1, 1}
	case r.take('+'):
		if r.take('-') {
			signs = []float64{1, -1}
		}
	case r.take('-'):
		signs = []float64{-1}
		if r.take('+') {
			signs = []float64{-1, 1}
		}
	}
	if r.end() {
		return nil, r.fault("an angle is missing here")
	}
	start := r.at
	for r.at < len(r.text) && (r.text[r.at] >= '0' && r.text[r.at] <= '9' || r.text[r.at] == '.') {
		r.at++
	}
	if r.at == start {
		return nil, r.fault("%q is not an angle", r.text[r.at])
	}
	value, err := strconv.ParseFloat(string(r.text[start:r.at]), 64)
	if err != nil || value > 360 || math.IsNaN(value) {
		return nil, &CodeError{start, fmt.Sprintf("%q is not an angle of at most 360°", string(r.text[start:r.at]))}
	}
	r.take('°')
	times := 1
	if r.take('_') {
		if times, err = r.times(); err != nil {
			return nil, err
		}
	}
	var out []CodedPly
	for range times {
		for _, sign := range signs {
			angle := sign * value
			if angle == 0 {
				angle = 0 // no minus zero
			}
			out = append(out, CodedPly{AngleDeg: angle})
		}
	}
	return out, nil
}

// times reads how often, once if nothing is said.
func (r *reader) times() (int, error) {
	r.skip()
	start := r.at
	for r.at < len(r.text) && r.text[r.at] >= '0' && r.text[r.at] <= '9' {
		r.at++
	}
	if r.at == start {
		return 1, nil
	}
	n, err := strconv.Atoi(string(r.text[start:r.at]))
	if err != nil || n < 1 || n > MaxCoded {
		return 0, &CodeError{start, fmt.Sprintf("once to %d times, not %s", MaxCoded, string(r.text[start:r.at]))}
	}
	return n, nil
}
