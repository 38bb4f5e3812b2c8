package people

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"strings"
	"time"

	"gorm.io/gorm"

	"juxta/shop/book"
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
func (s *Room) Tablets(ctx context.Context) ([]TabletView, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]TabletView, error) {
		out := []TabletView{}
		err := db.Raw(`select t.id, t.name, p.name as registered_by, t.registered_at from tablets t
			join people p on p.id = t.registered_by
			where t.ended_at is null order by t.name, t.id`).
			Scan(&out).
			Error
		return out, err
	})
}

// NewTablet registers the device that asks.
type NewTablet struct {
	Name string `json:"name" minLength:"1" maxLength:"60" doc:"What the shop calls it, such as bench 2"`
	PIN  string `json:"pin" maxLength:"12" doc:"Of who registers it"`
}

// RegisterTablet makes a device one of the shop's and gives its token, once.
func (s *Room) RegisterTablet(ctx context.Context, by book.By, in NewTablet) (TabletView, string, error) {
	by, err := s.Signed(ctx, by, book.KeepTablets, in.PIN)
	if err != nil {
		return TabletView{}, "", err
	}
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	token := base64.RawURLEncoding.EncodeToString(raw)
	by.Key = "" // its token is told once
	v, err := book.Write(
		ctx,
		s.Book,
		by,
		book.KeepTablets,
		"register tablet",
		in.Name,
		func(tx *book.Tx) (TabletView, error) {
			name := strings.TrimSpace(in.Name)
			if name == "" {
				return TabletView{}, book.Needed.At("name", "say what the shop calls it")
			}
			t := Tablet{Name: name, TokenHash: tokenHash(token), RegisteredBy: tx.By.Person.ID, RegisteredAt: tx.Now}
			if err := tx.Create(&t).Error; err != nil {
				return TabletView{}, err
			}
			return TabletView{
					t.ID,
					t.Name,
					tx.By.Person.Name,
					t.RegisteredAt,
				}, tx.Log(
					"tablet registered",
					name,
					"",
					map[string]any{"tablet": t.ID, "role": tx.Role()},
				)
		},
	)
	return v, token, err
}

// EndTablet makes a device a stranger again.
func (s *Room) EndTablet(ctx context.Context, by book.By, id int64) (TabletView, error) {
	return book.Write(ctx, s.Book, by, book.EndTablet, "end tablet", id, func(tx *book.Tx) (TabletView, error) {
		var all []Tablet
		if err := book.Locked(tx.DB).Where("id = ? and ended_at is null", id).Find(&all).Error; err != nil {
			return TabletView{}, err
		}
		if len(all) == 0 {
			return TabletView{}, book.NoSuch.Errorf("there is no such tablet")
		}
		all[0].EndedAt = &tx.Now
		if err := tx.Save(&all[0]).Error; err != nil {
			return TabletView{}, err
		}
		return TabletView{
				ID:           all[0].ID,
				Name:         all[0].Name,
				RegisteredAt: all[0].RegisteredAt,
			}, tx.Log(
				"tablet given up",
				all[0].Name,
				"",
				map[string]any{"tablet": id},
			)
	})
}

// KnowsNames says whether a device is told who may sign in: one of the shop's, or
// any where the shop has decided so.
func (s *Room) KnowsNames(ctx context.Context, token string) (bool, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) (bool, error) {
		v, err := book.ShopSettingsOf(db)
		if err != nil || v.Settings.NamesToAll {
			return v.Settings.NamesToAll, err
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
