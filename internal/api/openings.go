package api

import (
	"context"
	"net/http"
	"strings"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/books"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/longacts"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/outside"
	"coatrack/internal/app/parties"
	"coatrack/internal/app/proofs"
	"coatrack/internal/app/rack"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"
)

func (s *Server) itemOps() {
	op(s, http.MethodGet, "/api/clients/{client}/openings", "openings", "Opening", "Where customers' and vendors' open items and the bank accounts stand", 200, func(ctx context.Context, w act.Who, in *InClient) (openings.Overview, error) {
		return s.app.GetOpenings(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/openings/choice", "choose-for-ledger", "Opening", "Decide about the ledger: cash-items (deferred, accrual), close-year (yes), age-credits (by-date)", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Key   string `json:"key" enum:"cash-items,close-year,age-credits"`
			Value string `json:"value"`
		}
	},
	) (done, error) {
		return done{true}, s.app.ChooseForLedger(ctx, w, in.Client, in.Body.Key, in.Body.Value)
	})
	op(s, http.MethodPost, "/api/clients/{client}/openings/reverse", "reverse-opening", "Opening", "Reverse everything posted for the opening, the latest first", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Note string `json:"note,omitempty" maxLength:"500"`
		}
	},
	) (Count, error) {
		n, err := s.app.ReverseOpening(ctx, w, in.Client, in.Body.Note)
		return Count{n}, err
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/items", "items-draft", "Opening", "What posting a list of open items would do, item by item", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Gone []string `query:"gone,explode" doc:"identities of posted items that are gone and would be reversed"`
	},
	) (openings.ItemsDraft, error) {
		return s.app.GetItemsDraft(ctx, w, in.Client, in.Batch, in.Gone)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/items/post", "post-items", "Opening", "Post a list of open items, or what differs from those posted", 201, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body struct {
			Gone []string `json:"gone,omitempty" maxItems:"20000" doc:"identities of posted items that are gone, to be reversed"`
		}
	},
	) (Posted, error) {
		id, err := s.app.PostItems(ctx, w, in.Client, in.Batch, in.Body.Gone)
		return Posted{id}, err
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/items/mend", "mend-item", "Opening", "Correct one row of a list of open items where its cause is shown; nothing is posted by it", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body clients.Mend
	},
	) (openings.ItemsDraft, error) {
		return s.app.MendItem(ctx, w, in.Client, in.Batch, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/books/aging/{side}", "aging", "Books", "Aging of receivables or payables as of the cutover", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Side string `path:"side" enum:"receivable,payable"`
		AsOf string `query:"as_of" doc:"ISO date; empty is the day before the opening day"`
	},
	) (openings.Aging, error) {
		return s.app.GetAging(ctx, w, in.Client, in.Side, in.AsOf)
	})
	op(s, http.MethodGet, "/api/clients/{client}/parties", "parties", "Parties", "Customers and vendors with what is open", 200, func(ctx context.Context, w act.Who, in *InClient) ([]parties.Party, error) {
		return s.app.Parties(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/parties", "new-party", "Parties", "Make a customer or vendor", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body parties.PartyFacts
	},
	) (parties.Party, error) {
		return s.app.AddParty(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPut, "/api/clients/{client}/parties/{party}", "change-party", "Parties", "Change a customer or vendor at the version you saw", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Party int64 `path:"party"`
		Body  struct {
			Version int64              `json:"version"`
			Party   parties.PartyFacts `json:"party"`
		}
	},
	) (parties.Party, error) {
		return s.app.ChangeParty(ctx, w, in.Client, in.Party, in.Body.Version, in.Body.Party)
	})
	op(s, http.MethodGet, "/api/clients/{client}/parties/{party}/merge", "party-merge", "Parties", "What joining a customer or vendor into another would do", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Party int64 `path:"party" doc:"who goes"`
		Into  int64 `query:"into" doc:"who stays"`
	},
	) (parties.PartyMerge, error) {
		return s.app.GetPartyMerge(ctx, w, in.Client, in.Party, in.Into)
	})
	op(s, http.MethodPost, "/api/clients/{client}/parties/{party}/merge", "merge-parties", "Parties", "Join a customer or vendor into another: names, outside ids and payments are of who stays", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Party int64 `path:"party" doc:"who goes"`
		Body  struct {
			Into int64 `json:"into" doc:"who stays"`
		}
	},
	) (parties.PartyMerge, error) {
		return s.app.MergeParties(ctx, w, in.Client, in.Party, in.Body.Into)
	})
	op(s, http.MethodPost, "/api/clients/{client}/parties/{party}/revive", "revive-party", "Parties", "Make a customer or vendor that was joined into another one of its own again", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Party int64 `path:"party"`
	},
	) (done, error) {
		return done{true}, s.app.ReviveParty(ctx, w, in.Client, in.Party)
	})
	op(s, http.MethodGet, "/api/clients/{client}/parties/{party}/items", "party-items", "Parties", "Open items of a customer or vendor", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Party int64 `path:"party"`
	},
	) (books.PartyRegister, error) {
		return s.app.GetPartyRegister(ctx, w, in.Client, in.Party)
	})
	op(s, http.MethodGet, "/api/clients/{client}/party-needs", "party-needs", "Parties", "Outside customers and vendors of the lists taken in, with who each is here", 200, func(ctx context.Context, w act.Who, in *InClient) ([]parties.PartyNeed, error) {
		return s.app.PartyNeeds(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/party-needs", "settle-parties", "Parties", "Settle who outside customers and vendors are", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body parties.PartyChoice
	},
	) ([]parties.PartyNeed, error) {
		return s.app.BindParties(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/party-comparison", "compare-parties", "Files", "What taking a list of customers or vendors in would add and change", 200, func(ctx context.Context, w act.Who, in *InBatch) (parties.PartyComparison, error) {
		return s.app.CompareParties(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/crosswalk", "compare-crosswalk", "Files", "What taking a crosswalk in would set", 200, func(ctx context.Context, w act.Who, in *InBatch) ([]rack.CrosswalkLine, error) {
		return s.app.CompareCrosswalk(ctx, w, in.Client, in.Batch)
	})
	s.bankOps()
	s.connectOps()
	s.longOps()
	op(s, http.MethodGet, "/api/clients/{client}/sign-off", "sign-off-state", "Opening", "Whether the opening is signed off, and what stands in the way", 200, func(ctx context.Context, w act.Who, in *InClient) (proofs.SignOff, error) {
		return s.app.GetSignOff(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/sign-off", "sign-off", "Opening", "Sign the opening off; it locks through the day before the opening day", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Note string `json:"note,omitempty" maxLength:"500"`
		}
	},
	) (proofs.SignOff, error) {
		return s.app.SignOpening(ctx, w, in.Client, in.Body.Note)
	})
	op(s, http.MethodPost, "/api/clients/{client}/sign-off/unlock", "unlock", "Opening", "Unlock what was signed off, with a reason; for a reviewer or the owner", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Reason string `json:"reason" minLength:"1" maxLength:"500"`
		}
	},
	) (proofs.SignOff, error) {
		return s.app.UnlockOpening(ctx, w, in.Client, in.Body.Reason)
	})
}

