package book

import (
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
)

// LogLine is an entry as people read it.
type LogLine struct {
	Seq    int64     `json:"seq"`
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	What   string    `json:"what"`
	Why    string    `json:"why,omitempty"`
	// A signature says more: what it means, and the role in which it was given.
	Meaning string `json:"meaning,omitempty" doc:"Signature: what it means, such as laid or inspected"`
	Role    string `json:"role,omitempty" doc:"Signature: role of who signed, at the time"`
	Ply     int    `json:"ply,omitempty" doc:"That it is about"`
}

// LogOf lists the entries about one thing, oldest first.
func (s *Book) LogOf(db *gorm.DB, subjects ...string) ([]LogLine, error) {
	lines := []LogLine{}
	err := db.Raw(`select e.seq, e.at, coalesce(p.name, 'Juxta') as person, e.what, e.why,
		coalesce(e.detail->>'meaning', '') as meaning,
		coalesce(e.detail->>'role', '') as role,
	coalesce((e.detail->>'ply')::int, (e.detail->>'afterPly')::int, 0) as ply
		from entries e left join people p on p.id = e.person_id where e.subject in ? order by e.seq`, subjects).
		Scan(&lines).
		Error
	return lines, err
}

// LogQuery asks for entries, newest first.
type LogQuery struct {
	Person  int64     // 0: anybody
	What    string    // part of the verb
	Subject string    // part of the id or name
	From    time.Time // zero: no bound
	To      time.Time
	Before  int64 // entries before this number; 0: from the newest
	Limit   int   // 0 means 100, at most 500
}

// LogEntry is an entry with all that it says.
type LogEntry struct {
	LogLine
	Subject string `json:"subject"`
	Detail  string `json:"detail" doc:"JSON"`
	Hash    string `json:"hash" doc:"SHA-256 over the entry and the hash of the one before, hex"`
}

func (q LogQuery) clause() (string, []any) {
	where, args := []string{"true"}, []any{}
	add := func(when bool, clause string, arg any) {
		if when {
			where, args = append(where, clause), append(args, arg)
		}
	}
	add(q.Person != 0, "e.person_id = ?", q.Person)
	add(q.What != "", "e.what ilike ?", LikePattern(q.What))
	add(q.Subject != "", "e.subject ilike ?", LikePattern(q.Subject))
	add(!q.From.IsZero(), "e.at >= ?", q.From)
	add(!q.To.IsZero(), "e.at < ?", q.To)
	add(q.Before > 0, "e.seq < ?", q.Before)
	return strings.Join(where, " and "), args
}

const logSelect = `select e.seq, e.at, coalesce(p.name, 'Juxta') as person, e.what, e.why,
	coalesce(e.detail->>'meaning', '') as meaning, coalesce(e.detail->>'role', '') as role, e.subject, e.detail,
	encode(e.hash, 'hex') as hash
	from entries e left join people p on p.id = e.person_id where `

// Log lists entries, newest first.
func (s *Book) Log(ctx context.Context, q LogQuery) ([]LogEntry, error) {
	if q.Limit <= 0 {
		q.Limit = 100
	}
	where, args := q.clause()
	out := []LogEntry{}
	err := TextError(
		s.DB.Gorm.WithContext(ctx).
			Raw(logSelect+where+` order by e.seq desc limit ?`, append(args, min(q.Limit, 500))...).
			Scan(&out).
			Error,
	)
	return out, err
}

// atATime is how many entries are read at once: between them no connection is
// held, however slowly somebody takes them.
const atATime = 500

// EachEntry walks the entries that answer a question, oldest first, however
// many there are.
func (s *Book) EachEntry(ctx context.Context, q LogQuery, see func(LogEntry) error) error {
	where, args := q.clause()
	for last := int64(0); ; {
		var some []LogEntry
		err := s.DB.Gorm.WithContext(ctx).
			Raw(logSelect+where+` and e.seq > ? order by e.seq limit ?`, append(slices.Clone(args), last, atATime)...).
			Scan(&some).
			Error
		if err != nil {
			return TextError(err)
		}
		for _, e := range some {
			if err := see(e); err != nil {
				return err
			}
			last = e.Seq
		}
		if len(some) < atATime {
			return nil
		}
	}
}

// LogState says whether the chain of the log holds.
type LogState struct {
	Entries int64 `json:"entries" doc:"Looked at"`
	Holds   bool  `json:"holds"`
	Broken  int64 `json:"broken,omitempty" doc:"First entry that does not fit"`
}

// CheckLog walks the whole chain.
func (s *Book) CheckLog(ctx context.Context) (LogState, error) {
	n, err := s.VerifyLog(ctx)
	var broken *BrokenLog
	if errors.As(err, &broken) {
		return LogState{Entries: n, Broken: broken.Entry}, nil
	}
	return LogState{Entries: n, Holds: err == nil}, err
}

// LikePattern is a pattern that finds a text anywhere.
func LikePattern(text string) string {
	return "%" + strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(text) + "%"
}
