package api

import (
	"context"
	"net/http"

	"coatrack/internal/app/act"
	"coatrack/internal/app/books"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/proofs"
	"coatrack/internal/core/money"
)

func (s *Server) openingOps() {
	op(s, http.MethodGet, "/api/clients/{client}/opening", "opening", "Opening", "The opening entry as it would be posted", 200, func(ctx context.Context, w act.Who, in *InClient) (openings.Draft, error) {
		return s.app.GetDraft(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/opening/post", "post-opening", "Opening", "Post the opening entry", 201, func(ctx context.Context, w act.Who, in *InClient) (Posted, error) {
		id, err := s.app.PostOpening(ctx, w, in.Client)
		return Posted{id}, err
	})
	op(s, http.MethodGet, "/api/clients/{client}/units", "just-posted", "Books", "Posted batches, newest first", 200, func(ctx context.Context, w act.Who, in *InClient) ([]books.UnitLine, error) {
		return s.app.JustPosted(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/units/{unit}", "unit", "Books", "A posted batch with what it moved per account", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Unit int64 `path:"unit"`
	},
	) (books.UnitLine, error) {
		return s.app.GetUnit(ctx, w, in.Client, in.Unit)
	})
	op(s, http.MethodPost, "/api/clients/{client}/units/{unit}/reverse", "reverse", "Books", "Reverse what was posted together, as a whole", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Unit int64 `path:"unit"`
		Body struct {
			Note string `json:"note,omitempty" maxLength:"500"`
		}
	},
	) (done, error) {
		return done{true}, s.app.Reverse(ctx, w, in.Client, in.Unit, in.Body.Note)
	})
	op(s, http.MethodGet, "/api/clients/{client}/proofs", "proofs", "Proof", "All proofs, those that do not hold first", 200, func(ctx context.Context, w act.Who, in *InClient) ([]proofs.ProofLine, error) {
		return s.app.Proofs(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/proofs/{proof}/accept", "accept-proof", "Proof", "Let a difference stand, for the figures as they are", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Proof string `path:"proof"`
		Body  struct {
			Reason string       `json:"reason" maxLength:"500"`
			Left   money.Amount `json:"left"`
			Right  money.Amount `json:"right"`
		}
	},
	) (done, error) {
		return done{true}, s.app.AcceptProof(ctx, w, in.Client, in.Proof, in.Body.Reason, in.Body.Left, in.Body.Right)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/proofs/{proof}/accept", "withdraw-acceptance", "Proof", "Withdraw that a difference was accepted", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Proof string `path:"proof"`
	},
	) (done, error) {
		return done{true}, s.app.WithdrawAcceptance(ctx, w, in.Client, in.Proof)
	})
}

func (s *Server) bookOps() {
	op(s, http.MethodGet, "/api/clients/{client}/books/trial-balance", "trial-balance", "Books", "The ledger's trial balance", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		AsOf string `query:"as_of" doc:"ISO date; empty is all that is posted"`
	},
	) (books.TrialBalance, error) {
		return s.app.GetTrialBalance(ctx, w, in.Client, in.AsOf)
	})
	op(s, http.MethodGet, "/api/clients/{client}/books/{statement}", "statement", "Books", "Balance sheet or income statement, before | after", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Statement string `path:"statement" enum:"balance-sheet,income-statement"`
		AsOf      string `query:"as_of"`
		Before    string `query:"before" doc:"old, nothing, or an ISO date"`
	},
	) (books.Statement, error) {
		return s.app.GetStatement(ctx, w, in.Client, in.Statement, in.AsOf, in.Before)
	})
	op(s, http.MethodGet, "/api/clients/{client}/books/register/{account}", "register", "Books", "Register of an account; reversed pairs folded unless asked", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		All     bool  `query:"all"`
	},
	) (books.Register, error) {
		return s.app.GetRegister(ctx, w, in.Client, in.Account, in.All)
	})
	op(s, http.MethodGet, "/api/clients/{client}/why", "why", "Books", "Where a figure came from, down to file, row and raw text", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Fact    int64 `query:"fact"`
		Label   int64 `query:"label"`
		Entry   int64 `query:"entry"`
		No      int   `query:"no" minimum:"0" maximum:"10000000"`
		Account int64 `query:"account"`
		From    int   `query:"from" minimum:"0" maximum:"10000000" doc:"sources to pass over: 50 are listed at a time"`
	},
	) (books.Why, error) {
		return s.app.WhyOf(ctx, w, in.Client, in.Fact, in.Label, in.Entry, in.No, in.Account, in.From)
	})
	raw(s, "/api/clients/{client}/books/old-new.csv", "old-new", "Books", "Old and new trial balance side by side, as CSV", func(ctx context.Context, w act.Who, in *InClient) (string, string, []byte, error) {
		data, err := s.app.OldNewCSV(ctx, w, in.Client)
		return "old-and-new-trial-balance.csv", "text/csv; charset=utf-8", data, err
	})
}
