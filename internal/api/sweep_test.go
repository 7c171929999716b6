package api_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
	"testing"

	"coatrack/internal/api"
	"coatrack/internal/app"

	"github.com/stretchr/testify/require"
)

// secrets are what one person earns or pays, and whole tax numbers: each stands in one place
// of the client's files and adds up from nothing else.
var secrets = map[string]string{
	"Ann's gross": "1013.17", "Ann's federal tax": "83.29", "Ann's premium": "213.47",
	"Bo's gross": "1211.53", "Bo's net": "1011.64", "Bo's premium": "227.59",
	"Eve's gross": "1307.71", "Eve's net": "1089.89",
	"the officer's gross": "2347.91", "the officer's net": "1866.57", "the officer's federal tax": "301.73",
	"Dot's dues":        "37.61", // an item that one person has
	"a vendor's number": "321-54-9876", "a vendor's number in a remark": "432-65-1987", "a number corrected on the sheet": "543-76-2198", "a number in another list": "65-4321098",
}

// payClient is a client with everything that may disclose pay: one entry per employee, an
// officer alone, a paper check, an item of one person, a carrier's bill, a year to date, forms,
// vendors with numbers.
func payClient(t *testing.T) (o *office, owner string) {
	o = open(t)
	owner = o.token("Marlpit", "a@example.com", "owner")
	status, c, _ := o.call(owner, "POST", "/api/clients", strings.Replace(fmt.Sprintf(newClient, "Heron Slip"), "nonprofit", "S corporation", 1))
	require.Equal(t, 201, status, c)
	bring := func(as, name, text string) int {
		t.Helper()
		status, b, _ := o.call(owner, "POST", "/api/clients/1/batches?as="+as+"&name="+name, text, "Content-Type", "application/octet-stream")
		require.Equal(t, 201, status, b)
		return int(b["id"].(float64))
	}
	do := func(method, path, body string) map[string]any {
		t.Helper()
		status, b, _ := o.call(owner, method, "/api/clients/1"+path, body)
		require.Less(t, status, 300, "%s %s: %v", method, path, b)
		return b
	}
	take := func(as, name, text string) {
		t.Helper()
		do("POST", fmt.Sprintf("/batches/%d/take-in", bring(as, name, text)), "{}")
	}
	take("chart", "chart.csv", "Number,Name,Kind,Sort\n1010,Bank,asset,bank\n1020,Payroll clearing,asset,bank\n2200,Payroll taxes,liability,payroll liability\n2210,Union dues,liability,payroll liability\n2260,Health plan,liability,payroll liability\n3000,Capital,equity,\n6000,Officer pay,expense,payroll expense\n6010,Wages,expense,payroll expense\n6030,Payroll tax,expense,payroll expense\n6040,Health cost,expense,payroll expense\n6400,Repairs,expense,\n")
	for role, acc := range map[string]int{"payroll tax liability": 3, "employee deductions": 4, "officer pay": 7, "wages": 8, "employer tax": 9, "employer benefits": 10} {
		do("PUT", "/roles", fmt.Sprintf(`{"roles":[{"role":%q,"account_id":%d}]}`, role, acc))
	}
	take("payroll-register", "july.csv", `Provider: Pellan Payroll Bureau
Pay period: 07/01/2026 to 07/15/2026
Check date: 07/15/2026
,,,,Earnings,Taxes withheld,,,Deductions,Employer taxes,,Net,
Employee,Employee no,Dept,Officer,Regular,Federal income tax,Social security,Medicare,Union dues,Social security,Medicare,Net pay,Check no
Ann Ames,1,Floor,,1013.17,83.29,62.82,69.65,,62.82,14.69,797.41,841
Bo Bird,2,Floor,,1211.53,107.20,75.12,17.57,,75.12,17.57,1011.64,
Eve East,4,Floor,,1307.71,117.78,81.08,18.96,,81.08,18.96,1089.89,
Dot Drew,5,Floor,,1100.00,90.00,68.20,15.95,37.61,68.20,15.95,888.24,
Cy Cole,3,Office,Y,2347.91,301.73,145.57,34.04,,145.57,34.04,1866.57,
Report total,,,,6980.32,700.00,432.79,156.17,37.61,432.79,101.21,5653.75,
`)
	do("PUT", "/payroll/rules", `{"source":"old ledger","shape":"checks","tax_with":"run","period_end":false,"bank_id":1,"payee":"The Bureau","collects":"","expected":false}`)
	do("POST", "/payroll/accept", `{"above":0.5}`)
	take("pay-bill", "health.csv", "Larkmead\nInvoice no: L-9\nInvoice date: 07/31/2026\nCoverage month: July 2026\nMember,Premium\nAnn Ames,213.47\nBo Bird,227.59\nEve East,231.11\nDot Drew,241.13\nTotal,913.30\n")
	take("parties", "vendors.csv", "Vendor no,Vendor,Tax ID,1099,Remark\nV-1,Finn Fry,321-54-9876,Yes,also 432-65-1987\nV-2,Gil Gray,12-345678,Yes,\nV-3,Hal Hart,98-1234567,Yes,\n")
	b := bring("parties", "more.csv", "Vendor no,Vendor,Tax ID,Ref\nV-4,Ivy Isle,12-34567,65-4321098\n")
	do("PATCH", fmt.Sprintf("/batches/%d/reading", b), `{"fixes":[{"record":2,"column":3,"text":"543-76-2198"}]}`)
	take("vendor-payments", "payments.csv", "Date,Payment id,Vendor,Vendor no,Method,Paid from,Account,Amount\n2026-07-20,P-1,Finn Fry,V-1,Check,1010 Bank,6400 Repairs,900.00\n2026-08-20,P-2,Gil Gray,V-2,Check,1010 Bank,6400 Repairs,800.00\n")
	status, r, _ := o.call(owner, "GET", "/api/clients/1/payroll/runs/1", "")
	require.Equal(t, 200, status)
	require.Equal(t, true, r["sees_pay"])
	status, p, _ := o.call(owner, "POST", "/api/clients/1/payroll/runs/1/post", "{}")
	require.Equal(t, 201, status, "%v %v", p, r["blocks"])
	return o, owner
}

