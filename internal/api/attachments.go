package api

import (
	"context"
	"net/http"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/handoff"

	"github.com/danielgtaylor/huma/v2"
)

type inAttachment struct {
	InBatch
	Attachment int64 `path:"attachment" doc:"id of the attachment"`
}

// attachmentOps are PDFs and pictures kept as evidence beside a file.
func (s *Server) attachmentOps() {
	register(s, huma.Operation{
		OperationID: "attach", Method: http.MethodPost, Path: "/api/clients/{client}/batches/{batch}/attachments", Summary: "Keep a PDF or a picture beside a file, as evidence: its bytes are the body", Tags: []string{"Files"}, DefaultStatus: 201,
		Security: []map[string][]string{{"token": {}}, {"session": {}}}, MaxBodyBytes: 21 << 20, BodyReadTimeout: 5 * time.Minute, Errors: []int{401, 404, 409, 422},
	}, func(ctx context.Context, in *struct {
		InBatch
		Name    string `query:"name" doc:"its file name" maxLength:"200"`
		RawBody []byte `contentType:"application/octet-stream"`
	},
	) (*body[[]handoff.Attachment], error) {
		ps, err := s.app.Attach(ctx, who(ctx), in.Client, in.Batch, in.Name, in.RawBody)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[[]handoff.Attachment]{ps}, nil
	})
	s.takesNoBytes("/api/clients/{client}/batches/{batch}/attachments")
	op(s, http.MethodGet, "/api/clients/{client}/batches/{batch}/attachments", "attachments", "Files", "Attachments of a file", 200, func(ctx context.Context, w act.Who, in *InBatch) ([]handoff.Attachment, error) {
		return s.app.Attachments(ctx, w, in.Client, in.Batch)
	})
	op(s, http.MethodDelete, "/api/clients/{client}/batches/{batch}/attachments/{attachment}", "remove-attachment", "Files", "Remove an attachment from a file; the history keeps that it was there", 200, func(ctx context.Context, w act.Who, in *inAttachment) ([]handoff.Attachment, error) {
		return s.app.RemoveAttachment(ctx, w, in.Client, in.Batch, in.Attachment)
	})
	raw(s, "/api/clients/{client}/batches/{batch}/attachments/{attachment}", "attachment", "Files", "An attachment as it came", func(ctx context.Context, w act.Who, in *inAttachment) (string, string, []byte, error) {
		return s.app.GetAttachment(ctx, w, in.Client, in.Batch, in.Attachment)
	})
}
