package api

import (
	"html/template"
	"net/http"
	"sort"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

var docsPage = template.Must(template.New("docs").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Coatrack API</title>
<style>body{font:15px/1.5 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#26221e;background:#fbf8f2}h1,h2{font-family:Georgia,serif}
code{background:#f3ecdf;padding:.1em .3em}a{color:#2f5573}dt{margin-top:1.1rem;font-weight:600}dd{margin:0 0 0 1.5rem}table{border-collapse:collapse}td{padding:.1rem .8rem .1rem 0;vertical-align:top}.m{display:inline-block;width:4.5rem}</style></head>
<body><main><h1>Coatrack API</h1><p>{{.Description}}</p><p>The document itself: <a href="/api/openapi.json">openapi.json</a>, <a href="/api/openapi.yaml">openapi.yaml</a> (OpenAPI 3.1). Sign in with a token: <code>Authorization: Bearer ct_…</code>. A retried write with the same <code>Idempotency-Key</code> is answered once.</p>
{{range .Tags}}<h2>{{.Name}}</h2><dl>{{range .Ops}}<dt id="{{.ID}}"><code class="m">{{.Method}}</code> <code>{{.Path}}</code></dt><dd>{{.Summary}}
{{if .Params}}<table>{{range .Params}}<tr><td><code>{{.Name}}</code></td><td>{{.In}}{{if .Required}}, required{{end}}</td><td>{{.Doc}}</td></tr>{{end}}</table>{{end}}
{{if .Fields}}<p>Body:</p><table>{{range .Fields}}<tr><td><code>{{.Name}}</code></td><td>{{.In}}{{if .Required}}, required{{end}}</td><td>{{.Doc}}</td></tr>{{end}}</table>{{end}}</dd>{{end}}</dl>{{end}}</main></body></html>`))

type docParam struct {
	Name, In, Doc string
	Required      bool
}

type docOp struct {
	ID, Method, Path, Summary string
	Params, Fields            []docParam
}

// docs shows the API's own document as a page without scripts.
func (s *Server) docs(w http.ResponseWriter, _ *http.Request) {
	d := s.api.OpenAPI()
	tags := map[string][]docOp{}
	var paths []string
	for p := range d.Paths {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	for _, p := range paths {
		item := d.Paths[p]
		for _, m := range []struct {
			name string
			op   *huma.Operation
		}{{"GET", item.Get}, {"POST", item.Post}, {"PUT", item.Put}, {"PATCH", item.Patch}, {"DELETE", item.Delete}} {
			if m.op == nil {
				continue
			}
			o := docOp{ID: m.op.OperationID, Method: m.name, Path: p, Summary: m.op.Summary}
			for _, q := range m.op.Parameters {
				o.Params = append(o.Params, docParam{q.Name, q.In, q.Description, q.Required})
			}
			if m.op.RequestBody != nil {
				for _, c := range m.op.RequestBody.Content {
					o.Fields = append(o.Fields, fieldsOf(d, c.Schema)...)
				}
			}
			tags[m.op.Tags[0]] = append(tags[m.op.Tags[0]], o)
		}
	}
	type tag struct {
		Name string
		Ops  []docOp
	}
	var list []tag
	for n, ops := range tags {
		list = append(list, tag{n, ops})
	}
	sort.Slice(list, func(i, j int) bool { return list[i].Name < list[j].Name })
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = docsPage.Execute(w, map[string]any{"Description": d.Info.Description, "Tags": list})
}

func fieldsOf(d *huma.OpenAPI, sc *huma.Schema) []docParam {
	if sc == nil {
		return nil
	}
	if sc.Ref != "" {
		sc = d.Components.Schemas.SchemaFromRef(sc.Ref)
	}
	var names []string
	for n := range sc.Properties {
		names = append(names, n)
	}
	sort.Strings(names)
	var out []docParam
	for _, n := range names {
		f := sc.Properties[n]
		kind := f.Type
		if f.Ref != "" {
			kind = f.Ref[strings.LastIndexByte(f.Ref, '/')+1:]
		}
		req := false
		for _, r := range sc.Required {
			req = req || r == n
		}
		out = append(out, docParam{n, kind, f.Description, req})
	}
	return out
}
