package shop

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"juxta/core/ident"
)

// Wrong tries are counted for a person at an address. After lockAfter in a row
// that address waits, longer each time, at most lockMost; a colleague at
// another address signs in meanwhile. Somebody who tries from many addresses
// is slowed as well: after manyTries in an hour only addresses from which the
// person signed in within knownFor may try.
const (
	lockAfter = 5
	lockMost  = 5 * time.Minute
	manyTries = 30
	knownFor  = 30 * 24 * time.Hour
)

// Credentials are a person, by id or badge, and the secret that signs them in.
type Credentials struct {
	PersonID int64  `json:"personId,omitempty"`
	Badge    string `json:"badge,omitempty" maxLength:"20"`
	Secret   string `json:"secret" minLength:"1" maxLength:"200" doc:"PIN or password"`
}

var notTogether = refused("name and PIN or password do not belong together")

// WhoseBadge tells whom a scanned badge belongs to.
func (s *Shop) WhoseBadge(ctx context.Context, badge string) (PersonView, error) {
	kind, code, err := ident.Parse(badge)
	if err != nil {
		return PersonView{}, invalid("badge", "%s", err)
	}
	var p Person
	err = s.DB.Gorm.WithContext(ctx).Where("badge = ? and left_at is null", code).Take(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) || kind != ident.Badge {
		return PersonView{}, missing("this badge opens nothing here: sign in by name, or have a new one issued")
	}
	return p.View(), err
}

// SignIn checks a secret. Every try is logged with its address.
func (s *Shop) SignIn(ctx context.Context, address string, in Credentials) (*Person, error) {
	via := "name"
	if in.Badge != "" {
		p, err := s.WhoseBadge(ctx, in.Badge)
		if err != nil {
			return nil, err
		}
		in.PersonID, via = p.ID, "badge"
	}
	hash := func(p Person) string {
		if secretOf(p.Role) == "password" {
			return p.PasswordHash
		}
		return p.PinHash
	}
	return s.try(ctx, address, in.PersonID, in.Secret, hash, "signed in", map[string]string{"via": via, "from": address})
}

// signature checks the PIN that is asked again with a signature, of whoever
// signs. It counts wrong ones like a sign-in, and outside the change that it
// goes with, so that a refusal keeps the count.
func (s *Shop) signature(ctx context.Context, by By, pin string) error {
	if by.Person == nil {
		return nil
	}
	if pin == "" {
		return invalid("pin", "this signature asks for your PIN again")
	}
	_, err := s.try(ctx, by.Address, by.Person.ID, pin, func(p Person) string { return p.PinHash }, "", nil)
	var wrong *Error
	if errors.As(err, &wrong) && wrong == notTogether {
		return refused("this is not your PIN: nothing was signed")
	}
	return err
}

