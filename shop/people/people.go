package people

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"gorm.io/gorm"

	"juxta/core/ident"
	"juxta/shop/book"
)

// Room of the people.
type Room struct{ *book.Book }

// New opens the room of the people, who sign in the book with their PIN.
func New(b *book.Book) *Room {
	s := &Room{Book: b}
	b.PIN = s.signature
	return s
}

// PersonView is a person as shown to everybody.
type PersonView struct {
	ID     int64  `json:"id"`
	Name   string `json:"name"`
	Role   string `json:"role"`
	Secret string `json:"secret" enum:"PIN,password" doc:"What signs them in"`
}

// ViewOf is the person without what is secret.
func ViewOf(p book.Person) PersonView { return PersonView{p.ID, p.Name, p.Role, secretOf(p.Role)} }

// secretOf is what signs a role in. Who plans or rules sits at a keyboard and
// has a password; who stands at a bench has a PIN. Signatures ask for the PIN
// of either.
func secretOf(role string) string {
	if role == "planner" || role == "administrator" {
		return "password"
	}
	return "PIN"
}

// People lists everybody who may sign in, by name.
func (s *Room) People(ctx context.Context) ([]PersonView, error) {
	var all []book.Person
	err := s.DB.Gorm.WithContext(ctx).Where("left_at is null").Order("name").Find(&all).Error
	people := make([]PersonView, len(all))
	for i, p := range all {
		people[i] = ViewOf(p)
	}
	return people, err
}

// PersonByID is who a session belongs to.
func (s *Room) PersonByID(ctx context.Context, id int64) (*book.Person, error) {
	p, err := book.Cached(ctx, s.Book, fmt.Sprint("person ", id), func(ctx context.Context) (book.Person, error) {
		var p book.Person
		err := s.DB.Gorm.WithContext(ctx).Where("left_at is null").Take(&p, id).Error
		return p, err
	})
	if err != nil {
		return nil, err
	}
	return &p, nil
}

// NotFound says that there is no such record, which is no fault of the database.
func NotFound(err error) bool { return errors.Is(err, gorm.ErrRecordNotFound) }

// PersonFile is a person as the people's page shows them.
type PersonFile struct {
	PersonView
	HasBadge       bool                `json:"hasBadge"`
	LeftAt         *time.Time          `json:"leftAt,omitempty"`
	Qualifications []QualificationView `json:"qualifications"`
	LastSeen       *time.Time          `json:"lastSeen,omitempty" doc:"Last right sign-in"`
}

// QualificationView is a qualification with what it is worth today.
type QualificationView struct {
	ID         int64     `json:"id"`
	Kind       string    `json:"kind"`
	ValidFrom  time.Time `json:"validFrom"`
	ValidUntil time.Time `json:"validUntil"`
	Evidence   string    `json:"evidence"`
	GivenBy    string    `json:"givenBy"`
	State      string    `json:"state" enum:"in date,not yet,ends soon,ended,withdrawn"`
}

// endsSoon is how long before its end a qualification is shown as ending.
const endsSoon = 30 * 24 * time.Hour

func qualificationState(q book.Qualification, now time.Time) string {
	switch {
	case q.WithdrawnAt != nil:
		return "withdrawn"
	case now.Before(q.ValidFrom):
		return "not yet"
	case !now.Before(q.ValidUntil):
		return "ended"
	case q.ValidUntil.Sub(now) < endsSoon:
		return "ends soon"
	}
	return "in date"
}

