package people

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"errors"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"juxta/core/ident"
	"juxta/shop/book"
)

// Wrong tries are counted for a person at an address. After lockAfter in a row
// that address waits, longer each time, at most lockMost; a colleague at
// another address signs in meanwhile. Somebody who tries from many addresses
// is slowed as well: after manyTries in an hour only addresses from which the
// person signed in within knownFor may try. An address that tries many people is
// slowed as a whole.
const (
	lockAfter = 5
	lockMost  = 5 * time.Minute
	manyTries = 30
	manyHere  = 60 // of all people from one address in an hour
	knownFor  = 30 * 24 * time.Hour
)

// Credentials are a person, by id or badge, and the secret that signs them in.
type Credentials struct {
	PersonID int64  `json:"personId,omitempty"`
	Badge    string `json:"badge,omitempty" maxLength:"20"`
	Name     string `json:"name,omitempty" maxLength:"80" doc:"Typed, where the page does not know the names"`
	Secret   string `json:"secret" minLength:"1" maxLength:"200" doc:"PIN or password"`
}

var notTogether = book.WrongPIN.Errorf("name and PIN or password do not match")

// WhoseBadge tells whom a scanned badge belongs to.
func (s *Room) WhoseBadge(ctx context.Context, badge string) (PersonView, error) {
	kind, code, err := ident.Parse(badge)
	if err != nil {
		return PersonView{}, book.Unreadable.At("badge", "%s", err)
	}
	var p book.Person
	err = s.DB.Gorm.WithContext(ctx).Where("badge = ? and left_at is null", code).Take(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) || kind != ident.Badge {
		return PersonView{}, book.NoSuch.Errorf(
			"this badge opens nothing here: sign in by name, or have a new one issued",
		)
	}
	return ViewOf(p), err
}

// SignIn checks a secret. Every try is logged with its address.
func (s *Room) SignIn(ctx context.Context, address string, in Credentials) (*book.Person, error) {
	via := "name"
	if in.Badge != "" {
		p, err := s.WhoseBadge(ctx, in.Badge)
		if err != nil {
			return nil, err
		}
		in.PersonID, via = p.ID, "badge"
	}
	if in.PersonID == 0 && in.Name != "" {
		var ids []int64
		if err := s.DB.Gorm.WithContext(ctx).Raw(`select id from people where lower(name) = lower(?)
			and left_at is null`, strings.TrimSpace(in.Name)).Scan(&ids).Error; err != nil {
			return nil, book.TextError(err)
		}
		if len(ids) != 1 {
			return nil, notTogether
		}
		in.PersonID = ids[0]
	}
	hash := func(p book.Person) string {
		if secretOf(p.Role) == "password" {
			return p.PasswordHash
		}
		return p.PinHash
	}
	return s.try(
		ctx,
		address,
		in.PersonID,
		in.Secret,
		hash,
		"signed in",
		map[string]string{"via": via, "from": address},
	)
}

// signature checks the PIN that is asked again with a signature, of whoever
// signs. It counts wrong ones like a sign-in, and outside the change that it
// goes with, so that a refusal keeps the count.
func (s *Room) signature(ctx context.Context, by book.By, pin string) error {
	if by.Person == nil {
		return nil
	}
	if pin == "" {
		return book.Needed.At("pin", "this signature asks for your PIN again")
	}
	// Counted apart from sign-ins: who tries a colleague's name at the same address
	// does not keep them from signing.
	_, err := s.try(
		ctx,
		"signature at "+by.Address,
		by.Person.ID,
		pin,
		func(p book.Person) string { return p.PinHash },
		"",
		nil,
	)
	var wrong *book.Error
	if errors.As(err, &wrong) && wrong == notTogether {
		return book.WrongPIN.Errorf("this is not your PIN: nothing was signed")
	}
	return err
}

// try holds a secret against a person's hash. says is the entry of a right
// try; "" writes none. A try is counted as a wrong one before it is looked at, so
// that many at once are counted as well, and no connection is held meanwhile.
func (s *Room) try(
	ctx context.Context,
	address string,
	personID int64,
	secret string,
	hash func(book.Person) string,
	says string,
	detail any,
) (*book.Person, error) {
	p, err := s.countTry(ctx, address, personID)
	if err != nil {
		return nil, err
	}
	match, err := matches(ctx, secret, hash(p))
	if err != nil {
		return nil, err
	}
	_, err = book.Write(
		ctx,
		s.Book,
		book.By{},
		book.OwnAccount,
		"sign in",
		personID,
		func(tx *book.Tx) (struct{}, error) {
			tx.LoggedElsewhere() // a right signature is logged with what it signs
			tx.By.Person = &p
			if !match {
				return struct{}{}, tx.Log("wrong secret", p.Name, "", map[string]string{"from": address})
			}
			if err := keepTry(tx, SignInTry{PersonID: p.ID, Address: address, GoodAt: &tx.Now}); err != nil {
				return struct{}{}, err
			}
			if says == "" {
				return struct{}{}, nil
			}
			return struct{}{}, tx.Log(says, p.Name, "", detail)
		},
	)
	if err != nil {
		return nil, err
	}
	if !match {
		return nil, notTogether
	}
	return &p, nil
}