// addresses are those of an operation with what stands in its path and question filled in.
func addresses(path string, query []string) []string {
	out := []string{path}
	fill := func(name string, with ...string) {
		var next []string
		for _, p := range out {
			if !strings.Contains(p, name) {
				next = append(next, p)
				continue
			}
			for _, w := range with {
				next = append(next, strings.Replace(p, name, w, 1))
			}
		}
		out = next
	}
	numbers := func(n int) (s []string) {
		for i := 1; i <= n; i++ {
			s = append(s, fmt.Sprint(i))
		}
		return s
	}
	fill("{client}", "1")
	fill("{statement}", "balance-sheet", "profit-and-loss", "income-statement")
	fill("{side}", "receivable", "payable")
	fill("{what}", "chart", "trial-balance", "entries", "lines", "parties", "payees", "payroll", "payroll-liabilities", "mapping", "history", "items", "proofs", "register", "journal", "units", "runs", "pay-items")
	fill("{format}", "csv", "xlsx", "json")
	for _, n := range []string{"{batch}"} {
		fill(n, numbers(8)...)
	}
	for _, n := range []string{"{account}", "{label}", "{payee}", "{party}", "{unit}"} {
		fill(n, numbers(26)...)
	}
	for _, n := range []string{"{run}", "{bill}", "{employee}", "{paper}", "{letter}", "{act}", "{connection}", "{statement}", "{item}"} {
		fill(n, numbers(6)...)
	}
	var asked []string
	for _, q := range query {
		switch q {
		case "year":
			asked = append(asked, "year=2026")
		case "quarter":
			asked = append(asked, "quarter=3")
		case "n":
			asked = append(asked, "n=1000")
		case "all":
			asked = append(asked, "all=true")
		case "kind", "for":
		}
	}
	if len(asked) > 0 {
		for i := range out {
			out[i] += "?" + strings.Join(asked, "&")
		}
	}
	switch path {
	case "/api/clients/{client}/why":
		var why []string
		for i := 1; i <= 90; i++ {
			why = append(why, fmt.Sprintf("/api/clients/1/why?fact=%d", i))
		}
		for i := 1; i <= 26; i++ {
			why = append(why, fmt.Sprintf("/api/clients/1/why?label=%d", i), fmt.Sprintf("/api/clients/1/why?account=%d", i))
		}
		for e := 1; e <= 8; e++ {
			for n := 1; n <= 12; n++ {
				why = append(why, fmt.Sprintf("/api/clients/1/why?entry=%d&no=%d", e, n))
			}
		}
		return why
	case "/api/find":
		var find []string
		for _, s := range secrets {
			find = append(find, "/api/find?client=1&q="+s)
		}
		return append(find, "/api/find?client=1&q=Ann", "/api/find?client=1&q=Cole", "/api/find?client=1&q=841")
	case "/api/clients/{client}/books/trial-balance":
		return append(out, "/api/clients/1/books/trial-balance?as_of=2026-07-14", "/api/clients/1/books/trial-balance?as_of=2026-07-15", "/api/clients/1/books/trial-balance?as_of=2026-12-31")
	}
	return out
}

