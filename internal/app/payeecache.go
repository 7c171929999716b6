package app

import (
	"maps"
	"sync"
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

// payeeBook is a year's book: as it was added up at this version of the ledger, or added
// up now. What is kept is never changed; a request works on a copy of what it may fill.
func (t *Tx) payeeBook(year int) (*payeeBook, error) {
	if t.books == nil {
		return t.loadBook(year)
	}
	k := bookKey{t.Ledger, year}
	if b := t.books.get(k, t.Client.Version); b != nil {
		mine := *b
		mine.t, mine.who = t, maps.Clone(b.who)
		return &mine, nil
	}
	b, err := t.loadBook(year)
	if err != nil {
		return nil, err
	}
	b.version = t.Client.Version
	kept := *b
	kept.t, kept.who = nil, maps.Clone(b.who)
	t.books.put(k, &kept)
	return b, nil
}
