package api

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"time"

	"coatrack/internal/app/act"

	"github.com/danielgtaylor/huma/v2"
)

// stream registers a download that is written as it is made. Whether the person
// may have it is settled before the first byte.
func stream[I any](s *Server, path, id, summary string, client func(*I) (int64, string), fn func(ctx context.Context, w act.Who, in *I, out io.Writer) error, name func(in *I) (file, kind string)) {
	huma.Register(s.api, huma.Operation{OperationID: id, Method: http.MethodGet, Path: path, Summary: summary, Tags: []string{"Handoff"}, Security: []map[string][]string{{"token": {}}, {"session": {}}}, Errors: []int{401, 404, 422}},
		func(ctx context.Context, in *I) (*huma.StreamResponse, error) {
			w := who(ctx)
			id, what := client(in)
			if _, err := s.app.MayExport(ctx, w, id, what); err != nil {
				return nil, problem(ctx, err)
			}
			return &huma.StreamResponse{Body: func(h huma.Context) {
				file, kind := name(in)
				h.SetHeader("Content-Type", kind)
				h.SetHeader("Content-Disposition", attachment(file))
				if err := fn(h.Context(), w, in, h.BodyWriter()); err != nil {
					_ = problem(ctx, err) // logged; the stream ends short
					panic(http.ErrAbortHandler)
				}
			}}, nil
		})
}

type inExport struct {
	InClient
	What   string `path:"what" enum:"chart,mappings,parties,trial-balance,journal,open-items,aging-receivable,aging-payable,history"`
	Format string `path:"format" enum:"csv,xlsx"`
}

func (s *Server) handoffOps() {
	kinds := map[string]string{"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
	stream(s, "/api/clients/{client}/export/{what}/{format}", "export", "A table as CSV or XLSX; long ones stream", func(in *inExport) (int64, string) { return in.Client, in.What },
		func(ctx context.Context, w act.Who, in *inExport, out io.Writer) error {
			return s.app.Export(ctx, w, in.Client, in.What, in.Format, out)
		}, func(in *inExport) (string, string) { return in.What + "." + in.Format, kinds[in.Format] })
	at := func(what string) func(in *InClient) (int64, string) {
		return func(in *InClient) (int64, string) { return in.Client, what }
	}
	stream(s, "/api/clients/{client}/ledger.saft.xml", "export-saft", "The ledger as an OECD SAF-T audit file", at("saft"), func(ctx context.Context, w act.Who, in *InClient, out io.Writer) error {
		return s.app.ExportSAFT(ctx, w, in.Client, out)
	}, func(*InClient) (string, string) { return "ledger.saft.xml", "application/xml" })
	stream(s, "/api/clients/{client}/bundle.json", "export-bundle", "Everything of the client as one JSON bundle", at("bundle"), func(ctx context.Context, w act.Who, in *InClient, out io.Writer) error {
		return s.app.ExportBundle(ctx, w, in.Client, out)
	}, func(in *InClient) (string, string) {
		return fmt.Sprintf("client-%d.bundle.json", in.Client), "application/json"
	})
	stream(s, "/api/clients/{client}/work-paper.pdf", "work-paper", "The work paper of the opening as PDF", at("paper"), func(ctx context.Context, w act.Who, in *InClient, out io.Writer) error {
		return s.app.WorkPaper(ctx, w, in.Client, out)
	}, func(*InClient) (string, string) { return "opening-work-paper.pdf", "application/pdf" })
	huma.Register(s.api, huma.Operation{
		OperationID: "import-bundle", Method: http.MethodPost, Path: "/api/bundles", Summary: "Make a client from a bundle; all of it or nothing", Tags: []string{"Handoff"}, DefaultStatus: 201,
		Security: []map[string][]string{{"token": {}}, {"session": {}}}, MaxBodyBytes: 1 << 30, BodyReadTimeout: 30 * time.Minute, Errors: []int{401, 403, 409, 422},
	}, func(ctx context.Context, in *struct {
		Name    string `query:"name" doc:"another name for the client" maxLength:"120"`
		RawBody []byte `contentType:"application/octet-stream"`
	},
	) (*body[act.Client], error) {
		c, err := s.app.ImportBundle(ctx, who(ctx), in.RawBody, in.Name)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &body[act.Client]{c}, nil
	})
	s.takesNoBytes("/api/bundles")
}
