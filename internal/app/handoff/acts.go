// Package handoff writes what leaves the house: exports, the work paper, the whole bundle, and reads a bundle again.
package handoff

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
