package shop

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"strings"
	"time"

	"gorm.io/gorm"
)

// Tablet is a device of the shop: it is told the names of the people who may sign
// in, so that somebody with gloves on presses theirs. Its token is kept as a hash.
type Tablet struct {
	ID           int64
	Name         string
	TokenHash    []byte
	RegisteredBy int64
	RegisteredAt time.Time
	EndedAt      *time.Time
}

// TabletView is a registered device.
type TabletView struct {
	ID           int64     `json:"id"`
	Name         string    `json:"name"`
	RegisteredBy string    `json:"registeredBy"`
	RegisteredAt time.Time `json:"registeredAt"`
}

// Tablets lists the registered devices.
func (s *Shop) Tablets(ctx context.Context) ([]TabletView, error) {
	return view(ctx, s.Book, func(db *gorm.DB) ([]TabletView, error) {
		out := []TabletView{}
		err := db.Raw(`select t.id, t.name, p.name as registered_by, t.registered_at from tablets t join people p on p.id = t.registered_by
			where t.ended_at is null order by t.name, t.id`).Scan(&out).Error
		return out, err
	})
}

// NewTablet registers the device that asks.
type NewTablet struct {
	Name string `json:"name" minLength:"1" maxLength:"60" doc:"What the shop calls it, such as bench 2"`
	PIN  string `json:"pin" maxLength:"12" doc:"Of who registers it"`
}

// RegisterTablet makes a device one of the shop's and gives its token, once.
func (s *Shop) RegisterTablet(ctx context.Context, by By, in NewTablet) (TabletView, string, error) {
	if err := May(by.Person, KeepTablets); err != nil {
		return TabletView{}, "", err
	}
	if err := s.signature(ctx, by, in.PIN); err != nil {
		return TabletView{}, "", err
	}
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	token := base64.RawURLEncoding.EncodeToString(raw)
	by.Key = "" // its token is told once
	v, err := write(ctx, s.Book, by, KeepTablets, "register tablet", in.Name, func(tx *Tx) (TabletView, error) {
		name := strings.TrimSpace(in.Name)
		if name == "" {
			return TabletView{}, invalid("name", "say what the shop calls it")
		}
		t := Tablet{Name: name, TokenHash: tokenHash(token), RegisteredBy: tx.by.Person.ID, RegisteredAt: tx.now}
		if err := tx.Create(&t).Error; err != nil {
			return TabletView{}, err
		}
		return TabletView{t.ID, t.Name, tx.by.Person.Name, t.RegisteredAt}, tx.log("tablet registered", name, "", map[string]any{"tablet": t.ID, "role": tx.role()})
	})
	return v, token, err
}

// EndTablet makes a device a stranger again.
func (s *Shop) EndTablet(ctx context.Context, by By, id int64) (TabletView, error) {
	return write(ctx, s.Book, by, KeepTablets, "end tablet", id, func(tx *Tx) (TabletView, error) {
		var all []Tablet
		if err := locked(tx.DB).Where("id = ? and ended_at is null", id).Find(&all).Error; err != nil {
			return TabletView{}, err
		}
		if len(all) == 0 {
			return TabletView{}, missing("there is no such tablet")
		}
		all[0].EndedAt = &tx.now
		if err := tx.Save(&all[0]).Error; err != nil {
			return TabletView{}, err
		}
		return TabletView{ID: all[0].ID, Name: all[0].Name, RegisteredAt: all[0].RegisteredAt}, tx.log("tablet given up", all[0].Name, "", map[string]any{"tablet": id})
	})
}

// KnowsNames says whether a device is told who may sign in: one of the shop's, or
// any where the shop has decided so.
func (s *Shop) KnowsNames(ctx context.Context, token string) (bool, error) {
	return view(ctx, s.Book, func(db *gorm.DB) (bool, error) {
		v, err := habits(db)
		if err != nil || v.Habits.NamesToAll {
			return v.Habits.NamesToAll, err
		}
		if token == "" {
			return false, nil
		}
		var n int64
		err = db.Model(&Tablet{}).Where("token_hash = ? and ended_at is null", tokenHash(token)).Count(&n).Error
		return n > 0, err
	})
}

// tokenHash is enough for a token of 192 random bits: there is nothing to guess.
func tokenHash(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}
