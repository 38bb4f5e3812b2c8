package dxf

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/encoding/charmap"
)

// pair is a group: its code, its value as text, and the line (or the byte, of a binary file)
// that it stands at.
type pair struct {
	code  int
	value string
	line  int
}

// magic ends the first line of a binary file.
var magic = []byte("Binary DXF\r\n\x1a\x00")

// tokens reads a file into its groups, as text or in binary.
func tokens(raw []byte) ([]pair, string) {
	var pairs []pair
	var fault string
	if at := bytes.Index(raw[:min(len(raw), 40)], magic); at >= 0 {
		pairs, fault = binaryTokens(raw, at+len(magic))
	} else {
		pairs, fault = textTokens(raw)
	}
	if fault != "" {
		return nil, fault
	}
	if !slices.ContainsFunc(pairs, func(p pair) bool { return p.code == 0 && p.value == "SECTION" }) {
		return nil, "line 1: the file has no section: this is not a DXF file"
	}
	decode(pairs)
	return pairs, ""
}

func textTokens(raw []byte) ([]pair, string) {
	if bytes.IndexByte(raw, 0) >= 0 {
		return nil, "this is neither a text DXF file nor a binary one: export it anew as DXF"
	}
	scan := bufio.NewScanner(bytes.NewReader(raw))
	scan.Buffer(make([]byte, 0, 64<<10), 1<<20)
	var pairs []pair
	line, blank := 0, 0
	for scan.Scan() {
		line++
		text := strings.TrimSpace(strings.TrimPrefix(scan.Text(), "\xef\xbb\xbf"))
		if text == "" {
			if blank == 0 {
				blank = line
			}
			continue // blank lines may trail
		}
		code, err := strconv.Atoi(text)
		if err != nil || blank > 0 {
			if blank > 0 {
				return nil, fmt.Sprintf(
					"line %d: an empty line stands where a group code should: this is not a DXF file",
					blank,
				)
			}
			return nil, fmt.Sprintf("line %d: %.20q is not a group code: this is not a DXF file", line, text)
		}
		if !scan.Scan() {
			return nil, fmt.Sprintf("line %d: the file ends in the middle of an entry", line)
		}
		line++
		pairs = append(pairs, pair{code, strings.TrimSpace(scan.Text()), line})
	}
	if err := scan.Err(); err != nil {
		return nil, fmt.Sprintf("line %d: %v", line, err)
	}
	return pairs, ""
}

// shapeOf is how the value of a group code stands in a binary file (the published reference's
// ranges of group codes, from memory; what is written here is read back in a test).
func shapeOf(code int) byte {
	switch {
	case code == 1004, code >= 310 && code <= 319:
		return 'c' // a chunk of bytes
	case code >= 10 && code <= 59, code >= 110 && code <= 149, code >= 210 && code <= 239, code >= 460 && code <= 469,
		code >= 1010 && code <= 1059:
		return 'd'
	case code >= 60 && code <= 79, code >= 170 && code <= 179, code >= 270 && code <= 289, code >= 370 && code <= 389,
		code >= 400 && code <= 409, code >= 1060 && code <= 1070:
		return 'h'
	case code >= 90 && code <= 99, code >= 420 && code <= 429, code >= 440 && code <= 459, code == 1071:
		return 'i'
	case code >= 160 && code <= 169:
		return 'l'
	case code >= 290 && code <= 299:
		return 'b'
	}
	return 's'
}

