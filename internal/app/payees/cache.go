package payees

import (
	"maps"
	"sync"

	"coatrack/internal/app/act"
	"coatrack/internal/store"
)

// bookCache keeps the books of payees that were added up last, so that a screen of
// several questions adds a year up once. It is no state of the application: a book is
// taken only at the very version of its ledger that the asking transaction sees, and
// every act raises that version, in whichever process it ran. Acts that write never
// take from it. No tax number lies in it: numbers are opened per request.
type bookCache struct {
	mu    sync.Mutex
	books map[bookKey]*payeeBook
	order []bookKey
	sums  kept[bookKey, []store.PaidGroup]
	folk  kept[int64, whoIsPaid]
}

// kept holds parts of a book by the version of what they were read from: a mapping or a
// threshold changes what becomes of the sums, not the sums, nor who is paid.
type kept[K comparable, V any] struct {
	mu sync.Mutex
	at map[K]struct {
		version int64
		part    V
	}
}

// of returns the part as it was read at this version, or reads it now.
func (c *kept[K, V]) of(k K, version int64, read func() (V, error)) (V, error) {
	c.mu.Lock()
	had, ok := c.at[k]
	c.mu.Unlock()
	if ok && had.version == version {
		return had.part, nil
	}
	part, err := read()
	if err != nil {
		return part, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.at == nil || len(c.at) >= mostBooks {
		c.at = map[K]struct {
			version int64
			part    V
		}{}
	}
	had.version, had.part = version, part
	c.at[k] = had
	return part, nil
}

type bookKey struct {
	ledger int64
	year   int
}

// mostBooks bounds the memory: a year of 200,000 lines is some twenty megabytes.
const mostBooks = 8

func (c *bookCache) get(k bookKey, version int64) *payeeBook {
	c.mu.Lock()
	defer c.mu.Unlock()
	if b := c.books[k]; b != nil && b.version == version {
		return b
	}
	return nil
}

func (c *bookCache) put(k bookKey, b *payeeBook) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.books == nil {
		c.books = map[bookKey]*payeeBook{}
	}
	if c.books[k] == nil {
		c.order = append(c.order, k)
		if len(c.order) > mostBooks {
			delete(c.books, c.order[0])
			c.order = c.order[1:]
		}
	}
	c.books[k] = b
}

// bookOf is a year's book: as it was added up at this version of the ledger, or added
// up now. What is kept is never changed; a request works on a copy of what it may fill.
func bookOf(t *act.Tx, year int) (*payeeBook, error) {
	if !t.Reads {
		return loadBook(t, year)
	}
	cache := act.Kept[bookCache](t.App)
	k := bookKey{t.Ledger, year}
	if b := cache.get(k, t.Client.Version); b != nil {
		mine := *b
		mine.t, mine.who = t, maps.Clone(b.who)
		return &mine, nil
	}
	b, err := loadBook(t, year)
	if err != nil {
		return nil, err
	}
	b.version = t.Client.Version
	kept := *b
	kept.t, kept.who = nil, maps.Clone(b.who)
	cache.put(k, &kept)
	return b, nil
}

// paidGroups are the year's payment lines by vendor and way; a transaction that only
// reads takes them as they were added up at this version of the lines. Nobody writes
// to what it returns.
func paidGroups(t *act.Tx, year int) ([]store.PaidGroup, error) {
	add := func() ([]store.PaidGroup, error) { return t.PaidGroups(year) }
	if !t.Reads {
		return add()
	}
	return act.Kept[bookCache](t.App).sums.of(bookKey{t.Ledger, year}, t.Client.PaidVersion, add)
}

// whoIsPaidOf is kept likewise. Only who is filled later, so each book has its own.
func whoIsPaidOf(t *act.Tx) (whoIsPaid, error) {
	if !t.Reads {
		return readPeople(t)
	}
	p, err := act.Kept[bookCache](t.App).folk.of(t.Ledger, t.Client.PeopleVersion, func() (whoIsPaid, error) { return readPeople(t) })
	p.who = maps.Clone(p.who)
	return p, err
}
