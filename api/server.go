package api

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"juxta/calc"
	"juxta/shop"
	"juxta/shop/book"
	"juxta/web"
)

// Server answers HTTP for one shop. It holds no state of its own: any number
// of them may stand behind a load balancer on one database.
type Server struct {
	Handler http.Handler
	Metrics http.Handler // for a listener of its own
	cleanup func()
}

// Options are how a server is reached.
type Options struct {
	Secure  bool     // behind TLS
	Hosts   []string // names under which browsers reach it; those of loopback always
	Proxies []string // addresses or networks whose X-Forwarded-For is believed
}

// Close ends what the server runs in the background.
func (s *Server) Close() { s.cleanup() }

// contractVersion is that of the HTTP contract, which does not change with every
// build.
const contractVersion = "0.1.0"

// release is set by the release build (scripts/release).
var release string

// Version of the program, as /healthz and juxta --version tell it: that of the
// release, or the commit that it was built from.
func Version() string {
	if release != "" {
		return release
	}
	info, ok := debug.ReadBuildInfo()
	if !ok {
		return "unknown"
	}
	settings := map[string]string{}
	for _, s := range info.Settings {
		settings[s.Key] = s.Value
	}
	version := settings["vcs.revision"]
	if len(version) < 12 {
		return "of no commit"
	}
	version = version[:12]
	if settings["vcs.modified"] == "true" {
		version += ", changed since"
	}
	return version
}

// Unhurried lets garbage grow to four times what is in use, within 1 GiB, before
// it is collected: an answer about a master of hundreds of plies leaves 10 MB
// behind, and at every second key the collector would compete with it. The
// environment's GOGC goes first.
func Unhurried() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(400)
		debug.SetMemoryLimit(1 << 30)
	}
}

// New wires the routes. The error says which option cannot be.
func New(s *shop.Shop, o Options) (*Server, error) {
	store := postgresstore.NewWithCleanupInterval(s.DB.SQL, 10*time.Minute)
	sessions := scs.New()
	sessions.Store = sessionStore{store, s.DB.Pool}
	sessions.HashTokenInStore = true
	sessions.Lifetime = 12 * time.Hour // a shift, whatever is done
	sessions.IdleTimeout = idle
	sessions.Cookie.Name = "juxta_session"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteStrictMode
	sessions.Cookie.Secure = o.Secure

	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	engine.RemoteIPHeaders = []string{"X-Forwarded-For"}
	if err := engine.SetTrustedProxies(o.Proxies); err != nil {
		return nil, fmt.Errorf("the proxy to trust: %w", err)
	}
	engine.Use(observe, recovered, hosts(o.Hosts), secured(o.Secure))
	engine.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"status": "ok", "version": Version()}) })
	engine.GET("/readyz", func(c *gin.Context) {
		ctx, cancel := context.WithTimeout(c.Request.Context(), 2*time.Second)
		defer cancel()
		if err := s.DB.Pool.Ping(ctx); err != nil {
			slog.Warn("not ready", "error", err)
			c.JSON(http.StatusServiceUnavailable, gin.H{"status": "the database does not answer"})
			return
		}
		c.JSON(http.StatusOK, gin.H{"status": "ready"})
	})
	guard := &guard{shop: s, sessions: sessions}
	group := engine.Group("/", guard.session)
	contract(humagin.NewWithGroup(engine, group, config()), s, guard)
	engine.NoRoute(page(web.Files()))
	return &Server{http.NewCrossOriginProtection().Handler(engine), promhttp.Handler(), store.StopCleanup}, nil
}

func config() huma.Config {
	huma.DefaultArrayNullable = false
	c := huma.DefaultConfig("Juxta", contractVersion)
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "/api/openapi", "", ""
	c.CreateHooks = nil // no $schema links in answers
	calc.Shapes(c.Components.Schemas)
	return c
}

// idle is how long a session lasts without anybody at the screen: a little
// longer than a usual debulk, during which nobody touches it.
const idle = 20 * time.Minute

// contract registers every route of the API.
func contract(h huma.API, s *shop.Shop, g *guard) {
	r := &routes{h, s}
	g.routes(r)
	r.people()
	r.freezer()
	r.material()
	r.climate()
	r.logbook()
	r.parts()
	r.builds()
	r.cut()
	r.cutFiles()
	r.kits()
	r.layup()
	r.bag()
	r.cure()
	r.recipes()
	r.finish()
	r.today()
	r.release()
	r.thread()
}

