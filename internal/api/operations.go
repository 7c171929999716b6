package api

import (
	"context"
	"net/http"
	"time"

	"coatrack/internal/app"
	"coatrack/internal/core/money"
	"coatrack/internal/core/opening"

	"github.com/danielgtaylor/huma/v2"
)

// Me is the person who is signed in.
type Me struct {
	ID       int64  `json:"id"`
	Name     string `json:"name"`
	Initials string `json:"initials"`
	Email    string `json:"email"`
	Role     string `json:"role"`
	Firm     string `json:"firm"`
	People   int    `json:"people" doc:"people of the firm"`
}

func (s *Server) me(ctx context.Context, w app.Who) (Me, error) {
	firm, people, err := s.app.FirmOf(ctx, w)
	p := w.Person
	return Me{p.ID, p.Name, p.Initials, p.Email, p.Role, firm, people}, err
}

func (s *Server) signInOps() {
	huma.Register(s.api, huma.Operation{
		OperationID: "sign-in", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in with e-mail and password", Tags: []string{"People"}, Errors: []int{401, 422, 429}, MaxBodyBytes: 16 << 10,
	}, func(ctx context.Context, in *struct {
		Body struct {
			Email    string `json:"email" maxLength:"200"`
			Password string `json:"password" maxLength:"200"`
		}
	},
	) (*body[Me], error) {
		w, err := s.app.SignIn(ctx, in.Body.Email, in.Body.Password)
		if err != nil {
			return nil, problem(ctx, err)
		}
		if err := s.sessions.RenewToken(ctx); err != nil {
			return nil, problem(ctx, err)
		}
		s.sessions.Put(ctx, "person", w.Person.ID)
		s.sessions.Put(ctx, "mark", passwordMark(w))
		me, err := s.me(ctx, w)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[Me]{me}, nil
	})
	op(s, http.MethodGet, "/api/me", "me", "People", "Who is signed in", 200, func(ctx context.Context, w app.Who, _ *none) (Me, error) { return s.me(ctx, w) })
	op(s, http.MethodDelete, "/api/session", "sign-out", "People", "Sign out", 200, func(ctx context.Context, _ app.Who, _ *none) (done, error) {
		return done{true}, s.sessions.Destroy(ctx)
	})
	op(s, http.MethodDelete, "/api/sessions", "sign-out-everywhere", "People", "End all your sessions", 200, func(ctx context.Context, w app.Who, _ *none) (done, error) {
		if err := s.app.EndSessions(ctx, w); err != nil {
			return done{}, err
		}
		return done{true}, s.sessions.Destroy(ctx)
	})
	op(s, http.MethodPut, "/api/password", "change-password", "People", "Change your password; your other sessions and your tokens end, this session stays", 200, func(ctx context.Context, w app.Who, in *struct {
		Body struct {
			Old string `json:"old" maxLength:"200"`
			New string `json:"new" maxLength:"200"`
		}
	},
	) (done, error) {
		if err := s.app.ChangePassword(ctx, w, in.Body.Old, in.Body.New); err != nil {
			return done{}, err
		}
		if s.sessions.GetInt64(ctx, "person") != w.Person.ID {
			return done{true}, nil // asked with a token
		}
		now, err := s.app.PersonByID(ctx, w.Person.ID)
		if err != nil {
			return done{}, err
		}
		if err := s.sessions.RenewToken(ctx); err != nil {
			return done{}, err
		}
		s.sessions.Put(ctx, "mark", passwordMark(now))
		return done{true}, nil
	})
	op(s, http.MethodGet, "/api/tokens", "list-tokens", "People", "Your API tokens", 200, func(ctx context.Context, w app.Who, _ *none) ([]app.Token, error) { return s.app.Tokens(ctx, w) })
	op(s, http.MethodPost, "/api/tokens", "make-token", "People", "Make an API token; its secret is shown once", 201, func(ctx context.Context, w app.Who, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"80"`
		}
	},
	) (app.Token, error) {
		return s.app.MakeToken(ctx, w, in.Body.Name)
	})
	op(s, http.MethodDelete, "/api/tokens/{token}", "revoke-token", "People", "Revoke an API token", 200, func(ctx context.Context, w app.Who, in *struct {
		Token int64 `path:"token"`
	},
	) (done, error) {
		return done{true}, s.app.RevokeToken(ctx, w, in.Token)
	})
}

// InMember is the address of a person in a client.
type InMember struct {
	InClient
	Person int64 `path:"person"`
}

func (s *Server) memberOps() {
	op(s, http.MethodGet, "/api/clients/{client}/members", "members", "People", "Who has a role in a client, and what they may see", 200, func(ctx context.Context, w app.Who, in *InClient) ([]app.Member, error) {
		return s.app.Members(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}/members/{person}", "change-member", "People", "Give a person a role in a client; give or take the rights to see pay and whole tax numbers. The owner's act", 200, func(ctx context.Context, w app.Who, in *struct {
		InMember
		Body app.MemberChange
	},
	) ([]app.Member, error) {
		return s.app.ChangeMember(ctx, w, in.Client, in.Person, in.Body)
	})
}

func (s *Server) clientOps() {
	s.memberOps()
	op(s, http.MethodGet, "/api/clients", "board", "Clients", "The firm's board: clients and where each stands", 200, func(ctx context.Context, w app.Who, _ *none) ([]app.BoardRow, error) { return s.app.Board(ctx, w) })
	op(s, http.MethodPost, "/api/clients", "new-client", "Clients", "Make a client", 201, func(ctx context.Context, w app.Who, in *body[app.Facts]) (app.Client, error) {
		return s.app.NewClient(ctx, w, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}", "client", "Clients", "A client's particulars", 200, func(ctx context.Context, w app.Who, in *InClient) (app.Client, error) {
		return s.app.GetClient(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}", "change-client", "Clients", "Change particulars, against those you saw", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body struct {
			Facts app.Facts `json:"facts"`
			Seen  app.Facts `json:"seen" doc:"the particulars as you saw them"`
		}
	},
	) (app.Client, error) {
		return s.app.ChangeClient(ctx, w, in.Client, in.Body.Facts, in.Body.Seen)
	})
	op(s, http.MethodPost, "/api/clients/{client}/facts-effect", "facts-effect", "Clients", "What changing the particulars would change, before it is made", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body app.Facts
	},
	) (app.FactsEffect, error) {
		return s.app.FactsEffectOf(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/state", "client-state", "Clients", "Rail and proof strip", 200, func(ctx context.Context, w app.Who, in *InClient) (app.State, error) {
		return s.app.GetState(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/history", "history", "Clients", "Who changed what, newest first", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Subject string `query:"subject" doc:"account, batch, label, unit, client or proof"`
		ID      int64  `query:"id"`
		Before  int64  `query:"before" doc:"only lines older than this one"`
	},
	) ([]app.HistoryLine, error) {
		return s.app.History(ctx, w, in.Client, in.Subject, in.ID, in.Before)
	})
	op(s, http.MethodGet, "/api/find", "find", "Clients", "Find clients, and in a client what bears a name, a number or an amount", 200, func(ctx context.Context, w app.Who, in *struct {
		Q      string `query:"q" maxLength:"100"`
		Client int64  `query:"client"`
	},
	) ([]app.Found, error) {
		return s.app.Find(ctx, w, in.Client, in.Q)
	})
	op(s, http.MethodGet, "/api/entity-classes", "entity-classes", "Clients", "Entity classes and the return each decides", 200, func(context.Context, app.Who, *none) (map[string]string, error) { return app.EntityClasses, nil })
}

type upload struct {
	InClient
	Purpose string `query:"as" enum:"auto,chart,trial-balance,parties,open-invoices,open-bills,bank-uncleared,statement,crosswalk,payroll-register,payroll-to-date,pay-bill,vendor-payments,prior-payments,payroll-forms" doc:"what the file is; auto is told by the file"`
	Place   string `query:"place" enum:"chart,trial-balance,parties,open-invoices,open-bills,bank-uncleared,statement,crosswalk,payroll-register,payroll-to-date,pay-bill,vendor-payments,prior-payments,payroll-forms" doc:"with auto: what is usually imported where it was dropped; taken where the file does not say"`
	Source  string `query:"source" doc:"the source it comes from; empty is the usual one: payroll from where the last came, else the old ledger" maxLength:"80"`
	Name    string `query:"name" doc:"its file name" maxLength:"200"`
	RawBody []byte `contentType:"application/octet-stream"`
}

func (s *Server) batchOps() {
	huma.Register(s.api, huma.Operation{
		OperationID: "bring-file", Method: http.MethodPost, Path: "/api/clients/{client}/batches", Summary: "Bring a file: its bytes are the body; it waits on the sheet", Tags: []string{"Files"}, DefaultStatus: 201,
		Security: []map[string][]string{{"token": {}}, {"session": {}}}, MaxBodyBytes: 101 << 20, BodyReadTimeout: 10 * time.Minute, Errors: []int{401, 404, 409, 422},
	}, func(ctx context.Context, in *upload) (*body[app.Batch], error) {
		name := in.Name
		if name == "" {
			name = "pasted rows"
		}
		b, err := s.app.Receive(ctx, who(ctx), in.Client, app.BroughtAs(in.Purpose, in.Place), in.Source, name, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[app.Batch]{b}, nil
	})
	s.takesNoBytes("/api/clients/{client}/batches")
	op(s, http.MethodGet, "/api/clients/{client}/batches", "files", "Files", "Files of the client, newest first", 200, func(ctx context.Context, w app.Who, in *InClient) ([]app.Batch, error) {
		return s.app.Batches(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}", "file", "Files", "A file with its reading", 200, func(ctx context.Context, w app.Who, in *InBatch) (app.Batch, error) {
		return s.app.GetBatch(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/rows", "file-rows", "Files", "Records of the file as they stand in the grid", 200, func(ctx context.Context, w app.Who, in *struct {
		InBatch
		From int `query:"from" default:"1" minimum:"1"`
		N    int `query:"n" default:"200" minimum:"1" maximum:"1000"`
	},
	) ([]app.GridRow, error) {
		return s.app.Grid(ctx, w, in.Client, in.Batch, in.From, in.N)
	})
	op(s, http.MethodPatch, "/api/clients/{client}/batches/{batch}/reading", "change-reading", "Files", "Change settings and corrections; the reading follows at once", 200, func(ctx context.Context, w app.Who, in *struct {
		InBatch
		Body app.Change
	},
	) (app.Batch, error) {
		return s.app.ChangeReading(ctx, w, in.Client, in.Batch, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/confirm", "confirm-finding", "Files", "Let a held finding stand", 200, func(ctx context.Context, w app.Who, in *struct {
		InBatch
		Body struct {
			Code string `json:"code"`
			Off  bool   `json:"off,omitempty" doc:"undo that the finding was confirmed"`
		}
	},
	) (app.Batch, error) {
		return s.app.Confirm(ctx, w, in.Client, in.Batch, in.Body.Code, in.Body.Off)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/take-in", "take-in", "Files", "Take the file in; its reading is frozen, nothing is posted", 200, func(ctx context.Context, w app.Who, in *struct {
		InBatch
		Body app.Taking
	},
	) (app.Batch, error) {
		return s.app.TakeIn(ctx, w, in.Client, in.Batch, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/put-back", "put-back", "Files", "Put a file back on the sheet while nothing of it is posted", 200, func(ctx context.Context, w app.Who, in *InBatch) (app.Batch, error) {
		return s.app.PutBack(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/set-aside", "set-aside", "Files", "Set a file aside, or destroy one that was never posted", 200, func(ctx context.Context, w app.Who, in *struct {
		InBatch
		Body struct {
			Destroy bool `json:"destroy,omitempty"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetAside(ctx, w, in.Client, in.Batch, in.Body.Destroy)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/suspects", "suspects", "Files", "Likely causes why a trial balance does not add up", 200, func(ctx context.Context, w app.Who, in *InBatch) ([]opening.Suspect, error) {
		return s.app.BatchSuspects(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/comparison", "compare-chart", "Files", "What taking a chart in would add, change and miss", 200, func(ctx context.Context, w app.Who, in *InBatch) (app.Comparison, error) {
		return s.app.CompareChart(ctx, w, in.Client, in.Batch)
	})
	s.paperOps()
	raw(s, "/api/clients/{client}/batches/{batch}/original", "original", "Files", "The file as it came", func(ctx context.Context, w app.Who, in *InBatch) (string, string, []byte, error) {
		name, data, err := s.app.Original(ctx, w, in.Client, in.Batch)
		return name, "application/octet-stream", data, err
	})
}

type rawOut struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// raw registers a download.
func raw[I any](s *Server, path, id, tag, summary string, fn func(context.Context, app.Who, *I) (name, kind string, data []byte, err error)) {
	huma.Register(s.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Tags: []string{tag}, Security: []map[string][]string{{"token": {}}, {"session": {}}}, Errors: []int{401, 404}},
		func(ctx context.Context, in *I) (*rawOut, error) {
			name, kind, data, err := fn(ctx, who(ctx), in)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &rawOut{kind, attachment(name), data}, nil
		})
}

