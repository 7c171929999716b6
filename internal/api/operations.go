package api

import (
	"context"
	"net/http"

	"coatrack/internal/app/act"
	"coatrack/internal/app/books"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/proofs"

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

func (s *Server) me(ctx context.Context, w act.Who) (Me, error) {
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
	op(s, http.MethodGet, "/api/me", "me", "People", "Who is signed in", 200, func(ctx context.Context, w act.Who, _ *none) (Me, error) { return s.me(ctx, w) })
	op(s, http.MethodDelete, "/api/session", "sign-out", "People", "Sign out", 200, func(ctx context.Context, _ act.Who, _ *none) (done, error) {
		return done{true}, s.sessions.Destroy(ctx)
	})
	op(s, http.MethodDelete, "/api/sessions", "sign-out-everywhere", "People", "End all your sessions", 200, func(ctx context.Context, w act.Who, _ *none) (done, error) {
		if err := s.app.EndSessions(ctx, w); err != nil {
			return done{}, err
		}
		return done{true}, s.sessions.Destroy(ctx)
	})
	op(s, http.MethodPut, "/api/password", "change-password", "People", "Change your password; your other sessions and your tokens end, this session stays", 200, func(ctx context.Context, w act.Who, in *struct {
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
	op(s, http.MethodGet, "/api/tokens", "list-tokens", "People", "Your API tokens", 200, func(ctx context.Context, w act.Who, _ *none) ([]clients.Token, error) { return s.app.Tokens(ctx, w) })
	op(s, http.MethodPost, "/api/tokens", "make-token", "People", "Make an API token; its secret is shown once", 201, func(ctx context.Context, w act.Who, in *struct {
		Body struct {
			Name string `json:"name" maxLength:"80"`
		}
	},
	) (clients.Token, error) {
		return s.app.MakeToken(ctx, w, in.Body.Name)
	})
	op(s, http.MethodDelete, "/api/tokens/{token}", "revoke-token", "People", "Revoke an API token", 200, func(ctx context.Context, w act.Who, in *struct {
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
	op(s, http.MethodGet, "/api/clients/{client}/members", "members", "People", "Who has a role in a client, and what they may see", 200, func(ctx context.Context, w act.Who, in *InClient) ([]clients.Member, error) {
		return s.app.Members(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}/members/{person}", "change-member", "People", "Give a person a role in a client; give or take the rights to see pay and whole tax numbers. The owner's act", 200, func(ctx context.Context, w act.Who, in *struct {
		InMember
		Body clients.MemberChange
	},
	) ([]clients.Member, error) {
		return s.app.ChangeMember(ctx, w, in.Client, in.Person, in.Body)
	})
}

func (s *Server) clientOps() {
	s.memberOps()
	op(s, http.MethodGet, "/api/clients", "board", "Clients", "The firm's board: clients and where each stands", 200, func(ctx context.Context, w act.Who, _ *none) ([]clients.BoardRow, error) { return s.app.Board(ctx, w) })
	op(s, http.MethodPost, "/api/clients", "new-client", "Clients", "Make a client", 201, func(ctx context.Context, w act.Who, in *body[act.Facts]) (act.Client, error) {
		return s.app.NewClient(ctx, w, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}", "client", "Clients", "A client's particulars", 200, func(ctx context.Context, w act.Who, in *InClient) (act.Client, error) {
		return s.app.GetClient(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}", "change-client", "Clients", "Change particulars, against those you saw", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Facts act.Facts `json:"facts"`
			Seen  act.Facts `json:"seen" doc:"the particulars as you saw them"`
		}
	},
	) (act.Client, error) {
		return s.app.ChangeClient(ctx, w, in.Client, in.Body.Facts, in.Body.Seen)
	})
	op(s, http.MethodPost, "/api/clients/{client}/facts-effect", "facts-effect", "Clients", "What changing the particulars would change, before it is made", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body act.Facts
	},
	) (clients.FactsEffect, error) {
		return s.app.FactsEffectOf(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/state", "client-state", "Clients", "Rail and proof strip", 200, func(ctx context.Context, w act.Who, in *InClient) (proofs.State, error) {
		return s.app.GetState(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/history", "history", "Clients", "Who changed what, newest first", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Subject string `query:"subject" doc:"account, batch, label, unit, client or proof"`
		ID      int64  `query:"id"`
		Before  int64  `query:"before" doc:"only lines older than this one"`
	},
	) ([]act.HistoryLine, error) {
		return s.app.History(ctx, w, in.Client, in.Subject, in.ID, in.Before)
	})
	op(s, http.MethodGet, "/api/find", "find", "Clients", "Find clients, and in a client what bears a name, a number or an amount", 200, func(ctx context.Context, w act.Who, in *struct {
		Q      string `query:"q" maxLength:"100"`
		Client int64  `query:"client"`
	},
	) ([]books.Found, error) {
		return s.app.Find(ctx, w, in.Client, in.Q)
	})
	op(s, http.MethodGet, "/api/entity-classes", "entity-classes", "Clients", "Entity classes and the return each decides", 200, func(context.Context, act.Who, *none) (map[string]string, error) { return act.EntityClasses, nil })
}
