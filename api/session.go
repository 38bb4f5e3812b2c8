package api

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"juxta/shop"
)

// guard knows who is asking: it loads the session, and lets nobody but the
// sign-in routes through without one.
type guard struct {
	shop     *shop.Shop
	sessions *scs.SessionManager
}

const personID = "person"

// open are the routes that need no session.
func open(method, path string) bool {
	return path == "/api/session" || path == "/api/people" && method == http.MethodGet || strings.HasPrefix(path, "/api/openapi")
}

func (g *guard) session(c *gin.Context) {
	token, _ := c.Cookie(g.sessions.Cookie.Name)
	ctx, err := g.sessions.Load(c.Request.Context(), token)
	if err != nil {
		_ = c.Error(err)
		c.AbortWithStatusJSON(http.StatusServiceUnavailable, huma.NewError(http.StatusServiceUnavailable, "The database does not answer: try again in a moment."))
		return
	}
	if id := g.sessions.GetInt64(ctx, personID); id != 0 {
		if person, err := g.shop.PersonByID(ctx, id); err == nil {
			ctx = context.WithValue(ctx, personKey, person)
		}
	}
	changes := c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead
	if !open(c.Request.Method, c.Request.URL.Path) {
		if ctx.Value(personKey) == nil {
			c.AbortWithStatusJSON(http.StatusUnauthorized, huma.NewError(http.StatusUnauthorized, "Sign in first."))
			return
		}
		key := c.GetHeader("Idempotency-Key")
		if changes && (len(key) < 8 || len(key) > 80) {
			c.AbortWithStatusJSON(http.StatusBadRequest, huma.NewError(http.StatusBadRequest, "A change needs an Idempotency-Key header of 8 to 80 characters."))
			return
		}
		ctx = context.WithValue(ctx, idempotencyKey, key)
	}
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

// by is who asks for a change.
func by(ctx context.Context) shop.By {
	person, _ := ctx.Value(personKey).(*shop.Person)
	key, _ := ctx.Value(idempotencyKey).(string)
	return shop.By{Person: person, Key: key}
}

// sessionView is who is signed in; Person is missing for nobody.
type sessionView struct {
	Person *shop.PersonView `json:"person,omitempty"`
	Now    time.Time        `json:"now" doc:"The shop's clock"`
}

type signIn struct {
	Body struct {
		PersonID int64  `json:"personId"`
		PIN      string `json:"pin" minLength:"1" maxLength:"40"`
	}
}

type withCookie struct {
	SetCookie []*http.Cookie `header:"Set-Cookie"`
	Body      sessionView
}

func (g *guard) routes(api huma.API) {
	r := &routes{api, g.shop}
	get(r, "/api/people", "people", "Who may sign in", func(ctx context.Context, _ *none) ([]shop.PersonView, error) {
		return g.shop.People(ctx)
	})
	get(r, "/api/session", "session", "Who is signed in", func(ctx context.Context, _ *none) (sessionView, error) {
		v := sessionView{Now: g.shop.Now()}
		if p := by(ctx).Person; p != nil {
			view := p.View()
			v.Person = &view
		}
		return v, nil
	})
	huma.Register(api, operation("/api/session", "signIn", "Sign in by name and PIN"), func(ctx context.Context, in *signIn) (*withCookie, error) {
		person, err := g.shop.SignIn(ctx, in.Body.PersonID, in.Body.PIN)
		if err != nil {
			return nil, problem(ctx, err)
		}
		if err := g.sessions.RenewToken(ctx); err != nil {
			return nil, problem(ctx, err)
		}
		g.sessions.Put(ctx, personID, person.ID)
		token, expiry, err := g.sessions.Commit(ctx)
		if err != nil {
			return nil, problem(ctx, err)
		}
		view := person.View()
		return &withCookie{[]*http.Cookie{g.cookie(token, expiry)}, sessionView{&view, g.shop.Now()}}, nil
	})
	signOut := operation("/api/session", "signOut", "Sign out")
	signOut.Method = http.MethodDelete
	huma.Register(api, signOut, func(ctx context.Context, _ *none) (*withCookie, error) {
		if err := g.sessions.Destroy(ctx); err != nil {
			return nil, problem(ctx, err)
		}
		return &withCookie{[]*http.Cookie{g.cookie("", time.Unix(1, 0))}, sessionView{Now: g.shop.Now()}}, nil
	})
	type newPerson struct {
		Body struct {
			Name string `json:"name" minLength:"1" maxLength:"80"`
			Role string `json:"role" enum:"technician,planner,quality,administrator"`
			PIN  string `json:"pin" minLength:"6" maxLength:"12"`
		}
	}
	post(r, "/api/people", "addPerson", "Let somebody sign in", func(ctx context.Context, by shop.By, in *newPerson) (shop.PersonView, error) {
		return g.shop.AddPerson(ctx, by, in.Body.Name, in.Body.Role, in.Body.PIN)
	})
}

func (g *guard) cookie(token string, expiry time.Time) *http.Cookie {
	c := g.sessions.Cookie
	return &http.Cookie{Name: c.Name, Value: token, Path: "/", Expires: expiry, HttpOnly: true, Secure: c.Secure, SameSite: c.SameSite}
}