// PeopleFiles lists everybody with their qualifications; who left comes last.
func (s *Room) PeopleFiles(ctx context.Context) ([]PersonFile, error) {
	return book.View(ctx, s.Book, func(db *gorm.DB) ([]PersonFile, error) {
		var all []book.Person
		if err := db.Order("left_at is not null, name").Find(&all).Error; err != nil {
			return nil, err
		}
		var held []book.Qualification
		if err := db.Order("kind, valid_until desc").Find(&held).Error; err != nil {
			return nil, err
		}
		names, err := s.Names(db)
		if err != nil {
			return nil, err
		}
		var seen []struct {
			PersonID int64
			At       time.Time
		}
		if err := db.Raw(`select person_id, max(good_at) as at from sign_in_tries where good_at is not null
			group by 1`).Scan(&seen).Error; err != nil {
			return nil, err
		}
		files := make([]PersonFile, len(all))
		for i, p := range all {
			files[i] = PersonFile{
				PersonView:     ViewOf(p),
				HasBadge:       p.Badge != nil,
				LeftAt:         p.LeftAt,
				Qualifications: []QualificationView{},
			}
			for _, q := range held {
				if q.PersonID == p.ID {
					v := QualificationView{
						ID:         q.ID,
						Kind:       q.Kind,
						ValidFrom:  q.ValidFrom,
						ValidUntil: q.ValidUntil,
						Evidence:   q.Evidence,
						State:      qualificationState(q, s.Now()),
					}
					if q.GivenBy != nil {
						v.GivenBy = names[*q.GivenBy]
					}
					files[i].Qualifications = append(files[i].Qualifications, v)
				}
			}
			for _, x := range seen {
				if x.PersonID == p.ID {
					files[i].LastSeen = &x.At
				}
			}
		}
		return files, nil
	})
}

// NewPerson is somebody who is to sign in.
type NewPerson struct {
	Name     string `json:"name" minLength:"1" maxLength:"80"`
	Role     string `json:"role" enum:"technician,planner,quality,administrator,viewer"`
	PIN      string `json:"pin" minLength:"6" maxLength:"12" doc:"6 to 12 digits, for signatures and at the bench"`
	Password string `json:"password,omitempty" maxLength:"200" doc:"Planners and administrators: at least 12 characters"`
	Sign     string `json:"sign" maxLength:"12" doc:"PIN of who signs the change"`
}

// AddPerson lets somebody sign in.
func (s *Room) AddPerson(ctx context.Context, by book.By, in NewPerson) (PersonView, error) {
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" || utf8.RuneCountInString(in.Name) > 80 {
		return PersonView{}, book.Needed.At("name", "a name of 1 to 80 letters is needed")
	}
	if !slices.Contains(book.Roles, in.Role) {
		return PersonView{}, book.Wrong.At("role", "the role is %s", strings.Join(book.Roles, ", "))
	}
	if err := sound(in.Role, in.PIN, in.Password); err != nil {
		return PersonView{}, err
	}
	by, err := s.Signed(ctx, by, book.KeepPeople, in.Sign)
	if err != nil {
		return PersonView{}, err
	}
	pin, password, err := hashes(ctx, in.Role, in.PIN, in.Password)
	if err != nil {
		return PersonView{}, err
	}
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepPeople,
		"add person",
		[]string{in.Name, in.Role},
		func(tx *book.Tx) (PersonView, error) {
			p := book.Person{Name: in.Name, Role: in.Role, PinHash: pin, PasswordHash: password, CreatedAt: tx.Now}
			if err := tx.Create(&p).Error; err != nil {
				if errors.Is(err, gorm.ErrDuplicatedKey) {
					return PersonView{}, book.Taken.Errorf("there is already somebody called %s", in.Name)
				}
				return PersonView{}, err
			}
			return ViewOf(p), tx.Log("person added", in.Name, "", map[string]string{"role": in.Role})
		},
	)
}

// PersonChange is what an administrator changes about somebody. What is empty
// stays.
type PersonChange struct {
	Role     string `json:"role,omitempty" enum:"technician,planner,quality,administrator,viewer"`
	NewPIN   string `json:"newPin,omitempty" maxLength:"12"`
	Password string `json:"password,omitempty" maxLength:"200"`
	Left     *bool  `json:"left,omitempty" doc:"They left the shop, or came back"`
	Reason   string `json:"reason,omitempty" maxLength:"300"`
	PIN      string `json:"pin" doc:"Of who signs the change" maxLength:"12"`
}

