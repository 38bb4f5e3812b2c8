package book

import "fmt"

// Kind of a refusal, for whoever turns it into a status.
type Kind int

// The kinds of refusal.
const (
	Invalid  Kind = iota // the input cannot be right
	Missing              // there is no such thing
	Conflict             // somebody else was first, or it is too late
	Refused              // a rule of the shop or a role forbids it
)

// Rule is what a refusal follows from: a code that stays the same whatever the
// sentence says, for pages and programs that act on it.
type Rule struct {
	Code string
	Kind Kind
}

// The rules that refuse.
var (
	Needed     = Rule{"needed", Invalid}      // something has to be entered or chosen
	Unreadable = Rule{"unreadable", Invalid}  // an id, number or file that cannot be read
	Wrong      = Rule{"wrong", Invalid}       // a value that cannot be
	WrongTime  = Rule{"wrong-time", Invalid}  // a time before or after the one it may have
	TooMuch    = Rule{"too-much", Invalid}    // more than is taken at once
	NotHere    = Rule{"not-here", Invalid}    // an entry refers to what is not known here
	Faults     = Rule{"faults", Invalid}      // a document or file has faults; Details name them
	NoSuch     = Rule{"no-such", Missing}     // there is no such thing
	Changed    = Rule{"changed", Conflict}    // somebody else changed it in the meantime
	Taken      = Rule{"taken", Conflict}      // a name, number or serial is in use
	Done       = Rule{"done", Conflict}       // it is done, signed, closed or over already
	NotNow     = Rule{"not-now", Conflict}    // the thing is in no state for it
	First      = Rule{"first", Refused}       // something else comes first
	Incomplete = Rule{"incomplete", Refused}  // plies, films or figures are missing
	Limit      = Rule{"limit", Refused}       // outside a limit that was entered
	Life       = Rule{"life", Refused}        // material that is spent, or must not be used
	Cold       = Rule{"cold", Refused}        // still in the freezer, or below the dew point
	Unlikely   = Rule{"unlikely", Refused}    // a reading that can hardly be: it may be said to be so
	Final      = Rule{"final", Refused}       // what happened cannot be made undone
	NotTheirs  = Rule{"not-theirs", Refused}  // of another role, or of somebody else
	Unskilled  = Rule{"unqualified", Refused} // the person lacks a qualification that is valid today
	Second     = Rule{"second", Refused}      // a second person has to do it
	WrongPIN   = Rule{"secret", Refused}      // a PIN, password or code that is not right
	Shut       = Rule{"locked", Refused}      // too many failed attempts
)

// Error is a refusal: the rule it follows from and a plain sentence, with its
// quantities as data, at the field that it is about. Details name rows or entities
// of a file.
type Error struct {
	Rule
	Field   string
	Message string
	Details []string
}

func (e *Error) Error() string { return e.Message }

// Errorf is a refusal by the rule, in a sentence.
func (r Rule) Errorf(format string, args ...any) error { return r.At("", format, args...) }

// At is a refusal by the rule, at a field.
func (r Rule) At(field, format string, args ...any) error {
	return &Error{Rule: r, Field: field, Message: fmt.Sprintf(format, args...)}
}