// try holds a secret against a person's hash. says is the entry of a right
// try; "" writes none.
func (s *Shop) try(ctx context.Context, address string, personID int64, secret string, hash func(Person) string, says string, detail any) (*Person, error) {
	var refusal error
	p, err := write(ctx, s, By{}, OwnAccount, "sign in", personID, func(tx *Tx) (*Person, error) {
		tx.logged++ // a right signature is logged with what it signs
		var p Person
		err := tx.Where("left_at is null").Take(&p, personID).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return nil, notTogether
		} else if err != nil {
			return nil, err
		}
		tx.by.Person = &p
		t := SignInTry{PersonID: p.ID, Address: address}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&t).Error; err != nil {
			return nil, err
		}
		if err := locked(tx.DB).Where("person_id = ? and address = ?", p.ID, address).Take(&t).Error; err != nil {
			return nil, err
		}
		if t.Until != nil && tx.now.Before(*t.Until) {
			return nil, refused("too many wrong tries for %s here: try again in %s", p.Name, t.Until.Sub(tx.now).Round(time.Second))
		}
		if t.GoodAt == nil || tx.now.Sub(*t.GoodAt) > knownFor {
			var many int64
			if err := tx.Raw(`select coalesce(sum(failed), 0) from sign_in_tries where person_id = ? and failed_at > ?`, p.ID, tx.now.Add(-time.Hour)).Scan(&many).Error; err != nil {
				return nil, err
			}
			if many >= manyTries {
				return nil, refused("too many wrong tries for %s from other places: sign in where %s usually does, or try again in an hour", p.Name, p.Name)
			}
		}
		match := false
		if h := hash(p); h != "" {
			if match, err = argon2id.ComparePasswordAndHash(secret, h); err != nil {
				return nil, fmt.Errorf("check the secret: %w", err)
			}
		}
		if match {
			t.Failed, t.FailedAt, t.Until, t.GoodAt = 0, nil, nil, &tx.now
			if err := tx.keepTry(t); err != nil {
				return nil, err
			}
			if says == "" {
				return &p, nil
			}
			return &p, tx.log(says, p.Name, "", detail)
		}
		t.Failed++
		t.FailedAt = &tx.now
		if t.Failed >= lockAfter {
			until := tx.now.Add(min(30*time.Second<<min(t.Failed-lockAfter, 5), lockMost))
			t.Until = &until
		}
		if err := tx.keepTry(t); err != nil {
			return nil, err
		}
		// The count must be kept, so the refusal does not roll back.
		refusal = notTogether
		return &p, tx.log("wrong secret", p.Name, "", map[string]string{"from": address})
	})
	if err != nil {
		return nil, err
	}
	if refusal != nil {
		return nil, refusal
	}
	return p, nil
}

func (tx *Tx) keepTry(t SignInTry) error {
	return tx.Model(&SignInTry{}).Where("person_id = ? and address = ?", t.PersonID, t.Address).
		Updates(map[string]any{"failed": t.Failed, "failed_at": t.FailedAt, "until": t.Until, "good_at": t.GoodAt}).Error
}

// EndSessions ends every session of a person, on every tablet: one's own, or
// anybody's for an administrator.
func (s *Shop) EndSessions(ctx context.Context, by By, personID int64) (PersonView, error) {
	act := OwnAccount
	if by.Person != nil && by.Person.ID != personID {
		act = KeepPeople
	}
	return write(ctx, s, by, act, "end sessions", personID, func(tx *Tx) (PersonView, error) {
		p, err := tx.person(personID)
		if err != nil {
			return PersonView{}, err
		}
		p.Epoch++
		if err := tx.Save(&p).Error; err != nil {
			return PersonView{}, err
		}
		return p.View(), tx.log("signed out everywhere", p.Name, "", nil)
	})
}

// NewSecret is a person's own new PIN or password.
type NewSecret struct {
	PIN      string `json:"pin" doc:"The present PIN" maxLength:"12"`
	NewPIN   string `json:"newPin,omitempty" maxLength:"12"`
	Password string `json:"password,omitempty" maxLength:"200"`
}

// ChangeSecret changes one's own PIN or password; all other sessions end.
func (s *Shop) ChangeSecret(ctx context.Context, by By, in NewSecret) (PersonView, error) {
	if err := s.signature(ctx, by, in.PIN); err != nil {
		return PersonView{}, err
	}
	role, pin, password := by.Person.Role, in.NewPIN, in.Password
	if pin == "" && password == "" {
		return PersonView{}, invalid("newPin", "give a new PIN or a new password")
	}
	if pin == "" {
		pin = in.PIN
	}
	if password == "" {
		role = "technician" // the password stays as it is
	}
	pinHash, passwordHash, err := hashes(role, pin, password)
	if err != nil {
		return PersonView{}, err
	}
	return write(ctx, s, by, OwnAccount, "change secret", nil, func(tx *Tx) (PersonView, error) {
		p, err := tx.person(by.Person.ID)
		if err != nil {
			return PersonView{}, err
		}
		if in.NewPIN != "" {
			p.PinHash = pinHash
		}
		if in.Password != "" {
			p.PasswordHash = passwordHash
		}
		p.Epoch++
		if err := tx.Save(&p).Error; err != nil {
			return PersonView{}, err
		}
		return p.View(), tx.log("own secret changed", p.Name, "", map[string]bool{"pin": in.NewPIN != "", "password": in.Password != ""})
	})
}

