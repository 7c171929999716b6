// Package api offers the application over HTTP: decode, call app, encode. It
// holds no rules. The OpenAPI document is made from the Go types; errors are
// RFC 9457 problems with a stable code.
package api

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"net/netip"
	"reflect"
	"strings"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/store"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
)

// Problem is an RFC 9457 problem with a stable code, and what stands now where
// the clash is with somebody else's work.
type Problem struct {
	huma.ErrorModel
	Code string `json:"code" doc:"stable name of the problem"`
	Now  any    `json:"now,omitempty" doc:"what stands now, or what is behind the problem"`
}

func (p *Problem) Error() string { return p.Detail }

func init() {
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := &Problem{Code: http.StatusText(status)}
		p.Status, p.Title, p.Detail = status, http.StatusText(status), msg
		switch status {
		case http.StatusUnprocessableEntity, http.StatusBadRequest:
			p.Code = "invalid"
		case http.StatusNotFound:
			p.Code = "not-found"
		case http.StatusRequestEntityTooLarge:
			p.Code, p.Detail = "too-large", tooLong
			errs = nil
		case http.StatusInternalServerError:
			p.Code, p.Detail = "internal", "something went wrong on our side; nothing was saved"
			errs = nil
		}
		for _, e := range errs {
			var d *huma.ErrorDetail
			if errors.As(e, &d) {
				d.Value = nil // what was sent may be private
				p.Errors = append(p.Errors, d)
			}
		}
		return p
	}
}

var statusOf = map[act.Refusal]int{act.Invalid: 422, act.NotFound: 404, act.Forbidden: 403, act.Conflict: 409, act.Stale: 412, act.Unsigned: 401, act.TooMany: http.StatusTooManyRequests}

// statusCancelled answers who hung up.
const statusCancelled = 499

// problem turns an error of the app into its answer. What is not one of the
// app's own refusals is logged, without its text reaching the client.
func problem(ctx context.Context, err error) error {
	var e *act.Error
	if errors.As(act.InWords(err), &e) {
		p := &Problem{Code: e.Code, Now: e.Detail}
		p.Status, p.Title, p.Detail = statusOf[e.What], http.StatusText(statusOf[e.What]), e.Message
		if e.What == act.TooMany {
			return huma.ErrorWithHeaders(p, http.Header{"Retry-After": {"900"}})
		}
		return p
	}
	if errors.Is(err, context.Canceled) {
		p := &Problem{Code: "cancelled"}
		p.Status, p.Title, p.Detail = statusCancelled, "Cancelled", "cancelled; nothing was saved"
		return p
	}
	slog.ErrorContext(ctx, "act failed", "request", middleware.GetReqID(ctx), "kind", reflect.TypeOf(err).String(), "error", firstLine(err))
	return huma.NewError(http.StatusInternalServerError, "")
}

// refused answers an error outside of an operation.
func refused(ctx context.Context, w http.ResponseWriter, err error) {
	var p *Problem
	if errors.As(problem(ctx, err), &p) {
		writeProblem(w, p.Status, p.Code, p.Detail)
	}
}

// firstLine bounds what an unforeseen error may put into the log.
func firstLine(err error) string {
	s := err.Error()
	for i, c := range s {
		if c == '\n' || i > 200 || c == '(' && i > 60 {
			return s[:i]
		}
	}
	return s
}

// Options configure the server.
type Options struct {
	Secure     bool           // cookies only over TLS
	SignInRate int            // attempts a minute per address
	Proxies    []netip.Prefix // proxies whose word is taken for the address that a request comes from
	UI         http.Handler
	Now        func() time.Time
}

// Server is the API with its sessions.
type Server struct {
	app      *app.App
	sessions *scs.SessionManager
	api      huma.API
	store    *store.Store
	limits   map[string]int64 // how many bytes each operation takes
}

type whoKey struct{}

func who(ctx context.Context) act.Who {
	w, _ := ctx.Value(whoKey{}).(act.Who)
	return w
}

// Document returns the OpenAPI document without a database.
func Document() ([]byte, error) {
	s := &Server{sessions: scs.New()}
	r := chi.NewRouter()
	s.register(r)
	return s.api.OpenAPI().MarshalJSON()
}

// New builds the handler.
func New(a *app.App, opt Options) http.Handler {
	sm := scs.New()
	sm.Store = pgxstore.New(a.Store.Pool)
	sm.Lifetime = 7 * 24 * time.Hour
	sm.IdleTimeout = 12 * time.Hour
	sm.Cookie.Name = "coatrack"
	sm.Cookie.HttpOnly = true
	sm.Cookie.SameSite = http.SameSiteLaxMode
	sm.Cookie.Secure = opt.Secure
	sm.HashTokenInStore = true
	sm.ErrorFunc = func(w http.ResponseWriter, _ *http.Request, err error) {
		slog.Warn("sessions cannot be read", "error", firstLine(err))
		writeAway(w)
	}
	s := &Server{app: a, sessions: sm, store: a.Store}

	cross := http.NewCrossOriginProtection()
	cross.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, http.StatusForbidden, "other-site", "this request came from another site's page; nothing was done. Do it on a page of Coatrack, or with a token")
	}))

	r := chi.NewRouter()
	r.Use(requestID, recoverer, logRequests, measure, secureHeaders, fromAddress(opt.Proxies))
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("ok\n")) })
	r.Get("/readyz", func(w http.ResponseWriter, r *http.Request) {
		ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
		defer cancel()
		if err := a.Store.Ready(ctx); err != nil {
			http.Error(w, "the database does not answer", http.StatusServiceUnavailable)
			return
		}
		_, _ = w.Write([]byte("ready\n"))
	})
	r.Group(func(r chi.Router) {
		r.Use(cross.Handler, s.limited, sm.LoadAndSave, limitSignIn(opt.SignInRate), s.authenticate, s.idempotent)
		s.register(r)
		r.Get("/api/docs", s.docs)
		r.HandleFunc("/api/*", func(w http.ResponseWriter, r *http.Request) {
			writeProblem(w, 404, "not-found", "there is nothing at this address")
		})
	})
	if opt.UI != nil {
		r.NotFound(opt.UI.ServeHTTP)
	}
	return r
}

