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

// ShopSettings are what shops decide differently.
type ShopSettings struct {
	OneReleases bool `json:"oneReleases" doc:"Who checked a revision may release it as well"`
	NamesToAll  bool `json:"namesToAll" doc:"The sign-in page tells the people's names to every tablet that asks, not only to those that are registered"`

	Places []string `json:"places,omitempty" doc:"Where the shop does things: benches, ovens, presses, the cutter; empty: any" maxItems:"60"`
}

// ShopSettingsView is the shop settings as they are.
type ShopSettingsView struct {
	Version   int          `json:"version" doc:"0: the usual ones"`
	Settings  ShopSettings `json:"settings"`
	ChangedAt *time.Time   `json:"changedAt,omitempty"`
}

const settingsKey = "habits" // its name of old, in databases

func ShopSettingsOf(db *gorm.DB) (v ShopSettingsView, err error) {
	v.Version, v.ChangedAt, err = ReadSetting(db, settingsKey, &v.Settings)
	return v, err
}

// ShopSettings are what the shop has decided.
func (s *Book) ShopSettings(ctx context.Context) (ShopSettingsView, error) {
	return View(ctx, s, ShopSettingsOf)
}

// ShopSettingsIn is a change of the shop settings.
type ShopSettingsIn struct {
	Version  int          `json:"version" doc:"That was seen"`
	Settings ShopSettings `json:"settings"`
	Reason   string       `json:"reason" minLength:"1" maxLength:"400"`
}

// ChangeShopSettings sets the shop settings.
func (s *Book) ChangeShopSettings(ctx context.Context, by By, in ShopSettingsIn) (ShopSettingsView, error) {
	return Write(ctx, s, by, KeepRules, "change shop settings", in, func(tx *Tx) (ShopSettingsView, error) {
		seen := map[string]bool{}
		for k, place := range in.Settings.Places {
			place = strings.TrimSpace(place)
			if at := strings.ToLower(place); place == "" || len(place) > 60 || seen[at] {
				const unlike = "a place has a name of its own of 60 letters at most: look at place %d"
				return ShopSettingsView{}, Wrong.At("settings.places", unlike, k+1)
			}
			seen[strings.ToLower(place)] = true
			in.Settings.Places[k] = place
		}
		if err := ChangeSetting(tx, settingsKey, "shop settings", ShopSettings{}, in.Settings, in.Version,
			in.Reason); err != nil {
			return ShopSettingsView{}, err
		}
		return ShopSettingsOf(tx.DB)
	})
}
