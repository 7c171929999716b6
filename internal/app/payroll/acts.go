// Package payroll takes registers, bills and forms of a payroll provider, posts runs, and adds the year up to forms.
package payroll

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