// countTry counts one more try for a person at an address, and refuses it where
// there were too many wrong ones.
func (s *Room) countTry(ctx context.Context, address string, personID int64) (book.Person, error) {
	return book.Write(
		ctx,
		s.Book,
		book.By{},
		book.OwnAccount,
		"count a try",
		personID,
		func(tx *book.Tx) (book.Person, error) {
			tx.LoggedElsewhere() // how it ended is logged
			var p book.Person
			err := tx.Where("left_at is null").Take(&p, personID).Error
			if errors.Is(err, gorm.ErrRecordNotFound) {
				return p, notTogether
			} else if err != nil {
				return p, err
			}
			t := SignInTry{PersonID: p.ID, Address: address}
			if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&t).Error; err != nil {
				return p, err
			}
			if err := book.Locked(tx.DB).Where("person_id = ? and address = ?", p.ID,
				address).Take(&t).Error; err != nil {
				return p, err
			}
			if t.Until != nil && tx.Now.Before(*t.Until) {
				return p, book.Shut.Errorf(
					"too many failed attempts for %s here: try again in %s",
					p.Name,
					t.Until.Sub(tx.Now).Round(time.Second),
				)
			}
			var many struct{ Person, Here int64 }
			if err := tx.Raw(`select coalesce(sum(failed) filter (where person_id = ?), 0) as person,
				coalesce(sum(failed) filter (where address = ?), 0) as here
			from sign_in_tries where failed_at > ? and (person_id = ?
			or address = ?)`, p.ID, address, tx.Now.Add(-time.Hour), p.ID, address).Scan(&many).Error; err != nil {
				return p, err
			}
			if known := t.GoodAt != nil && tx.Now.Sub(*t.GoodAt) <= knownFor; !known && many.Person >= manyTries {
				return p, book.Shut.Errorf(
					"too many failed attempts for %s from other places: sign in where %s usually does, or try "+
						"again in "+
						"an hour",
					p.Name,
					p.Name,
				)
			}
			if many.Here >= manyHere {
				return p, book.Shut.Errorf(
					"too many failed attempts from this address, for several people: try again in an hour, or " +
						"elsewhere",
				)
			}
			t.Failed++
			t.FailedAt = &tx.Now
			if t.Failed >= lockAfter {
				until := tx.Now.Add(min(30*time.Second<<min(t.Failed-lockAfter, 5), lockMost))
				t.Until = &until
			}
			return p, keepTry(tx, t)
		},
	)
}

func keepTry(tx *book.Tx, t SignInTry) error {
	return tx.Model(&SignInTry{}).Where("person_id = ? and address = ?", t.PersonID, t.Address).
		Updates(map[string]any{"failed": t.Failed, "failed_at": t.FailedAt, "until": t.Until, "good_at": t.GoodAt}).
		Error
}

// EndSessions ends every session of a person, on every tablet: one's own, or
// anybody's for an administrator.
func (s *Room) EndSessions(ctx context.Context, by book.By, personID int64, pin string) (PersonView, error) {
	act := book.OwnAccount
	if by.Person != nil && by.Person.ID != personID {
		act = book.KeepPeople
		var err error
		if by, err = s.Signed(ctx, by, act, pin); err != nil {
			return PersonView{}, err
		}
	}
	return book.Write(ctx, s.Book, by, act, "end sessions", personID, func(tx *book.Tx) (PersonView, error) {
		p, err := person(tx, personID)
		if err != nil {
			return PersonView{}, err
		}
		p.Epoch++
		if err := tx.Save(&p).Error; err != nil {
			return PersonView{}, err
		}
		return ViewOf(p), tx.Log("signed out everywhere", p.Name, "", nil)
	})
}

// NewSecret is a person's own new PIN or password.
type NewSecret struct {
	PIN      string `json:"pin" doc:"The present PIN" maxLength:"12"`
	NewPIN   string `json:"newPin,omitempty" maxLength:"12"`
	Password string `json:"password,omitempty" maxLength:"200"`
}

