package api

import (
	"context"
	"net/http"

	"coatrack/internal/app/act"
	"coatrack/internal/app/payroll"
	"coatrack/internal/app/sheet"
)

func (s *Server) payrollOps() {
	op(s, http.MethodGet, "/api/clients/{client}/payroll", "payroll", "Payroll", "Runs, items and settings of a client's payroll", 200, func(ctx context.Context, w act.Who, in *InClient) (payroll.Payroll, error) {
		return s.app.GetPayroll(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/runs/{run}", "payroll-run", "Payroll", "A run: report, ledger, difference, ties, draws, entries", 200, func(ctx context.Context, w act.Who, in *InRun) (payroll.RunView, error) {
		return s.app.GetRun(ctx, w, in.Client, in.Run)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/runs/{run}/post", "post-run", "Payroll", "Post a run as one unit", 201, func(ctx context.Context, w act.Who, in *InRun) (Posted, error) {
		id, err := s.app.PostRun(ctx, w, in.Client, in.Run)
		return Posted{id}, err
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/runs/{run}/draws", "set-draw", "Payroll", "Say what left the bank for a run: typed, or a line of a statement", 200, func(ctx context.Context, w act.Who, in *struct {
		InRun
		Body payroll.SetDraw
	},
	) (payroll.RunView, error) {
		if err := s.app.Draw(ctx, w, in.Client, in.Run, in.Body); err != nil {
			return payroll.RunView{}, err
		}
		return s.app.GetRun(ctx, w, in.Client, in.Run)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/bindings", "bind-pay", "Payroll", "Set where needs of pay items go, or take the choice back", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payroll.PayBinding
	},
	) (done, error) {
		return done{true}, s.app.BindPay(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/accept", "accept-pay", "Payroll", "Set suggestions at or above a confidence: those named, or all that the chart's own words do not speak against", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Above float64              `json:"above" minimum:"0" maximum:"1"`
			Needs []payroll.PayNeedKey `json:"needs,omitempty" maxItems:"20000" doc:"only these"`
		}
	},
	) (Count, error) {
		n, err := s.app.AcceptPay(ctx, w, in.Client, in.Body.Above, in.Body.Needs...)
		return Count{n}, err
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/items/{item}", "say-pay-item", "Payroll", "Settle what a pay item is, and the boxes it feeds", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Item int64 `path:"item"`
		Body payroll.PayItemFacts
	},
	) (done, error) {
		return done{true}, s.app.SayPayItem(ctx, w, in.Client, in.Item, in.Body)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/rules", "pay-rules", "Payroll", "Settle how a provider's runs are posted", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Source string `json:"source"`
			payroll.PayRules
		}
	},
	) (done, error) {
		return done{true}, s.app.SetPayRules(ctx, w, in.Client, in.Body.Source, in.Body.PayRules)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/forms", "pay-forms", "Payroll", "Form W-2, Form 941 of a quarter and Form 940 as the runs add up to them", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Year    int `query:"year" minimum:"0" maximum:"2200" doc:"0 is the year of the latest run"`
		Quarter int `query:"quarter" minimum:"0" maximum:"4"`
	},
	) (payroll.PayForms, error) {
		return s.app.GetPayForms(ctx, w, in.Client, in.Year, in.Quarter)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/state-ids", "say-state-id", "Payroll", "Keep the employer's number with a state, for box 15 of Form W-2", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			State  string `json:"state" doc:"postal code or name"`
			Number string `json:"number" doc:"empty takes it away"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetStateID(ctx, w, in.Client, in.Body.State, in.Body.Number)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/employees/{employee}/status", "set-employee-status", "Payroll", "Set what the law treats otherwise in an employee; only for those who may see pay", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Employee int64 `path:"employee"`
		Body     struct {
			Status []string `json:"status" doc:"see statuses of the forms; empty removes all"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetEmployeeStatus(ctx, w, in.Client, in.Employee, in.Body.Status)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/forms/w2/{employee}", "person-w2", "Payroll", "An employee's Form W-2 of a year, box by box with what feeds it; only for those who may see pay", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Employee int64 `path:"employee"`
		Year     int   `query:"year" minimum:"0" maximum:"2200" doc:"0 is this year"`
	},
	) (payroll.PersonW2, error) {
		return s.app.GetPersonW2(ctx, w, in.Client, in.Employee, in.Year)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/roll-forward", "roll-forward", "Payroll", "Liabilities of payroll by month", 200, func(ctx context.Context, w act.Who, in *InClient) ([]payroll.RollAccount, error) {
		return s.app.RollForward(ctx, w, in.Client)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/runs/{run}", "say-run", "Payroll", "Correct what a register says of itself: check date, period, kind", 200, func(ctx context.Context, w act.Who, in *struct {
		InRun
		Body payroll.RunFacts
	},
	) (payroll.RunView, error) {
		if err := s.app.CorrectRun(ctx, w, in.Client, in.Run, in.Body); err != nil {
			return payroll.RunView{}, err
		}
		return s.app.GetRun(ctx, w, in.Client, in.Run)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/runs/{run}/answers", "answer-run", "Payroll", "Say that a run is another one than the run it looks like", 200, func(ctx context.Context, w act.Who, in *struct {
		InRun
		Body struct {
			Code string `json:"code" doc:"the code of the question, among the run's blocks"`
			Off  bool   `json:"off,omitempty" doc:"take the answer back"`
		}
	},
	) (payroll.RunView, error) {
		if err := s.app.AnswerRun(ctx, w, in.Client, in.Run, in.Body.Code, in.Body.Off); err != nil {
			return payroll.RunView{}, err
		}
		return s.app.GetRun(ctx, w, in.Client, in.Run)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/runs/{run}/officer-share", "say-officer-share", "Payroll", "Say the officers' part of a run that reports totals only", 200, func(ctx context.Context, w act.Who, in *struct {
		InRun
		Body struct {
			Shares []payroll.OfficerShare `json:"shares"`
		}
	},
	) (payroll.RunView, error) {
		if err := s.app.SetOfficerShare(ctx, w, in.Client, in.Run, in.Body.Shares); err != nil {
			return payroll.RunView{}, err
		}
		return s.app.GetRun(ctx, w, in.Client, in.Run)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/runs/{run}/repost", "repost-run", "Payroll", "Post what a later mapping or draws said later change of a posted run, and nothing else", 201, func(ctx context.Context, w act.Who, in *InRun) (Posted, error) {
		id, err := s.app.Repost(ctx, w, in.Client, in.Run)
		return Posted{id}, err
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/effect", "pay-effect", "Payroll", "What a changed mapping would move of posted runs", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payroll.PayBinding
	},
	) ([]payroll.RunEffect, error) {
		return s.app.PayEffect(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/typed", "type-paper", "Payroll", "Type a run, a bill or an invoice that exists only on paper", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payroll.TypedPaper
	},
	) (sheet.Batch, error) {
		return s.app.TypePaper(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/bills", "pay-bills", "Payroll", "Carriers' bills and the provider's invoices", 200, func(ctx context.Context, w act.Who, in *InClient) ([]payroll.PayBill, error) {
		return s.app.GetBills(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/payroll/bills/{bill}", "pay-bill", "Payroll", "A bill against the payroll of its month", 200, func(ctx context.Context, w act.Who, in *InBill) (payroll.PayBill, error) {
		return s.app.GetBill(ctx, w, in.Client, in.Bill)
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/bills/{bill}", "say-bill", "Payroll", "Correct what a bill says or what it was taken for", 200, func(ctx context.Context, w act.Who, in *struct {
		InBill
		Body payroll.BillFacts
	},
	) (payroll.PayBill, error) {
		if err := s.app.CorrectBill(ctx, w, in.Client, in.Bill, in.Body); err != nil {
			return payroll.PayBill{}, err
		}
		return s.app.GetBill(ctx, w, in.Client, in.Bill)
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/bills/{bill}/post", "post-bill", "Payroll", "Post a carrier's bill as a payment", 201, func(ctx context.Context, w act.Who, in *InBill) (Posted, error) {
		id, err := s.app.PostBill(ctx, w, in.Client, in.Bill)
		return Posted{id}, err
	})
	op(s, http.MethodPost, "/api/clients/{client}/payroll/bills/{bill}/payment", "pay-the-bill", "Payroll", "Post the payment of a bill that went through accounts payable", 201, func(ctx context.Context, w act.Who, in *struct {
		InBill
		Body payroll.BillPayment
	},
	) (Posted, error) {
		id, err := s.app.PayTheBill(ctx, w, in.Client, in.Bill, in.Body)
		return Posted{id}, err
	})
	op(s, http.MethodPut, "/api/clients/{client}/payroll/forms", "say-form", "Payroll", "Keep a figure of the provider's own form, to lie beside ours", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payroll.FormFigure
	},
	) (done, error) {
		return done{true}, s.app.SayForm(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, "/api/outside-providers", "outside-providers", "Connections", "Payroll providers that may be connected", 200, func(_ context.Context, _ act.Who, _ *none) ([]string, error) {
		return s.app.ProviderAddresses(), nil
	})
	op(s, http.MethodGet, "/api/clients/{client}/providers", "providers", "Connections", "Connected payroll providers with their consent", 200, func(ctx context.Context, w act.Who, in *InClient) ([]payroll.ProviderLink, error) {
		return s.app.ProviderLinks(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/providers/look", "look-at-provider", "Connections", "A provider's company beside the client; nothing is kept", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Address string `query:"address"`
	},
	) (payroll.ProviderLook, error) {
		return s.app.LookAtProvider(ctx, w, in.Client, in.Address)
	})
	op(s, http.MethodPost, "/api/clients/{client}/providers", "connect-provider", "Connections", "Connect a payroll provider from a check date on, with consent until a day", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Address   string `json:"address"`
			CompanyID string `json:"company_id"`
			Until     string `json:"until" doc:"ISO date"`
			From      string `json:"from" doc:"ISO date: earlier runs come only on request"`
			Sure      bool   `json:"sure,omitempty"`
		}
	},
	) (payroll.ProviderLink, error) {
		b := in.Body
		return s.app.ConnectProvider(ctx, w, in.Client, b.Address, b.CompanyID, b.Until, b.From, b.Sure)
	})
	op(s, http.MethodPost, "/api/clients/{client}/providers/{connection}/runs", "pull-runs", "Connections", "Read the provider's finished runs that are not here yet, or one on request", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Connection int64 `path:"connection"`
		Body       struct {
			Run string `json:"run,omitempty" doc:"one run by the provider's id, also an earlier one"`
		}
	},
	) (payroll.Pulled, error) {
		return s.app.PullRuns(ctx, w, in.Client, in.Connection, in.Body.Run)
	})
}

// InBill names a carrier's bill or an invoice.
type InBill struct {
	InClient
	Bill int64 `path:"bill"`
}

// InRun names a payroll run.
type InRun struct {
	InClient
	Run int64 `path:"run"`
}
