package people

import (
	"context"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"juxta/core/ident"
	"juxta/shop/book"
)

// keysMost is how many keys somebody can give another place.
const keysMost = 40

// reads are the keys that the pages read for themselves: the first letters of ids,
// which scanners type, and the digits that lead to the rooms.
var reads = strings.ToLower(string([]rune{
	rune(ident.Roll), rune(ident.Part), rune(ident.Build), rune(ident.CutPly), rune(ident.Nest), rune(ident.Run),
	rune(ident.Batch), rune(ident.Badge), rune(ident.Preform),
})) + "0123456789"

// ChangePreferences sets how a person likes to work. It changes what they see and type,
// and nothing that is recorded.
func (s *Room) ChangePreferences(ctx context.Context, by book.By, in book.Preferences) (book.Preferences, error) {
	if len(in.Keys.Moved) > keysMost {
		return in, book.TooMuch.At("keys.moved", "at most %d keys can be moved", keysMost)
	}
	var taken []string
	for from, to := range in.Keys.Moved {
		r, size := utf8.DecodeRuneInString(to)
		if size == 0 || size != len(to) || !unicode.IsPrint(r) || unicode.IsSpace(r) {
			return in, book.Wrong.At(
				"keys.moved",
				"%q cannot stand for %s: a key is one letter, digit or sign",
				to,
				from,
			)
		}
		if strings.ContainsRune(reads, unicode.ToLower(r)) {
			return in, book.WrongTime.At("keys.moved",
				"%q is where a scanned id begins, or leads to a room: it can stand for nothing else", to)
		}
		if slices.Contains(taken, to) {
			return in, book.Wrong.At("keys.moved", "two things have the key %q", to)
		}
		taken = append(taken, to)
	}
	return book.Write(
		ctx,
		s.Book,
		by,
		book.OwnAccount,
		"change preferences",
		in,
		func(tx *book.Tx) (book.Preferences, error) {
			p, err := person(tx, by.Person.ID)
			if err != nil {
				return in, err
			}
			p.Preferences = in
			if err := tx.Save(&p).Error; err != nil {
				return in, err
			}
			return in, tx.Log("own preferences changed", p.Name, "", in)
		},
	)
}
