package api

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"os"
	"strings"
	"sync/atomic"
	"time"

	"coatrack/internal/store"

	"github.com/go-chi/chi/v5"
	"github.com/jackc/pgx/v5"
)

// A write with an Idempotency-Key is carried out once. The key is kept first, as under way,
// with the run of this program that carries it out and its last sign of life; the answer is
// kept in the act's own transaction. So a retry finds the answer, or is told that the act is
// under way, or takes the key over from a program that died and runs the act. What was
// refused or cancelled changed nothing and is kept nowhere: a retry asks anew.
const (
	keySilent = 15 * time.Second    // after this without a sign of life a key is taken over
	keyBeat   = 3 * time.Second     // how often a sign of life is given
	keyKept   = 14 * 24 * time.Hour // how long an answer can be asked for again
	keyLength = 200
	inMemory  = 4 << 20 // a longer body waits in a temporary file while it is known by its digest
)

// run names this run of the program.
var run = func() string {
	b := make([]byte, 12)
	_, _ = rand.Read(b)
	return hex.EncodeToString(b)
}()

// errNotMine says that another program carries the request out by now.
var errNotMine = errors.New("the request was taken over by another run of the program")

// idempotent answers a retried write with what the first one answered, if both
// bear the same Idempotency-Key. A key used for something else is refused.
func (s *Server) idempotent(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		key := r.Header.Get("Idempotency-Key")
		person := who(r.Context()).Person.ID
		// A token's secret is shown once and kept nowhere; a password even less.
		secret := strings.HasPrefix(r.URL.Path, "/api/tokens") || r.URL.Path == "/api/password" || r.URL.Path == "/api/session"
		if key == "" || r.Method == http.MethodGet || person == 0 || secret {
			next.ServeHTTP(w, r)
			return
		}
		if len(key) > keyLength {
			writeProblem(w, 422, "invalid", fmt.Sprintf("the idempotency key is longer than %d characters", keyLength))
			return
		}
		body, digest, err := digested(r)
		var long *http.MaxBytesError
		switch {
		case errors.As(err, &long):
			writeProblem(w, http.StatusRequestEntityTooLarge, "too-large", tooLong)
			return
		case err != nil:
			writeProblem(w, 400, "invalid", "the request broke off; nothing was saved")
			return
		}
		defer body.Close()
		r.Body = body
		s.pruneKeys(r.Context())
		k := &onceKey{s.store, person, key, digest}
		answer, mine, err := k.take(r.Context())
		switch {
		case err != nil:
			slog.Warn("an idempotency key cannot be kept", "error", firstLine(err))
			writeAway(w)
		case !mine:
			answer.write(w)
		default:
			k.carryOut(w, r, next)
		}
	})
}

// digested reads a request's body and returns it with a digest of the request.
func digested(r *http.Request) (io.ReadCloser, []byte, error) {
	sum := sha256.New()
	_, _ = io.WriteString(sum, r.Method+" "+r.URL.RequestURI()+"\n")
	var small bytes.Buffer
	n, err := io.CopyN(io.MultiWriter(&small, sum), r.Body, inMemory)
	if errors.Is(err, io.EOF) {
		return io.NopCloser(&small), sum.Sum(nil), nil
	}
	if err != nil || n < inMemory {
		return nil, nil, err
	}
	f, err := os.CreateTemp("", "coatrack-body-*")
	if err != nil {
		return nil, nil, err
	}
	_ = os.Remove(f.Name()) // it lives as long as it is open
	if _, err = io.Copy(io.MultiWriter(f, sum), r.Body); err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		_ = f.Close()
		return nil, nil, err
	}
	return struct {
		io.Reader
		io.Closer
	}{io.MultiReader(&small, f), f}, sum.Sum(nil), nil
}

type onceKey struct {
	store  *store.Store
	person int64
	key    string
	digest []byte
}

// kept is an answer from before, or why there is none.
type kept struct {
	status         int
	kind           string
	body           []byte
	code, problem  string
	retryInSeconds int
}

