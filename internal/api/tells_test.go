package api_test

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"sort"
	"strconv"
	"strings"
	"testing"

	"coatrack/internal/api"
	"coatrack/internal/app/clients"

	"github.com/stretchr/testify/require"
)

// figures are the amounts that stand in an answer, in cents.
func (o *office) figures(token, path string) map[int64]bool {
	o.t.Helper()
	req, err := http.NewRequest("GET", o.srv.URL+"/api/clients/1"+path, nil)
	require.NoError(o.t, err)
	req.Header.Set("Authorization", "Bearer "+token)
	res, err := http.DefaultClient.Do(req)
	require.NoError(o.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(o.t, err)
	if res.StatusCode != http.StatusForbidden { // what is refused tells nothing
		require.Equal(o.t, 200, res.StatusCode, "%s %s", path, body)
	}
	out := map[int64]bool{}
	for _, s := range decimal.FindAllString(strings.ReplaceAll(string(body), ",", ""), -1) {
		n, err := strconv.ParseInt(strings.Replace(s, ".", "", 1), 10, 64)
		require.NoError(o.t, err)
		out[n] = true
	}
	return out
}

// No difference and no sum of two figures of one answer, or of two that belong together, is what
// one person earns: a form and the run behind it, a run and the books, two days of a trial
// balance, a register and the trial balance, the liabilities and the run.
func TestNoTwoFiguresTellWhatOnePersonEarns(t *testing.T) {
	o, owner := payClient(t)
	token := o.token("Marlpit", "r@example.com", "reviewer")
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", "reviewer"))
	secret := map[int64]string{
		5496: "what Ann pays above the rate", // 69.65 less 1.45 % of 1,013.17
	}
	for name, s := range secrets {
		if n, err := strconv.ParseInt(strings.Replace(s, ".", "", 1), 10, 64); err == nil && strings.Contains(s, ".") {
			secret[n] = name
		}
	}
	forms, run, year, owed := "/payroll/forms?year=2026&quarter=3", "/payroll/runs/1", "/payroll?year=2026", "/payroll/roll-forward"
	before, after := "/books/trial-balance?as_of=2026-07-14", "/books/trial-balance?as_of=2026-12-31"
	pairs := [][2]string{{forms, run}, {forms, owed}, {forms, after}, {run, owed}, {run, after}, {run, before}, {before, after}, {year, run}, {year, forms}, {owed, after}, {"/books/income-statement", run}, {"/books/balance-sheet", run}, {"/proofs", run}, {"/proofs", forms}}
	for acc := 1; acc <= 11; acc++ {
		pairs = append(pairs, [2]string{fmt.Sprintf("/books/register/%d", acc), after}, [2]string{fmt.Sprintf("/books/register/%d", acc), run})
	}
	tells := func(token string) (found []string) {
		had := map[string]map[int64]bool{}
		at := func(path string) map[int64]bool {
			if had[path] == nil {
				had[path] = o.figures(token, path)
			}
			return had[path]
		}
		add := func(a, b string) {
			for x := range at(a) {
				for y := range at(b) {
					for _, d := range []int64{x - y, y - x, x + y} {
						if name := secret[d]; name != "" {
							found = append(found, fmt.Sprintf("%s: %d and %d, of %s and %s", name, x, y, a, b))
						}
					}
				}
			}
		}
		for _, p := range pairs {
			add(p[0], p[0])
			add(p[0], p[1])
			add(p[1], p[1])
		}
		sort.Strings(found)
		return slices.Compact(found)
	}
	require.NotEmpty(t, tells(owner), "the owner's figures tell it: the test finds what is there")
	require.Empty(t, tells(token))
}

// A payroll of two people is told by the books; who gives the rights is told so, and its items,
// forms and runs are hidden.
func TestAPayrollOfTwoIsHiddenAndSaidToBeTold(t *testing.T) {
	o := open(t)
	owner := o.token("Marlpit", "a@example.com", "owner")
	status, c, _ := o.call(owner, "POST", "/api/clients", strings.Replace(fmt.Sprintf(newClient, "Heron Slip"), "nonprofit", "S corporation", 1))
	require.Equal(t, 201, status, c)
	status, b, _ := o.call(owner, "POST", "/api/clients/1/batches?as=payroll-register&name=july.csv", `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
,,Earnings,Taxes withheld,,,Employer taxes,,Net
Employee,Employee no,Regular,Federal income tax,Social security,Medicare,Social security,Medicare,Net pay
Ann Ames,1,1013.17,83.29,62.82,14.69,62.82,14.69,852.37
Bo Bird,2,1211.53,107.20,75.11,17.57,75.11,17.57,1011.65
Report total,,2224.70,190.49,137.93,32.26,137.93,32.26,1864.02
`, "Content-Type", "application/octet-stream")
	require.Equal(t, 201, status, b)
	status, b, _ = o.call(owner, "POST", "/api/clients/1/batches/1/take-in", "{}")
	require.Equal(t, 200, status, b)
	token := o.token("Marlpit", "r@example.com", "reviewer")
	see := false
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", "reviewer"))
	m, err := o.app.ChangeMemberByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", clients.MemberChange{SeesPay: &see})
	require.NoError(t, err)
	require.Contains(t, m.Note, "pays two people")

	status, r, _ := o.call(token, "GET", "/api/clients/1/payroll/runs/1", "")
	require.Equal(t, 200, status)
	require.Empty(t, r["sections"])
	require.Empty(t, r["ties"])
	require.Contains(t, fmt.Sprint(r["notes"]), "hidden from you")
	status, f, _ := o.call(token, "GET", "/api/clients/1/payroll/forms?year=2026&quarter=3", "")
	require.Equal(t, 200, status)
	for _, form := range []string{"w2", "f941", "f940"} {
		for _, x := range f[form].([]any) {
			box := x.(map[string]any)
			if form == "f941" && box["box"] == "1" {
				continue // the count of people
			}
			require.Equal(t, true, box["hidden"], "%s %v", form, box["box"])
			require.Equal(t, "0.00", box["amount"])
			require.Empty(t, box["fed"])
		}
	}
	status, f, _ = o.call(owner, "GET", "/api/clients/1/payroll/forms?year=2026&quarter=3", "")
	require.Equal(t, 200, status)
	require.Contains(t, fmt.Sprint(f["w2"]), "2224.70", "who may see pay sees all")
}

// A bookkeeper who may map, but not see pay, gives items accounts of their own to read them off
// the books: the one who is off a tax's rate, the officer, the dues of one person. Nothing more
// is told than before.
func TestMappingTellsNobodysPay(t *testing.T) {
	o, owner := payClient(t)
	token := o.token("Marlpit", "b@example.com", "bookkeeper")
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "b@example.com", "Heron Slip", "bookkeeper"))
	_, p, _ := o.call(token, "GET", "/api/clients/1/payroll?year=2026", "")
	moved := 0
	for i, x := range p["items"].([]any) {
		item := x.(map[string]any)
		for k, y := range item["needs"].([]any) {
			need := y.(map[string]any)
			status, a, _ := o.call(token, "POST", "/api/clients/1/accounts", fmt.Sprintf(`{"number":"%d","name":"Own %d %d","kind":%q,"active":true}`, 9000+10*i+k, i, k, map[string]string{"expense": "expense"}[fmt.Sprint(need["facet"])]+map[bool]string{true: "", false: "liability"}[need["facet"] == "expense"]))
			require.Equal(t, 201, status, a)
			body := fmt.Sprintf(`{"needs":[{"item_id":%v,"facet":%q,"group":%q}],"account_id":%v,"then":"repost","sure":true}`, item["id"], need["facet"], need["group"], a["id"])
			if status, _, _ := o.call(token, "PUT", "/api/clients/1/payroll/bindings", body); status == 200 {
				moved++
			}
		}
	}
	require.GreaterOrEqual(t, moved, 6, "the bookkeeper can map")
	secret := map[int64]string{6965: "Ann's Medicare", 5496: "what Ann pays above the rate"}
	for name, s := range secrets {
		if n, err := strconv.ParseInt(strings.Replace(s, ".", "", 1), 10, 64); err == nil && strings.Contains(s, ".") {
			secret[n] = name
		}
	}
	found := func(token string) (out []string) {
		paths := []string{"/books/trial-balance", "/books/balance-sheet", "/books/income-statement", "/chart", "/payroll/roll-forward", "/payroll/runs/1", "/proofs", "/units"}
		for a := 1; a <= 45; a++ {
			paths = append(paths, fmt.Sprintf("/books/register/%d", a))
		}
		all := map[int64]string{}
		for _, s := range paths {
			req, err := http.NewRequest("GET", o.srv.URL+"/api/clients/1"+s, nil)
			require.NoError(t, err)
			req.Header.Set("Authorization", "Bearer "+token)
			res, err := http.DefaultClient.Do(req)
			require.NoError(t, err)
			body, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			res.Body.Close()
			for _, f := range decimal.FindAllString(strings.ReplaceAll(string(body), ",", ""), -1) {
				n, err := strconv.ParseInt(strings.Replace(f, ".", "", 1), 10, 64)
				require.NoError(t, err)
				all[n] = s
				if name := secret[n]; name != "" && !(name == "what Ann pays above the rate") {
					out = append(out, name+" at "+s)
				}
			}
		}
		// The total of Medicare, which with the wages of all tells who is off the rate.
		if at, ok := all[15617]; ok {
			out = append(out, "all Medicare withheld at "+at)
		}
		sort.Strings(out)
		return slices.Compact(out)
	}
	require.NotEmpty(t, found(owner))
	require.Empty(t, found(token))
}

