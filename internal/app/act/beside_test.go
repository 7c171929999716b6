package act

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// What runs beside comes back where it is asked for, a fault too: it does not end the program.
func TestBeside(t *testing.T) {
	went := make(chan int)
	wait := Beside(func() int { return 2 * <-went })
	went <- 21
	require.Equal(t, 42, wait())
	faulty := Beside(func() error { panic("no such column") })
	require.PanicsWithValue(t, "no such column", func() { _ = faulty() })
}
