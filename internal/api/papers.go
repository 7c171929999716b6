package api

import (
	"context"
	"net/http"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/handoff"

	"github.com/danielgtaylor/huma/v2"
)

type inPaper struct {
	InBatch
	Paper int64 `path:"paper" doc:"id of the paper"`
}

// paperOps are papers kept as evidence beside a file.
func (s *Server) paperOps() {
	huma.Register(s.api, huma.Operation{
		OperationID: "attach-paper", Method: http.MethodPost, Path: "/api/clients/{client}/batches/{batch}/papers", Summary: "Keep a PDF or a picture beside a file, as evidence: its bytes are the body", Tags: []string{"Files"}, DefaultStatus: 201,
		Security: []map[string][]string{{"token": {}}, {"session": {}}}, MaxBodyBytes: 21 << 20, BodyReadTimeout: 5 * time.Minute, Errors: []int{401, 404, 409, 422},
	}, func(ctx context.Context, in *struct {
		InBatch
		Name    string `query:"name" doc:"its file name" maxLength:"200"`
		RawBody []byte `contentType:"application/octet-stream"`
	},
	) (*body[[]handoff.Paper], error) {
		ps, err := s.app.AttachPaper(ctx, who(ctx), in.Client, in.Batch, in.Name, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[[]handoff.Paper]{ps}, nil
	})
	s.takesNoBytes("/api/clients/{client}/batches/{batch}/papers")
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/papers", "papers", "Files", "Papers kept beside a file", 200, func(ctx context.Context, w act.Who, in *InBatch) ([]handoff.Paper, error) {
		return s.app.Papers(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/batches/{batch}/papers/{paper}", "remove-paper", "Files", "Take a paper off a file; the history keeps that it was there", 200, func(ctx context.Context, w act.Who, in *inPaper) ([]handoff.Paper, error) {
		return s.app.RemovePaper(ctx, w, in.Client, in.Batch, in.Paper)
	})
	raw(s, "/api/clients/{client}/batches/{batch}/papers/{paper}", "paper", "Files", "A paper as it came", func(ctx context.Context, w act.Who, in *inPaper) (string, string, []byte, error) {
		return s.app.GetPaper(ctx, w, in.Client, in.Batch, in.Paper)
	})
}