func binaryTokens(raw []byte, at int) ([]pair, string) {
	wide := len(raw) > at+1 && raw[at+1] == 0 // group codes of two bytes, of one in the oldest files
	var pairs []pair
	cut := func() ([]pair, string) {
		return nil, fmt.Sprintf("byte %d: the file ends in the middle of an entry", at)
	}
	take := func(n int) []byte {
		if n < 0 || at+n > len(raw) {
			return nil
		}
		at += n
		return raw[at-n : at]
	}
	for at < len(raw) {
		begin := at
		code := 0
		if wide {
			b := take(2)
			if b == nil {
				return cut()
			}
			code = int(binary.LittleEndian.Uint16(b))
		} else {
			b := take(1)
			if code = int(b[0]); code == 255 {
				if b = take(2); b == nil {
					return cut()
				}
				code = int(binary.LittleEndian.Uint16(b))
			}
		}
		value := ""
		var b []byte
		switch shapeOf(code) {
		case 's':
			end := bytes.IndexByte(raw[at:], 0)
			if end < 0 {
				return cut()
			}
			value = strings.TrimSpace(string(raw[at : at+end]))
			at += end + 1
			b = []byte{}
		case 'd':
			if b = take(8); b != nil {
				value = strconv.FormatFloat(math.Float64frombits(binary.LittleEndian.Uint64(b)), 'g', -1, 64)
			}
		case 'h':
			if b = take(2); b != nil {
				value = strconv.Itoa(int(int16(binary.LittleEndian.Uint16(b))))
			}
		case 'i':
			if b = take(4); b != nil {
				value = strconv.Itoa(int(int32(binary.LittleEndian.Uint32(b))))
			}
		case 'l':
			if b = take(8); b != nil {
				value = strconv.FormatInt(int64(binary.LittleEndian.Uint64(b)), 10)
			}
		case 'b':
			if b = take(1); b != nil {
				value = strconv.Itoa(int(b[0]))
			}
		case 'c':
			if n := take(1); n != nil {
				b = take(int(n[0]))
			}
		}
		if b == nil {
			return cut()
		}
		pairs = append(pairs, pair{code, value, begin})
	}
	return pairs, ""
}

// pages are the encodings of old files.
var pages = map[string]*charmap.Charmap{
	"ANSI_1250": charmap.Windows1250, "ANSI_1251": charmap.Windows1251, "ANSI_1252": charmap.Windows1252,
	"ANSI_1253": charmap.Windows1253, "ANSI_1254": charmap.Windows1254, "ANSI_1255": charmap.Windows1255,
	"ANSI_1256": charmap.Windows1256, "ANSI_1257": charmap.Windows1257, "ANSI_1258": charmap.Windows1258,
	"ANSI_874": charmap.Windows874, "DOS437": charmap.CodePage437, "DOS850": charmap.CodePage850,
}

var escaped = regexp.MustCompile(`\\[Uu]\+[0-9A-Fa-f]{4}`)

// decode turns the texts of a file into UTF-8: from its code page before the edition of 2007,
// and the escapes of single characters in all of them.
func decode(pairs []pair) {
	page, edition := charmap.Windows1252, ""
	for k, p := range pairs[:max(0, len(pairs)-1)] {
		switch {
		case p.code == 9 && p.value == "$DWGCODEPAGE":
			if known := pages[strings.ToUpper(pairs[k+1].value)]; known != nil {
				page = known
			}
		case p.code == 9 && p.value == "$ACADVER": // the format's own name for its edition
			edition = pairs[k+1].value
		case p.code == 0 && p.value == "ENDSEC":
		}
		if p.code == 2 && p.value == "ENTITIES" {
			break
		}
	}
	old := edition < "AC1021"
	for k, p := range pairs {
		if shapeOf(p.code) != 's' {
			continue
		}
		if old && !ascii(p.value) && !validUTF8(p.value) {
			if text, err := page.NewDecoder().String(p.value); err == nil {
				pairs[k].value = text
			}
		}
		if strings.Contains(p.value, `\`) {
			pairs[k].value = escaped.ReplaceAllStringFunc(pairs[k].value, func(e string) string {
				n, err := strconv.ParseUint(e[3:], 16, 32)
				if err != nil {
					return e
				}
				return string(rune(n))
			})
		}
	}
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

func validUTF8(s string) bool { return strings.ToValidUTF8(s, "") == s }
