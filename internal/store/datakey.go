package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
)

// keyMark is what is kept of the data key: it tells another key from this one, and nothing
// else of it.
func keyMark(v *vault.Vault) []byte { return v.Mark("check", "data key") }

// ErrOtherKey says that a database was sealed with another data key.
var ErrOtherKey = errors.New("this database was sealed with another data key: start with the key file that it was made with; nothing was read or written")

// HoldsSealed says whether something in the database may be sealed, so that no key may be
// made beside it.
func (s *Store) HoldsSealed(ctx context.Context) (there bool, err error) {
	err = s.Pool.QueryRow(ctx, `select exists (select 1 from data_key) or exists (select 1 from sealed_sample())`).Scan(&there)
	return there, err
}

// KnowKey refuses a vault with another data key than the database's, and keeps the mark of
// the key of a new one. A database from before the mark was kept is tried with something
// that is sealed in it.
func (s *Store) KnowKey(ctx context.Context) error {
	mark := keyMark(s.Vault)
	var kept []byte
	switch err := s.Pool.QueryRow(ctx, `select mark from data_key`).Scan(&kept); {
	case errors.Is(err, pgx.ErrNoRows):
	case err != nil:
		return fmt.Errorf("the mark of the data key cannot be read: %w", err)
	case string(kept) != string(mark):
		return ErrOtherKey
	default:
		return nil
	}
	var led int64
	var sealed []byte
	err := s.Pool.QueryRow(ctx, `select ledger, sealed from sealed_sample()`).Scan(&led, &sealed)
	if err != nil && !errors.Is(err, pgx.ErrNoRows) && !errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("what is sealed cannot be read: %w", err)
	}
	if err == nil {
		if _, err := s.Vault.Open(sealed, about(led, "summary")); err != nil {
			return ErrOtherKey
		}
	}
	if _, err := s.Pool.Exec(ctx, `insert into data_key (mark) values ($1) on conflict do nothing`, mark); err != nil {
		return err
	}
	// Of two servers that start at once with two keys, one was first.
	if err := s.Pool.QueryRow(ctx, `select mark from data_key`).Scan(&kept); err != nil || string(kept) != string(mark) {
		return errors.Join(ErrOtherKey, err)
	}
	return nil
}
