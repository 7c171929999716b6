// Command coatrack is the whole application: server, migrations, plans and the
// reading of files from the shell. This package is wiring only.
package main

import (
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"
)

// version is set by the build.
var version = "dev"

// exitError carries an exit status: 1 refused, 2 used wrongly.
type exitError struct {
	code int
	err  error
}

func (e exitError) Error() string { return e.err.Error() }

func main() {
	root := &cobra.Command{
		Use:           "coatrack",
		Short:         "Set up a client's ledger: chart, opening balances, mappings, proofs",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(serveCmd(), applyCmd(), migrateCmd(), readCmd(), userCmd(), backupCmd(), restoreCmd(), rotateCmd(), exportCmd(), importCmd(), standinsCmd(), openapiCmd(), versionCmd())
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return exitError{2, err} })
	err := root.Execute()
	if err == nil {
		return
	}
	var e exitError
	if errors.As(err, &e) {
		if e.err != nil {
			fmt.Fprintln(os.Stderr, "coatrack:", e.err)
		}
		os.Exit(e.code)
	}
	fmt.Fprintln(os.Stderr, "coatrack:", err)
	os.Exit(2)
}
