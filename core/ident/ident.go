package ident

import (
	"fmt"
	"strings"
)

// Kind is the first letter of an id; it says what the thing is.
type Kind byte

// The kinds of thing that carry a label.
const (
	Roll    Kind = 'R'
	Part    Kind = 'P'
	Build   Kind = 'B'
	CutPly  Kind = 'C'
	Nest    Kind = 'N'
	Run     Kind = 'H' // a heat: one cure run
	Batch   Kind = 'M' // a supplier's batch of material
	Badge   Kind = 'W' // somebody who works here
	Preform Kind = 'J' // a pre-form of a build
)

const alphabet = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"

// scatter is odd, so multiplying by it permutes the numbers below 2^20:
// neighbours on the shelf get ids that do not look alike.
// apart keeps the first roll from looking like the first part.
const (
	scatter = 635497
	apart   = 174763
	small   = 1 << 20
)

// Format gives the id of the n-th thing of a kind, n ≥ 1. Ids are distinct
// for distinct n; the first 2^20 have four digits, later ones seven.
func Format(k Kind, n int64) string {
	digits, width := n, 7
	if n < small {
		digits, width = (n*scatter+int64(k)*apart)%small, 4
	}
	body := make([]byte, width)
	for i := width - 1; i >= 0; i-- {
		body[i] = alphabet[digits%32]
		digits /= 32
	}
	return fmt.Sprintf("%c-%s%c", k, body, check(string(k)+string(body)))
}

// check is the ISO 7064 MOD 33,32 check character of the kind and the digits.
func check(body string) byte {
	p := 32
	for i := range len(body) {
		p += strings.IndexByte(alphabet, body[i])
		if p %= 32; p == 0 {
			p = 32
		}
		p = p * 2 % 33
	}
	return alphabet[(33-p)%32]
}

// Parse reads an id as a person types it or a scanner sends it: any case,
// spaces around it, a missing dash, O for 0 and I or L for 1. It gives the id
// in its one written form, or a sentence that says what is wrong.
func Parse(s string) (Kind, string, error) {
	raw := strings.ToUpper(strings.TrimSpace(s))
	if len(raw) < 2 {
		return 0, "", fmt.Errorf("%q is not an id: it should look like R-4KD7Q", s)
	}
	kind := Kind(raw[0])
	if !strings.ContainsRune("RPBCNHMWJ", rune(kind)) {
		return 0, "", fmt.Errorf("%q is not an id: it should start with R, P, B, C, N, H, M, W or J", s)
	}
	body := strings.NewReplacer("O", "0", "I", "1", "L", "1").Replace(strings.TrimPrefix(raw[1:], "-"))
	if len(body) != 5 && len(body) != 8 {
		return 0, "", fmt.Errorf("%q is not an id: after the %c there should be 5 characters", s, kind)
	}
	for _, r := range body {
		if !strings.ContainsRune(alphabet, r) {
			return 0, "", fmt.Errorf("%q is not an id: %q is never used in one", s, r)
		}
	}
	digits, last := body[:len(body)-1], body[len(body)-1]
	if check(string(kind)+digits) != last {
		return 0, "", fmt.Errorf(
			"%q has a wrong check character: scan it again, or read it once more letter by letter",
			s,
		)
	}
	return kind, fmt.Sprintf("%c-%s", kind, body), nil
}
