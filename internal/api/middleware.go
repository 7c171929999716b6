package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/app"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"github.com/jackc/pgx/v5"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promauto"
)

var (
	requests = promauto.NewCounterVec(prometheus.CounterOpts{Name: "coatrack_http_requests_total", Help: "Requests by route and status."}, []string{"route", "status"})
	seconds  = promauto.NewHistogramVec(prometheus.HistogramOpts{Name: "coatrack_http_request_seconds", Help: "Time to answer by route.", Buckets: prometheus.ExponentialBuckets(0.002, 2.5, 10)}, []string{"route"})
)

func requestID(next http.Handler) http.Handler { return middleware.RequestID(next) }

func recoverer(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil && p != http.ErrAbortHandler {
				slog.Error("panic", "request", middleware.GetReqID(r.Context()), "route", chi.RouteContext(r.Context()).RoutePattern())
				writeProblem(w, 500, "internal", "something went wrong on our side; nothing was saved")
			}
		}()
		next.ServeHTTP(w, r)
	})
}

// logRequests logs the route pattern, never the address with its ids and
// queries, and never a body.
func logRequests(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		start := time.Now()
		next.ServeHTTP(ww, r)
		if strings.HasPrefix(r.URL.Path, "/api/") {
			slog.Info("request", "request", middleware.GetReqID(r.Context()), "method", r.Method, "route", chi.RouteContext(r.Context()).RoutePattern(), "status", ww.Status(), "ms", time.Since(start).Milliseconds(), "bytes", ww.BytesWritten())
		}
	})
}

func measure(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		start := time.Now()
		next.ServeHTTP(ww, r)
		route := r.Method + " " + chi.RouteContext(r.Context()).RoutePattern()
		requests.WithLabelValues(route, strconv.Itoa(ww.Status())).Inc()
		seconds.WithLabelValues(route).Observe(time.Since(start).Seconds())
	})
}

// secureHeaders: scripts only from here and never inline. Styles may be inline,
// since the widget library writes its rules into style elements.
func secureHeaders(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

func limitSignIn(perMinute int) func(http.Handler) http.Handler {
	if perMinute == 0 {
		perMinute = 20
	}
	// The peer's address; behind a proxy that is the proxy's, which then limits all
	// sign-ins together: raise --sign-in-rate there (docs/operating.md).
	byPeer := func(r *http.Request) (string, error) {
		host, _, err := net.SplitHostPort(r.RemoteAddr)
		return host, err
	}
	limit := httprate.LimitBy(perMinute, time.Minute, byPeer, httprate.WithLimitHandler(func(w http.ResponseWriter, _ *http.Request) {
		writeProblem(w, 429, "too-many", "too many attempts to sign in; wait a minute")
	}))
	return func(next http.Handler) http.Handler {
		limited := limit(next)
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Method == http.MethodPost && r.URL.Path == "/api/session" {
				limited.ServeHTTP(w, r)
				return
			}
			next.ServeHTTP(w, r)
		})
	}
}

func writeProblem(w http.ResponseWriter, status int, code, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	p := Problem{Code: code}
	p.Status, p.Title, p.Detail = status, http.StatusText(status), detail
	_ = json.NewEncoder(w).Encode(p)
}

// writeAway answers while the database cannot be reached.
func writeAway(w http.ResponseWriter) {
	w.Header().Set("Retry-After", "5")
	writeProblem(w, http.StatusServiceUnavailable, "database-away", "the database cannot be reached just now; nothing was changed. Try again in a few seconds")
}

// passwordMark changes with the password and when the person signs out everywhere, so that
// both end the sessions from before.
func passwordMark(w app.Who) string {
	h := w.Person.PasswordHash
	return fmt.Sprint(h[max(0, len(h)-12):], "|", w.Person.SessionEpoch)
}

