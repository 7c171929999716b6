package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strconv"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
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

// fromAddress notes which address a request comes from: the peer's, or, where the peer is a
// proxy that is trusted, the last address in X-Forwarded-For that is not one.
func fromAddress(proxies []netip.Prefix) func(http.Handler) http.Handler {
	trusted := func(s string) bool {
		a, err := netip.ParseAddr(s)
		return err == nil && slices.ContainsFunc(proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
	}
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			from, _, err := net.SplitHostPort(r.RemoteAddr)
			if err != nil {
				from = r.RemoteAddr
			}
			said := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
			for i := len(said) - 1; i >= 0 && trusted(from); i-- {
				next := strings.TrimSpace(said[i])
				if _, err := netip.ParseAddr(next); err != nil {
					break
				}
				from = next
			}
			next.ServeHTTP(w, r.WithContext(sheet.From(r.Context(), from)))
		})
	}
}

// limitSignIn bounds attempts to sign in by the address that they come from, before any
// password is checked; app bounds guesses by account and address (guesses.go).
func limitSignIn(perMinute int) func(http.Handler) http.Handler {
	if perMinute == 0 {
		perMinute = 20
	}
	byPeer := func(r *http.Request) (string, error) { return sheet.AddressOf(r.Context()), nil }
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
func passwordMark(w act.Who) string {
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
		var person act.Who
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
				err = &act.Error{What: act.Unsigned}
			}
		} else {
			err = &act.Error{What: act.Unsigned}
		}
		var known *act.Error
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
