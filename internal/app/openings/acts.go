// Package openings posts where the books begin: the opening entry, open items, and what had not cleared the bank.
package openings

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
