// Package clients keeps a firm's clients and people, and says what a change of a client's facts would do.
package clients

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
