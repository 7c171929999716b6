package main

import (
	"errors"
	"os"

	"coatrack/internal/plan"

	"github.com/spf13/cobra"
)

func applyCmd() *cobra.Command {
	var r plan.Runner
	c := &cobra.Command{
		Use: "apply PLAN.yaml …", Short: "Carry plans out against a running server (docs/plan.md)", Args: cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			if r.Token == "" {
				return exitError{2, errors.New("apply needs a token: --token or COATRACK_TOKEN")}
			}
			r.Out = os.Stdout
			for _, path := range args {
				p, err := plan.Load(path)
				if err != nil {
					return exitError{2, err}
				}
				if err := r.Run(p); err != nil {
					return exitError{1, err}
				}
			}
			return nil
		},
	}
	c.Flags().StringVar(&r.Server, "server", env("COATRACK_SERVER", "http://127.0.0.1:8420"), "address of the server (COATRACK_SERVER)")
	c.Flags().StringVar(&r.Token, "token", env("COATRACK_TOKEN", ""), "API token (COATRACK_TOKEN)")
	c.Flags().BoolVar(&r.DryRun, "dry-run", false, "say what would be done and write nothing")
	return c
}
