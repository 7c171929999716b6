package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"coatrack/internal/standins"

	"github.com/spf13/cobra"
)

func standinsCmd() *cobra.Command {
	var listen string
	c := &cobra.Command{
		Use: "standins", Short: "Serve the simulated outside services that ship with the application (a ledger, a payroll provider, a filing service)", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			ctx, stop := signal.NotifyContext(cmd.Context(), os.Interrupt, syscall.SIGTERM)
			defer stop()
			l, err := net.Listen("tcp", listen)
			if err != nil {
				return exitError{1, fmt.Errorf("%s is taken or not ours: %w", listen, err)}
			}
			mux := http.NewServeMux()
			mux.Handle("/", standins.DemoLedger())
			mux.Handle("/payroll/", http.StripPrefix("/payroll", standins.DemoPayroll()))
			mux.Handle("/filing/", http.StripPrefix("/filing", standins.DemoFiling()))
			srv := &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
			go func() {
				<-ctx.Done()
				end, cancel := context.WithTimeout(context.Background(), 2*time.Second)
				defer cancel()
				_ = srv.Shutdown(end)
			}()
			fmt.Fprintf(cmd.OutOrStdout(), "an outside ledger stands in at http://%s, a payroll provider at http://%s/payroll, a filing service at http://%s/filing\n", l.Addr(), l.Addr(), l.Addr())
			if err := srv.Serve(l); !errors.Is(err, http.ErrServerClosed) {
				return exitError{1, err}
			}
			return nil
		},
	}
	c.Flags().StringVar(&listen, "listen", "127.0.0.1:8440", "address to listen on")
	return c
}