func (s *Server) chartOps() {
	op(s, http.MethodGet, "/api/clients/{client}/chart", "chart", "Chart", "The chart as a tree in reading order, with findings", 200, func(ctx context.Context, w app.Who, in *InClient) (app.Chart, error) {
		return s.app.GetChart(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/accounts", "new-account", "Chart", "Make an account", 201, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body app.AccountFacts
	},
	) (app.Account, error) {
		return s.app.AddAccount(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPut, "/api/clients/{client}/accounts/{account}", "change-account", "Chart", "Change an account at the version you saw", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		Body    struct {
			Version int64            `json:"version"`
			Account app.AccountFacts `json:"account"`
			Reason  string           `json:"reason,omitempty"`
		}
	},
	) (app.Account, error) {
		return s.app.ChangeAccount(ctx, w, in.Client, in.Account, in.Body.Version, in.Body.Account, in.Body.Reason)
	})
	op(s, http.MethodGet, "/api/clients/{client}/propose-account", "propose-account", "Chart", "An account prefilled from typed text", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Text string `query:"text" maxLength:"200"`
		Kind string `query:"kind"`
	},
	) (app.Account, error) {
		return s.app.ProposeAccount(ctx, w, in.Client, in.Text, in.Kind)
	})
	op(s, http.MethodPost, "/api/clients/{client}/roles", "create-roles", "Chart", "Make accounts for roles nobody holds", 201, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body struct {
			Roles []string `json:"roles" minItems:"1"`
		}
	},
	) (app.Chart, error) {
		return s.app.CreateRoles(ctx, w, in.Client, in.Body.Roles)
	})
}