func (s *Server) bankOps() {
	op(s, http.MethodPut, "/api/clients/{client}/banks/{account}/statement", "say-balance", "Opening", "Type the balance that a bank's statement shows", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		Body    struct {
			Day     string       `json:"day,omitempty" doc:"ISO; empty is the day before the opening day"`
			Balance money.Amount `json:"balance"`
		}
	},
	) ([]openings.Bank, error) {
		return s.app.SetBankBalance(ctx, w, in.Client, in.Account, in.Body.Day, in.Body.Balance)
	})
	op(s, http.MethodPost, "/api/clients/{client}/banks/{account}/uncleared", "add-uncleared", "Opening", "Keep an uncleared check or a deposit in transit; it posts nothing", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Account int64 `path:"account"`
		Body    openings.NewUncleared
	},
	) ([]openings.Bank, error) {
		return s.app.AddUncleared(ctx, w, in.Client, in.Account, in.Body)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/uncleared/{item}", "remove-uncleared", "Opening", "Take an uncleared item off the list", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Item int64 `path:"item"`
	},
	) ([]openings.Bank, error) {
		return s.app.RemoveUncleared(ctx, w, in.Client, in.Item)
	})
}

// Count is how many things an act touched.
type Count struct {
	Count int `json:"count"`
}

func (s *Server) longOps() {
	op(s, http.MethodPost, "/api/clients/{client}/acts", "begin-act", "Long acts", "Ask for an act that runs behind: post-items, take-in, take-back-opening", 202, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Act  string            `json:"act" enum:"post-items,take-in,take-back-opening"`
			Args longacts.LongArgs `json:"args"`
		}
	},
	) (longacts.LongAct, error) {
		return s.app.BeginLong(ctx, w, in.Client, in.Body.Act, in.Body.Args)
	})
	op(s, http.MethodGet, "/api/clients/{client}/acts/{act}", "act", "Long acts", "How far a long act is", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Act int64 `path:"act"`
	},
	) (longacts.LongAct, error) {
		return s.app.GetLong(ctx, w, in.Client, in.Act)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/acts/{act}", "cancel-act", "Long acts", "Cancel a long act; nothing of it stays", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Act int64 `path:"act"`
	},
	) (longacts.LongAct, error) {
		return s.app.CancelLong(ctx, w, in.Client, in.Act)
	})
}

