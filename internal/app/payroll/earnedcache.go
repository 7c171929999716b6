package payroll

import (
	"fmt"
	"hash/fnv"
	"sync"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/money"
)

// earned is what the process keeps of runs.
func earned(t *act.Tx) *earnedCache { return act.Kept[earnedCache](t.App) }

// earnings are what employees earned under the wage base, by file of the run and
// employee. What is kept is never changed.
type earnings map[int64]map[int64]money.Amount

// earnedCache keeps what each employee earned in a run. It can never be stale: the facts
// of one reading of a file are written once, and all else that decides, the items that
// feed the wage base with sign and fraction, is part of the key. A transaction that takes
// a file in does not put into it, since its reading may yet be rolled back.
type earnedCache struct {
	mu    sync.Mutex
	runs  map[earnedKey]map[int64]money.Amount
	order []earnedKey
	added map[sumsKey]runSums // what runs add up to: a year's are asked for with each run
}

// sumsKey is a run as it was read: taking it in again raises version and reading.
type sumsKey struct {
	ledger, run, version int64
	reading              int
}

func sumsKeyOf(r fold.PayRunRow, ledger int64) sumsKey {
	return sumsKey{ledger, r.ID, r.Version, r.Reading}
}

// sums are what a run adds up to, if that is known. What it returns is shared and never changed.
func (c *earnedCache) sums(k sumsKey) (runSums, bool) {
	if c == nil {
		return runSums{}, false
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	s, ok := c.added[k]
	return s, ok
}

func (c *earnedCache) add(k sumsKey, s runSums) {
	if c == nil {
		return
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.added == nil || len(c.added) >= mostEarned {
		c.added = map[sumsKey]runSums{}
	}
	c.added[k] = s
}

type earnedKey struct {
	ledger, batch int64
	reading       int
	fed           uint64 // of the items with sign and fraction
}

// mostEarned bounds the memory: 52 runs of 500 people are some two megabytes, and twice that with net pay.
const mostEarned = 800

func (c *earnedCache) get(k earnedKey) (map[int64]money.Amount, bool) {
	if c == nil {
		return nil, false
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	e, ok := c.runs[k]
	return e, ok
}

func (c *earnedCache) put(k earnedKey, e map[int64]money.Amount) {
	if c == nil {
		return
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.runs == nil {
		c.runs = map[earnedKey]map[int64]money.Amount{}
	}
	if _, ok := c.runs[k]; !ok {
		c.order = append(c.order, k)
		if len(c.order) > mostEarned {
			delete(c.runs, c.order[0])
			c.order = c.order[1:]
		}
	}
	c.runs[k] = e
}

// fedBy is the mark of the items that are wanted of a run.
func (w wanted) fedBy() uint64 {
	h := fnv.New64a()
	for n := range w.labels {
		fmt.Fprint(h, w.labels[n], " ", w.signs[n], " ", w.dens[n], "\n")
	}
	return h.Sum64()
}
