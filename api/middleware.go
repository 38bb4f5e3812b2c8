package api

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"

	"juxta/shop/book"
)

var latency = promauto.NewHistogramVec(prometheus.HistogramOpts{
	Name: "juxta_http_seconds", Help: "Time to answer, by route and status.", Buckets: prometheus.ExponentialBuckets(
		0.002, 2, 12,
	),
}, []string{"route", "status"})

type contextKey int

const (
	requestKey contextKey = iota
	personKey
	idempotencyKey
	addressKey
	hereKey
	stillKey // for streams: whether the session still lives
	headOf   // where the session store writes the end of the log
)

func requestID(ctx context.Context) string {
	id, _ := ctx.Value(requestKey).(string)
	return id
}

// observe gives every request an id and writes one line about it.
func observe(c *gin.Context) {
	started := time.Now()
	id := uuid.NewString()
	c.Header("X-Request-Id", id)
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), requestKey, id))
	c.Next()
	route, took := c.FullPath(), time.Since(started)
	if route == "" {
		route = "page"
	}
	latency.WithLabelValues(route, strconv.Itoa(c.Writer.Status())).Observe(took.Seconds())
	level := slog.LevelInfo
	if route == "page" || route == "/healthz" || route == "/readyz" {
		level = slog.LevelDebug
	}
	slog.Log(
		c.Request.Context(),
		level,
		"request",
		"id",
		id,
		"method",
		c.Request.Method,
		"route",
		route,
		"status",
		c.Writer.Status(),
		"ms",
		float64(took.Microseconds())/1e3,
	)
}

// recovered turns a fault of ours into an answer without its insides.
func recovered(c *gin.Context) {
	defer func() {
		if fault := recover(); fault != nil {
			if fault == http.ErrAbortHandler {
				panic(fault)
			}
			slog.Error("panic", "id", requestID(c.Request.Context()), "fault", fault, "stack", string(debug.Stack()))
			c.AbortWithStatusJSON(
				http.StatusInternalServerError,
				huma.NewError(http.StatusInternalServerError, ourFault(c.Request.Context())),
			)
		}
	}()
	c.Next()
}

func ourFault(ctx context.Context) string {
	return "Something failed on our side; nothing was stored. The log has it under " + requestID(ctx) + "."
}

// problem turns an error of the shop into an answer with a status.
func problem(ctx context.Context, err error) error {
	var refusal *book.Error
	var unknown *book.Unknown
	if errors.As(err, &unknown) {
		slog.Error("commit without an answer", "id", requestID(ctx), "error", err)
		return huma.NewError(
			http.StatusServiceUnavailable,
			"The database broke off at the very end, and it is not known whether this was stored. Send it again as it "+
				"is: it is stored once.",
		)
	}
	if !errors.As(err, &refusal) {
		if errors.Is(err, context.Canceled) {
			return huma.NewError(499, "the request was given up")
		}
		slog.Error("request failed", "id", requestID(ctx), "error", err)
		if book.Unreachable(err) {
			return huma.NewError(
				http.StatusServiceUnavailable,
				"The database does not answer: nothing was stored. Try again in a moment.",
			)
		}
		return huma.NewError(http.StatusInternalServerError, ourFault(ctx))
	}
	return refused(refusal)
}

// refused is a refusal of the shop as an answer: the problem's type is the rule that it
// follows from (RFC 9457, 3.1.1).
func refused(refusal *book.Error) *huma.ErrorModel {
	status := map[book.Kind]int{book.Invalid: http.StatusUnprocessableEntity, book.Missing: http.StatusNotFound,
		book.Conflict: http.StatusConflict, book.Refused: http.StatusForbidden}[refusal.Kind]
	var details []*huma.ErrorDetail
	if refusal.Field != "" && len(refusal.Details) == 0 {
		details = append(details, &huma.ErrorDetail{Location: refusal.Field, Message: refusal.Message})
	}
	for _, d := range refusal.Details {
		details = append(details, &huma.ErrorDetail{Location: refusal.Field, Message: d})
	}
	return &huma.ErrorModel{
		Type:   "juxta:" + refusal.Code,
		Title:  http.StatusText(status),
		Status: status,
		Detail: refusal.Message,
		Errors: details,
	}
}

type nonceKey struct{}

// hosts refuses requests under a name that is not the server's: a page of
// somebody else's whose name was made to lead here would be of our origin to the
// browser.
func hosts(names []string) gin.HandlerFunc {
	return func(c *gin.Context) {
		host := c.Request.Host
		if name, _, err := net.SplitHostPort(host); err == nil {
			host = name
		}
		host = strings.ToLower(strings.Trim(host, "[]"))
		ip := net.ParseIP(host)
		if host == "localhost" || ip != nil && ip.IsLoopback() ||
			slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, host) }) {
			c.Next()
			return
		}
		c.AbortWithStatusJSON(
			http.StatusMisdirectedRequest,
			huma.NewError(http.StatusMisdirectedRequest, "This server does not answer under that name."),
		)
	}
}

// secured sets strict headers: everything from here, nothing inline but the
// styles that carry this page's nonce. Behind TLS browsers come back by TLS only.
func secured(tls bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		if tls {
			c.Header("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
		}
		strict(c)
	}
}

func strict(c *gin.Context) {
	b := make([]byte, 16)
	_, _ = rand.Read(b) // never fails
	nonce := base64.RawStdEncoding.EncodeToString(b)
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), nonceKey{}, nonce))
	h := c.Writer.Header()
	h.Set(
		"Content-Security-Policy",
		"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-"+nonce+"'; img-src 'self' data: blob:; "+
			"font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'; "+
			"manifest-src 'self'",
	)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// page serves the front end: files as they are, every other path as the page,
// with this request's nonce in it.
func page(files fs.FS) gin.HandlerFunc {
	static := http.FileServerFS(files)
	return func(c *gin.Context) {
		path := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			c.JSON(http.StatusNotFound, huma.NewError(http.StatusNotFound, "there is no such route"))
			return
		}
		if info, err := fs.Stat(files, path); err == nil && !info.IsDir() && path != "index.html" {
			if strings.HasPrefix(path, "assets/") { // named by their content
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			static.ServeHTTP(c.Writer, c.Request)
			return
		}
		raw, err := fs.ReadFile(files, "index.html")
		if err != nil {
			c.String(http.StatusServiceUnavailable, "The front end is not built: start Juxta with ./start.")
			return
		}
		nonce, _ := c.Request.Context().Value(nonceKey{}).(string)
		c.Header("Cache-Control", "no-store")
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(strings.ReplaceAll(string(raw), "__NONCE__", nonce)))
	}
}
