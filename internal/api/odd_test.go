package api_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand"
	"net/url"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/api"

	"github.com/stretchr/testify/require"
)

type schema = map[string]any

// oddly makes a body that a schema could be thought to mean: mostly of the right shape,
// with values nobody sends.
type oddly struct {
	r   *rand.Rand
	all map[string]schema
}

func (o oddly) value(s schema, depth int) any {
	if ref, ok := s["$ref"].(string); ok {
		return o.value(o.all[ref[strings.LastIndexByte(ref, '/')+1:]], depth)
	}
	if e, ok := s["enum"].([]any); ok && o.r.Intn(8) > 0 {
		return e[o.r.Intn(len(e))]
	}
	kind := s["type"]
	if ks, ok := kind.([]any); ok {
		kind = ks[o.r.Intn(len(ks))]
	}
	switch kind {
	case "object":
		m := map[string]any{}
		props, _ := s["properties"].(map[string]any)
		must, _ := s["required"].([]any)
		for _, k := range slices.Sorted(maps.Keys(props)) {
			p := props[k]
			if k == "$schema" || !slices.Contains(must, any(k)) && o.r.Intn(2) == 0 {
				continue
			}
			m[k] = o.value(p.(map[string]any), depth+1)
		}
		if more, ok := s["additionalProperties"].(map[string]any); ok {
			m[fmt.Sprint(o.r.Intn(3))] = o.value(more, depth+1)
		}
		return m
	case "array":
		n := o.r.Intn(3)
		if depth > 5 {
			n = 0
		}
		out := []any{}
		item, _ := s["items"].(map[string]any)
		for range n {
			out = append(out, o.value(item, depth+1))
		}
		return out
	case "integer":
		return []int64{0, 1, 2, 3, 7, -1, 2026, 1 << 40, -(1 << 40)}[o.r.Intn(9)]
	case "number":
		return []float64{0, 0.5, 1, -3, 1e300}[o.r.Intn(5)]
	case "boolean":
		return o.r.Intn(2) == 0
	case "null":
		return nil
	}
	return []string{"", "x", "1.00", "-5", "2026-07-01", "2026-02-30", "NEC 1", "9223372036854775807.99", "a\u0000b", "’; drop table line; --", strings.Repeat("ä", 300), "=1+1", "checks"}[o.r.Intn(13)]
}

