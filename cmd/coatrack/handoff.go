package main

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"strings"

	"github.com/spf13/cobra"
)

// remote is a running server with a token, as apply, export and import use it.
type remote struct{ server, token string }

func (r *remote) flags(c *cobra.Command) {
	c.Flags().StringVar(&r.server, "server", envOr("COATRACK_SERVER", "http://127.0.0.1:8420"), "address of the running server")
	c.Flags().StringVar(&r.token, "token", os.Getenv("COATRACK_TOKEN"), "an API token (or COATRACK_TOKEN)")
}

func envOr(key, or string) string {
	if v := os.Getenv(key); v != "" {
		return v
	}
	return or
}

func (r *remote) do(method, path string, body io.Reader) (*http.Response, error) {
	req, err := http.NewRequest(method, strings.TrimRight(r.server, "/")+path, body)
	if err != nil {
		return nil, exitError{2, err}
	}
	req.Header.Set("Authorization", "Bearer "+r.token)
	if body != nil {
		req.Header.Set("Content-Type", "application/octet-stream")
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return nil, exitError{1, err}
	}
	if res.StatusCode >= 400 {
		defer res.Body.Close()
		var p struct{ Detail, Code string }
		_ = json.NewDecoder(res.Body).Decode(&p)
		if p.Detail == "" {
			p.Detail = res.Status
		}
		return nil, exitError{1, fmt.Errorf("%s (%s)", p.Detail, p.Code)}
	}
	return res, nil
}

// client finds a client by name or id.
func (r *remote) client(name string) (int64, error) {
	res, err := r.do(http.MethodGet, "/api/clients", nil)
	if err != nil {
		return 0, err
	}
	defer res.Body.Close()
	var board []struct {
		Client struct {
			ID   int64
			Name string
		}
	}
	if err := json.NewDecoder(res.Body).Decode(&board); err != nil {
		return 0, err
	}
	for _, b := range board {
		if strings.EqualFold(b.Client.Name, name) || fmt.Sprint(b.Client.ID) == name {
			return b.Client.ID, nil
		}
	}
	return 0, exitError{1, fmt.Errorf("no client is called %q", name)}
}

func exportCmd() *cobra.Command {
	var r remote
	var what, format, out string
	c := &cobra.Command{
		Use:   "export --what W [--format csv|xlsx] [--out FILE] CLIENT",
		Short: "Take a client's chart, mappings, journal, open items, aging, audit file, work paper or whole bundle out",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			id, err := r.client(args[0])
			if err != nil {
				return err
			}
			path := map[string]string{"bundle": "bundle.json", "saft": "ledger.saft.xml", "work-paper": "work-paper.pdf"}[what]
			if path == "" {
				path = "export/" + url.PathEscape(what) + "/" + url.PathEscape(format)
			}
			res, err := r.do(http.MethodGet, fmt.Sprintf("/api/clients/%d/%s", id, path), nil)
			if err != nil {
				return err
			}
			defer res.Body.Close()
			if out == "" {
				_, err = io.Copy(cmd.OutOrStdout(), res.Body)
				return err
			}
			// Written beside and renamed, so that a broken stream leaves no half file.
			part := out + ".part"
			f, err := os.Create(part)
			if err != nil {
				return exitError{2, err}
			}
			_, err = io.Copy(f, res.Body)
			if cerr := f.Close(); err == nil {
				err = cerr
			}
			if err != nil {
				_ = os.Remove(part)
				return exitError{1, err}
			}
			return os.Rename(part, out)
		},
	}
	r.flags(c)
	c.Flags().StringVar(&what, "what", "bundle", "bundle, saft, work-paper, chart, mappings, parties, trial-balance, journal, open-items, aging-receivable, aging-payable or history")
	c.Flags().StringVar(&format, "format", "csv", "csv or xlsx, for tables")
	c.Flags().StringVar(&out, "out", "", "file to write; empty is standard output")
	return c
}

func importCmd() *cobra.Command {
	var r remote
	var name string
	c := &cobra.Command{
		Use:   "import [--name NAME] BUNDLE.json",
		Short: "Make a client from a bundle; all of it or nothing",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := os.Open(args[0])
			if err != nil {
				return exitError{2, err}
			}
			defer f.Close()
			res, err := r.do(http.MethodPost, "/api/bundles?name="+url.QueryEscape(name), f)
			if err != nil {
				return err
			}
			defer res.Body.Close()
			var made struct {
				ID   int64
				Name string
			}
			if err := json.NewDecoder(res.Body).Decode(&made); err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "made %s (client %d)\n", made.Name, made.ID)
			return nil
		},
	}
	r.flags(c)
	c.Flags().StringVar(&name, "name", "", "another name for the client")
	return c
}
