// Package sheet is the way of everything that comes from outside: a file is received, read, reviewed and\n// imported, and areas take what they registered for.
package sheet

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
