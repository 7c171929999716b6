// Package app is what a person can do: one value over the rooms below it, for the API, commands
// and tests. Each room is a package that follows the work and imports only rooms before it; every
// act goes the same way, permission, load, core, save, history, in one transaction (package act).
// It holds no rules of the job (they are in core) and knows nothing of HTTP.
package app

import (
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/books"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/handoff"
	"coatrack/internal/app/longacts"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/outside"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/payees"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/proofs"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/files"
	"coatrack/internal/store"
)

type (
	sheetActs    = sheet.Acts
	accountsActs = accounts.Acts
	partiesActs  = parties.Acts
	rackActs     = rack.Acts
	openingsActs = openings.Acts
	outsideActs  = outside.Acts
	payrollActs  = payroll.Acts
	payeesActs   = payees.Acts
	booksActs    = books.Acts
	proofsActs   = proofs.Acts
	clientsActs  = clients.Acts
	handoffActs  = handoff.Acts
	longActs     = longacts.Acts
)

// App is the application over a store: the acts of every room on one value.
type App struct {
	*act.App
	sheetActs
	accountsActs
	partiesActs
	rackActs
	openingsActs
	outsideActs
	payrollActs
	payeesActs
	booksActs
	proofsActs
	clientsActs
	handoffActs
	longActs
}

// New returns the application with its usual limits and the wall clock.
func New(s *store.Store) *App {
	a := &act.App{Store: s, Now: time.Now, Limits: files.DefaultLimits}
	wire(a)
	return &App{
		a, sheet.Of(a), accounts.Of(a), parties.Of(a), rack.Of(a), openings.Of(a), outside.Of(a), payroll.Of(a),
		payees.Of(a), books.Of(a), proofs.Of(a), clients.Of(a), handoff.Of(a), longacts.Of(a),
	}
}
