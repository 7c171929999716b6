package main

import (
	"bufio"
	"errors"
	"fmt"
	"os"
	"strings"

	"coatrack/internal/app/clients"

	"github.com/spf13/cobra"
)

func userCmd() *cobra.Command {
	var c config
	root := &cobra.Command{Use: "user", Short: "Add people and reset passwords"}
	c.database(root.PersistentFlags())
	c.key(root.PersistentFlags())
	var p clients.NewPerson
	var token string
	add := &cobra.Command{
		Use: "add", Short: "Add a person, and the firm if it is new; the password is read from standard input", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			a, err := c.open(cmd.Context())
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			if p.Password, err = readPassword(); err != nil {
				return exitError{2, err}
			}
			firm, err := a.EnsureFirm(cmd.Context(), p.Firm)
			if err != nil {
				return exitError{1, err}
			}
			if _, err := a.AddPerson(cmd.Context(), firm, p); err != nil {
				return exitError{1, err}
			}
			fmt.Println("added", p.Email)
			return nil
		},
	}
	add.Flags().StringVar(&p.Firm, "firm", "", "the firm's name")
	add.Flags().StringVar(&p.Email, "email", "", "e-mail")
	add.Flags().StringVar(&p.Name, "name", "", "name")
	add.Flags().StringVar(&p.Role, "role", "bookkeeper", "owner, bookkeeper, reviewer or contributor")
	for _, f := range []string{"firm", "email", "name"} {
		_ = add.MarkFlagRequired(f)
	}
	var email string
	reset := &cobra.Command{
		Use: "reset", Short: "Set a new password, read from standard input; the person's sessions end", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			a, err := c.open(cmd.Context())
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			pw, err := readPassword()
			if err != nil {
				return exitError{2, err}
			}
			if err := a.ResetPassword(cmd.Context(), email, pw); err != nil {
				return exitError{1, err}
			}
			fmt.Println("password set; sessions of", email, "have ended")
			return nil
		},
	}
	reset.Flags().StringVar(&email, "email", "", "e-mail")
	_ = reset.MarkFlagRequired("email")
	tok := &cobra.Command{
		Use: "token", Short: "Make an API token for a person and print it once", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			a, err := c.open(cmd.Context())
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			w, err := a.PersonByEmail(cmd.Context(), email)
			if err != nil {
				return exitError{1, err}
			}
			t, err := a.MakeToken(cmd.Context(), w, token)
			if err != nil {
				return exitError{1, err}
			}
			fmt.Println(t.Secret)
			return nil
		},
	}
	tok.Flags().StringVar(&email, "email", "", "e-mail")
	tok.Flags().StringVar(&token, "name", "shell", "what will use the token")
	_ = tok.MarkFlagRequired("email")
	var owner, client, role string
	give := &cobra.Command{
		Use: "role", Short: "Give a person a role in one client, on behalf of the firm's owner", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			a, err := c.open(cmd.Context())
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			if err := a.GiveRoleByName(cmd.Context(), owner, email, client, role); err != nil {
				return exitError{1, err}
			}
			fmt.Println(email, "is", role, "of", client)
			return nil
		},
	}
	give.Flags().StringVar(&role, "role", "bookkeeper", "owner, bookkeeper, reviewer or contributor")
	var pay, numbers bool
	see := &cobra.Command{
		Use: "rights", Short: "Let a person see pay or whole tax numbers of one client, or no longer (--pay=false)", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var m clients.MemberChange
			if cmd.Flags().Changed("pay") {
				m.SeesPay = &pay
			}
			if cmd.Flags().Changed("tax-numbers") {
				m.SeesTaxIDs = &numbers
			}
			a, err := c.open(cmd.Context())
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			now, err := a.ChangeMemberByName(cmd.Context(), owner, email, client, m)
			if err != nil {
				return exitError{1, err}
			}
			fmt.Println(email, m.Words(), "of", client)
			if now.Note != "" {
				fmt.Println(now.Note)
			}
			return nil
		},
	}
	see.Flags().BoolVar(&pay, "pay", false, "sees what each employee is paid")
	see.Flags().BoolVar(&numbers, "tax-numbers", false, "sees whole tax numbers")
	for _, cmd := range []*cobra.Command{give, see} {
		cmd.Flags().StringVar(&owner, "owner", "", "e-mail of the firm's owner, in whose name it is done")
		cmd.Flags().StringVar(&email, "email", "", "e-mail of the person")
		cmd.Flags().StringVar(&client, "client", "", "name of the client")
		for _, f := range []string{"owner", "email", "client"} {
			_ = cmd.MarkFlagRequired(f)
		}
	}
	root.AddCommand(add, reset, tok, give, see)
	return root
}

func readPassword() (string, error) {
	fmt.Fprint(os.Stderr, "password: ")
	s := bufio.NewScanner(os.Stdin)
	if !s.Scan() {
		return "", errors.New("no password on standard input")
	}
	return strings.TrimRight(s.Text(), "\r\n"), nil
}