func (k kept) write(w http.ResponseWriter) {
	if k.code != "" {
		if k.retryInSeconds > 0 {
			w.Header().Set("Retry-After", fmt.Sprint(k.retryInSeconds))
		}
		writeProblem(w, k.status, k.code, k.problem)
		return
	}
	w.Header().Set("Content-Type", k.kind)
	w.Header().Set("Idempotent-Replayed", "true")
	w.WriteHeader(k.status)
	_, _ = w.Write(k.body)
}

// take makes the key this request's own, or says what is known of it.
func (k *onceKey) take(ctx context.Context) (kept, bool, error) {
	for range 3 {
		tag, err := k.store.Pool.Exec(ctx, `insert into idempotency (person_id, key, request, owner) values ($1, $2, $3, $4)
			on conflict (person_id, key) do update set owner = excluded.owner, beat = now()
			where idempotency.request = excluded.request and idempotency.status is null and not idempotency.acted and idempotency.beat < now() - $5::interval`,
			k.person, k.key, k.digest, run, keySilent.String())
		if err != nil {
			return kept{}, false, err
		}
		if tag.RowsAffected() == 1 {
			return kept{}, true, nil
		}
		var was, body []byte
		var status *int
		var kind string
		var acted, silent bool
		err = k.store.Pool.QueryRow(ctx, `select request, status, content_type, body, acted, beat < now() - $3::interval from idempotency where person_id = $1 and key = $2`,
			k.person, k.key, keySilent.String()).Scan(&was, &status, &kind, &body, &acted, &silent)
		switch {
		case errors.Is(err, pgx.ErrNoRows): // it was given up just now
			continue
		case err != nil:
			return kept{}, false, err
		case !bytes.Equal(was, k.digest):
			return kept{status: 422, code: "key-reused", problem: "this idempotency key was used for another request; nothing was done"}, false, nil
		case status != nil:
			plain, err := k.store.Vault.Open(body, "idempotency")
			if err != nil {
				return kept{status: 409, code: "carried-out", problem: "this request was carried out before, but its answer can no longer be read; look at what is there now"}, false, nil
			}
			return kept{status: *status, kind: kind, body: plain}, false, nil
		case acted && silent:
			return kept{status: 409, code: "carried-out", problem: "this request was begun before and something of it was kept, but the server stopped before its answer was; look at what is there now"}, false, nil
		case silent: // and free by now
			continue
		}
		break
	}
	return kept{status: 409, code: "in-progress", problem: "the same request is still being carried out; ask again shortly", retryInSeconds: 3}, false, nil
}

// carryOut runs the act and keeps its answer in the act's own transaction; only then is it sent.
func (k *onceKey) carryOut(w http.ResponseWriter, r *http.Request, next http.Handler) {
	hold := &store.Hold{Mine: func(tx *sql.Tx, wrote bool) error {
		return k.hold(tx, `update idempotency set beat = now(), acted = acted or $4 where person_id = $1 and key = $2 and owner = $3 and status is null`, wrote)
	}}
	alive, stop := context.WithCancel(context.WithoutCancel(r.Context()))
	defer stop()
	go k.beat(alive)
	kept := false
	defer func() { // also after a panic: what was refused or broke off is not kept
		hold.Drop()
		if !kept {
			_, _ = k.store.Pool.Exec(alive, `delete from idempotency where person_id = $1 and key = $2 and owner = $3 and status is null and not acted`, k.person, k.key, run)
		}
	}()
	rec := &recorder{head: http.Header{}, status: http.StatusOK}
	next.ServeHTTP(rec, r.WithContext(store.Holding(r.Context(), hold)))
	final := rec.status < 300
	if !final && rec.status < 500 && rec.status != statusCancelled {
		// What an act of several steps kept before it was refused is not done again.
		_ = k.store.Pool.QueryRow(alive, `select acted from idempotency where person_id = $1 and key = $2 and owner = $3`, k.person, k.key, run).Scan(&final)
		hold.Drop()
	}
	if final {
		kind, answer := rec.head.Get("Content-Type"), k.store.Vault.Seal(rec.body.Bytes(), "idempotency")
		const keep = `update idempotency set status = $4, content_type = $5, body = $6 where person_id = $1 and key = $2 and owner = $3 and status is null`
		held, err := hold.Finish(func(tx *sql.Tx) error { return k.hold(tx, keep, rec.status, kind, answer) })
		if !held && err == nil { // nothing was saved by it
			_, err = k.store.Pool.Exec(alive, keep, k.person, k.key, run, rec.status, kind, answer)
		}
		if errors.Is(err, errNotMine) {
			writeProblem(w, 409, "in-progress", "this request was taken over by another run of the program; ask again shortly")
			return
		}
		if err != nil {
			refused(r.Context(), w, err)
			return
		}
		kept = true
	}
	rec.send(w)
}