// leaks asks every GET of the document as somebody and lists what of the secrets it answers.
func (o *office) leaks(token string) map[string][]string {
	doc, err := api.Document()
	require.NoError(o.t, err)
	var d struct {
		Paths map[string]map[string]struct {
			Parameters []struct{ Name, In string }
		}
	}
	require.NoError(o.t, json.Unmarshal(doc, &d))
	out := map[string][]string{}
	for path, ops := range d.Paths {
		op, ok := ops["get"]
		if !ok {
			continue
		}
		var query []string
		for _, p := range op.Parameters {
			if p.In == "query" {
				query = append(query, p.Name)
			}
		}
		for _, at := range addresses(path, query) {
			req, err := http.NewRequest("GET", o.srv.URL+at, nil)
			require.NoError(o.t, err)
			req.Header.Set("Authorization", "Bearer "+token)
			res, err := http.DefaultClient.Do(req)
			require.NoError(o.t, err)
			body, err := io.ReadAll(res.Body)
			require.NoError(o.t, err)
			res.Body.Close()
			text := strings.ReplaceAll(unpacked(o.t, body), ",", "")
			if strings.Contains(at, "/find?") { // it repeats what was asked
				_, q, _ := strings.Cut(at, "q=")
				text = strings.Replace(text, strings.ReplaceAll(q, ",", ""), "", 1)
			}
			for name, s := range secrets {
				if stands(text, s) && !slices.Contains(out[name], path) {
					out[name] = append(out[name], path)
				}
			}
		}
	}
	return out
}

// unpacked is an answer as text: of a workbook, all its parts.
func unpacked(t *testing.T, body []byte) string {
	t.Helper()
	if !bytes.HasPrefix(body, []byte("PK")) {
		return string(body)
	}
	z, err := zip.NewReader(bytes.NewReader(body), int64(len(body)))
	require.NoError(t, err)
	var all strings.Builder
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		_, err = io.Copy(&all, r)
		require.NoError(t, err)
		_ = r.Close()
	}
	return all.String()
}

// stands says whether a figure stands in a text, not as the end of a larger one.
func stands(text, figure string) bool {
	for i := 0; ; {
		k := strings.Index(text[i:], figure)
		if k < 0 {
			return false
		}
		k += i
		if k == 0 || !strings.ContainsRune("0123456789.", rune(text[k-1])) {
			return true
		}
		i = k + 1
	}
}

// What one person earns, and a whole tax number, is reached by no answer for those without
// the right: every operation that reads, with everything that its address can name.
func TestNoAnswerTellsWhatOnePersonEarns(t *testing.T) {
	o, owner := payClient(t)
	all := o.leaks(owner)
	for name := range secrets { // the owner reaches each: the sweep finds what is there
		require.NotEmpty(t, all[name], name)
	}
	for _, role := range []string{"bookkeeper", "reviewer"} {
		token := o.token("Marlpit", role+"@example.com", role)
		require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", role+"@example.com", "Heron Slip", role))
		var found []string
		for name, paths := range o.leaks(token) {
			sort.Strings(paths)
			found = append(found, name+": "+strings.Join(paths, ", "))
		}
		sort.Strings(found)
		require.Empty(t, found, "as a %s:\n%s", role, strings.Join(found, "\n"))
	}
}

// A paper check's amount stays in the bank's register, since the bank's own statement shows
// it; nothing there says whose it is, and no line of the books leads to the employee.
func TestAPaperCheckIsNobodys(t *testing.T) {
	o, _ := payClient(t)
	token := o.token("Marlpit", "r@example.com", "reviewer")
	require.NoError(t, o.app.GiveRoleByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", "reviewer"))
	status, r, _ := o.call(token, "GET", "/api/clients/1/books/register/1", "")
	require.Equal(t, 200, status)
	checks := 0
	for _, l := range r["lines"].([]any) {
		line := l.(map[string]any)
		require.NotContains(t, line["memo"], "Ames")
		if line["amount"] == "-797.41" {
			checks++
			require.Equal(t, "payroll, paper check 841", line["memo"])
			require.Equal(t, float64(0), line["entry_id"], "no way from it to the entry")
		}
	}
	require.Equal(t, 1, checks)
	for e := 1; e <= 8; e++ {
		for n := 1; n <= 12; n++ {
			status, w, _ := o.call(token, "GET", fmt.Sprintf("/api/clients/1/why?entry=%d&no=%d", e, n), "")
			if status == 200 {
				require.NotContains(t, fmt.Sprint(w), "797.41")
			}
		}
	}
}

var decimal = regexp.MustCompile(`[0-9]+\.[0-9]{2}\b`)

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
	m, err := o.app.ChangeMemberByName(t.Context(), "a@example.com", "r@example.com", "Heron Slip", app.MemberChange{SeesPay: &see})
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
