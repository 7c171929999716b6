// Package books shows what was posted: statements, registers, where a figure comes from, and search.
package books

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
