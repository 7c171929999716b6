package act

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

// App is the application over a store.
type App struct {
	Store  *store.Store
	Now    func() time.Time
	Limits files.Limits
	// Ledgers are the addresses of outside ledgers that may be connected, and
	// LedgerConsent what is shown to them; both come from the operator.
	Ledgers       []string
	Providers     []string // addresses of payroll providers that may be connected
	Filers        []string // addresses of filing services that forms may be sent to
	LedgerConsent string
	// Queue hands long acts to whatever runs them; nil where nothing does.
	Queue Queue
	// Paused, in tests, is called at each step of a long act.
	Paused func(words string)

	// PostOpeningAgain posts the opening again, after its mapping changed.
	PostOpeningAgain func(t *Tx, why string) error
	// Reversals undo, by area of the unit, what goes with a reversal beside its entries.
	Reversals map[string]func(t *Tx, unit int64, note string) error

	keep sync.Mutex
	kept map[reflect.Type]any
}

// Kept is the one T that an application keeps for the life of the process, for what is cheaper to
// keep than to add up again; the first call makes it. What it holds must say by itself when it is
// too old, since other processes write too.
func Kept[T any](a *App) *T {
	a.keep.Lock()
	defer a.keep.Unlock()
	k := reflect.TypeFor[T]()
	if a.kept == nil {
		a.kept = map[reflect.Type]any{}
	}
	if a.kept[k] == nil {
		a.kept[k] = new(T)
	}
	return a.kept[k].(*T)
}

// Who is the person who acts.
type Who struct {
	Person store.Person
}

// Error is a refusal in words, with a stable code. What names the kind.
type Error struct {
	What    Refusal
	Code    string
	Message string
	Detail  any
}

func (e *Error) Error() string { return e.Message }

// Refusal is why an act was refused.
type Refusal int

// Kinds of refusal.
const (
	Invalid   Refusal = iota // the input is wrong
	NotFound                 // no such thing, or not for this person
	Forbidden                // seen, but not allowed
	Conflict                 // it clashes with what is there
	Stale                    // somebody changed it meanwhile
	Unsigned                 // not signed in
	TooMany                  // too many wrong passwords; wait
)

func Fail(what Refusal, code, format string, a ...any) *Error {
	return &Error{What: what, Code: code, Message: fmt.Sprintf(format, a...)}
}

var ErrNotFound = &Error{What: NotFound, Code: "not-found", Message: "there is nothing at this address for you"}

// Right is what a role allows.
type Right int

// The rights used so far.
const (
	Read      Right = iota // see the client's work
	Write                  // do the work
	SignRight              // accept differences, lock, unlock
	Own                    // destroy a file, manage people
)

var Rights = map[string][]Right{
	"owner":       {Read, Write, SignRight, Own},
	"bookkeeper":  {Read, Write, SignRight},
	"reviewer":    {Read, SignRight},
	"contributor": {},
}

// Tx is a transaction in one ledger, after the person's right to it was checked.
type Tx struct {
	*store.Tx
	Client      store.Ledger
	Who         Who
	Role        string
	SeesPay     bool // what one person earns; read once, when the request came in
	SeesTaxIDs  bool // whole tax numbers
	Now         time.Time
	App         *App
	Reads       bool                    // this transaction only reads
	Imported    bool                    // this transaction imported a file
	Guess       *table.Guess            // what a file looks like, while it is received
	OldBalances map[string]money.Amount // of old accounts, while a crosswalk is read
	memo        map[reflect.Type]any    // set while nothing is written: what was loaded is not loaded again
}

// LoadOnce begins to keep what is loaded: until forget, nothing may be written that it depends on.
func (t *Tx) LoadOnce() { t.memo = map[reflect.Type]any{} }

// Forget drops what was kept, since something was written.
func (t *Tx) Forget() { t.memo = nil }

// Remembered is what load returns, loaded once once the transaction said loadOnce.
func Remembered[T any](t *Tx, load func() (T, error)) (T, error) {
	k := reflect.TypeFor[T]()
	if had, ok := t.memo[k]; ok {
		return had.(T), nil
	}
	v, err := load()
	if err == nil && t.memo != nil {
		t.memo[k] = v
	}
	return v, err
}

// Queue hands a long act to whatever runs them, within the transaction.
type Queue func(ctx context.Context, tx *sql.Tx, firm, ledger, act int64) error

