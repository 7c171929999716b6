package sheet

import (
	"context"
	"crypto/sha256"
	"strings"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/store"
)

// Guessing is limited on every check of a password: by account from one address, by account
// from everywhere, and by address over all accounts. A check counts as a guess when it begins,
// so that many at once count too, and no longer once the password was right. The count is kept
// in the database, so that it holds for all processes and over a restart.
const (
	guessTime       = 15 * time.Minute
	guessesHere     = 10 // of one account, from one address
	guessesAccount  = 60 // of one account: more than one person mistypes, and too few to guess by
	guessesAddress  = 60 // from one address: an office shares one
	guessesKeptDays = 2
)

type fromKey struct{}

// From returns a context that says which address a request comes from.
func From(ctx context.Context, address string) context.Context {
	return context.WithValue(ctx, fromKey{}, address)
}

// AddressOf says which address a request comes from; "" is an act of the operator's.
func AddressOf(ctx context.Context) string {
	s, _ := ctx.Value(fromKey{}).(string)
	return s
}

// AccountDigest stands for an account in the count; what was typed may be a password.
func AccountDigest(email string) []byte {
	sum := sha256.Sum256([]byte(strings.ToLower(strings.TrimSpace(email))))
	return sum[:]
}

// Guess counts a check of an account's password, or refuses it where too many failed. The
// function returned takes the guesses of this account from this address off the count; call it
// when the password was right.
func (a Acts) Guess(ctx context.Context, email string) (right func() error, err error) {
	account, address, now := AccountDigest(email), AddressOf(ctx), a.Now()
	since := now.Add(-guessTime)
	var id int64
	err = a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		if err := t.Raw(`insert into password_try (at, account, address) values (?, ?, ?) returning id`, now, account, address).Scan(&id).Error; err != nil {
			return err
		}
		return t.Exec(`delete from password_try where at < ?`, now.AddDate(0, 0, -guessesKeptDays)).Error
	})
	if err != nil {
		return nil, err
	}
	var n struct{ Here, Account, Address int }
	err = a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error {
		return t.Raw(`select count(*) filter (where account = ? and address = ?)::int as here, count(*) filter (where account = ?)::int as account, count(*) filter (where address = ? and address <> '')::int as address
			from password_try where at > ? and (account = ? or address = ?)`, account, address, account, address, since, account, address).Scan(&n).Error
	})
	if err != nil {
		return nil, err
	}
	forget := func(q string, args ...any) error {
		return a.Store.InFirm(ctx, 0, 0, func(t *store.Tx) error { return t.Exec(q, args...).Error })
	}
	if n.Here > guessesHere || n.Account > guessesAccount || n.Address > guessesAddress {
		// One that was not looked at does not count: asking on does not keep an account closed.
		if err := forget(`delete from password_try where id = ?`, id); err != nil {
			return nil, err
		}
		return nil, act.Fail(act.TooMany, "too-many", "too many wrong passwords; wait %d minutes, or have the operator set a new one", int(guessTime.Minutes()))
	}
	return func() error {
		return forget(`delete from password_try where account = ? and address = ?`, account, address)
	}, nil
}
