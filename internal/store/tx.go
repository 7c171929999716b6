package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// Tx is one transaction, bound to a firm and, where set, to a ledger. GORM and
// COPY share it.
type Tx struct {
	*gorm.DB
	conn   *sql.Conn
	ctx    context.Context
	Firm   int64
	Ledger int64
	vault  *vault.Vault

	touched int64 // the ledger whose version this transaction raised
}

// InFirm runs fn in a transaction bound to a firm (0: to none) and a ledger
// (0: to none). Nothing of it stays if fn or the commit fails.
func (s *Store) InFirm(ctx context.Context, firm, ledger int64, fn func(*Tx) error) (err error) {
	h := held(ctx)
	if h != nil {
		if err := h.begin(); err != nil {
			h.failed()
			return err
		}
	}
	handed := false // to the one who holds it
	defer func() {
		if h != nil && !handed {
			h.failed()
		}
	}()
	conn, err := s.SQL.Conn(ctx)
	if err != nil {
		return err
	}
	defer func() {
		if !handed {
			_ = conn.Close()
		}
	}()
	tx, err := conn.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	ended := false
	defer func() {
		if p := recover(); p != nil {
			_ = tx.Rollback()
			u, ok := p.(*Unreadable)
			if !ok {
				panic(p)
			}
			err = u
			return
		}
		if !ended { // fn's goroutine was ended: the connection must not wait for it
			_ = tx.Rollback()
		} else if err != nil && !handed {
			_ = tx.Rollback()
			err = mapError(err)
		}
	}()
	if _, err = tx.ExecContext(ctx, `select set_config('app.firm_id', $1, true), set_config('app.ledger_id', $2, true)`, num(firm), num(ledger)); err != nil {
		ended = true
		return err
	}
	g := s.gorm.Session(&gorm.Session{NewDB: true, Context: ctx})
	g.Statement.ConnPool = tx
	err = fn(&Tx{DB: g, conn: conn, ctx: ctx, Firm: firm, Ledger: ledger, vault: s.Vault})
	ended = true
	if err != nil {
		return err
	}
	if h != nil {
		handed = true
		return h.ended(tx, func() { _ = conn.Close() })
	}
	return tx.Commit()
}

func num(i int64) string {
	if i == 0 {
		return ""
	}
	return fmt.Sprint(i)
}

// BindLedger binds an already open transaction to a ledger, once rights to it
// were checked.
func (t *Tx) BindLedger(id int64) error {
	t.Ledger = id
	return t.Exec(`select set_config('app.ledger_id', ?, true)`, num(id)).Error
}

// copyRows copies rows into a table on the transaction's own connection.
func (t *Tx) copyRows(table string, cols []string, src pgx.CopyFromSource) error {
	return t.conn.Raw(func(dc any) error {
		_, err := dc.(*stdlib.Conn).Conn().CopyFrom(t.ctx, pgx.Identifier{table}, cols, src)
		return err
	})
}

// SQLTx is the transaction itself, for what must be enqueued within it.
func (t *Tx) SQLTx() *sql.Tx {
	tx, _ := t.Statement.ConnPool.(*sql.Tx)
	return tx
}

// Lock takes the ledger's row, which is the first statement of every posting,
// locking and taking back, and returns its version.
func (t *Tx) Lock() (int64, error) {
	var v int64
	err := t.Raw(`select version from ledger where id = ? for no key update`, t.Ledger).Scan(&v).Error
	return v, err
}

// AloneWith holds, until the transaction ends, every other transaction of this ledger that
// asks for the same content: what is not there for one is not there for both.
func (t *Tx) AloneWith(fingerprint []byte) error {
	return t.Exec(`select pg_advisory_xact_lock(hashtextextended(?, ?))`, fmt.Sprintf("%x", fingerprint), t.Ledger).Error
}

