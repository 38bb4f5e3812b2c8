package e2e

import (
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
)

// gate is a way to a house that can be shut, as a network that fails: what is asked for
// through it gets no answer, only the end of its connection. It is a proxy of the tests'
// own, for the means by which a browser can be taken off the network differ between its
// versions.
type gate struct {
	url    string
	server *httptest.Server
	shut   atomic.Pointer[string] // the beginning of the paths that are; nil: none
}

// openGate is an open way to a house.
func openGate(t *testing.T, h *house) *gate {
	t.Helper()
	to, err := url.Parse(h.url)
	require.NoError(t, err)
	// The request keeps its host, or the page would be a stranger to the server.
	on := &httputil.ReverseProxy{Rewrite: func(r *httputil.ProxyRequest) {
		r.SetURL(to)
		r.Out.Host = r.In.Host
	}}
	g := &gate{}
	g.server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if shut := g.shut.Load(); shut != nil && strings.HasPrefix(r.URL.Path, *shut) {
			panic(http.ErrAbortHandler)
		}
		on.ServeHTTP(w, r)
	}))
	t.Cleanup(g.server.Close)
	g.url = g.server.URL
	return g
}

// close shuts the way to all paths that begin so, also for what is under way.
func (g *gate) close(prefix string) {
	g.shut.Store(&prefix)
	g.server.CloseClientConnections()
}

func (g *gate) open() { g.shut.Store(nil) }
