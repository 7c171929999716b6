package app

import "sync"

// yearCache keeps the earnings of payroll years that were added up last. As with the
// books of payees, one is taken only at the very version of its ledger that the asking
// transaction sees, and never by an act that writes.
type yearCache struct {
	mu    sync.Mutex
	years map[yearKey]keptYear
	order []yearKey
}

type yearKey struct {
	ledger int64
	year   int
	source string
}

type keptYear struct {
	version int64
	earned  earnings
}

// mostYears bounds the memory: 52 runs of 500 people are some two megabytes.
const mostYears = 32

func (c *yearCache) get(k yearKey, version int64) (earnings, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	y, ok := c.years[k]
	return y.earned, ok && y.version == version
}

func (c *yearCache) put(k yearKey, version int64, e earnings) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.years == nil {
		c.years = map[yearKey]keptYear{}
	}
	if _, ok := c.years[k]; !ok {
		c.order = append(c.order, k)
		if len(c.order) > mostYears {
			delete(c.years, c.order[0])
			c.order = c.order[1:]
		}
	}
	c.years[k] = keptYear{version, e}
}