// In runs fn in the ledger if the person has the right; a stranger learns
// nothing, not even that the ledger exists.
func (a *App) In(ctx context.Context, who Who, ledgerID int64, right Right, fn func(*Tx) error) error {
	err := a.Store.InFirm(ctx, who.Person.FirmID, 0, func(t *store.Tx) error {
		var l store.Ledger
		if err := t.Where("id = ?", ledgerID).Take(&l).Error; err != nil {
			return ErrNotFound
		}
		role := who.Person.Role
		pay, numbers := role == "owner", role == "owner"
		if role != "owner" {
			var m []store.LedgerMember
			if err := t.BindLedger(ledgerID); err != nil {
				return err
			}
			if err := t.Where("ledger_id = ? and person_id = ?", ledgerID, who.Person.ID).Find(&m).Error; err != nil {
				return err
			}
			if len(m) == 0 {
				return ErrNotFound
			}
			role, pay, numbers = m[0].Role, m[0].SeesPay, m[0].SeesTaxIds
		}
		if !slices.Contains(Rights[role], Read) {
			return ErrNotFound
		}
		if !slices.Contains(Rights[role], right) {
			return Fail(Forbidden, "not-allowed", "your role here (%s) does not allow this", role)
		}
		if err := t.BindLedger(ledgerID); err != nil {
			return err
		}
		tx := &Tx{Tx: t, Client: l, Who: who, Role: role, SeesPay: pay, SeesTaxIDs: numbers, Now: a.Now(), App: a, Reads: right == Read}
		return fn(tx)
	})
	return Words(err)
}

// InWords puts what the database refused into words; what failed stays as it is.
func InWords(err error) error { return Words(err) }

// Words puts what the database refused into words.
func Words(err error) error {
	var e *Error
	switch {
	case err == nil || errors.As(err, &e):
		return err
	case errors.Is(err, store.ErrNotFound):
		return ErrNotFound
	case errors.Is(err, store.ErrTwice):
		return Fail(Conflict, "posted-already", "this is posted already; take it back first, or look at it in just posted")
	case errors.Is(err, store.ErrLocked):
		return Fail(Conflict, "locked", "the day lies in a locked month; a reviewer can unlock it with a reason")
	case errors.Is(err, store.ErrUnbalanced):
		return Fail(Conflict, "unbalanced", "the entry does not sum to zero and was not posted")
	case errors.Is(err, store.ErrReversal):
		return Fail(Conflict, "is-a-reversal", "%v", store.ErrReversal)
	case errors.Is(err, store.ErrKept):
		return Fail(Conflict, "posted-is-posted", "what is posted is not changed; take it back instead")
	case errors.Is(err, store.ErrDuplicate):
		what := "that name is used already"
		switch {
		case strings.Contains(err.Error(), "account_number"):
			what = "that number belongs to another account already"
		case strings.Contains(err.Error(), "account_name"):
			what = "an account of that name stands under the same parent already"
		case strings.Contains(err.Error(), "account_role"):
			what = "another account holds that role already"
		case strings.Contains(err.Error(), "party_name"):
			what = "a customer or vendor of that name is there already"
		case strings.Contains(err.Error(), "connection_one"):
			what = "that outside company is connected to a client already; one company belongs to one client"
		case strings.Contains(err.Error(), "kit_firm_id_name"):
			what = "a kit of that name exists already"
		case strings.Contains(err.Error(), "ledger_firm_id_name"):
			what = "a client of that name exists already"
		}
		return Fail(Conflict, "duplicate", "%s", what)
	}
	switch store.RefusedKind(err) {
	case store.RefusedText:
		return Fail(Invalid, "bad-text", "a text in it holds a character that cannot be kept; nothing was saved")
	case store.RefusedLink:
		return Fail(Invalid, "no-such-thing", "it names something that is not in this ledger; nothing was saved")
	case store.RefusedElse:
		slog.Warn("refused by the database", "why", store.RefusedBy(err)) // never the value itself
		return Fail(Invalid, "bad-value", "a value in it cannot be kept here; nothing was saved")
	}
	return err
}

// Log writes a line of the history.
func (t *Tx) Log(what, subject string, id int64, before, after any) error {
	return t.RecordAll([]Event{{what, subject, id, before, after}})
}

// Event is an act as history keeps it.
type Event struct {
	What, Subject string
	ID            int64
	Before, After any
}

// RecordAll keeps what one act did to many.
func (t *Tx) RecordAll(events []Event) error {
	j := func(v any) *string {
		if v == nil {
			return nil
		}
		b, err := json.Marshal(v)
		if err != nil {
			return nil
		}
		s := string(b)
		return &s
	}
	rows := make([]store.Event, len(events))
	for i, e := range events {
		rows[i] = store.Event{What: e.What, Subject: e.Subject, ID: e.ID, Before: j(e.Before), After: j(e.After)}
	}
	if err := t.Record(t.Who.Person.ID, t.Now, rows); err != nil || len(rows) == 0 {
		return err
	}
	return t.Touch(t.Who.Person.ID, t.Now)
}

func JsonOrNull(b json.RawMessage) any {
	if b == nil {
		return nil
	}
	return string(b)
}

// Person names a person on the screens.
type Person struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Initials string `json:"initials"`
}

// People returns the firm's people by id.
func (t *Tx) People() (map[int64]Person, error) { return peopleOf(t.Tx, t.Firm) }

func peopleOf(t *store.Tx, firm int64) (map[int64]Person, error) {
	var ps []store.Person
	if err := t.Where("firm_id = ?", firm).Find(&ps).Error; err != nil {
		return nil, err
	}
	out := map[int64]Person{}
	for _, p := range ps {
		out[p.ID] = Person{p.ID, p.Name, p.Initials}
	}
	return out, nil
}

func Stamp(t time.Time) string { return t.UTC().Format(time.RFC3339) }