func (s *Server) rackOps() {
	op(s, http.MethodGet, "/api/clients/{client}/rack", "rack", "Rack", "Old accounts with state, target and evidence", 200, func(ctx context.Context, w app.Who, in *InClient) (app.Rack, error) {
		return s.app.GetRack(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/choices", "choose", "Rack", "Bind labels to an account, leave them out, take back, mark for revisit", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body app.Choice
	},
	) (app.Rack, error) {
		return s.app.Bind(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/accept", "accept-suggestions", "Rack", "Set suggestions at or above a confidence", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body struct {
			LabelIDs []int64 `json:"label_ids" maxItems:"20000"`
			Above    float64 `json:"above" minimum:"0" maximum:"1"`
		}
	},
	) (app.Rack, error) {
		return s.app.Accept(ctx, w, in.Client, in.Body.LabelIDs, in.Body.Above)
	})
	op(s, http.MethodGet, "/api/clients/{client}/rack/{label}/targets", "pick-target", "Rack", "Targets for a label and typed text", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Label int64  `path:"label"`
		Text  string `query:"text" maxLength:"200"`
	},
	) (app.Pick, error) {
		return s.app.PickTarget(ctx, w, in.Client, in.Label, in.Text)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/effect", "effect", "Rack", "What a change of a mapping would move", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Body struct {
			LabelIDs  []int64 `json:"label_ids" minItems:"1" maxItems:"20000"`
			AccountID int64   `json:"account_id,omitempty"`
		}
	},
	) (app.Effect, error) {
		return s.app.EffectOf(ctx, w, in.Client, in.Body.LabelIDs, in.Body.AccountID)
	})
}