func (s *Server) register(r chi.Router) {
	cfg := huma.DefaultConfig("Coatrack", "1")
	cfg.Info.Description = "Set up a client's ledger: files in, labels mapped, an opening posted and proved. Amounts are decimal strings, debit positive. Days are ISO dates."
	cfg.OpenAPIPath = "/api/openapi"
	cfg.DocsPath = ""
	cfg.SchemasPath = ""
	cfg.CreateHooks = nil // no $schema links in answers
	cfg.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"token":   {Type: "http", Scheme: "bearer", Description: "an API token that you made on your account page"},
		"session": {Type: "apiKey", In: "cookie", Name: "coatrack"},
	}
	cfg.Components.Schemas = huma.NewMapRegistry("#/components/schemas/", schemaName)
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[money.Amount](), reflect.TypeFor[string]())
	s.api = humachi.New(r, cfg)
	s.signInOps()
	s.clientOps()
	s.batchOps()
	s.chartOps()
	s.rackOps()
	s.openingOps()
	s.itemOps()
	s.payrollOps()
	s.payeeOps()
	s.tidyOps()
	s.handoffOps()
	s.bookOps()
	s.limits = map[string]int64{}
	for path, item := range s.api.OpenAPI().Paths {
		for method, o := range map[string]*huma.Operation{http.MethodPost: item.Post, http.MethodPut: item.Put, http.MethodPatch: item.Patch, http.MethodDelete: item.Delete} {
			if o != nil {
				s.limits[method+" "+path] = o.MaxBodyBytes
			}
		}
	}
}

// schemaName names core's types after their package, so that table.Row and
// proof.Row stay apart.
func schemaName(t reflect.Type, hint string) string {
	name := huma.DefaultSchemaNamer(t, hint)
	for t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if pkg := t.PkgPath(); strings.Contains(pkg, "internal/core/") && t.Name() != "" {
		base := pkg[strings.LastIndexByte(pkg, '/')+1:]
		return strings.ToUpper(base[:1]) + base[1:] + name
	}
	return name
}

type body[T any] struct{ Body T }

// op registers an operation: its input, what it calls, its output as the body.
func op[I, O any](s *Server, method, path, id, tag, summary string, status int, fn func(ctx context.Context, w act.Who, in *I) (O, error)) {
	register(s, huma.Operation{
		OperationID: id, Method: method, Path: path, Summary: summary, Tags: []string{tag}, DefaultStatus: status,
		Security: []map[string][]string{{"token": {}}, {"session": {}}}, MaxBodyBytes: 4 << 20,
		Errors: []int{401, 403, 404, 409, 412, 422},
	}, func(ctx context.Context, in *I) (*body[O], error) {
		if p := plainDirection(in); p != nil {
			return nil, p
		}
		out, err := fn(ctx, who(ctx), in)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[O]{out}, nil
	})
}

// former are addresses of before, by the one that took their place: they answer alike in this version
// and are marked deprecated in the document.
var former = map[string]string{
	"/api/clients/{client}/batches/{batch}/import":                   "/api/clients/{client}/batches/{batch}/take-in",
	"/api/clients/{client}/units/{unit}/reverse":                     "/api/clients/{client}/units/{unit}/take-back",
	"/api/clients/{client}/openings/reverse":                         "/api/clients/{client}/openings/take-back",
	"/api/clients/{client}/batches/{batch}/attachments":              "/api/clients/{client}/batches/{batch}/papers",
	"/api/clients/{client}/batches/{batch}/attachments/{attachment}": "/api/clients/{client}/batches/{batch}/papers/{attachment}",
}

// register adds an operation, and once more under its address of before, if it has one.
func register[I, O any](s *Server, o huma.Operation, fn func(ctx context.Context, in *I) (*O, error)) {
	huma.Register(s.api, o, fn)
	if was, ok := former[o.Path]; ok {
		o.Path, o.OperationID, o.Deprecated = was, o.OperationID+"-before", true
		o.Summary += " (address of before)"
		huma.Register(s.api, o, fn)
	}
}

// takesNoBytes lets an operation have an empty body: a file without a byte is refused
// like any other that is none, by its name.
func (s *Server) takesNoBytes(path string) {
	for _, p := range []string{path, former[path]} {
		if at := s.api.OpenAPI().Paths[p]; at != nil {
			at.Post.RequestBody.Required = false
		}
	}
}

type none struct{}

// InClient is the address of a client; inputs with more parameters embed it. It
// is exported because only exported embedded fields are bound.
type InClient struct {
	Client int64 `path:"client" doc:"id of the client"`
}

// InBatch is the address of a file of a client.
type InBatch struct {
	InClient
	Batch int64 `path:"batch" doc:"id of the file"`
}

// done is the answer of an act that returns nothing of its own.
type done struct {
	Done bool `json:"done"`
}