// ChangePerson changes somebody's role, secret or place in the shop. All their
// sessions end with it.
func (s *Room) ChangePerson(ctx context.Context, by book.By, id int64, in PersonChange) (PersonView, error) {
	by, err := s.Signed(ctx, by, book.KeepPeople, in.PIN)
	if err != nil {
		return PersonView{}, err
	}
	secrets := in.NewPIN != "" || in.Password != ""
	in.PIN = ""
	// Hashed before a connection is held; what is not given stays.
	var pinHash, passwordHash string
	if secrets {
		pin, role := in.NewPIN, "planner"
		if pin == "" {
			pin = "482913" // not used
		}
		if in.Password == "" {
			role = "viewer"
		}
		var err error
		if pinHash, passwordHash, err = hashes(ctx, role, pin, in.Password); err != nil {
			return PersonView{}, err
		}
	}
	return book.Write(
		ctx,
		s.Book,
		by,
		book.KeepPeople,
		"change person",
		[]any{id, in.Role, in.Left, secrets},
		func(tx *book.Tx) (PersonView, error) {
			p, err := person(tx, id)
			if err != nil {
				return PersonView{}, err
			}
			detail := map[string]any{}
			if in.Role != "" && in.Role != p.Role {
				detail["role"] = [2]string{p.Role, in.Role}
				p.Role = in.Role
			}
			if in.NewPIN != "" {
				p.PinHash, detail["pin"] = pinHash, "changed"
			}
			if in.Password != "" {
				p.PasswordHash, detail["password"] = passwordHash, "changed"
			}
			if secretOf(p.Role) == "password" && p.PasswordHash == "" {
				return PersonView{}, book.Needed.At(
					"password",
					"%s signs in with a password of at least 12 characters: give one",
					book.Article(p.Role),
				)
			}
			if in.Left != nil {
				p.LeftAt = nil
				if *in.Left {
					p.LeftAt, p.Badge = &tx.Now, nil
				}
				detail["left"] = *in.Left
			}
			if len(detail) == 0 {
				return PersonView{}, book.Needed.At("role", "nothing is changed")
			}
			p.Epoch++
			if err := tx.Save(&p).Error; err != nil {
				return PersonView{}, err
			}
			if err := someoneKeepsPeople(tx); err != nil {
				return PersonView{}, err
			}
			return ViewOf(p), tx.Log("person changed", p.Name, in.Reason, detail)
		},
	)
}

func person(tx *book.Tx, id int64) (book.Person, error) {
	var p book.Person
	err := book.Locked(tx.DB).Take(&p, id).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return p, book.NoSuch.Errorf("there is no such person here")
	}
	return p, err
}

// someoneKeepsPeople keeps the last administrator from locking the shop.
func someoneKeepsPeople(tx *book.Tx) error {
	var left int64
	if err := tx.Model(&book.Person{}).Where("role = 'administrator' and left_at is null").
		Count(&left).Error; err != nil {
		return err
	}
	if left == 0 {
		return book.First.Errorf("somebody must stay an administrator: make another one first")
	}
	return nil
}

// IssuedBadge is a badge as printed, shown once.
type IssuedBadge struct {
	Person PersonView `json:"person"`
	Badge  string     `json:"badge" doc:"The id to print and scan"`
}

// IssueBadge gives somebody a badge; an earlier one opens nothing any more.
func (s *Room) IssueBadge(ctx context.Context, by book.By, id int64, pin string) (IssuedBadge, error) {
	by, err := s.Signed(ctx, by, book.KeepPeople, pin)
	if err != nil {
		return IssuedBadge{}, err
	}
	n, err := rand.Int(rand.Reader, big.NewInt(1<<35-1<<21))
	if err != nil {
		return IssuedBadge{}, err
	}
	badge := ident.Format(ident.Badge, 1<<21+n.Int64())
	return book.Write(ctx, s.Book, by, book.KeepPeople, "issue badge", id, func(tx *book.Tx) (IssuedBadge, error) {
		p, err := person(tx, id)
		if err != nil {
			return IssuedBadge{}, err
		}
		if p.LeftAt != nil {
			return IssuedBadge{}, book.Done.Errorf("%s has left the shop", p.Name)
		}
		p.Badge = &badge
		if err := tx.Save(&p).Error; err != nil {
			return IssuedBadge{}, err
		}
		return IssuedBadge{ViewOf(p), badge}, tx.Log("badge issued", p.Name, "", nil)
	})
}

