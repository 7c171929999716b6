// Package rack maps what outside rows are called to accounts: suggestions, choices, crosswalks, templates.
package rack

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