// Posted names a posted unit.
type Posted struct {
	Unit int64 `json:"unit"`
}

func (s *Server) openingOps() {
	op(s, http.MethodGet, "/api/clients/{client}/opening", "opening", "Opening", "The opening entry as it would be posted", 200, func(ctx context.Context, w app.Who, in *InClient) (app.Draft, error) {
		return s.app.GetDraft(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/opening/post", "post-opening", "Opening", "Post the opening entry", 201, func(ctx context.Context, w app.Who, in *InClient) (Posted, error) {
		id, err := s.app.PostOpening(ctx, w, in.Client)
		return Posted{id}, err
	})
	op(s, http.MethodGet, "/api/clients/{client}/units", "just-posted", "Books", "Posted batches, newest first", 200, func(ctx context.Context, w app.Who, in *InClient) ([]app.UnitLine, error) {
		return s.app.JustPosted(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/units/{unit}", "unit", "Books", "A posted batch with what it moved per account", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Unit int64 `path:"unit"`
	},
	) (app.UnitLine, error) {
		return s.app.GetUnit(ctx, w, in.Client, in.Unit)
	})
	op(s, http.MethodPost, "/api/clients/{client}/units/{unit}/take-back", "take-back", "Books", "Take a posted batch back as one, by reversal", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Unit int64 `path:"unit"`
		Body struct {
			Note string `json:"note,omitempty" maxLength:"500"`
		}
	},
	) (done, error) {
		return done{true}, s.app.TakeBack(ctx, w, in.Client, in.Unit, in.Body.Note)
	})
	op(s, http.MethodGet, "/api/clients/{client}/proofs", "proofs", "Proof", "All proofs, those that do not hold first", 200, func(ctx context.Context, w app.Who, in *InClient) ([]app.ProofLine, error) {
		return s.app.Proofs(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/proofs/{proof}/accept", "accept-proof", "Proof", "Let a difference stand, for the figures as they are", 200, func(ctx context.Context, w app.Who, in *struct {
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
	op(s, http.MethodDelete, "/api/clients/{client}/proofs/{proof}/accept", "withdraw-acceptance", "Proof", "Withdraw that a difference was accepted", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Proof string `path:"proof"`
	},
	) (done, error) {
		return done{true}, s.app.WithdrawAcceptance(ctx, w, in.Client, in.Proof)
	})
}

