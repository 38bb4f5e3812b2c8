package api

import (
	"errors"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"unicode"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/validation"

	"juxta/shop/book"
)

// What the contract finds wrong with an input, in the words of the page: the
// field by its name, what it has to be, and never what was sent, which may be a
// secret or very long.

func init() {
	validation.MsgUnexpectedProperty = "is not known here"
	validation.MsgExpectedRFC3339DateTime = "has to be a date with its time"
	validation.MsgExpectedBoolean = "has to be yes or no"
	validation.MsgExpectedNumber = "has to be a number"
	validation.MsgExpectedInteger = "has to be a whole number"
	validation.MsgExpectedString = "has to be a text"
	validation.MsgExpectedBase64String = "did not arrive whole: send it again"
	validation.MsgExpectedArray = "has to be a list"
	validation.MsgExpectedObject = "is not of the right shape"
	validation.MsgExpectedOneOf = "has to be one of: %s"
	validation.MsgExpectedMinimumNumber = "has to be at least %v"
	validation.MsgExpectedExclusiveMinimumNumber = "has to be above %v"
	validation.MsgExpectedMaximumNumber = "has to be at most %v"
	validation.MsgExpectedExclusiveMaximumNumber = "has to be below %v"
	validation.MsgExpectedMinLength = "needs at least %d characters"
	validation.MsgExpectedMaxLength = "has more than %d characters"
	validation.MsgExpectedMatchPattern = "is not written as it has to be (%s)"
	validation.MsgExpectedMinItems = "needs at least %d entries"
	validation.MsgExpectedMaxItems = "has more than %d entries"
	validation.MsgExpectedRequiredProperty = "%s is missing"
	plain := huma.NewError
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		var refusal *book.Error
		if len(errs) == 1 && errors.As(errs[0], &refusal) {
			return refused(refusal)
		}
		if status != http.StatusUnprocessableEntity || msg != "validation failed" {
			return plain(status, msg, errs...)
		}
		wrong := &book.Error{Rule: book.Wrong, Message: "the input cannot be read"}
		out := refused(wrong)
		for _, err := range errs[:min(len(errs), 20)] { // nobody reads on
			d, ok := err.(*huma.ErrorDetail)
			if !ok {
				d = &huma.ErrorDetail{Message: wrong.Message}
			}
			out.Errors = append(
				out.Errors,
				&huma.ErrorDetail{Location: d.Location, Message: worded(d.Location, d.Message)},
			)
		}
		if len(out.Errors) > 0 {
			out.Detail = out.Errors[0].Message
		}
		return out
	}
}

// called is what the pages call a field, where that is not the name itself in
// words.
var called = map[string]string{
	"pin": "the PIN", "newPin": "the new PIN", "personId": "the person", "freezerId": "the freezer",
	"materialId": "the material", "resinId": "the resin",
	"cutPly": "the label", "cureAt": "the planned cure", "madeOn": "the day it was made",
	"shelfEnd": "the end of shelf life", "arrivalTemp": "the warmest on arrival",
	"start": "the vacuum at the start", "end": "the vacuum at the end", "seconds": "the time",
	"filmsOff": "the number of films off", "angleDeg": "the angle",
	"secret": "the PIN or password", "spent": "the out-time already spent", "more": "the added out-life",
	"until": "the new end",
}

var index = regexp.MustCompile(`^(\w+)\[(\d+)\]$`)

// worded names a field and says what is wrong with it: "body.rolls[2].length".
func worded(location, message string) string {
	name, whole := "", strings.TrimPrefix(strings.TrimPrefix(location, "body"), ".")
	for _, part := range strings.Split(whole, ".") {
		if part == "" || part == "path" || part == "query" {
			continue
		}
		of := ""
		if m := index.FindStringSubmatch(part); m != nil {
			var n int
			_, _ = fmt.Sscan(m[2], &n)
			part, of = m[1], fmt.Sprintf(" %d", n+1)
		}
		if name != "" {
			name += ", "
		}
		name += inWords(part) + of
	}
	if missing, ok := strings.CutSuffix(message, " is missing"); ok {
		message = inWords(missing) + " is missing"
		if name != "" {
			message = name + ": " + message
		}
		return message
	}
	if name == "" {
		name = "the input"
	}
	return name + " " + message
}

// inWords is a field's name in words: massTolerance is "the mass tolerance".
func inWords(field string) string {
	if known, ok := called[field]; ok {
		return known
	}
	var b strings.Builder
	for i, r := range field {
		if unicode.IsUpper(r) && i > 0 {
			b.WriteByte(' ')
		}
		b.WriteRune(unicode.ToLower(r))
	}
	return "the " + b.String()
}
