package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"

	"coatrack/internal/api"
	"coatrack/internal/store"
	"coatrack/internal/vault"

	"github.com/spf13/cobra"
)

// pgTool runs one of PostgreSQL's own tools, which are often not on the path.
func pgTool(ctx context.Context, name string, args ...string) error {
	bin, err := exec.LookPath(name)
	if err != nil {
		all, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
		if len(all) == 0 {
			return fmt.Errorf("%s is not installed", name)
		}
		bin = all[len(all)-1]
	}
	cmd := exec.CommandContext(ctx, bin, args...)
	cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
	return cmd.Run()
}

func backupCmd() *cobra.Command {
	var c config
	cmd := &cobra.Command{
		Use: "backup FILE", Short: "Write the whole database to a file (keep the data key apart from it: without the key there is no restore)", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if err := pgTool(cmd.Context(), "pg_dump", "--format=custom", "--no-owner", "--no-privileges", "--file", args[0], c.ownerDSN); err != nil {
				return exitError{1, err}
			}
			_ = os.Chmod(args[0], 0o600)
			fmt.Println("written to", args[0])
			fmt.Println("keep the data key apart from this file: files, raw rows and tax ids in it cannot be opened without the key")
			return nil
		},
	}
	c.owner(cmd.Flags())
	return cmd
}

func restoreCmd() *cobra.Command {
	var c config
	cmd := &cobra.Command{
		Use: "restore FILE", Short: "Restore a backup into an empty database, then make the serving role", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if c.ownerDSN == "" || c.dsn == "" {
				return exitError{2, errors.New("restore needs both --database-owner-url and --database-url")}
			}
			if err := pgTool(cmd.Context(), "pg_restore", "--exit-on-error", "--single-transaction", "--no-owner", "--no-privileges", "--dbname", c.ownerDSN, args[0]); err != nil {
				return exitError{1, fmt.Errorf("nothing was restored; is the database empty? (%w)", err)}
			}
			if err := store.Migrate(cmd.Context(), c.ownerDSN, c.dsn); err != nil {
				return exitError{1, err}
			}
			fmt.Println("restored; serve it with the data key it was made with")
			return nil
		},
	}
	c.database(cmd.Flags())
	c.owner(cmd.Flags())
	return cmd
}

func rotateCmd() *cobra.Command {
	var c config
	var next string
	cmd := &cobra.Command{
		Use: "rotate-key", Short: "Seal files, raw rows, tax ids and letters anew under another data key; stop the application first", Args: cobra.NoArgs,
		Long: "Everything that is sealed is opened with the data key and sealed anew with the key in --new-key, in one transaction: all of it or nothing.\n\nStop the application first, and make a backup. If --new-key does not exist, a key is made there, readable by its owner only. Afterwards serve with the new key; the old one opens only older backups.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if c.ownerDSN == "" || next == "" {
				return exitError{2, errors.New("rotate-key needs --database-owner-url and --new-key")}
			}
			old, err := vault.LoadKey(c.keyFile, false)
			if err != nil {
				return exitError{1, err}
			}
			key, err := vault.LoadKey(next, true)
			if err != nil {
				return exitError{1, err}
			}
			from, err := vault.New(old)
			if err != nil {
				return exitError{1, err}
			}
			to, err := vault.New(key)
			if err != nil {
				return exitError{1, err}
			}
			n, err := store.Rotate(cmd.Context(), c.ownerDSN, from, to)
			if err != nil {
				return exitError{1, fmt.Errorf("nothing was changed: %w", err)}
			}
			fmt.Printf("%d sealed anew; serve with --data-key %s from now on\n", n, next)
			return nil
		},
	}
	c.owner(cmd.Flags())
	c.key(cmd.Flags())
	cmd.Flags().StringVar(&next, "new-key", "", "file of the new data key; made if it is not there")
	return cmd
}

func openapiCmd() *cobra.Command {
	return &cobra.Command{
		Use: "openapi", Short: "Print the API's OpenAPI document", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			d, err := api.Document()
			if err != nil {
				return err
			}
			_, err = os.Stdout.Write(append(d, '\n'))
			return err
		},
	}
}

func versionCmd() *cobra.Command {
	return &cobra.Command{Use: "version", Short: "Print the version", Args: cobra.NoArgs, Run: func(*cobra.Command, []string) { fmt.Println("coatrack", version) }}
}
