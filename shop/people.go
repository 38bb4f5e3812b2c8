package shop

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"
)

// PersonView is a person as shown.
type PersonView struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Role string `json:"role"`
}

// View is the person without what is secret.
func (p Person) View() PersonView { return PersonView{p.ID, p.Name, p.Role} }

// People lists everybody who may sign in, by name.
func (s *Shop) People(ctx context.Context) ([]PersonView, error) {
	people := []PersonView{}
	return people, s.DB.Gorm.WithContext(ctx).Model(&Person{}).Order("name").Find(&people).Error
}

// PersonByID is who a session belongs to.
func (s *Shop) PersonByID(ctx context.Context, id int64) (*Person, error) {
	var p Person
	if err := s.DB.Gorm.WithContext(ctx).Take(&p, id).Error; err != nil {
		return nil, err
	}
	return &p, nil
}

// pinParams follow OWASP's advice for argon2id (19 MiB, 2 passes, 1 lane), as
// read from memory.
var pinParams = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

var pinShape = regexp.MustCompile(`^\d{6,12}$`)

// AddPerson lets somebody sign in. A PIN has 6 to 12 digits.
func (s *Shop) AddPerson(ctx context.Context, by By, name, role, pin string) (PersonView, error) {
	if by.Person != nil && by.Person.Role != "administrator" {
		return PersonView{}, refused("only an administrator adds people")
	}
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 80 {
		return PersonView{}, invalid("name", "a name of 1 to 80 letters is needed")
	}
	if !pinShape.MatchString(pin) {
		return PersonView{}, invalid("pin", "a PIN has 6 to 12 digits")
	}
	hash, err := argon2id.CreateHash(pin, pinParams)
	if err != nil {
		return PersonView{}, err
	}
	return write(ctx, s, by, "add person", []string{name, role}, func(tx *Tx) (PersonView, error) {
		p := Person{Name: name, Role: role, PinHash: hash, CreatedAt: tx.now}
		if err := tx.Create(&p).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return PersonView{}, conflict("there is already somebody called %s", name)
			}
			if errors.Is(err, gorm.ErrCheckConstraintViolated) {
				return PersonView{}, invalid("role", "the role is technician, planner, quality or administrator")
			}
			return PersonView{}, err
		}
		return p.View(), tx.log("person added", name, "", map[string]string{"role": role})
	})
}

// lockAfter wrong PINs in a row make a person wait, longer each time, at most
// lockMost: long enough to stop guessing, short enough that nobody can keep a
// colleague out.
const (
	lockAfter = 5
	lockMost  = 5 * time.Minute
)

// SignIn checks a PIN. Every wrong one is counted and logged. The check runs
// outside the transaction's lock on nobody but this person.
func (s *Shop) SignIn(ctx context.Context, personID int64, pin string) (*Person, error) {
	var refusal error
	p, err := write(ctx, s, By{}, "sign in", personID, func(tx *Tx) (*Person, error) {
		var p Person
		if err := locked(tx.DB).Take(&p, personID).Error; err != nil {
			if errors.Is(err, gorm.ErrRecordNotFound) {
				return nil, refused("name and PIN do not belong together")
			}
			return nil, err
		}
		tx.by.Person = &p
		if p.LockedUntil != nil && tx.now.Before(*p.LockedUntil) {
			wait := p.LockedUntil.Sub(tx.now).Round(time.Second)
			return nil, refused("too many wrong PINs for %s: try again in %s", p.Name, wait)
		}
		match, err := argon2id.ComparePasswordAndHash(pin, p.PinHash)
		if err != nil {
			return nil, fmt.Errorf("check the PIN: %w", err)
		}
		if match {
			err := tx.Model(&p).Updates(map[string]any{"failed": 0, "locked_until": nil}).Error
			if err != nil {
				return nil, err
			}
			return &p, tx.log("signed in", p.Name, "", nil)
		}
		p.Failed++
		if p.Failed >= lockAfter {
			wait := min(30*time.Second<<min(p.Failed-lockAfter, 5), lockMost)
			until := tx.now.Add(wait)
			p.LockedUntil = &until
		}
		if err := tx.Model(&p).Updates(map[string]any{"failed": p.Failed, "locked_until": p.LockedUntil}).Error; err != nil {
			return nil, err
		}
		// The count must be kept, so the refusal does not roll back.
		refusal = refused("name and PIN do not belong together")
		return &p, tx.log("wrong PIN", p.Name, "", nil)
	})
	if err != nil {
		return nil, err
	}
	if refusal != nil {
		return nil, refusal
	}
	return p, nil
}

// need refuses when the person's role is none of these.
func need(by By, what string, roles ...string) error {
	if by.Person == nil {
		return nil
	}
	for _, r := range append(roles, "administrator") {
		if by.Person.Role == r {
			return nil
		}
	}
	return refused("%s is for %s: ask one of them to sign", what, strings.Join(append(roles, "administrator"), " or "))
}