func (s *Server) connectOps() {
	op(s, http.MethodGet, "/api/outside-ledgers", "outside-ledgers", "Connections", "Addresses of outside ledgers that the operator allowed", 200, func(_ context.Context, _ act.Who, _ *none) ([]string, error) {
		return s.app.LedgerAddresses(), nil
	})
	op(s, http.MethodGet, "/api/clients/{client}/connections", "connections", "Connections", "Connected ledgers with their consent", 200, func(ctx context.Context, w act.Who, in *InClient) ([]outside.Connection, error) {
		return s.app.Connections(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/connections/look", "look-at-ledger", "Connections", "An outside company beside the client; nothing is kept", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Address string `query:"address" maxLength:"300"`
	},
	) (outside.Look, error) {
		return s.app.LookAtLedger(ctx, w, in.Client, in.Address)
	})
	op(s, http.MethodPost, "/api/clients/{client}/connections", "connect", "Connections", "Connect an outside ledger, with consent until a day", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Address string `json:"address"`
			Company string `json:"company_id" doc:"the company you looked at"`
			Until   string `json:"until" format:"date"`
			Sure    bool   `json:"sure,omitempty" doc:"connect though it does not agree with the client"`
		}
	},
	) (outside.Connection, error) {
		return s.app.Connect(ctx, w, in.Client, in.Body.Address, in.Body.Company, in.Body.Until, in.Body.Sure)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/connections/{connection}", "disconnect", "Connections", "Withdraw the consent; what came in stays", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Connection int64 `path:"connection"`
	},
	) (done, error) {
		return done{true}, s.app.Disconnect(ctx, w, in.Client, in.Connection)
	})
	op(s, http.MethodPost, "/api/clients/{client}/connections/{connection}/chart", "pull-chart", "Connections", "Read the connected ledger's accounts onto the sheet", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Connection int64 `path:"connection"`
	},
	) (sheet.Batch, error) {
		return s.app.PullChart(ctx, w, in.Client, in.Connection)
	})
}

