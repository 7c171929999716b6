package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"os"
	"os/signal"
	"strings"
	"syscall"
	"time"

	"coatrack/internal/api"
	"coatrack/internal/app"
	"coatrack/internal/jobs"
	"coatrack/internal/store"
	"coatrack/internal/vault"
	"coatrack/ui"

	"github.com/prometheus/client_golang/prometheus/promhttp"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// config is what flags and the environment say. A flag wins over its variable.
type config struct {
	dsn, ownerDSN, keyFile, listen, metrics string
	secure, makeKey                         bool
	signInRate                              int
	ledgers                                 []string
	providers, filers                       []string
	consent                                 string
	proxies                                 []string
}

// trusted reads the addresses of trusted proxies.
func (c *config) trusted() ([]netip.Prefix, error) {
	var out []netip.Prefix
	for _, s := range c.proxies {
		p, err := netip.ParsePrefix(strings.TrimSpace(s))
		if err != nil {
			a, err := netip.ParseAddr(strings.TrimSpace(s))
			if err != nil {
				return nil, fmt.Errorf("--trusted-proxy %s: say an address (10.0.0.5) or a range (10.0.0.0/24)", s)
			}
			p = netip.PrefixFrom(a, a.BitLen())
		}
		out = append(out, p)
	}
	return out, nil
}

func env(name, def string) string {
	if v := os.Getenv(name); v != "" {
		return v
	}
	return def
}

func (c *config) database(f *pflag.FlagSet) {
	f.StringVar(&c.dsn, "database-url", env("DATABASE_URL", ""), "PostgreSQL address of the serving role (DATABASE_URL)")
}

func (c *config) owner(f *pflag.FlagSet) {
	f.StringVar(&c.ownerDSN, "database-owner-url", env("DATABASE_OWNER_URL", ""), "PostgreSQL address of the owner, for migrations, backup and restore (DATABASE_OWNER_URL)")
}

func (c *config) key(f *pflag.FlagSet) {
	f.StringVar(&c.keyFile, "data-key", env("COATRACK_DATA_KEY", ""), "file with the data key, base64 of 32 bytes (COATRACK_DATA_KEY)")
	f.BoolVar(&c.makeKey, "make-data-key", false, "make the data key file if it is not there")
}

func (c *config) open(ctx context.Context) (*app.App, error) {
	if c.dsn == "" {
		return nil, errors.New("say where the database is: --database-url or DATABASE_URL")
	}
	if c.keyFile == "" {
		return nil, errors.New("say where the data key is: --data-key or COATRACK_DATA_KEY")
	}
	if _, err := os.Stat(c.keyFile); os.IsNotExist(err) && c.makeKey {
		if err := c.mayMakeKey(ctx); err != nil {
			return nil, err
		}
	}
	key, err := vault.LoadKey(c.keyFile, c.makeKey)
	if err != nil {
		return nil, err
	}
	v, err := vault.New(key)
	if err != nil {
		return nil, err
	}
	s, err := store.Open(ctx, c.dsn, v)
	if err != nil {
		return nil, err
	}
	if err := s.KnowKey(ctx); err != nil {
		s.Close()
		return nil, fmt.Errorf("%s: %w", c.keyFile, err)
	}
	return app.New(s), nil
}

// mayMakeKey refuses to make a data key beside data that another one sealed.
func (c *config) mayMakeKey(ctx context.Context) error {
	s, err := store.Open(ctx, c.dsn, nil)
	if err != nil {
		return err
	}
	defer s.Close()
	there, err := s.HoldsSealed(ctx)
	if err == nil && there {
		err = fmt.Errorf("%s is not there, and the database holds data sealed with it: put the key file back; a new key would open none of it", c.keyFile)
	}
	return err
}