// BySets runs queries whose tables are to be joined as sets. Of a table that was just
// filled, or is small, the planner expects one row, and walks the others for each it finds:
// seconds where a hash takes milliseconds.
func (t *Tx) BySets(run func() error) error {
	if err := t.Exec(`set local enable_nestloop = off`).Error; err != nil {
		return err
	}
	if err := run(); err != nil {
		return err
	}
	return t.Exec(`set local enable_nestloop = on`).Error
}

// Touch raises the ledger's version, once a transaction, and notes who worked on it
// last: an act of many steps would else write one row anew for each.
func (t *Tx) Touch(person int64, at time.Time) error {
	if t.touched == t.Ledger {
		return nil
	}
	t.touched = t.Ledger
	return t.Exec(`update ledger set version = version + 1, touched_at = ?, touched_by = ? where id = ?`, at, person, t.Ledger).Error
}

// Errors the database itself raises, for the app to put into words.
var (
	ErrUnbalanced = errors.New("the entry does not sum to zero")
	ErrLocked     = errors.New("the month is locked")
	ErrInUse      = errors.New("another row refers to this one")
	ErrKept       = errors.New("what is posted is only ever added to")
	ErrTwice      = errors.New("this is posted already")
	ErrDuplicate  = errors.New("that number or name is used already")
	ErrNotFound   = errors.New("there is no such thing")
	ErrReversal   = errors.New("a take-back is not itself taken back; post the batch again")
)

// Refused says whether the database refused what it was given (a value out of range, a
// reference that points nowhere, a rule broken), rather than failed.
func Refused(err error) bool {
	var pg *pgconn.PgError
	if err != nil && strings.Contains(err.Error(), "unable to encode") {
		return true // a number that its column cannot hold is refused before it is sent
	}
	return errors.As(err, &pg) && (strings.HasPrefix(pg.Code, "22") || strings.HasPrefix(pg.Code, "23") || strings.HasPrefix(pg.Code, "CT"))
}

// What the database refused, by kind: a text with a character that it cannot hold, a
// reference that points at nothing, another value that it does not take.
const (
	RefusedText = "text"
	RefusedLink = "link"
	RefusedElse = "value"
)

// RefusedKind says what of it the database refused; "" if it did not refuse, but failed.
func RefusedKind(err error) string {
	var pg *pgconn.PgError
	switch {
	case !Refused(err):
		return ""
	case !errors.As(err, &pg):
		return RefusedElse
	case pg.Code == "22021" || pg.Code == "22P05":
		return RefusedText
	case pg.Code == "23503":
		return RefusedLink
	}
	return RefusedElse
}

// RefusedBy names the rule by which the database refused, without the value.
func RefusedBy(err error) string {
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return "a number out of range"
	}
	return pg.Code + " " + pg.TableName + " " + pg.ColumnName + " " + pg.ConstraintName
}

// MapError turns what the database refused into the errors of this package.
func MapError(err error) error { return mapError(err) }

func mapError(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) || errors.Is(err, sql.ErrNoRows) {
		return ErrNotFound
	}
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return err
	}
	switch {
	case pg.Code == "CT001", pg.ConstraintName == "entry_ledger_id_id_first_line_fkey":
		return fmt.Errorf("%w (%s)", ErrUnbalanced, pg.Message)
	case pg.Code == "CT002":
		return ErrLocked
	case pg.Code == "CT003":
		return ErrKept
	case pg.ConstraintName == "once_key_live", pg.ConstraintName == "open_item_once", pg.ConstraintName == "unit_ledger_id_reverses_unit_key", pg.ConstraintName == "entry_ledger_id_reverses_entry_key":
		return ErrTwice
	case pg.Code == "23503" && strings.HasPrefix(pg.Message, "update or delete on table"):
		return fmt.Errorf("%w (%s)", ErrInUse, pg.ConstraintName)
	case pg.Code == "23505":
		return fmt.Errorf("%w (%s)", ErrDuplicate, pg.ConstraintName)
	}
	return err
}
