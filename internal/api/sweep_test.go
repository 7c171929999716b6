package api_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"regexp"
	"slices"
	"sort"
	"strings"
	"testing"

	"coatrack/internal/api"

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
	for _, n := range []string{"{run}", "{bill}", "{employee}", "{attachment}", "{letter}", "{act}", "{connection}", "{statement}", "{item}"} {
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