// NewQualification gives somebody a qualification.
type NewQualification struct {
	Kind       string    `json:"kind" enum:"laminating,bagging,oven,bonding,inspection"`
	ValidFrom  time.Time `json:"validFrom"`
	ValidUntil time.Time `json:"validUntil"`
	Evidence   string    `json:"evidence" minLength:"1" maxLength:"200" doc:"Course, test piece, number of the paper"`
}

// Qualify enters a qualification for somebody else.
func (s *Room) Qualify(
	ctx context.Context,
	by book.By,
	personID int64,
	in NewQualification,
) (QualificationView, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.Qualify,
		"qualify",
		[]any{personID, in},
		func(tx *book.Tx) (QualificationView, error) {
			p, err := person(tx, personID)
			if err != nil {
				return QualificationView{}, err
			}
			if by.Person != nil && p.ID == by.Person.ID {
				return QualificationView{}, book.Second.Errorf(
					"nobody qualifies themselves: ask another quality person",
				)
			}
			if !slices.Contains(book.Qualifications, in.Kind) {
				return QualificationView{}, book.Wrong.At(
					"kind",
					"the qualification is one of %s",
					strings.Join(book.Qualifications, ", "),
				)
			}
			if in.Evidence = strings.TrimSpace(in.Evidence); in.Evidence == "" {
				return QualificationView{}, book.Needed.At("evidence", "say what shows the qualification")
			}
			if !in.ValidUntil.After(in.ValidFrom) {
				return QualificationView{}, book.WrongTime.At("validUntil", "it must end after it begins")
			}
			q := book.Qualification{
				PersonID:   p.ID,
				Kind:       in.Kind,
				ValidFrom:  in.ValidFrom,
				ValidUntil: in.ValidUntil,
				Evidence:   in.Evidence,
				GivenBy:    tx.By.ID(),
			}
			if err := tx.Create(&q).Error; err != nil {
				return QualificationView{}, err
			}
			given := ""
			if by.Person != nil {
				given = by.Person.Name
			}
			return QualificationView{
					q.ID,
					q.Kind,
					q.ValidFrom,
					q.ValidUntil,
					q.Evidence,
					given,
					qualificationState(q, tx.Now),
				},
				tx.Log(
					"qualification given",
					p.Name,
					in.Evidence,
					map[string]any{"kind": q.Kind, "from": q.ValidFrom, "until": q.ValidUntil},
				)
		},
	)
}

// WithdrawQualification takes a qualification away, from now on.
func (s *Room) WithdrawQualification(ctx context.Context, by book.By, id int64, reason string) (struct{}, error) {
	return book.Write(
		ctx,
		s.Book,
		by,
		book.Qualify,
		"withdraw qualification",
		[]any{id, reason},
		func(tx *book.Tx) (struct{}, error) {
			var q book.Qualification
			if err := book.Locked(tx.DB).Take(&q, id).Error; err != nil {
				if errors.Is(err, gorm.ErrRecordNotFound) {
					return struct{}{}, book.NoSuch.Errorf("there is no such qualification")
				}
				return struct{}{}, err
			}
			if q.WithdrawnAt != nil {
				return struct{}{}, book.Done.Errorf("it was already withdrawn")
			}
			if reason = strings.TrimSpace(reason); reason == "" {
				return struct{}{}, book.Needed.At("reason", "say why it is withdrawn")
			}
			p, err := person(tx, q.PersonID)
			if err != nil {
				return struct{}{}, err
			}
			q.WithdrawnAt, q.WithdrawnBy = &tx.Now, tx.By.ID()
			if err := tx.Save(&q).Error; err != nil {
				return struct{}{}, err
			}
			return struct{}{}, tx.Log("qualification withdrawn", p.Name, reason, map[string]string{"kind": q.Kind})
		},
	)
}
