// Package server offers the app over HTTP: the API, the event stream and the embedded front end. It is thin.
package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"path"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"tingate/app"
	"tingate/app/base"
	"tingate/calc"
	"tingate/core/drivefile"
	"tingate/web"
)

const contentSecurity = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src " +
	"'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// Handler makes the whole HTTP handler. base ends the event streams.
func Handler(base context.Context, a *app.App, version string) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	g := gin.New()
	g.Use(recovered, logged, headers, bounded)
	g.GET("/healthz", func(c *gin.Context) { c.JSON(http.StatusOK, gin.H{"ok": true, "version": version}) })
	g.GET("/api/events", events(base, a))
	g.GET("/api/drives/:id/bench/live", benchLive(base, a))
	g.POST("/api/calc/:name", calcHandler)
	routes(newAPI(g, version), a)
	static := http.FileServerFS(web.Dist())
	g.NoRoute(func(c *gin.Context) { page(c, static) })
	return loopbackOnly(http.NewCrossOriginProtection().Handler(g))
}

// recovered answers a panic as a problem, as every other failure is: what happened, and that nothing was kept.
func recovered(c *gin.Context) {
	defer func() {
		p := recover()
		if p == nil {
			return
		}
		if err, ok := p.(error); ok && errors.Is(err, http.ErrAbortHandler) { // a stream that is cut on purpose
			panic(p)
		}
		slog.Error("panic", "error", p, "path", c.FullPath(), "stack", string(debug.Stack()))
		if c.Writer.Written() {
			panic(http.ErrAbortHandler) // half an answer must not look whole
		}
		c.Header("Content-Type", "application/problem+json")
		c.AbortWithStatusJSON(http.StatusInternalServerError,
			&Problem{Type: "about:blank", Title: http.StatusText(http.StatusInternalServerError), Status: http.StatusInternalServerError,
				Detail: "Something failed in Tin Gate; nothing of this was stored. The log has the details.", Errors: []FieldProblem{}})
	}()
	c.Next()
}

// How long a body may take: idle, and in all. A bundle or a photo over a slow line is given its time, as long as it comes.
const (
	bodyIdle  = 20 * time.Second
	bodyMost  = 2 * time.Minute
	bodyLarge = 30 * time.Minute
)

// bounded cuts off a body that does not come.
func bounded(c *gin.Context) {
	if c.Request.Body == nil || c.Request.Body == http.NoBody {
		c.Next()
		return
	}
	most := bodyMost
	if n := c.Request.ContentLength; n > drivefile.MaxDialect || n < 0 {
		most = bodyLarge
	}
	b := &boundedBody{ReadCloser: c.Request.Body, until: time.Now().Add(most), control: http.NewResponseController(c.Writer)}
	c.Request.Body = b
	c.Next()
	_ = b.control.SetReadDeadline(time.Time{}) // the connection is used again
}

type boundedBody struct {
	io.ReadCloser
	until   time.Time
	control *http.ResponseController
}

func (b *boundedBody) Read(p []byte) (int, error) {
	next := time.Now().Add(bodyIdle)
	if next.After(b.until) {
		next = b.until
	}
	_ = b.control.SetReadDeadline(next) // not every connection can
	n, err := b.ReadCloser.Read(p)
	if err == io.EOF {
		_ = b.control.SetReadDeadline(time.Time{})
	}
	return n, err
}

func newAPI(g *gin.Engine, version string) huma.API {
	huma.DefaultArrayNullable = false
	cfg := huma.DefaultConfig("Tin Gate", version)
	cfg.DocsPath, cfg.OpenAPIPath, cfg.SchemasPath, cfg.CreateHooks = "", "/api/openapi", "", nil
	cfg.RejectUnknownQueryParameters = true
	return humagin.New(g, cfg)
}

// OpenAPI is the API's description, made from the Go types.
func OpenAPI() ([]byte, error) {
	gin.SetMode(gin.ReleaseMode) // its debug mode prints to standard output
	api := newAPI(gin.New(), "1")
	routes(api, nil)
	return api.OpenAPI().MarshalJSON()
}