// What an act answers, and what a refusal says, tells no more than what is read: every operation
// that writes, with the smallest body that it takes and the first ids, as a bookkeeper.
func TestNoActTellsWhatOnePersonEarns(t *testing.T) {
	o, _ := payClient(t)
	token := o.token("Marlpit", "b@example.com", "bookkeeper")
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "b@example.com", "Heron Slip", "bookkeeper"))
	doc, err := api.Document()
	require.NoError(t, err)
	var d struct {
		Paths map[string]map[string]struct {
			RequestBody struct {
				Content map[string]struct{ Schema map[string]any }
			}
		}
		Components struct{ Schemas map[string]map[string]any }
	}
	require.NoError(t, json.Unmarshal(doc, &d))
	paths := slices.Sorted(maps.Keys(d.Paths))
	answered, acted := 0, 0
	for _, method := range []string{"patch", "put", "post", "delete"} {
		for _, path := range paths {
			op, ok := d.Paths[path][method]
			if !ok || !strings.Contains(path, "{client}") {
				continue
			}
			body, kind := "", "application/json"
			for k, c := range op.RequestBody.Content {
				body, kind = sample(d.Components.Schemas, c.Schema), k
			}
			for id := 1; id <= 4; id++ {
				at := strings.Replace(path, "{client}", "1", 1)
				one := !strings.Contains(at, "{")
				for strings.Contains(at, "{") {
					a, b := strings.Index(at, "{"), strings.Index(at, "}")
					with := fmt.Sprint(id)
					switch at[a : b+1] {
					case "{proof}":
						with = []string{"pay-owed", "pay-ties", "pay-officers-apart", "trial-balance"}[id-1]
					case "{key}":
						with = "owner"
					}
					at = at[:a] + with + at[b+1:]
				}
				req, err := http.NewRequest(strings.ToUpper(method), o.srv.URL+at, strings.NewReader(body))
				require.NoError(t, err)
				req.Header.Set("Authorization", "Bearer "+token)
				req.Header.Set("Content-Type", kind)
				res, err := http.DefaultClient.Do(req)
				require.NoError(t, err)
				out, err := io.ReadAll(res.Body)
				require.NoError(t, err)
				res.Body.Close()
				require.Less(t, res.StatusCode, 500, "%s %s: %s", method, at, out)
				answered++
				if res.StatusCode < 300 {
					acted++
				}
				text := strings.ReplaceAll(unpacked(t, out), ",", "")
				for name, s := range secrets {
					require.False(t, stands(text, s), "%s, by %s %s: %s", name, method, at, out)
				}
				if one {
					break
				}
			}
		}
	}
	require.Greater(t, answered, 200)
	require.Greater(t, acted, 20, "some of them are carried out")
}