func (s *Server) bookOps() {
	op(s, http.MethodGet, "/api/clients/{client}/books/trial-balance", "trial-balance", "Books", "The ledger's trial balance", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		AsOf string `query:"as_of" doc:"ISO date; empty is all that is posted"`
	},
	) (app.TrialBalance, error) {
		return s.app.GetTrialBalance(ctx, w, in.Client, in.AsOf)
	})
	op(s, http.MethodGet, "/api/clients/{client}/books/{statement}", "statement", "Books", "Balance sheet or income statement, before | after", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Statement string `path:"statement" enum:"balance-sheet,income-statement"`
		AsOf      string `query:"as_of"`
		Before    string `query:"before" doc:"old, nothing, or an ISO date"`
	},
	) (app.Statement, error) {
		return s.app.GetStatement(ctx, w, in.Client, in.Statement, in.AsOf, in.Before)
	})
	op(s, http.MethodGet, "/api/clients/{client}/books/register/{account}", "register", "Books", "Register of an account; reversed pairs folded unless asked", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		All     bool  `query:"all"`
	},
	) (app.Register, error) {
		return s.app.GetRegister(ctx, w, in.Client, in.Account, in.All)
	})
	op(s, http.MethodGet, "/api/clients/{client}/why", "why", "Books", "Where a figure came from, down to file, row and raw text", 200, func(ctx context.Context, w app.Who, in *struct {
		InClient
		Fact    int64 `query:"fact"`
		Label   int64 `query:"label"`
		Entry   int64 `query:"entry"`
		No      int   `query:"no" minimum:"0" maximum:"10000000"`
		Account int64 `query:"account"`
		From    int   `query:"from" minimum:"0" maximum:"10000000" doc:"sources to pass over: 50 are listed at a time"`
	},
	) (app.Why, error) {
		return s.app.WhyOf(ctx, w, in.Client, in.Fact, in.Label, in.Entry, in.No, in.Account, in.From)
	})
	raw(s, "/api/clients/{client}/books/old-new.csv", "old-new", "Books", "Old and new trial balance side by side, as CSV", func(ctx context.Context, w app.Who, in *InClient) (string, string, []byte, error) {
		data, err := s.app.OldNewCSV(ctx, w, in.Client)
		return "old-and-new-trial-balance.csv", "text/csv; charset=utf-8", data, err
	})
}
