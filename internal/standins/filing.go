package standins

import (
	"encoding/csv"
	"encoding/json"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
)

// FiledRow is the answer of the simulated filing service to one row.
type FiledRow struct {
	No    int               `json:"no"`
	State string            `json:"state"` // accepted, rejected
	Code  string            `json:"code,omitempty"`
	Words string            `json:"words,omitempty"`
	Boxes map[string]string `json:"boxes,omitempty"` // as the service has them, decimal
}

type sending struct {
	body  string
	rows  []map[string]string
	done  []FiledRow
	waits int
}

// Filing is a simulated filing service, with name-and-number matching.
//
// PUT /sendings/KEY takes the e-file table (docs/efile.md) as CSV. The same key with
// the same table is the same sending: it is taken up again where it broke off and
// nothing is filed twice; with another table it is refused. GET /sendings/KEY answers
// {"state": "working" | "done", "rows": […]}, row by row. POST /match takes
// [{"no", "name", "tin", "kind"}] and answers [{"no", "code"}] with the codes of the
// authority's matching.
//
// POST /tell changes it: {"slow": n} the next n answers are "working", {"break": n}
// the next sending breaks off after n rows, {"fail": n} the next n requests fail.
type Filing struct {
	mu       sync.Mutex
	sendings map[string]*sending
	filed    map[string]bool // year, form and number accepted as originals
	slow     int
	breaks   int
	fail     int
	token    string
}

// DemoFiling is an empty filing service.
func DemoFiling() *Filing {
	return &Filing{sendings: map[string]*sending{}, filed: map[string]bool{}, token: "demo-consent"}
}

func (f *Filing) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if r.URL.Path == "/tell" && r.Method == http.MethodPost {
		var t struct{ Slow, Break, Fail int }
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 64<<10)).Decode(&t); err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		f.slow, f.breaks, f.fail = f.slow+t.Slow, t.Break, f.fail+t.Fail
		return
	}
	if f.fail > 0 {
		f.fail--
		http.Error(w, "the service is being looked after; try again later", http.StatusServiceUnavailable)
		return
	}
	if r.Header.Get("Authorization") != "Bearer "+f.token {
		http.Error(w, "no consent", http.StatusUnauthorized)
		return
	}
	key := strings.TrimPrefix(r.URL.Path, "/sendings/")
	switch {
	case r.URL.Path == "/match" && r.Method == http.MethodPost:
		f.match(w, r)
	case key != r.URL.Path && r.Method == http.MethodPut:
		f.receive(w, r, key)
	case key != r.URL.Path && r.Method == http.MethodGet:
		f.answer(w, key)
	default:
		http.NotFound(w, r)
	}
}

func (f *Filing) receive(w http.ResponseWriter, r *http.Request, key string) {
	body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, 64<<20))
	if err != nil {
		http.Error(w, "too large", http.StatusRequestEntityTooLarge)
		return
	}
	s := f.sendings[key]
	if s == nil {
		all, err := csv.NewReader(strings.NewReader(string(body))).ReadAll()
		if err != nil || len(all) < 2 || len(all[0]) < 10 || all[0][0] != "no" {
			http.Error(w, "this is not the e-file table", http.StatusUnprocessableEntity)
			return
		}
		s = &sending{body: string(body), waits: f.slow}
		f.slow = 0
		for _, rec := range all[1:] {
			row := map[string]string{}
			for i, h := range all[0] {
				row[h] = rec[i]
			}
			s.rows = append(s.rows, row)
		}
		f.sendings[key] = s
	} else if s.body != string(body) {
		http.Error(w, "another table came under this key before", http.StatusConflict)
		return
	}
	for len(s.done) < len(s.rows) {
		if f.breaks > 0 && len(s.done) == f.breaks {
			f.breaks = 0
			http.Error(w, "the line broke off after "+strconv.Itoa(len(s.done))+" rows", http.StatusBadGateway)
			return
		}
		s.done = append(s.done, f.file(s.rows[len(s.done)]))
	}
	f.answer(w, key)
}

// file validates a row and files it.
func (f *Filing) file(row map[string]string) FiledRow {
	no, _ := strconv.Atoi(row["no"])
	out := FiledRow{No: no, State: "rejected"}
	digits := strings.Map(func(c rune) rune {
		if c >= '0' && c <= '9' {
			return c
		}
		return -1
	}, row["payee_tin"])
	id := row["tax_year"] + "|" + row["form"] + "|" + digits + "|" + row["payee_name_1"]
	zip := strings.ReplaceAll(row["payee_zip"], "-", "")
	switch {
	case row["payee_name_1"] == "":
		out.Code, out.Words = "N01", "the name on line 1 is empty"
	case row["payee_tin"] != "" && len(digits) != 9:
		out.Code, out.Words = "T02", "the number does not have nine digits"
	case len(zip) != 5 && len(zip) != 9 || strings.HasPrefix(zip, "00000"):
		out.Code, out.Words = "A03", "the postal code does not exist"
	case row["correction"] == "" && f.filed[id]:
		out.Code, out.Words = "D04", "this form was filed before; send a correction"
	case row["correction"] != "" && !f.filed[id]:
		out.Code, out.Words = "C05", "no original of this form is known"
	default:
		f.filed[id] = true
		out.State, out.Boxes = "accepted", map[string]string{}
		for k, v := range row {
			if b, ok := strings.CutPrefix(k, "box_"); ok && v != "" {
				out.Boxes[b] = v
			}
		}
	}
	return out
}

func (f *Filing) answer(w http.ResponseWriter, key string) {
	s := f.sendings[key]
	if s == nil {
		http.Error(w, "nothing came under this key", http.StatusNotFound)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	if s.waits > 0 || len(s.done) < len(s.rows) {
		s.waits = max(s.waits-1, 0)
		_ = json.NewEncoder(w).Encode(map[string]any{"state": "working", "rows": []FiledRow{}})
		return
	}
	_ = json.NewEncoder(w).Encode(map[string]any{"state": "done", "rows": s.done})
}

// match answers with the codes 0 to 8. Numbers are made up: one that begins with 00
// was not issued, one that ends in 3 belongs to another name.
func (f *Filing) match(w http.ResponseWriter, r *http.Request) {
	var in []struct {
		No              int
		Name, Tin, Kind string
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 16<<20)).Decode(&in); err != nil {
		http.Error(w, err.Error(), http.StatusBadRequest)
		return
	}
	type answer struct {
		No   int `json:"no"`
		Code int `json:"code"`
	}
	out := []answer{}
	seen := map[string]bool{}
	for _, q := range in {
		d := strings.NewReplacer("-", "", " ", "").Replace(q.Tin)
		a := answer{No: q.No}
		k := d + "|" + q.Name
		switch {
		case q.Name == "":
			a.Code = 4
		case len(d) != 9 || strings.Trim(d, "0123456789") != "":
			a.Code = 1
		case seen[k]:
			a.Code = 5
		case strings.HasPrefix(d, "00"):
			a.Code = 2
		case strings.HasSuffix(d, "3"):
			a.Code = 3
		case q.Kind == "" && d[8] == '8':
			a.Code = 8
		case q.Kind == "" && d[8]%2 == 0:
			a.Code = 6
		case q.Kind == "":
			a.Code = 7
		}
		seen[k] = true
		out = append(out, a)
	}
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(out)
}