// OpenAPI is the contract as an OpenAPI 3.1 document, without a database.
func OpenAPI() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	h := humagin.New(engine, config())
	contract(h, nil, &guard{})
	return h.OpenAPI().MarshalJSON()
}

type routes struct {
	api  huma.API
	shop *shop.Shop
}

// body is an answer with a JSON body.
type body[T any] struct{ Body T }

// answer wraps what the shop gave: a body, or the shop's error with its status.
func answer[T any](ctx context.Context, v T, err error) (*body[T], error) {
	if err != nil {
		return nil, problem(ctx, err)
	}
	return &body[T]{v}, nil
}

// get registers a route that reads.
func get[In, Out any](r *routes, path, id, summary string, do func(context.Context, *In) (Out, error)) {
	huma.Register(
		r.api,
		huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary},
		func(ctx context.Context, in *In) (*body[Out], error) {
			out, err := do(ctx, in)
			return answer(ctx, out, err)
		},
	)
}

// post registers a route that changes something: an act that the matrix knows.
// It is sent with an Idempotency-Key, and may be sent again with the same one.
func post[In, Out any](
	r *routes,
	act book.Act,
	path, id, summary string,
	do func(context.Context, book.By, *In) (Out, error),
) {
	huma.Register(
		r.api,
		operation(r.api, act, path, id, summary),
		func(ctx context.Context, in *In) (*body[Out], error) {
			out, err := do(ctx, by(ctx), in)
			return answer(ctx, out, err)
		},
	)
}

// operation is a POST of an act. Who may not do it is told so before their
// input is looked at; the shop itself looks once more.
func operation(api huma.API, act book.Act, path, id, summary string) huma.Operation {
	may := func(ctx huma.Context, next func(huma.Context)) {
		if err := book.CheckRole(by(ctx.Context()).Person, act); err != nil {
			_ = huma.WriteErr(api, ctx, http.StatusForbidden, err.Error(), err)
			return
		}
		next(ctx)
	}
	return huma.Operation{
		OperationID:   id,
		Method:        http.MethodPost,
		Path:          path,
		Summary:       summary,
		DefaultStatus: http.StatusOK,
		MaxBodyBytes:  most(path),
		Middlewares:   huma.Middlewares{may},
		Extensions:    map[string]any{"x-act": string(act)},
		Errors: []int{
			http.StatusForbidden,
			http.StatusNotFound,
			http.StatusConflict,
			http.StatusUnprocessableEntity,
		},
	}
}

// most is how large the input of a route may be, in bytes: a secret is short, a
// form is not long, a document of hundreds of plies is, and files are larger.
func most(path string) int64 {
	switch {
	case path == "/api/session" || path == "/api/badge" || path == "/api/first":
		return 8 << 10
	case path == "/api/meshes" || path == "/api/masters": // either may hold a surface
		return 64 << 20
	case path == "/api/files" || path == "/api/parts" || strings.HasPrefix(path, "/api/nests/") &&
		strings.HasSuffix(path, "/drawing") || path == "/api/stock-list" ||
		strings.HasSuffix(path, "/outlines"):
		return 24 << 20
	case strings.HasSuffix(path, "/draft") || strings.HasSuffix(path, "/ask") || strings.HasSuffix(path, "/drawing") ||
		strings.HasSuffix(path, "/simulate") || path == "/api/outline" || strings.HasSuffix(path, "/route") ||
		strings.HasSuffix(path, "/rolled") ||
		strings.HasSuffix(path, "/draped") || strings.HasSuffix(path, "/drapes") || path == "/api/recipes/curve":
		return 8 << 20
	}
	return 512 << 10
}

// ByCode is the input of routes about one thing.
type ByCode struct {
	Code string `path:"code" doc:"Id as on the label" maxLength:"20"`
}

// ByOperation is the input of routes about a build that may have a route.
type ByOperation struct {
	ByCode
	Operation string `query:"operation" doc:"Key of an operation of its route; empty: the next" maxLength:"48"`
}

// at is a build, its operation and a JSON body.
type at[T any] struct {
	ByOperation
	Body T
}

// ByID is the input of routes about what has no label.
type ByID struct {
	ID int64 `path:"id" minimum:"0"`
}

// withID is a number and a JSON body.
type withID[T any] struct {
	ByID
	Body T
}

// a JSON body alone.
type a[T any] struct{ Body T }

// none is the input of routes that need none.
type none struct{}

// with is an id and a JSON body.
type with[T any] struct {
	ByCode
	Body T
}
