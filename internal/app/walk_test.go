package app_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"

	"coatrack/internal/app/act"

	"github.com/stretchr/testify/require"
)

// walk takes a client through acts in any order, and tells which if something fails.
type walk struct {
	*desk
	r    *rand.Rand
	done []string
	n    int // files brought
}

// newWalk is a walk of a new client of the desk's firm.
func (d *desk) newWalk(name string, seed, kind uint64) walk {
	d.t.Helper()
	c, err := d.NewClient(d.ctx, d.who, act.Facts{Name: fmt.Sprintf("%s %d", name, seed), LegalName: name + " LLC", EntityClass: "LLC taxed as S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-07-01"})
	require.NoError(d.t, err)
	here := *d
	here.client = c.ID
	w := walk{desk: &here, r: rand.New(rand.NewPCG(seed, kind))}
	w.act("seed %d", seed)
	return w
}

func (w *walk) act(format string, args ...any) {
	w.done = append(w.done, fmt.Sprintf(format, args...))
}

func (w *walk) story() string { return strings.Join(w.done, "\n") }

// words says whether an act was refused, in words a person can use.
func (w *walk) words(err error) bool {
	w.t.Helper()
	if err == nil {
		return false
	}
	var e *act.Error
	require.True(w.t, errors.As(err, &e), "refused without words: %v after\n%s", err, w.story())
	require.NotContains(w.t, e.Message, "SQLSTATE")
	w.act("  refused: %v", err)
	return true
}
