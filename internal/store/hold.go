package store

import (
	"context"
	"database/sql"
	"sync"
)

// Hold keeps the last transaction of a request open after its act has ended well, so that
// the answer can be kept in it: the act and the word of its outcome are one. An act of
// several transactions has the earlier ones committed as the next begins. What is held holds
// its locks, so the time until Finish is to be short.
type Hold struct {
	// Mine is asked within a transaction before it is committed without its answer; an error
	// takes the transaction back. It says whether the request still is this program's to
	// carry out, and keeps that something of it was, if wrote says so.
	Mine func(tx *sql.Tx, wrote bool) error

	mu   sync.Mutex
	open int // transactions that run now
	tx   *sql.Tx
	end  func() // gives the connection back
}

type holdKey struct{}

// Holding returns a context in which transactions are held by h.
func Holding(ctx context.Context, h *Hold) context.Context {
	return context.WithValue(ctx, holdKey{}, h)
}

func held(ctx context.Context) *Hold {
	h, _ := ctx.Value(holdKey{}).(*Hold)
	return h
}

// begin commits what is held, since the next transaction is to see it.
func (h *Hold) begin() error {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.open++
	return h.commit()
}

// ended takes over a transaction whose function ended well; where another still runs it is
// committed at once, since that one may wait for its locks.
func (h *Hold) ended(tx *sql.Tx, end func()) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	err := h.commit()
	h.open--
	if err != nil {
		_ = tx.Rollback()
		end()
		return err
	}
	h.tx, h.end = tx, end
	if h.open > 0 {
		return h.commit()
	}
	return nil
}

// failed counts a transaction that was rolled back.
func (h *Hold) failed() {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.open--
}

func (h *Hold) commit() error {
	if h.tx == nil {
		return nil
	}
	tx, end := h.tx, h.end
	h.tx, h.end = nil, nil
	defer end()
	var wrote bool
	err := tx.QueryRow(`select pg_current_xact_id_if_assigned() is not null`).Scan(&wrote)
	if err == nil {
		err = h.Mine(tx, wrote)
	}
	if err != nil {
		_ = tx.Rollback()
		return err
	}
	return mapError(tx.Commit())
}

// Finish runs keep in the transaction that is held and commits it; ok is false where none is
// held. An error took the whole transaction back.
func (h *Hold) Finish(keep func(*sql.Tx) error) (ok bool, err error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.tx == nil {
		return false, nil
	}
	tx, end := h.tx, h.end
	h.tx, h.end = nil, nil
	defer end()
	if err := keep(tx); err != nil {
		_ = tx.Rollback()
		return true, err
	}
	return true, mapError(tx.Commit())
}

// Drop takes back what is held.
func (h *Hold) Drop() {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.tx != nil {
		_ = h.tx.Rollback()
		h.end()
		h.tx, h.end = nil, nil
	}
}