// Nothing that a program sends, however odd, is answered by a failure without words or in
// the words of the database: each operation is called with many bodies of about the right
// shape, on a ledger with a chart, a trial balance, items, payroll and payees.
func TestOddRequestsAreAnsweredInWords(t *testing.T) {
	o := open(t)
	owner := o.token("Marlpit", "a@example.com", "owner")
	bring := func(as, name, text string) {
		t.Helper()
		status, b, _ := o.call(owner, "POST", "/api/clients/1/batches?as="+as+"&name="+name, text, "Content-Type", "application/octet-stream")
		require.Equal(t, 201, status, b)
		status, b, _ = o.call(owner, "POST", fmt.Sprintf("/api/clients/1/batches/%v/take-in", b["id"]), "{}")
		require.Equal(t, 200, status, b)
	}
	fill := func() {
		status, c, _ := o.call(owner, "POST", "/api/clients", fmt.Sprintf(newClient, "Heron Slip"))
		require.Equal(t, 201, status, c)
		bring("chart", "c.csv", "Number,Name,Kind,Sort,Role\n1010,Bank,asset,bank,\n1200,Receivable,asset,receivable,receivables control\n2000,Payable,liability,payable,payables control\n2200,Taxes,liability,payroll liability,payroll tax liability\n3000,Capital,equity,,\n4000,Sales,income,,\n6000,Wages,expense,payroll expense,wages\n6030,Employer tax,expense,payroll expense,employer tax\n")
		bring("trial-balance", "tb.csv", "As of June 30 2026\nNo,Account,Debit,Credit\n1010,Bank,100.00,\n1200,Receivable,20.00,\n3000,Capital,,120.00\n")
		bring("open-invoices", "inv.csv", "Customer,No,Date,Due,Open\nVane,1,05/01/2026,06/01/2026,20.00\n")
		bring("vendor-payments", "paid.csv", "Date,Vendor,Ref,Method,Paid from,Account,Amount\n2026-03-01,Marrow,11,Check,1010 Bank,6000 Wages,2500.00\n")
		bring("payroll-register", "run.csv", "Check date: 07/15/2026\nPay period: 07/01/2026 to 07/15/2026\nEmployee,Regular,Federal income tax,Net pay\nAnn Ames,1000.00,80.00,920.00\n")
	}
	fill()
	doc, err := api.Document()
	require.NoError(t, err)
	var d struct {
		Paths      map[string]map[string]json.RawMessage
		Components struct{ Schemas map[string]schema }
	}
	require.NoError(t, json.Unmarshal(doc, &d))
	odd := oddly{rand.New(rand.NewSource(4)), d.Components.Schemas}
	type call struct {
		method, path string
		op           struct {
			Parameters []struct {
				Name, In string
				Schema   schema
			}
			RequestBody struct {
				Content map[string]struct{ Schema schema }
			}
		}
	}
	var calls []call
	for path, methods := range d.Paths {
		for method, raw := range methods {
			c := call{method: strings.ToUpper(method), path: path}
			require.NoError(t, json.Unmarshal(raw, &c.op))
			// Signing out or away ends the walk; another person's password is not ours.
			if strings.HasPrefix(path, "/api/session") || strings.HasPrefix(path, "/api/tokens") || strings.HasPrefix(path, "/api/people") || path == "/api/password" {
				continue
			}
			calls = append(calls, c)
		}
	}
	slices.SortFunc(calls, func(a, b call) int { return strings.Compare(a.path+a.method, b.path+b.method) })
	require.Greater(t, len(calls), 100)
	var wrong []string
	answers := map[int]int{}
	for range 8 {
		odd.r.Shuffle(len(calls), func(i, j int) { calls[i], calls[j] = calls[j], calls[i] })
		for _, c := range calls {
			path := c.path
			query := url.Values{}
			for _, p := range c.op.Parameters {
				v := fmt.Sprint(odd.value(p.Schema, 0))
				switch {
				case p.In == "path" && p.Name == "client":
					path = strings.Replace(path, "{client}", "1", 1)
				case p.In == "path":
					if p.Schema["type"] == "integer" && odd.r.Intn(3) > 0 {
						v = fmt.Sprint(1 + odd.r.Intn(9))
					}
					path = strings.Replace(path, "{"+p.Name+"}", url.PathEscape(v), 1)
				case p.In == "query" && odd.r.Intn(3) > 0:
					query.Set(p.Name, v)
				}
			}
			body, kind := "", "application/json"
			for _, k := range slices.Sorted(maps.Keys(c.op.RequestBody.Content)) {
				content := c.op.RequestBody.Content[k]
				kind = k
				if k == "application/json" {
					b, err := json.Marshal(odd.value(content.Schema, 0))
					require.NoError(t, err)
					body = string(b)
				} else {
					body = []string{"", "\x00\x01", "a,b\n1", "PK\x03\x04", "<x>", "{}"}[odd.r.Intn(6)]
				}
			}
			if len(query) > 0 {
				path += "?" + query.Encode()
			}
			status, p, _ := o.call(owner, c.method, path, body, "Content-Type", kind)
			answers[status/100]++
			said := fmt.Sprint(p["detail"], p["errors"])
			bad := status >= 500 && status != 502 // 502 is the words for an outside service that is not there
			for _, w := range []string{"SQLSTATE", "pq:", "violates", "Go struct", "runtime error"} {
				bad = bad || strings.Contains(said, w)
			}
			if bad {
				wrong = append(wrong, fmt.Sprintf("%s %s with %.300s: %d %s", c.method, path, body, status, said))
			}
		}
	}
	require.Empty(t, wrong)
	require.Greater(t, answers[2], 100, "many are right all the same")
	require.Greater(t, answers[4], 100)
}
