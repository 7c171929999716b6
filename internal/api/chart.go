package api

import (
	"context"
	"net/http"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/rack"
)

func (s *Server) chartOps() {
	op(s, http.MethodGet, "/api/clients/{client}/chart", "chart", "Chart", "The chart as a tree in reading order, with findings", 200, func(ctx context.Context, w act.Who, in *InClient) (accounts.Chart, error) {
		return s.app.GetChart(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/accounts", "new-account", "Chart", "Make an account", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body accounts.AccountFacts
	},
	) (accounts.Account, error) {
		return s.app.AddAccount(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPut, "/api/clients/{client}/accounts/{account}", "change-account", "Chart", "Change an account at the version you saw", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		Body    struct {
			Version int64                 `json:"version"`
			Account accounts.AccountFacts `json:"account"`
			Reason  string                `json:"reason,omitempty"`
		}
	},
	) (accounts.Account, error) {
		return s.app.ChangeAccount(ctx, w, in.Client, in.Account, in.Body.Version, in.Body.Account, in.Body.Reason)
	})
	op(s, http.MethodGet, "/api/clients/{client}/propose-account", "propose-account", "Chart", "An account prefilled from typed text", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Text string `query:"text" maxLength:"200"`
		Kind string `query:"kind"`
	},
	) (accounts.Account, error) {
		return s.app.ProposeAccount(ctx, w, in.Client, in.Text, in.Kind)
	})
	op(s, http.MethodPost, "/api/clients/{client}/roles", "create-roles", "Chart", "Make accounts for roles nobody holds", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Roles []string `json:"roles" minItems:"1"`
		}
	},
	) (accounts.Chart, error) {
		return s.app.CreateRoles(ctx, w, in.Client, in.Body.Roles)
	})
}

func (s *Server) rackOps() {
	op(s, http.MethodGet, "/api/clients/{client}/rack", "rack", "Rack", "Old accounts with state, target and evidence", 200, func(ctx context.Context, w act.Who, in *InClient) (rack.Rack, error) {
		return s.app.GetRack(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/choices", "choose", "Rack", "Bind labels to an account, leave them out, take back, mark for revisit", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body rack.Choice
	},
	) (rack.Rack, error) {
		return s.app.Bind(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/accept", "accept-suggestions", "Rack", "Set suggestions at or above a confidence", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			LabelIDs []int64 `json:"label_ids" maxItems:"20000"`
			Above    float64 `json:"above" minimum:"0" maximum:"1"`
		}
	},
	) (rack.Rack, error) {
		return s.app.Accept(ctx, w, in.Client, in.Body.LabelIDs, in.Body.Above)
	})
	op(s, http.MethodGet, "/api/clients/{client}/rack/{label}/targets", "pick-target", "Rack", "Targets for a label and typed text", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Label int64  `path:"label"`
		Text  string `query:"text" maxLength:"200"`
	},
	) (rack.Pick, error) {
		return s.app.PickTarget(ctx, w, in.Client, in.Label, in.Text)
	})
	op(s, http.MethodPost, "/api/clients/{client}/rack/effect", "effect", "Rack", "What a change of a mapping would move", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			LabelIDs  []int64 `json:"label_ids" minItems:"1" maxItems:"20000"`
			AccountID int64   `json:"account_id,omitempty"`
		}
	},
	) (rack.Effect, error) {
		return s.app.EffectOf(ctx, w, in.Client, in.Body.LabelIDs, in.Body.AccountID)
	})
}

// Posted names a posted unit.
type Posted struct {
	Unit int64 `json:"unit"`
}
