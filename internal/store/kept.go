package store

import (
	"encoding/json"
	"fmt"
)

// Unreadable is the fault of a row whose JSON, which this program wrote itself, cannot be read.
// Nothing is worked out, shown or hidden by what it might have said.
type Unreadable struct {
	What string
	err  error
}

func (u *Unreadable) Error() string { return fmt.Sprintf("what is kept of %s cannot be read", u.What) }
func (u *Unreadable) Unwrap() error { return u.err }

// ReadKept reads JSON that this program wrote; nothing at all is an empty value. What cannot be
// read raises *Unreadable, which InFirm turns into its error and takes its transaction back for.
func ReadKept(what string, raw []byte, into any) {
	if len(raw) == 0 {
		return
	}
	if err := json.Unmarshal(raw, into); err != nil {
		panic(&Unreadable{what, err})
	}
}