// authenticate knows the person by session or token. All of /api needs one,
// except signing in and the documentation.
func (s *Server) authenticate(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		p := r.URL.Path
		if p == "/api/session" && r.Method == http.MethodPost || p == "/api/docs" || strings.HasPrefix(p, "/api/openapi") {
			next.ServeHTTP(w, r)
			return
		}
		var person app.Who
		var err error
		if h := r.Header.Get("Authorization"); h != "" {
			tok, ok := strings.CutPrefix(h, "Bearer ")
			if !ok {
				writeProblem(w, 401, "not-signed-in", "send the token as: Authorization: Bearer …")
				return
			}
			person, err = s.app.ByToken(r.Context(), strings.TrimSpace(tok))
		} else if id := s.sessions.GetInt64(r.Context(), "person"); id != 0 {
			person, err = s.app.PersonByID(r.Context(), id)
			if err == nil && s.sessions.GetString(r.Context(), "mark") != passwordMark(person) {
				err = &app.Error{What: app.Unsigned}
			}
		} else {
			err = &app.Error{What: app.Unsigned}
		}
		var known *app.Error
		switch {
		case err == nil:
		case errors.As(err, &known):
			writeProblem(w, 401, "not-signed-in", "sign in, or send a living token")
			return
		default: // who asks is not known, since nothing can be asked: that signs nobody out
			writeAway(w)
			return
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), whoKey{}, person)))
	})
}

// idempotent answers a retried write with what the first one answered, if both
// bear the same Idempotency-Key. A key used for something else is refused.
func (s *Server) idempotent(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key := r.Header.Get("Idempotency-Key")
		person := who(r.Context()).Person.ID
		// A token's secret is shown once and kept nowhere; a password even less.
		secret := strings.HasPrefix(r.URL.Path, "/api/tokens") || r.URL.Path == "/api/password"
		if key == "" || r.Method == http.MethodGet || person == 0 || secret {
			next.ServeHTTP(w, r)
			return
		}
		if len(key) > 200 {
			writeProblem(w, 422, "invalid", "the idempotency key is longer than 200 characters")
			return
		}
		sum := sha256.New()
		_, _ = io.WriteString(sum, r.Method+" "+r.URL.RequestURI()+"\n")
		payload, err := io.ReadAll(io.LimitReader(r.Body, 102<<20))
		if err != nil {
			writeProblem(w, 400, "invalid", "the request broke off")
			return
		}
		_, _ = sum.Write(payload)
		r.Body = io.NopCloser(bytes.NewReader(payload))
		ctx := r.Context()
		hash := sum.Sum(nil)
		tag, err := s.store.Pool.Exec(ctx, `insert into idempotency (person_id, key, request) values ($1, $2, $3) on conflict do nothing`, person, key, hash)
		if err != nil {
			writeProblem(w, 500, "internal", "something went wrong on our side; nothing was saved")
			return
		}
		if tag.RowsAffected() == 0 {
			var was []byte
			var status *int
			var kind string
			var body []byte
			err := s.store.Pool.QueryRow(ctx, `select request, status, content_type, body from idempotency where person_id = $1 and key = $2`, person, key).Scan(&was, &status, &kind, &body)
			switch {
			case err == pgx.ErrNoRows || err == nil && status == nil && bytes.Equal(was, hash):
				writeProblem(w, 409, "in-progress", "the same request is still being carried out; ask again shortly")
			case err != nil:
				writeProblem(w, 500, "internal", "something went wrong on our side; nothing was saved")
			case !bytes.Equal(was, hash):
				writeProblem(w, 422, "key-reused", "this idempotency key was used for another request")
			default:
				w.Header().Set("Content-Type", kind)
				w.Header().Set("Idempotent-Replayed", "true")
				plain, err := s.store.Vault.Open(body, "idempotency")
				if err != nil {
					writeProblem(w, 500, "internal", "the first answer can no longer be read")
					return
				}
				w.WriteHeader(*status)
				_, _ = w.Write(plain)
			}
			return
		}
		rec := &recorder{ResponseWriter: w, status: 200}
		next.ServeHTTP(rec, r)
		bg := context.WithoutCancel(ctx)
		if rec.status >= 500 {
			_, _ = s.store.Pool.Exec(bg, `delete from idempotency where person_id = $1 and key = $2`, person, key)
			return
		}
		_, _ = s.store.Pool.Exec(bg, `update idempotency set status = $3, content_type = $4, body = $5 where person_id = $1 and key = $2`, person, key, rec.status, rec.Header().Get("Content-Type"), s.store.Vault.Seal(rec.body.Bytes(), "idempotency"))
	})
}

type recorder struct {
	http.ResponseWriter
	status int
	body   bytes.Buffer
}

func (r *recorder) WriteHeader(s int) { r.status = s; r.ResponseWriter.WriteHeader(s) }
func (r *recorder) Write(b []byte) (int, error) {
	r.body.Write(b)
	return r.ResponseWriter.Write(b)
}
