// Package payees sorts what vendors were paid into the boxes of information returns, and files them.
package payees

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
