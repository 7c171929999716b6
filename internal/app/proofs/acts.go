// Package proofs holds each sentence about a client with its two figures, differences that were accepted, and sign-offs.
package proofs

import "coatrack/internal/app/act"

// Acts are what a person can do here.
type Acts struct{ *act.App }

// Of are the acts of an application.
func Of(a *act.App) Acts { return Acts{a} }
