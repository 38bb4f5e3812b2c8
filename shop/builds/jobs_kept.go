package builds

import (
	"sync"
	"time"

	"gorm.io/gorm"

	"juxta/core/ident"
)

// keptJobs are the jobs of builds as they were worked out last. The log tells which of them
// have changed since, whatever process changed them: every change writes an entry under
// the build, the run or the nest that it is about. What an entry is about that is none of
// these (a person, a freezer) may concern any build, so all are forgotten.
type keptJobs struct {
	mu   sync.Mutex
	head int64 // of the log: all that is kept is as of here
	of   map[int64]jobsAt
}

type jobsAt struct {
	jobs []Job
	at   time.Time
}

// lives is how long the jobs of a build are good for, for the clocks of its material go on
// (they are told in hours); not the same for all, so that they are not all worked out at once.
func lives(build int64) time.Duration { return time.Minute + time.Duration(build%60)*time.Second }

// fresh are the jobs that are still good, by build, and where the log ends now.
func (k *keptJobs) fresh(db *gorm.DB, now time.Time) (map[int64][]Job, int64, error) {
	k.mu.Lock()
	defer k.mu.Unlock()
	var head int64
	if err := db.Raw(`select coalesce(max(seq), 0) from entries`).Scan(&head).Error; err != nil {
		return nil, 0, err
	}
	out := map[int64][]Job{}
	if head < k.head {
		return out, head, nil // somebody who reads what was
	}
	if head > k.head {
		if err := k.forget(db, head); err != nil {
			return nil, 0, err
		}
		k.head = head
	}
	for id, of := range k.of {
		if age := now.Sub(of.at); age < 0 || age >= lives(id) {
			delete(k.of, id)
			continue
		}
		out[id] = of.jobs
	}
	return out, head, nil
}

// forget takes out what the entries up to the end of the log are about.
func (k *keptJobs) forget(db *gorm.DB, head int64) error {
	const most = 200 // more have changed about everything
	var subjects []string
	if err := db.Raw(`select subject from entries where seq > ? and seq <= ? limit ?`, k.head, head, most).
		Scan(&subjects).Error; err != nil {
		return err
	}
	if len(subjects) == most {
		k.of = nil
		return nil
	}
	var about []string
	for _, subject := range subjects {
		kind, _, err := ident.Parse(subject)
		switch {
		case err != nil:
			k.of = nil
			return nil
		case kind == ident.Build || kind == ident.Run || kind == ident.Nest:
			about = append(about, subject)
		}
	}
	if len(about) == 0 {
		return nil
	}
	var ids []int64
	if err := db.Raw(`select id from builds where code in @about
		union select rb.build_id from run_builds rb join runs h on h.id = rb.run_id where h.code in @about
		union select p.build_id from nest_pieces p join nests n on n.id = p.nest_id where n.code in @about`,
		map[string]any{"about": about}).Scan(&ids).Error; err != nil {
		return err
	}
	for _, id := range ids {
		delete(k.of, id)
	}
	return nil
}

// keep keeps jobs that were worked out as of an end of the log, unless it has moved on.
func (k *keptJobs) keep(of map[int64][]Job, head int64, now time.Time) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if head != k.head {
		return
	}
	if k.of == nil {
		k.of = map[int64]jobsAt{}
	}
	for id, jobs := range of {
		k.of[id] = jobsAt{jobs, now}
	}
}