func (s *Server) tidyOps() {
	op(s, http.MethodGet, "/api/clients/{client}/roles", "roles", "Chart", "Roles the client needs, who holds them and who could", 200, func(ctx context.Context, w act.Who, in *InClient) ([]clients.RoleLine, error) {
		return s.app.Roles(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}/roles", "give-roles", "Chart", "Give roles to accounts, or make accounts for them, in one act", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Roles []clients.RoleGift `json:"roles" minItems:"1" maxItems:"60"`
		}
	},
	) ([]clients.RoleLine, error) {
		return s.app.GiveRoles(ctx, w, in.Client, in.Body.Roles)
	})
	op(s, http.MethodGet, "/api/clients/{client}/starters", "starters", "Chart", "Starter charts", 200, func(ctx context.Context, w act.Who, in *InClient) ([]clients.StarterChart, error) {
		return s.app.Starters(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/starters/{key}", "bring-starter", "Chart", "Put a starter chart on the sheet", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Key string `path:"key"`
	},
	) (sheet.Batch, error) {
		return s.app.BringStarter(ctx, w, in.Client, in.Key)
	})
	op(s, http.MethodGet, "/api/clients/{client}/accounts/{account}/uses", "account-uses", "Chart", "What still uses an account", 200, func(ctx context.Context, w act.Who, in *InAccount) (clients.Uses, error) {
		return s.app.UsesOf(ctx, w, in.Client, in.Account)
	})
	op(s, http.MethodPost, "/api/clients/{client}/accounts/{account}/merge", "merge-account", "Chart", "Merge an account into another; posted entries stay", 200, func(ctx context.Context, w act.Who, in *struct {
		InAccount
		Body struct {
			Into int64 `json:"into"`
		}
	},
	) (accounts.Chart, error) {
		return s.app.Merge(ctx, w, in.Client, in.Account, in.Body.Into)
	})
	op(s, http.MethodPost, "/api/clients/{client}/accounts/{account}/move", "move-account", "Chart", "Move an account under another parent, or to the top", 200, func(ctx context.Context, w act.Who, in *struct {
		InAccount
		Body struct {
			Parent int64 `json:"parent" doc:"0 is the top"`
		}
	},
	) (accounts.Chart, error) {
		return s.app.MoveAccount(ctx, w, in.Client, in.Account, in.Body.Parent)
	})
	op(s, http.MethodPost, "/api/clients/{client}/accounts/{account}/pin", "pin-account", "Chart", "Pin an account to the top of pickers, or hide it from those of some sources", 200, func(ctx context.Context, w act.Who, in *struct {
		InAccount
		Body struct {
			Pinned bool     `json:"pinned"`
			Hidden []string `json:"hidden_from,omitempty"`
		}
	},
	) (done, error) {
		return done{true}, s.app.PinAccount(ctx, w, in.Client, in.Account, in.Body.Pinned, in.Body.Hidden)
	})
	op(s, http.MethodPost, "/api/clients/{client}/renumber", "renumber", "Chart", "New numbers for a range: shown, or with apply done", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body clients.Renumbering
	},
	) ([]clients.Renumbered, error) {
		return s.app.Renumber(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/kits", "kits", "Rack", "Kits of the firm, and which are laid over this client", 200, func(ctx context.Context, w act.Who, in *InClient) ([]rack.Kit, error) {
		return s.app.Kits(ctx, w, in.Client)
	})
	op(s, http.MethodPost, "/api/clients/{client}/kits", "save-kit", "Rack", "Save the client's choices as a kit of the firm", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Name string `json:"name" minLength:"1" maxLength:"120"`
		}
	},
	) ([]rack.Kit, error) {
		return s.app.SaveKit(ctx, w, in.Client, in.Body.Name)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/kits/{kit}", "drop-kit", "Rack", "Delete a kit that is laid over no client", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Kit int64 `path:"kit"`
	},
	) ([]rack.Kit, error) {
		return s.app.DropKit(ctx, w, in.Client, in.Kit)
	})
	op(s, http.MethodPost, "/api/clients/{client}/kits/{kit}/lay", "lay-kit", "Rack", "Lay a kit over the client's labels as suggestions, or take it off", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Kit  int64 `path:"kit"`
		Body struct {
			On bool `json:"on"`
		}
	},
	) ([]rack.Kit, error) {
		return s.app.LayKit(ctx, w, in.Client, in.Kit, in.Body.On)
	})
	raw(s, "/api/clients/{client}/crosswalk.csv", "crosswalk", "Rack", "The mapping of accounts, or of customers or vendors, as a table of old and new that can be imported again", func(ctx context.Context, w act.Who, in *struct {
		InClient
		Of string `query:"of" enum:"accounts,customers,vendors" default:"accounts"`
	},
	) (string, string, []byte, error) {
		if in.Of != "accounts" {
			data, err := s.app.PartyCrosswalkCSV(ctx, w, in.Client, strings.TrimSuffix(in.Of, "s"))
			return "crosswalk-" + in.Of + ".csv", "text/csv; charset=utf-8", data, err
		}
		data, err := s.app.CrosswalkCSV(ctx, w, in.Client)
		return "crosswalk.csv", "text/csv; charset=utf-8", data, err
	})
}

// InAccount is the address of an account.
type InAccount struct {
	InClient
	Account int64 `path:"account" doc:"id of the account"`
}
