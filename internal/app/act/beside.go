package act

import (
	"coatrack/internal/core/table"
)

// Beside runs fn while the caller goes on. What it returns, or panics with, comes where the
// caller asks for it: a fault in reading a file ends its request and no other.
func Beside[T any](fn func() T) (wait func() T) {
	type end struct {
		value T
		fault any
	}
	done := make(chan end, 1)
	go func() {
		var e end
		defer func() {
			e.fault = recover()
			done <- e
		}()
		e.value = fn()
	}()
	return func() T {
		e := <-done
		if e.fault != nil {
			panic(e.fault)
		}
		return e.value
	}
}

// WasRead is what reading a batch came to.
type WasRead struct {
	Reading *table.Reading
	Classes []byte // a letter for each record
	Err     error
}