// loopbackOnly refuses requests whose Host is no loopback name: a page elsewhere must not reach this server by a name
// that it made point here.
func loopbackOnly(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		ip := net.ParseIP(strings.Trim(host, "[]"))
		if host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			http.Error(w, "this server answers on loopback names only", http.StatusMisdirectedRequest)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// logged writes ids and durations, no entered values.
func logged(c *gin.Context) {
	start := time.Now()
	c.Next()
	if c.Request.Method != http.MethodGet || c.Writer.Status() >= 400 {
		slog.Info("request", "method", c.Request.Method, "path", c.FullPath(), "status", c.Writer.Status(), "ms",
			time.Since(start).Milliseconds())
	}
}

func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentSecurity)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "no-referrer")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

// calcTime is what a request to calc gets in all; tingate calc takes its time.
const calcTime = 20 * time.Second

func calcHandler(c *gin.Context) {
	var out strings.Builder
	if calc.About(c.Param("name")) == "" {
		c.JSON(http.StatusNotFound, gin.H{"detail": "no such computation", "names": calc.Names()})
		return
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), calcTime)
	defer cancel()
	if _, err := calc.Run(ctx, c.Param("name"), http.MaxBytesReader(c.Writer, c.Request.Body, drivefile.MaxJSON), &out); err != nil {
		c.JSON(http.StatusBadRequest, gin.H{"detail": err.Error()})
		return
	}
	c.Data(http.StatusOK, "application/json; charset=utf-8", []byte(out.String()))
}

// events is the one stream of a tab: every document that changed, by id, numbered so that Last-Event-ID resumes it.
func events(whole context.Context, a *app.App) gin.HandlerFunc {
	return func(c *gin.Context) {
		ctx, cancel := context.WithCancel(c.Request.Context())
		defer cancel()
		stop := context.AfterFunc(whole, cancel)
		defer stop()
		from := int64(-1)
		if n, err := strconv.ParseInt(c.GetHeader("Last-Event-ID"), 10, 64); err == nil {
			from = n
		}
		h := c.Writer.Header()
		h.Set("Content-Type", "text/event-stream")
		c.Writer.WriteHeader(http.StatusOK)
		_, _ = io.WriteString(c.Writer, ": open\n\n")
		c.Writer.Flush()
		err := a.Events(ctx, from, func(m base.Mark) error {
			_, err := fmt.Fprintf(c.Writer, "id: %d\nevent: changed\ndata: {\"doc\":%q}\n\n", m.Seq, m.Doc)
			c.Writer.Flush()
			return err
		})
		if err != nil && ctx.Err() == nil {
			slog.Warn("event stream ended", "error", err)
		}
	}
}

const notBuilt = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Tin Gate</title><h1>The front end is not built</h1><p>This binary holds the API only. Run <code>make build</code> in the source folder, then start it again.</p></html>`

// page serves the front end: hashed assets for ever, the page itself never cached, and every other path is the page.
func page(c *gin.Context, static http.Handler) {
	p := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if strings.HasPrefix(p, "api/") {
		c.JSON(http.StatusNotFound, gin.H{"detail": "no such path"})
		return
	}
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		c.Status(http.StatusMethodNotAllowed)
		return
	}
	files := web.Dist()
	if p == "" || path.Ext(p) == "" {
		raw, err := fs.ReadFile(files, "index.html")
		if err != nil {
			raw = []byte(notBuilt)
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", raw)
		return
	}
	if _, err := fs.Stat(files, p); err != nil {
		c.String(http.StatusNotFound, "no such file")
		return
	}
	if strings.HasPrefix(p, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable")
	}
	if _, err := fs.Stat(files, p+".gz"); err == nil {
		c.Header("Vary", "Accept-Encoding")
		if strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") {
			raw, err := fs.ReadFile(files, p+".gz")
			if err == nil {
				c.Header("Content-Encoding", "gzip")
				c.Data(http.StatusOK, mime.TypeByExtension(path.Ext(p)), raw)
				return
			}
		}
	}
	c.Status(http.StatusOK) // NoRoute starts at 404
	static.ServeHTTP(c.Writer, c.Request)
}