// ChangeSecret changes one's own PIN or password; all other sessions end.
func (s *Room) ChangeSecret(ctx context.Context, by book.By, in NewSecret) (PersonView, error) {
	if err := s.signature(ctx, by, in.PIN); err != nil {
		return PersonView{}, err
	}
	role, pin, password := by.Person.Role, in.NewPIN, in.Password
	if pin == "" && password == "" {
		return PersonView{}, book.Needed.At("newPin", "give a new PIN or a new password")
	}
	if pin == "" {
		pin = "482913" // the PIN stays as it is
	}
	if password == "" {
		role = "technician" // the password stays as it is
	}
	pinHash, passwordHash, err := hashes(ctx, role, pin, password)
	if err != nil {
		return PersonView{}, err
	}
	return book.Write(ctx, s.Book, by, book.OwnAccount, "change secret", nil, func(tx *book.Tx) (PersonView, error) {
		p, err := person(tx, by.Person.ID)
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
		return ViewOf(
				p,
			), tx.Log(
				"own secret changed",
				p.Name,
				"",
				map[string]bool{"pin": in.NewPIN != "", "password": in.Password != ""},
			)
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
func (s *Room) Empty(ctx context.Context) (bool, error) {
	return nobody(s.DB.Gorm.WithContext(ctx))
}

func nobody(db *gorm.DB) (bool, error) {
	var n int64
	err := db.Model(&book.Person{}).Limit(1).Count(&n).Error
	return n == 0, err
}

func nobodyYet(tx *book.Tx) error {
	empty, err := nobody(tx.DB)
	if err == nil && !empty {
		err = book.Done.Errorf("this shop has people in it already: ask an administrator")
	}
	return err
}

// NewSetupCode makes the one-time code with which the first administrator of an
// empty shop is entered; earlier ones end.
func (s *Room) NewSetupCode(ctx context.Context) (string, error) {
	raw := make([]byte, 10)
	_, _ = rand.Read(raw) // never fails
	text := strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw))
	code := text[:4] + "-" + text[4:8] + "-" + text[8:12] + "-" + text[12:]
	hash, err := hashed(ctx, code)
	if err != nil {
		return "", err
	}
	_, err = book.Write(
		ctx,
		s.Book,
		book.By{},
		book.KeepPeople,
		"setup code",
		nil,
		func(tx *book.Tx) (struct{}, error) {
			if err := nobodyYet(tx); err != nil {
				return struct{}{}, err
			}
			if err := tx.Exec(`delete from setup_codes where used_at is null`).Error; err != nil {
				return struct{}{}, err
			}
			if err := tx.Create(&SetupCode{Hash: hash, CreatedAt: tx.Now}).Error; err != nil {
				return struct{}{}, err
			}
			return struct{}{}, tx.Log("setup code made", "shop", "", nil)
		},
	)
	return code, err
}

// FirstAdministrator is the first administrator of an empty shop.
type FirstAdministrator struct {
	Code     string `json:"code" maxLength:"40" doc:"As printed on the server's terminal"`
	Name     string `json:"name" maxLength:"80"`
	PIN      string `json:"pin" maxLength:"12"`
	Password string `json:"password" maxLength:"200"`
}

// FirstAdministrator enters the first administrator. The code works once, for a
// day. Nothing is hashed for somebody who has no code that could be right.
func (s *Room) FirstAdministrator(ctx context.Context, in FirstAdministrator) (PersonView, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" {
		return PersonView{}, book.Needed.At("name", "a name of 1 to 80 letters is needed")
	}
	if err := sound("administrator", in.PIN, in.Password); err != nil {
		return PersonView{}, err
	}
	wrong := book.WrongPIN.Errorf(
		"this code is wrong, used or older than a day: read it again on the server's terminal, or start the server " +
			"again for a new one",
	)
	present := func(db *gorm.DB, now time.Time) (code SetupCode, err error) {
		err = db.Where("used_at is null and created_at > ?", now.Add(-24*time.Hour)).
			Order("id desc").
			Limit(1).
			Find(&code).
			Error
		return code, err
	}
	if empty, err := s.Empty(ctx); err != nil {
		return PersonView{}, err
	} else if !empty {
		return PersonView{}, book.Done.Errorf("this shop has people in it already: ask an administrator")
	}
	code, err := present(s.DB.Gorm.WithContext(ctx), s.Now().UTC())
	if err != nil {
		return PersonView{}, err
	}
	if match, err := matches(ctx, strings.ToLower(strings.TrimSpace(in.Code)), code.Hash); err != nil {
		return PersonView{}, err
	} else if !match {
		return PersonView{}, wrong
	}
	pin, password, err := hashes(ctx, "administrator", in.PIN, in.Password)
	if err != nil {
		return PersonView{}, err
	}
	return book.Write(
		ctx,
		s.Book,
		book.By{},
		book.KeepPeople,
		"first administrator",
		in.Name,
		func(tx *book.Tx) (PersonView, error) {
			still, err := present(book.Locked(tx.DB), tx.Now)
			if err != nil {
				return PersonView{}, err
			}
			if err := nobodyYet(tx); err != nil {
				return PersonView{}, err
			}
			if still.ID != code.ID {
				return PersonView{}, wrong
			}
			still.UsedAt = &tx.Now
			if err := tx.Save(&still).Error; err != nil {
				return PersonView{}, err
			}
			p := book.Person{
				Name:         in.Name,
				Role:         "administrator",
				PinHash:      pin,
				PasswordHash: password,
				CreatedAt:    tx.Now,
			}
			if err := tx.Create(&p).Error; err != nil {
				return PersonView{}, err
			}
			tx.By.Person = &p
			return ViewOf(p), tx.Log("first administrator created", p.Name, "", nil)
		},
	)
}
