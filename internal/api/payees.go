package api

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"

	"coatrack/internal/app/act"
	"coatrack/internal/app/payees"

	"github.com/danielgtaylor/huma/v2"
)

// InYear is a tax year of a client's payees.
type InYear struct {
	InClient
	Year int `query:"year" minimum:"0" maximum:"2200" doc:"0 is the year whose forms are next due"`
}

// InPayee is the address of a payee.
type InPayee struct {
	InYear
	Payee int64 `path:"payee" doc:"a vendor; negative for a name nobody settled; 0 for payments without a vendor"`
}

// document registers a document that is made whole before it is sent, so that a
// refusal is a refusal.
func document[I any](s *Server, path, id, tag, summary string, fn func(ctx context.Context, w act.Who, in *I, out io.Writer) error, name func(in *I) (file, kind string)) {
	huma.Register(s.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Tags: []string{tag}, Security: []map[string][]string{{"token": {}}, {"session": {}}}, Errors: []int{401, 403, 404, 422}},
		func(ctx context.Context, in *I) (*huma.StreamResponse, error) {
			var out bytes.Buffer
			if err := fn(ctx, who(ctx), in, &out); err != nil {
				return nil, problem(ctx, err)
			}
			return &huma.StreamResponse{Body: func(h huma.Context) {
				file, kind := name(in)
				h.SetHeader("Content-Type", kind)
				h.SetHeader("Content-Disposition", attachment(file))
				_, _ = out.WriteTo(h.BodyWriter())
			}}, nil
		})
}