func serveCmd() *cobra.Command {
	var c config
	cmd := &cobra.Command{
		Use: "serve", Short: "Serve the application", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, nil)))
			ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			a, err := c.open(ctx)
			if err != nil {
				return exitError{1, err}
			}
			defer a.Store.Close()
			a.Ledgers, a.Providers, a.Filers, a.LedgerConsent = c.ledgers, c.providers, c.filers, c.consent
			if err := a.Store.CheckRole(ctx); err != nil {
				return exitError{1, err}
			}
			runner, err := jobs.Start(ctx, a)
			if err != nil {
				return exitError{1, err}
			}
			defer func() {
				end, cancel := context.WithTimeout(context.Background(), 10*time.Second)
				defer cancel()
				runner.Stop(end)
			}()
			return serve(ctx, &c, a)
		},
	}
	c.database(cmd.Flags())
	c.key(cmd.Flags())
	cmd.Flags().StringVar(&c.listen, "listen", env("COATRACK_LISTEN", "127.0.0.1:8420"), "address to listen on (COATRACK_LISTEN)")
	cmd.Flags().StringVar(&c.metrics, "metrics", env("COATRACK_METRICS", ""), "address for Prometheus metrics; empty is none (COATRACK_METRICS)")
	cmd.Flags().BoolVar(&c.secure, "secure-cookies", env("COATRACK_SECURE_COOKIES", "") == "1", "send cookies only over TLS; set it behind an HTTPS proxy (COATRACK_SECURE_COOKIES=1)")
	var known []string
	if v := env("COATRACK_LEDGERS", ""); v != "" {
		known = strings.Split(v, ",")
	}
	cmd.Flags().StringSliceVar(&c.ledgers, "ledger", known, "address of an outside ledger that may be connected; may be repeated (COATRACK_LEDGERS, separated by commas)")
	var paying []string
	if v := env("COATRACK_PROVIDERS", ""); v != "" {
		paying = strings.Split(v, ",")
	}
	cmd.Flags().StringSliceVar(&c.providers, "provider", paying, "address of a payroll provider that may be connected; may be repeated (COATRACK_PROVIDERS, separated by commas)")
	var filing []string
	if v := env("COATRACK_FILERS", ""); v != "" {
		filing = strings.Split(v, ",")
	}
	cmd.Flags().StringSliceVar(&c.filers, "filer", filing, "address of a filing service, with name-and-number matching; may be repeated (COATRACK_FILERS, separated by commas)")
	cmd.Flags().StringVar(&c.consent, "ledger-consent", env("COATRACK_LEDGER_CONSENT", ""), "what is shown to outside ledgers as consent (COATRACK_LEDGER_CONSENT)")
	var before []string
	if v := env("COATRACK_TRUSTED_PROXIES", ""); v != "" {
		before = strings.Split(v, ",")
	}
	cmd.Flags().StringSliceVar(&c.proxies, "trusted-proxy", before, "address or range of a proxy in front, whose X-Forwarded-For says where a request comes from; may be repeated (COATRACK_TRUSTED_PROXIES, separated by commas)")
	cmd.Flags().IntVar(&c.signInRate, "sign-in-rate", 20, "attempts to sign in a minute per address")
	return cmd
}

func serve(ctx context.Context, c *config, a *app.App) error {
	proxies, err := c.trusted()
	if err != nil {
		return exitError{2, err}
	}
	l, err := net.Listen("tcp", c.listen)
	if err != nil {
		return exitError{1, fmt.Errorf("%s is taken or not ours: %w", c.listen, err)}
	}
	srv := &http.Server{Handler: api.New(a, api.Options{Secure: c.secure, SignInRate: c.signInRate, Proxies: proxies, UI: ui.Handler()}), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute}
	if c.metrics != "" {
		m := http.NewServeMux()
		m.Handle("/metrics", promhttp.Handler())
		ms := &http.Server{Addr: c.metrics, Handler: m, ReadHeaderTimeout: 5 * time.Second}
		go func() {
			if err := ms.ListenAndServe(); err != nil && !errors.Is(err, http.ErrServerClosed) {
				slog.Error("metrics", "error", err.Error())
			}
		}()
		defer ms.Close()
	}
	slog.Info("serving", "address", "http://"+l.Addr().String(), "version", version)
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	slog.Info("stopping; requests under way are finished first")
	grace, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	return srv.Shutdown(grace)
}

func migrateCmd() *cobra.Command {
	var c config
	cmd := &cobra.Command{
		Use: "migrate", Short: "Bring the database up to date and make the serving role", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if c.ownerDSN == "" || c.dsn == "" {
				return exitError{2, errors.New("migrate needs both --database-owner-url and --database-url")}
			}
			if err := store.Migrate(cmd.Context(), c.ownerDSN, c.dsn); err != nil {
				return exitError{1, err}
			}
			fmt.Println("the database is up to date")
			return nil
		},
	}
	c.database(cmd.Flags())
	c.owner(cmd.Flags())
	return cmd
}
