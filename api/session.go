package api

import (
	"context"
	"errors"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"juxta/core/unit"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/shop/people"
)

// guard knows who is asking: it loads the session, and lets nobody but the
// sign-in routes through without one.
type guard struct {
	shop     *shop.Shop
	sessions *scs.SessionManager
}

// open are the routes that need no session.
func open(method, path string) bool {
	switch path {
	case "/api/session", "/api/badge", "/api/first":
		return true
	case "/api/people", "/api/wall":
		return method == http.MethodGet
	}
	return strings.HasPrefix(path, "/api/openapi")
}

// What a session remembers.
const (
	personID  = "person"
	epochID   = "epoch" // of the person when it began
	touchedAt = "touched"
)

// touchEvery is how often a session is told that somebody is there.
const touchEvery = time.Minute

// sessionStore keeps sessions in the database. With a session it finds where the
// log ends, in the same query: every request needs both.
type sessionStore struct {
	*postgresstore.PostgresStore
	pool *pgxpool.Pool
}

// FindCtx gives the data of a session, and tells the request the end of the log.
func (s sessionStore) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	var head int64
	err = s.pool.QueryRow(ctx, `select data, (select coalesce(max(seq), 0) from entries) from sessions where token = $1
		and current_timestamp < expiry`, token).
		Scan(&data, &head)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, false, nil
	}
	if to, ok := ctx.Value(headOf).(*int64); ok {
		*to = head
	}
	return data, err == nil, err
}

// CommitCtx stores a session.
func (s sessionStore) CommitCtx(_ context.Context, token string, data []byte, expiry time.Time) error {
	return s.Commit(token, data, expiry)
}

// DeleteCtx ends a session.
func (s sessionStore) DeleteCtx(_ context.Context, token string) error { return s.Delete(token) }

