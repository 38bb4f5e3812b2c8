package book

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Setting is one of the shop's own.
type Setting struct {
	Key       string `gorm:"primaryKey"`
	Value     string // JSON
	Version   int
	ChangedAt time.Time
	ChangedBy *int64
}

// ReadSetting reads one of the shop's own settings into what holds the usual one;
// version 0: nobody has changed it.
func ReadSetting[T any](db *gorm.DB, key string, usual *T) (version int, at *time.Time, err error) {
	var kept []Setting
	if err := db.Where("key = ?", key).Find(&kept).Error; err != nil || len(kept) == 0 {
		return 0, nil, err
	}
	return kept[0].Version, &kept[0].ChangedAt, json.Unmarshal([]byte(kept[0].Value), usual)
}

// ChangeSetting stores one of the shop's own settings, made from the version that
// the person saw, with its reason. Whoever else changes it waits.
func ChangeSetting[T any](tx *Tx, key, what string, usual, to T, seen int, reason string) error {
	if err := tx.alone(key); err != nil {
		return err
	}
	before := usual
	version, _, err := ReadSetting(tx.DB, key, &before)
	if err != nil {
		return err
	}
	if version != seen {
		return Changed.Errorf("somebody changed the %s in the meantime: look at them again", what)
	}
	if strings.TrimSpace(reason) == "" {
		return Needed.At("reason", "say why the %s change", what)
	}
	raw, err := json.Marshal(to)
	if err != nil {
		return err
	}
	kept := Setting{Key: key, Value: string(raw), Version: seen + 1, ChangedAt: tx.Now, ChangedBy: tx.By.ID()}
	if err := tx.Save(&kept).Error; err != nil {
		return err
	}
	return tx.Log(what+" changed", what, reason, map[string]any{"from": before, "to": to})
}

// Habits are what shops decide differently.
type Habits struct {
	OneReleases bool `json:"oneReleases" doc:"Who checked a revision may release it as well"`
	NamesToAll  bool `json:"namesToAll" doc:"The sign-in page tells the people's names to every tablet that asks, not only to those that are registered"`

	Places []string `json:"places,omitempty" doc:"Where the shop does things: benches, ovens, presses, the cutter; empty: any" maxItems:"60"`
}

// HabitsView is the shop settings as they are.
type HabitsView struct {
	Version   int        `json:"version" doc:"0: the usual ones"`
	Habits    Habits     `json:"habits"`
	ChangedAt *time.Time `json:"changedAt,omitempty"`
}

const habitsKey = "habits"

func HabitsOf(db *gorm.DB) (v HabitsView, err error) {
	v.Version, v.ChangedAt, err = ReadSetting(db, habitsKey, &v.Habits)
	return v, err
}

// Habits are what the shop has decided.
func (s *Book) Habits(ctx context.Context) (HabitsView, error) {
	return View(ctx, s, HabitsOf)
}

// HabitsIn is a change of the shop settings.
type HabitsIn struct {
	Version int    `json:"version" doc:"That was seen"`
	Habits  Habits `json:"habits"`
	Reason  string `json:"reason" minLength:"1" maxLength:"400"`
}

// ChangeHabits sets the shop settings.
func (s *Book) ChangeHabits(ctx context.Context, by By, in HabitsIn) (HabitsView, error) {
	return Write(ctx, s, by, KeepRules, "change shop settings", in, func(tx *Tx) (HabitsView, error) {
		seen := map[string]bool{}
		for k, place := range in.Habits.Places {
			place = strings.TrimSpace(place)
			if at := strings.ToLower(place); place == "" || len(place) > 60 || seen[at] {
				return HabitsView{}, Wrong.At("habits.places", "a place has a name of its own of 60 letters at most: "+
					"look at place %d", k+1)
			}
			seen[strings.ToLower(place)] = true
			in.Habits.Places[k] = place
		}
		if err := ChangeSetting(tx, habitsKey, "shop settings", Habits{}, in.Habits, in.Version,
			in.Reason); err != nil {
			return HabitsView{}, err
		}
		return HabitsOf(tx.DB)
	})
}