// SetupCode is the one-time code of an empty shop, as a hash.
type SetupCode struct {
	ID        int64
	Hash      string
	CreatedAt time.Time
	UsedAt    *time.Time
}

// Empty says that nobody can sign in yet.
func (s *Shop) Empty(ctx context.Context) (bool, error) {
	var n int64
	err := s.DB.Gorm.WithContext(ctx).Model(&Person{}).Limit(1).Count(&n).Error
	return n == 0, err
}

func (tx *Tx) nobodyYet() error {
	empty, err := tx.s.Empty(tx.ctx)
	if err == nil && !empty {
		err = conflict("this shop has people in it already: ask an administrator")
	}
	return err
}

// NewSetupCode makes the one-time code with which the first administrator of an
// empty shop is entered; earlier ones end.
func (s *Shop) NewSetupCode(ctx context.Context) (string, error) {
	raw := make([]byte, 10)
	_, _ = rand.Read(raw) // never fails
	text := strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw))
	code := text[:4] + "-" + text[4:8] + "-" + text[8:12] + "-" + text[12:]
	hash, err := argon2id.CreateHash(code, pinParams)
	if err != nil {
		return "", err
	}
	_, err = write(ctx, s, By{}, KeepPeople, "setup code", nil, func(tx *Tx) (struct{}, error) {
		if err := tx.nobodyYet(); err != nil {
			return struct{}{}, err
		}
		if err := tx.Exec(`delete from setup_codes where used_at is null`).Error; err != nil {
			return struct{}{}, err
		}
		if err := tx.Create(&SetupCode{Hash: hash, CreatedAt: tx.now}).Error; err != nil {
			return struct{}{}, err
		}
		return struct{}{}, tx.log("setup code made", "shop", "", nil)
	})
	return code, err
}

// First is the first administrator of an empty shop.
type First struct {
	Code     string `json:"code" maxLength:"40" doc:"As printed on the server's terminal"`
	Name     string `json:"name" maxLength:"80"`
	PIN      string `json:"pin" maxLength:"12"`
	Password string `json:"password" maxLength:"200"`
}

// FirstAdministrator enters the first administrator. The code works once, for a
// day.
func (s *Shop) FirstAdministrator(ctx context.Context, in First) (PersonView, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return PersonView{}, invalid("name", "a name of 1 to 80 letters is needed")
	}
	pin, password, err := hashes("administrator", in.PIN, in.Password)
	if err != nil {
		return PersonView{}, err
	}
	return write(ctx, s, By{}, KeepPeople, "first administrator", in.Name, func(tx *Tx) (PersonView, error) {
		var code SetupCode
		if err := locked(tx.DB).Where("used_at is null and created_at > ?", tx.now.Add(-24*time.Hour)).Order("id desc").Limit(1).Find(&code).Error; err != nil {
			return PersonView{}, err
		}
		if err := tx.nobodyYet(); err != nil {
			return PersonView{}, err
		}
		match := false
		if code.ID != 0 {
			if match, err = argon2id.ComparePasswordAndHash(strings.ToLower(strings.TrimSpace(in.Code)), code.Hash); err != nil {
				return PersonView{}, err
			}
		}
		if !match {
			return PersonView{}, refused("this code is wrong, used or older than a day: read it again on the server's terminal, or start the server again for a new one")
		}
		code.UsedAt = &tx.now
		if err := tx.Save(&code).Error; err != nil {
			return PersonView{}, err
		}
		p := Person{Name: in.Name, Role: "administrator", PinHash: pin, PasswordHash: password, CreatedAt: tx.now}
		if err := tx.Create(&p).Error; err != nil {
			return PersonView{}, err
		}
		tx.by.Person = &p
		return p.View(), tx.log("first administrator entered", p.Name, "", nil)
	})
}