func (g *guard) session(c *gin.Context) {
	token, _ := c.Cookie(g.sessions.Cookie.Name)
	changes := c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead
	head := new(int64)
	ctx, err := g.sessions.Load(context.WithValue(c.Request.Context(), headOf, head), token)
	if err != nil {
		_ = c.Error(err)
		c.AbortWithStatusJSON(
			http.StatusServiceUnavailable,
			huma.NewError(http.StatusServiceUnavailable, "The database does not answer: try again in a moment."),
		)
		return
	}
	if *head > 0 && !changes {
		ctx = book.AsOf(ctx, *head)
	}
	if id := g.sessions.GetInt64(ctx, personID); id != 0 {
		person, err := g.shop.PersonByID(ctx, id)
		if err != nil && !people.NotFound(err) {
			// A database that fails is no reason to call somebody a stranger.
			_ = c.Error(err)
			c.AbortWithStatusJSON(
				http.StatusServiceUnavailable,
				huma.NewError(http.StatusServiceUnavailable, "The database does not answer: try again in a moment."),
			)
			return
		}
		// Whoever left, or signed out everywhere, has no session any more.
		if err == nil && person.Epoch == g.sessions.GetInt(ctx, epochID) {
			ctx = context.WithValue(ctx, personKey, person)
			if err := g.touch(ctx, c); err != nil {
				_ = c.Error(err)
			}
		}
	}
	ctx = context.WithValue(ctx, addressKey, c.ClientIP())
	// What somebody forwarded comes from elsewhere, whatever machine sent it on.
	ip := net.ParseIP(c.ClientIP())
	ctx = context.WithValue(
		ctx,
		hereKey,
		ip != nil && ip.IsLoopback() && c.GetHeader("X-Forwarded-For") == "" && c.GetHeader("Forwarded") == "",
	)
	if !open(c.Request.Method, c.Request.URL.Path) {
		if ctx.Value(personKey) == nil {
			c.AbortWithStatusJSON(http.StatusUnauthorized, huma.NewError(http.StatusUnauthorized, "Sign in first."))
			return
		}
		key := c.GetHeader("Idempotency-Key")
		if changes && (len(key) < 8 || len(key) > 80) {
			c.AbortWithStatusJSON(
				http.StatusBadRequest,
				huma.NewError(http.StatusBadRequest, "A change needs an Idempotency-Key header of 8 to 80 characters."),
			)
			return
		}
		ctx = context.WithValue(ctx, idempotencyKey, key)
	}
	// Streams ask from time to time whether their session still lives.
	ctx = context.WithValue(ctx, stillKey, func(ctx context.Context) bool {
		fresh, err := g.sessions.Load(context.WithoutCancel(ctx), token)
		if err != nil {
			return true // a database that fails signs nobody out
		}
		id := g.sessions.GetInt64(fresh, personID)
		if id == 0 {
			return false
		}
		p, err := g.shop.PersonByID(context.WithoutCancel(ctx), id)
		return err != nil && !people.NotFound(err) || err == nil && p.Epoch == g.sessions.GetInt(fresh, epochID)
	})
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

// stillIn gives a question for streams: whether whoever reads is still signed in.
// It looks every few seconds and answers what it saw last in between.
func stillIn(ctx context.Context) func() bool {
	ask, _ := ctx.Value(stillKey).(func(context.Context) bool)
	looked, is := time.Now(), true
	return func() bool {
		if ask != nil && is && time.Since(looked) > lookAgain {
			looked, is = time.Now(), ask(ctx)
		}
		return is
	}
}

// lookAgain is how long a stream may outlive its session.
var lookAgain = 3 * time.Second

// touch keeps a session alive while somebody is at the screen: pages that only
// look for news do not count, or a tablet left alone would never lock.
func (g *guard) touch(ctx context.Context, c *gin.Context) error {
	there := c.GetHeader("Juxta-Present") == "yes" || c.Request.Method != http.MethodGet
	now := g.shop.Now()
	if !there || now.Sub(time.Unix(g.sessions.GetInt64(ctx, touchedAt), 0)) < touchEvery {
		return nil
	}
	g.sessions.Put(ctx, touchedAt, now.Unix())
	_, _, err := g.sessions.Commit(ctx)
	return err
}

// by is who asks for a change.
// unitsOf are the units of whoever asks.
func unitsOf(ctx context.Context) unit.System {
	if person, _ := ctx.Value(personKey).(*book.Person); person != nil {
		return person.Preferences.Units
	}
	return unit.System{}
}

func by(ctx context.Context) book.By {
	person, _ := ctx.Value(personKey).(*book.Person)
	key, _ := ctx.Value(idempotencyKey).(string)
	return book.By{Person: person, Key: key, Address: address(ctx)}
}

func address(ctx context.Context) string {
	from, _ := ctx.Value(addressKey).(string)
	return from
}

// sessionView is who is signed in; Person is missing for nobody.
type sessionView struct {
	Person      *people.PersonView `json:"person,omitempty"`
	Acts        []book.Permitted   `json:"acts" doc:"What they may do, and why not what they may not"`
	Empty       bool               `json:"empty" doc:"Nobody can sign in yet: the first administrator is to be entered"`
	Idle        float64            `json:"idle" doc:"A session ends after this time without anybody at the screen, s"`
	Now         time.Time          `json:"now" doc:"The shop's clock"`
	Preferences book.Preferences   `json:"preferences" doc:"How they like to work"`
}

const tabletCookie = "juxta_tablet"

// device is what a request says of the device that it comes from.
type device struct {
	Token string `cookie:"juxta_tablet" hidden:"true"`
}

type withTablet struct {
	SetCookie []*http.Cookie `header:"Set-Cookie"`
	Body      people.TabletView
}

// here says that a request comes from the machine that the server runs on.
func here(ctx context.Context) bool {
	is, _ := ctx.Value(hereKey).(bool)
	return is
}

type withCookie struct {
	SetCookie []*http.Cookie `header:"Set-Cookie"`
	Body      sessionView
}

func (g *guard) view(ctx context.Context, p *book.Person) (v sessionView, err error) {
	v = sessionView{Now: g.shop.Now(), Idle: idle.Seconds(), Acts: []book.Permitted{}}
	if p == nil {
		return v, nil
	}
	person := people.ViewOf(*p)
	v.Person = &person
	v.Preferences = p.Preferences
	v.Acts, err = g.shop.Permits(ctx, p)
	return v, err
}

// begin starts a session for somebody, with a token of its own.
func (g *guard) begin(ctx context.Context, p *book.Person) (*withCookie, error) {
	if err := g.sessions.RenewToken(ctx); err != nil {
		return nil, problem(ctx, err)
	}
	g.sessions.Put(ctx, personID, p.ID)
	g.sessions.Put(ctx, epochID, p.Epoch)
	g.sessions.Put(ctx, touchedAt, g.shop.Now().Unix())
	token, _, err := g.sessions.Commit(ctx)
	if err != nil {
		return nil, problem(ctx, err)
	}
	v, err := g.view(ctx, p)
	if err != nil {
		return nil, problem(ctx, err)
	}
	// The cookie lives as long as a session may at most; when nobody is at the
	// screen, it is the server that ends it.
	return &withCookie{[]*http.Cookie{g.cookie(token, time.Now().Add(g.sessions.Lifetime))}, v}, nil
}

func (g *guard) routes(r *routes) {
	get(
		r,
		"/api/people",
		"people",
		"Who may sign in; nobody is told to a device that is not the shop's",
		func(ctx context.Context, in *device) ([]people.PersonView, error) {
			if by(ctx).Person == nil && !here(ctx) {
				if knows, err := g.shop.KnowsNames(ctx, in.Token); err != nil || !knows {
					return []people.PersonView{}, err
				}
			}
			return g.shop.People(ctx)
		},
	)
	huma.Register(
		r.api,
		operation(r.api, book.KeepTablets, "/api/tablets", "registerTablet", "Make this device one of the shop's"),
		func(ctx context.Context, in *a[people.NewTablet]) (*withTablet, error) {
			v, token, err := g.shop.RegisterTablet(ctx, by(ctx), in.Body)
			if err != nil {
				return nil, problem(ctx, err)
			}
			c := g.cookie(token, time.Now().Add(10*365*24*time.Hour))
			c.Name = tabletCookie
			return &withTablet{[]*http.Cookie{c}, v}, nil
		},
	)
	get(
		r,
		"/api/session",
		"session",
		"Who is signed in, and what they may do",
		func(ctx context.Context, _ *none) (sessionView, error) {
			v, err := g.view(ctx, by(ctx).Person)
			if err != nil || v.Person != nil {
				return v, err
			}
			v.Empty, err = g.shop.Empty(ctx)
			return v, err
		},
	)
	g.signing(r)
}

// signing is who is signed in, and how they come and go.
func (g *guard) signing(r *routes) {
	type badge struct {
		Badge string `json:"badge" maxLength:"20" doc:"As scanned"`
	}
	post(
		r,
		book.OwnAccount,
		"/api/badge",
		"badge",
		"Whose badge this is; stores nothing",
		func(ctx context.Context, _ book.By, in *a[badge]) (people.PersonView, error) {
			return g.shop.WhoseBadge(ctx, in.Body.Badge)
		},
	)
	huma.Register(
		r.api,
		operation(r.api, book.OwnAccount, "/api/session", "signIn", "Sign in by name or badge, and PIN or password"),
		func(ctx context.Context, in *a[people.Credentials]) (*withCookie, error) {
			person, err := g.shop.SignIn(ctx, address(ctx), in.Body)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return g.begin(ctx, person)
		},
	)
	huma.Register(
		r.api,
		operation(r.api, book.OwnAccount, "/api/first", "first", "Enter the first administrator of an empty shop"),
		func(ctx context.Context, in *a[people.FirstAdministrator]) (*withCookie, error) {
			view, err := g.shop.FirstAdministrator(ctx, in.Body)
			if err != nil {
				return nil, problem(ctx, err)
			}
			person, err := g.shop.PersonByID(ctx, view.ID)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return g.begin(ctx, person)
		},
	)
	signOut := operation(r.api, book.OwnAccount, "/api/session", "signOut", "Sign out")
	signOut.Method = http.MethodDelete
	huma.Register(r.api, signOut, func(ctx context.Context, _ *none) (*withCookie, error) {
		if err := g.sessions.Destroy(ctx); err != nil {
			return nil, problem(ctx, err)
		}
		v, err := g.view(ctx, nil)
		return &withCookie{[]*http.Cookie{g.cookie("", time.Unix(1, 0))}, v}, err
	})
}

func (g *guard) cookie(token string, expiry time.Time) *http.Cookie {
	c := g.sessions.Cookie
	return &http.Cookie{
		Name:     c.Name,
		Value:    token,
		Path:     "/",
		Expires:  expiry,
		HttpOnly: true,
		Secure:   c.Secure,
		SameSite: c.SameSite,
	}
}
