package api

import (
	"context"
	"net/http"
	"time"

	"coatrack/internal/app/accounts"
	"coatrack/internal/app/act"
	"coatrack/internal/app/sheet"
	"coatrack/internal/core/opening"

	"github.com/danielgtaylor/huma/v2"
)

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
	}, func(ctx context.Context, in *upload) (*body[sheet.Batch], error) {
		name := in.Name
		if name == "" {
			name = "pasted rows"
		}
		b, err := s.app.Receive(ctx, who(ctx), in.Client, sheet.BroughtAs(in.Purpose, in.Place), in.Source, name, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[sheet.Batch]{b}, nil
	})
	s.takesNoBytes("/api/clients/{client}/batches")
	op(s, http.MethodGet, "/api/clients/{client}/batches", "files", "Files", "Files of the client, newest first", 200, func(ctx context.Context, w act.Who, in *InClient) ([]sheet.Batch, error) {
		return s.app.Batches(ctx, w, in.Client)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}", "file", "Files", "A file with its reading", 200, func(ctx context.Context, w act.Who, in *InBatch) (sheet.Batch, error) {
		return s.app.GetBatch(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/rows", "file-rows", "Files", "Records of the file as they stand in the grid", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		From int `query:"from" default:"1" minimum:"1"`
		N    int `query:"n" default:"200" minimum:"1" maximum:"1000"`
	},
	) ([]sheet.GridRow, error) {
		return s.app.Grid(ctx, w, in.Client, in.Batch, in.From, in.N)
	})
	op(s, http.MethodPatch, "/api/clients/{client}/batches/{batch}/reading", "change-reading", "Files", "Change settings and corrections; the reading follows at once", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body sheet.Change
	},
	) (sheet.Batch, error) {
		return s.app.ChangeReading(ctx, w, in.Client, in.Batch, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/confirm", "confirm-finding", "Files", "Let a held finding stand", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body struct {
			Code string `json:"code"`
			Off  bool   `json:"off,omitempty" doc:"undo that the finding was confirmed"`
		}
	},
	) (sheet.Batch, error) {
		return s.app.Confirm(ctx, w, in.Client, in.Batch, in.Body.Code, in.Body.Off)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/import", "import-file", "Files", "Import the file: its reading is frozen, nothing is posted", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body sheet.Taking
	},
	) (sheet.Batch, error) {
		return s.app.ImportFile(ctx, w, in.Client, in.Batch, in.Body)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/put-back", "put-back", "Files", "Put a file back on the sheet while nothing of it is posted", 200, func(ctx context.Context, w act.Who, in *InBatch) (sheet.Batch, error) {
		return s.app.PutBack(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodPost, "/api/clients/{client}/batches/{batch}/set-aside", "set-aside", "Files", "Set a file aside, or destroy one that was never posted", 200, func(ctx context.Context, w act.Who, in *struct {
		InBatch
		Body struct {
			Destroy bool `json:"destroy,omitempty"`
		}
	},
	) (done, error) {
		return done{true}, s.app.SetAside(ctx, w, in.Client, in.Batch, in.Body.Destroy)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/suspects", "suspects", "Files", "Likely causes why a trial balance does not add up", 200, func(ctx context.Context, w act.Who, in *InBatch) ([]opening.Suspect, error) {
		return s.app.BatchSuspects(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/comparison", "compare-chart", "Files", "What taking a chart in would add, change and miss", 200, func(ctx context.Context, w act.Who, in *InBatch) (accounts.Comparison, error) {
		return s.app.CompareChart(ctx, w, in.Client, in.Batch)
	})
	s.attachmentOps()
	raw(s, "/api/clients/{client}/batches/{batch}/original", "original", "Files", "The file as it came", func(ctx context.Context, w act.Who, in *InBatch) (string, string, []byte, error) {
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
func raw[I any](s *Server, path, id, tag, summary string, fn func(context.Context, act.Who, *I) (name, kind string, data []byte, err error)) {
	register(s, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Tags: []string{tag}, Security: []map[string][]string{{"token": {}}, {"session": {}}}, Errors: []int{401, 404}},
		func(ctx context.Context, in *I) (*rawOut, error) {
			name, kind, data, err := fn(ctx, who(ctx), in)
			if err != nil {
				return nil, problem(ctx, err)
			}
			return &rawOut{kind, attachment(name), data}, nil
		})
}
