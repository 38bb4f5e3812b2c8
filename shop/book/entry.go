package book

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"time"
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
	raw, _ := json.Marshal(
		[]any{e.Seq, e.At.UTC().Format(time.RFC3339Nano), e.PersonID, e.What, e.Subject, e.Why, e.Detail, e.Prev},
	)
	sum := sha256.Sum256(raw)
	return sum[:]
}

// logLock serialises appending: the chain has one end.
const logLock = 0x6a6c6f67

// Pending is an entry that is about to be written.
type Pending struct {
	What, Subject, Why string
	Detail             any
}

// Log appends an entry within the transaction.
func (tx *Tx) Log(what, subject, why string, detail any) error {
	return tx.LogAll([]Pending{{what, subject, why, detail}})
}

// LogAll appends entries within the transaction.
func (tx *Tx) LogAll(all []Pending) error {
	if err := tx.Exec(`select pg_advisory_xact_lock(?)`, logLock).Error; err != nil {
		return err
	}
	var last Entry
	if err := tx.Order("seq desc").Limit(1).Find(&last).Error; err != nil {
		return err
	}
	seq, prev, entries := last.Seq, last.Hash, make([]Entry, len(all))
	if prev == nil {
		prev = []byte{}
	}
	for i, p := range all {
		if p.Detail == nil {
			p.Detail = struct{}{}
		}
		raw, err := json.Marshal(p.Detail)
		if err != nil {
			return fmt.Errorf("log %s: %w", p.What, err)
		}
		seq++
		e := Entry{
			Seq:      seq,
			At:       tx.Now,
			PersonID: tx.By.ID(),
			What:     p.What,
			Subject:  p.Subject,
			Why:      p.Why,
			Detail:   string(raw),
			Prev:     prev,
		}
		e.Hash = e.digest()
		entries[i], prev = e, e.Hash
	}
	tx.logged += len(all)
	return tx.CreateInBatches(&entries, 500).Error
}

// LoggedElsewhere says of a change that its entry is another's: what it signs, or
// another process, writes it.
func (tx *Tx) LoggedElsewhere() { tx.logged++ }

// BrokenLog names the first entry whose hash, or whose place in the chain, does
// not fit.
type BrokenLog struct{ Entry int64 }

func (e *BrokenLog) Error() string { return fmt.Sprintf("the log is broken at entry %d", e.Entry) }

// VerifyLog walks the chain and gives the number of entries, or the first that
// does not fit.
func (s *Book) VerifyLog(ctx context.Context) (int64, error) {
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
			return n, &BrokenLog{n}
		}
		prev = e.Hash
	}
	return n, rows.Err()
}