func (s *Server) payeeOps() {
	const at = "/api/clients/{client}/payees"
	op(s, http.MethodGet, at, "payees", "Payees", "A year of payments to vendors: buckets, payees, the accounts' boxes", 200, func(ctx context.Context, w act.Who, in *InYear) (payees.Payees, error) {
		return s.app.GetPayees(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodGet, at+"/months", "paid-months", "Payees", "What was paid by month and bucket", 200, func(ctx context.Context, w act.Who, in *InYear) ([]payees.PaidMonth, error) {
		return s.app.GetPaidMonths(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodGet, at+"/rest", "payee-rest", "Payees", "Accounts of the chart that nothing was charged to", 200, func(ctx context.Context, w act.Who, in *InYear) ([]payees.PayeeNeed, error) {
		return s.app.ChartNeeds(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodGet, at+"/payee/{payee}", "payee", "Payees", "One payee: facts, buckets, every payment line with its reason", 200, func(ctx context.Context, w act.Who, in *InPayee) (payees.Payee, error) {
		return s.app.GetPayee(ctx, w, in.Client, in.Payee, in.Year)
	})
	op(s, http.MethodPut, at+"/payee/{payee}", "say-payee", "Payees", "Say what a payee is (Form W-9) and whether they get forms", 200, func(ctx context.Context, w act.Who, in *struct {
		InPayee
		Version int64 `query:"version" doc:"the version seen; a newer one refuses the change"`
		Body    payees.PayeeFacts
	},
	) (payees.Payee, error) {
		if err := s.app.SavePayee(ctx, w, in.Client, in.Payee, in.Version, in.Body); err != nil {
			return payees.Payee{}, err
		}
		return s.app.GetPayee(ctx, w, in.Client, in.Payee, in.Year)
	})
	op(s, http.MethodPost, at+"/payee/{payee}/number", "show-tax-id", "Payees", "Show a payee's whole tax number; each time is in the history", 200, func(ctx context.Context, w act.Who, in *InPayee) (TaxNumber, error) {
		n, err := s.app.ShowTaxID(ctx, w, in.Client, in.Payee)
		return TaxNumber{n}, err
	})
	op(s, http.MethodPost, at+"/payee/{payee}/adjustments", "adjust-payee", "Payees", "Adjust a payee's box, or move an amount to another box, with a reason", 201, func(ctx context.Context, w act.Who, in *struct {
		InPayee
		Body payees.Adjustment
	},
	) (Adjusted, error) {
		id, err := s.app.AdjustPayee(ctx, w, in.Client, in.Payee, in.Body)
		return Adjusted{true, id}, err
	})
	op(s, http.MethodDelete, at+"/adjustments/{id}", "drop-adjustment", "Payees", "Take an adjustment back", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		ID int64 `path:"id"`
	},
	) (done, error) {
		return done{true}, s.app.DropAdjustment(ctx, w, in.Client, in.ID)
	})
	op(s, http.MethodPost, at+"/join", "join-payees", "Payees", "Say that vendors are one payee", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Payees []int64 `json:"payees" minItems:"1" maxItems:"50" doc:"two or more; the first one leads"`
		}
	},
	) (done, error) {
		return done{true}, s.app.JoinPayees(ctx, w, in.Client, in.Body.Payees)
	})
	op(s, http.MethodPost, at+"/payee/{payee}/apart", "tell-apart", "Payees", "Say that a vendor is a payee of its own", 200, func(ctx context.Context, w act.Who, in *InPayee) (done, error) {
		return done{true}, s.app.TellApart(ctx, w, in.Client, in.Payee)
	})
	s.payeeRackOps(at)
	s.payeeOutOps(at)
}

// Adjusted is an adjustment that was added.
type Adjusted struct {
	Done bool  `json:"done"`
	ID   int64 `json:"id" doc:"of the adjustment; of a move, of its first half: removing it removes both"`
}

// Methods is what confirming a suggested payment method changed.
type Methods struct {
	Count int     `json:"count"`
	Lines []int64 `json:"lines" doc:"the payment lines changed, with which this can be undone"`
}

// TaxNumber is a whole tax number.
type TaxNumber struct {
	Number string `json:"number"`
}

func (s *Server) payeeRackOps(at string) {
	op(s, http.MethodPut, at+"/boxes", "bind-boxes", "Payees", "Set which box charged accounts feed, leave them out, or decide line by line", 200, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Body payees.BoxChoice
	},
	) (done, error) {
		return done{true}, s.app.BindBoxes(ctx, w, in.Client, in.Year, in.Body)
	})
	op(s, http.MethodPost, at+"/boxes/effect", "boxes-effect", "Payees", "What a choice of boxes would move between the buckets", 200, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Body payees.BoxChoice
	},
	) (payees.BoxEffect, error) {
		return s.app.BoxEffectOf(ctx, w, in.Client, in.Year, in.Body)
	})
	op(s, http.MethodPost, at+"/boxes/accept", "accept-boxes", "Payees", "Set the suggestions of the accounts given; what is warned of stays", 200, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Body struct {
			Keys  []string `json:"keys" maxItems:"5000"`
			Above float64  `json:"above" minimum:"0" maximum:"1"`
		}
	},
	) (Count, error) {
		n, err := s.app.AcceptBoxes(ctx, w, in.Client, in.Year, in.Body.Keys, in.Body.Above)
		return Count{n}, err
	})
	op(s, http.MethodPut, at+"/lines", "say-paid", "Payees", "Say how payment lines were paid, their box or bucket, whose they are, what they undo", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payees.Override
	},
	) (done, error) {
		return done{true}, s.app.OverridePaid(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodPost, at+"/methods", "take-methods", "Payees", "Take the methods read out of references and memos", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Method string  `json:"method"`
			Undo   []int64 `json:"undo,omitempty" maxItems:"1000000" doc:"lines that an earlier confirmation changed: it is undone for them"`
		}
	},
	) (Methods, error) {
		if len(in.Body.Undo) > 0 {
			n, err := s.app.UndoMethods(ctx, w, in.Client, in.Body.Method, in.Body.Undo)
			return Methods{n, []int64{}}, err
		}
		lines, err := s.app.AcceptMethods(ctx, w, in.Client, in.Body.Method)
		return Methods{len(lines), lines}, err
	})
	op(s, http.MethodPut, at+"/funds/{label}", "say-fund", "Payees", "Say what an account that pays is: bank, card, network, cash", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Label int64 `path:"label"`
		Body  struct {
			Sort string `json:"sort" enum:"bank,card,network,cash"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetFund(ctx, w, in.Client, in.Label, in.Body.Sort)
	})
	op(s, http.MethodPut, at+"/thresholds", "say-threshold", "Payees", "A threshold of this ledger's own for a box and year, or back to the rulebook", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body payees.OwnThreshold
	},
	) (done, error) {
		return done{true}, s.app.SetThreshold(ctx, w, in.Client, in.Body)
	})
	op(s, http.MethodGet, at+"/look", "second-look", "Payees", "What to look at before forms go out", 200, func(ctx context.Context, w act.Who, in *InYear) (payees.SecondLook, error) {
		return s.app.GetSecondLook(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodPost, at+"/look", "looked", "Payees", "Keep the figures as you have looked at them", 200, func(ctx context.Context, w act.Who, in *InYear) (done, error) {
		return done{true}, s.app.Looked(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/payments", "compare-payments", "Payees", "What taking a list of payments in would change", 200, func(ctx context.Context, w act.Who, in *InBatch) (payees.PaidComparison, error) {
		return s.app.ComparePayments(ctx, w, in.Client, in.Batch)
	})
}

func (s *Server) payeeOutOps(at string) {
	op(s, http.MethodGet, at+"/forms", "payee-forms", "Payees", "Forms of a year, their totals, deadlines and the rule of ten", 200, func(ctx context.Context, w act.Who, in *InYear) (payees.PayeeForms, error) {
		return s.app.GetPayeeForms(ctx, w, in.Client, in.Year)
	})
	type inForms struct {
		InYear
		For    string  `query:"for" enum:"payer,payee,stock,test" default:"payer" doc:"the payer's file copy, the payee's statement, figures for official stock, or its alignment test"`
		Kind   string  `query:"kind" enum:",NEC,MISC"`
		Payees []int64 `query:"payees" doc:"none is all"`
		Right  float64 `query:"right" minimum:"-50" maximum:"50" doc:"offset on stock, in millimeters"`
		Down   float64 `query:"down" minimum:"-50" maximum:"50"`
	}
	document(s, at+"/forms.pdf", "forms-pdf", "Payees", "Forms as a PDF", func(ctx context.Context, w act.Who, in *inForms, out io.Writer) error {
		return s.app.WriteForms(ctx, w, in.Client, payees.FormsWanted{Year: in.Year, Payees: in.Payees, Kind: in.Kind, For: in.For, Right: in.Right, Down: in.Down}, out)
	}, func(in *inForms) (string, string) {
		return fmt.Sprintf("forms-%s-%d.pdf", in.For, in.Year), "application/pdf"
	})
	document(s, at+"/efile.csv", "efile", "Payees", "The e-file table; for those who may see whole numbers", func(ctx context.Context, w act.Who, in *InYear, out io.Writer) error {
		return s.app.WriteEfile(ctx, w, in.Client, in.Year, out)
	}, func(in *InYear) (string, string) {
		return fmt.Sprintf("efile-%d.csv", in.Year), "text/csv; charset=utf-8"
	})
	type inSheet struct {
		InYear
		Format string `path:"format" enum:"csv,xlsx"`
	}
	kinds := map[string]string{"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
	stream(s, at+"/worksheet/{format}", "worksheet", "Every payment line of a year with its bucket and reason; streams", func(in *inSheet) (int64, string) { return in.Client, "worksheet" },
		func(ctx context.Context, w act.Who, in *inSheet, out io.Writer) error {
			return s.app.WriteWorksheet(ctx, w, in.Client, in.Year, in.Format, out)
		}, func(in *inSheet) (string, string) {
			return fmt.Sprintf("payees-%d.%s", in.Year, in.Format), kinds[in.Format]
		})
	op(s, http.MethodPost, at+"/w9", "ask-w9", "Payees", "Ask payees for a Form W-9: mail into the outbox, or a letter to print", 201, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Payees []int64 `json:"payees" minItems:"1" maxItems:"5000"`
		}
	},
	) (Asked, error) {
		m, p, err := s.app.AskW9(ctx, w, in.Client, in.Body.Payees)
		return Asked{m, p}, err
	})
	op(s, http.MethodPost, at+"/statements", "hand-over", "Payees", "Give payees their statements, and keep when and how", 201, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Body struct {
			Payees []int64 `json:"payees" minItems:"1" maxItems:"5000"`
			How    string  `json:"how" enum:"mail,print,hand"`
		}
	},
	) (Count, error) {
		n, err := s.app.HandOver(ctx, w, in.Client, in.Year, in.Body.Payees, in.Body.How)
		return Count{n}, err
	})
	op(s, http.MethodGet, at+"/outbox", "outbox", "Payees", "Letters that went out", 200, func(ctx context.Context, w act.Who, in *InClient) ([]payees.LetterLine, error) {
		return s.app.Outbox(ctx, w, in.Client)
	})
	type inLetter struct {
		InClient
		Letter int64 `path:"letter"`
	}
	document(s, at+"/outbox/{letter}/paper.pdf", "letter-paper", "Payees", "The paper of a letter", func(ctx context.Context, w act.Who, in *inLetter, out io.Writer) error {
		return s.app.LetterPaper(ctx, w, in.Client, in.Letter, out)
	}, func(in *inLetter) (string, string) { return fmt.Sprintf("letter-%d.pdf", in.Letter), "application/pdf" })
	type inStack struct {
		InClient
		Day string `query:"day" doc:"on which they were written; empty is the last day that has some"`
	}
	document(s, at+"/outbox/stack.pdf", "letter-stack", "Payees", "The letters of a day that are to be printed, as one PDF", func(ctx context.Context, w act.Who, in *inStack, out io.Writer) error {
		return s.app.LetterStack(ctx, w, in.Client, in.Day, out)
	}, func(in *inStack) (string, string) { return "letters-" + in.Day + ".pdf", "application/pdf" })
	op(s, http.MethodGet, at+"/filing", "filing", "Payees", "Sendings of a year, their ties and corrections", 200, func(ctx context.Context, w act.Who, in *InYear) (payees.FilingView, error) {
		return s.app.GetFiling(ctx, w, in.Client, in.Year)
	})
	op(s, http.MethodPost, at+"/filing", "send-forms", "Payees", "Send forms, or corrections, to a filing service", 201, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Body payees.SendWhat
	},
	) (payees.FilingView, error) {
		return s.app.SendForms(ctx, w, in.Client, in.Year, in.Body)
	})
	op(s, http.MethodGet, at+"/filing/before", "before-sending", "Payees", "What a sending would send, for whom, and what is unfinished", 200, func(ctx context.Context, w act.Who, in *struct {
		InYear
		Correct bool  `query:"correct" doc:"of the corrections"`
		Payee   int64 `query:"payee" doc:"of this payee alone; 0 is all that can be sent"`
	},
	) (payees.BeforeSending, error) {
		what := payees.SendWhat{Correct: in.Correct}
		if in.Payee != 0 {
			what.Payees = []int64{in.Payee}
		}
		return s.app.BeforeSendingForms(ctx, w, in.Client, in.Year, what)
	})
	op(s, http.MethodPost, at+"/filing/{filing}/again", "ask-again", "Payees", "Send a failed sending once more under its key, or ask for answers", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Filing int64 `path:"filing"`
	},
	) (payees.FilingView, error) {
		return s.app.AskAgain(ctx, w, in.Client, in.Filing)
	})
	op(s, http.MethodPost, at+"/match", "match-names", "Payees", "Check names and numbers with the matching service", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Payees []int64 `json:"payees" minItems:"1" maxItems:"5000"`
		}
	},
	) ([]payees.MatchLine, error) {
		return s.app.MatchNames(ctx, w, in.Client, in.Body.Payees, "")
	})
	op(s, http.MethodPut, "/api/clients/{client}/tax-id", "say-client-tax-id", "Clients", "Keep the client's own tax number, sealed; it is not shown again", 200, func(ctx context.Context, w act.Who, in *struct {
		InClient
		Body struct {
			Number string `json:"number"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetClientTaxID(ctx, w, in.Client, in.Body.Number)
	})
}

// Asked says how requests went out.
type Asked struct {
	Mailed  int `json:"mailed"`
	Printed int `json:"printed"`
}