// hold runs a statement on the key's row that must find it this program's own.
func (k *onceKey) hold(tx *sql.Tx, q string, args ...any) error {
	res, err := tx.Exec(q, append([]any{k.person, k.key, run}, args...)...)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n != 1 {
		return errors.Join(errNotMine, err)
	}
	return nil
}

// beat gives signs of life while the act runs.
func (k *onceKey) beat(ctx context.Context) {
	t := time.NewTicker(keyBeat)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-t.C:
			sign, end := context.WithTimeout(ctx, keyBeat)
			_, _ = k.store.Pool.Exec(sign, `update idempotency set beat = now() where person_id = $1 and key = $2 and owner = $3 and status is null`, k.person, k.key, run)
			end()
		}
	}
}

var keysPruned atomic.Int64

// pruneKeys forgets answers that are too old to be asked for again, once an hour.
func (s *Server) pruneKeys(ctx context.Context) {
	now, last := time.Now(), keysPruned.Load()
	if now.Unix()-last < 3600 || !keysPruned.CompareAndSwap(last, now.Unix()) {
		return
	}
	go func() {
		_, _ = s.store.Pool.Exec(context.WithoutCancel(ctx), `delete from idempotency where created_at < now() - $1::interval and beat < now() - interval '1 hour'`, keyKept.String())
	}()
}

// recorder keeps an answer back until it is certain.
type recorder struct {
	head   http.Header
	status int
	body   bytes.Buffer
}

func (r *recorder) Header() http.Header         { return r.head }
func (r *recorder) WriteHeader(s int)           { r.status = s }
func (r *recorder) Write(b []byte) (int, error) { return r.body.Write(b) }

func (r *recorder) send(w http.ResponseWriter) {
	for k, v := range r.head {
		w.Header()[k] = v
	}
	w.WriteHeader(r.status)
	_, _ = w.Write(r.body.Bytes())
}

// limited refuses a body that is longer than its operation takes, by what the request says of
// its length where it says it.
func (s *Server) limited(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		limit := s.bodyLimit(r.Method, chi.RouteContext(r.Context()).RoutePattern())
		if r.ContentLength > limit {
			w.Header().Set("Connection", "close") // its bytes are not read
			writeProblem(w, http.StatusRequestEntityTooLarge, "too-large", tooLarge(r.ContentLength, limit))
			return
		}
		r.Body = http.MaxBytesReader(w, r.Body, limit+1)
		next.ServeHTTP(w, r)
	})
}

const tooLong = "what was sent is longer than is taken here; nothing was saved. Split it, or leave out what is not needed"

func tooLarge(size, limit int64) string {
	mb := func(n int64) string { return fmt.Sprintf("%.1f MB", float64(n)/(1<<20)) }
	return fmt.Sprintf("what was sent is %s long; at most %s are taken here. Nothing was saved: split it, or leave out what is not needed", mb(size), mb(limit))
}

// bodyLimit is how many bytes an operation takes.
func (s *Server) bodyLimit(method, pattern string) int64 {
	if n := s.limits[method+" "+pattern]; n > 0 {
		return n
	}
	return 1 << 20
}
