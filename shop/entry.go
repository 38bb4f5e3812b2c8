package shop

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Entry is one line of the append-only log.
type Entry struct {
	Seq      int64 `gorm:"primaryKey"`
	At       time.Time
	PersonID *int64
	What     string // the verb, such as "ply signed"
	Subject  string // the id on the label of what it is about
	Why      string
	Detail   string // JSON
	Prev     []byte
	Hash     []byte
}

// digest is SHA-256 over the entry's content in a fixed JSON form and the
// hash of the entry before.
func (e Entry) digest() []byte {
	raw, _ := json.Marshal([]any{e.Seq, e.At.UTC().Format(time.RFC3339Nano), e.PersonID, e.What, e.Subject, e.Why, e.Detail, e.Prev})
	sum := sha256.Sum256(raw)
	return sum[:]
}

// logLock serialises appending: the chain has one end.
const logLock = 0x6a6c6f67

// log appends an entry within the transaction.
func (tx *Tx) log(what, subject, why string, detail any) error {
	if detail == nil {
		detail = struct{}{}
	}
	raw, err := json.Marshal(detail)
	if err != nil {
		return fmt.Errorf("log %s: %w", what, err)
	}
	if err := tx.Exec(`select pg_advisory_xact_lock(?)`, logLock).Error; err != nil {
		return err
	}
	var last Entry
	if err := tx.Order("seq desc").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	e := Entry{Seq: last.Seq + 1, At: tx.now, PersonID: tx.by.id(), What: what, Subject: subject, Why: why, Detail: string(raw), Prev: last.Hash}
	if e.Prev == nil {
		e.Prev = []byte{}
	}
	e.Hash = e.digest()
	tx.logged++
	return tx.Create(&e).Error
}

// VerifyLog walks the chain and gives the number of entries, or the first that
// does not fit.
func (s *Shop) VerifyLog(ctx context.Context) (int64, error) {
	rows, err := s.DB.Gorm.WithContext(ctx).Model(&Entry{}).Order("seq").Rows()
	if err != nil {
		return 0, err
	}
	defer rows.Close()
	prev, n := []byte{}, int64(0)
	for rows.Next() {
		var e Entry
		if err := s.DB.Gorm.ScanRows(rows, &e); err != nil {
			return n, err
		}
		n++
		if e.Seq != n || string(e.Prev) != string(prev) || string(e.digest()) != string(e.Hash) {
			return n, fmt.Errorf("the log is broken at entry %d", n)
		}
		prev = e.Hash
	}
	return n, rows.Err()
}

// LogLine is an entry as people read it.
type LogLine struct {
	Seq    int64     `json:"seq"`
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	What   string    `json:"what"`
	Why    string    `json:"why,omitempty"`
}

// logOf lists the entries about one thing, oldest first.
func (s *Shop) logOf(db *gorm.DB, subject string) ([]LogLine, error) {
	lines := []LogLine{}
	return lines, db.Raw(`select e.seq, e.at, coalesce(p.name, 'Juxta') as person, e.what, e.why
		from entries e left join people p on p.id = e.person_id where e.subject = ? order by e.seq`, subject).Scan(&lines).Error
}
