package app_test

import (
	"fmt"
	"maps"
	"time"

	"coatrack/internal/app/sheet"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

// payWalk takes a client's payroll through acts in any order. What each run does to the
// books is said a second time here: wages by where the choices stood when it was posted,
// taxes both sides, deductions, and the bank less what was drawn.
type payWalk struct {
	walk
	runs  []*walkRun // by period
	needs []*walkNeed
	shape string
}

// walkNeed is what a person chooses and changes: where Regular of everybody but officers
// goes, and where what was withheld for the court is owed.
type walkNeed struct {
	item, facet string
	accounts    []string
	dated       []walkBind
}

type walkBind struct {
	from, account string
}

type walkRun struct {
	check  string
	people map[string]walkPay
	id     int64
	posted map[string]money.Amount // nil is not posted
	at     [2]string               // the accounts of the needs when it was posted
	fee    money.Amount            // drawn, and posted or not yet
	feeing money.Amount            // posted of it
	under  []walkPosted            // what stood before each correction was posted
}

type walkPosted struct {
	moves  map[string]money.Amount
	at     [2]string
	feeing money.Amount
}

type walkPay struct {
	officer                         bool
	regular, overtime, fit, garnish money.Amount
}

func (p walkPay) gross() money.Amount { return p.regular + p.overtime }

func (p walkPay) ss() money.Amount { return rounded(int64(p.gross()) * 62) }

func (p walkPay) med() money.Amount { return rounded(int64(p.gross()) * 29 / 2) }

func (p walkPay) net() money.Amount { return p.gross() - p.fit - p.ss() - p.med() - p.garnish }

// rounded is thousandths of a cent as cents.
func rounded(thousandths int64) money.Amount { return money.Amount((thousandths + 500) / 1000) }

func (r *walkRun) file(n int) string {
	day, _ := time.Parse("2006-01-02", r.check)
	text := fmt.Sprintf("Provider: Pellan Payroll Bureau\nPay period: %s to %s\nCheck date: %s\nPrinted copy %d\n", day.AddDate(0, 0, -13).Format("01/02/2006"), r.check[5:7]+"/"+r.check[8:]+"/"+r.check[:4], day.Format("01/02/2006"), n)
	text += "Employee,Employee no,Dept,Officer,Regular,Overtime,Federal income tax,Social security,Medicare,Garnishment,Employer social security,Employer Medicare,Net pay\n"
	for k, name := range []string{"Ann Ames", "Bo Bird", "Cy Cole", "Di Dunn"} {
		p, ok := r.people[name]
		if !ok {
			continue
		}
		officer, dept := "", "Floor"
		if p.officer {
			officer, dept = "Y", "Office"
		}
		text += fmt.Sprintf("%s,%d,%s,%s,%s,%s,%s,%s,%s,%s,%s,%s,%s\n", name, k+1, dept, officer, p.regular, p.overtime, p.fit, p.ss(), p.med(), p.garnish, p.ss(), p.med(), p.net())
	}
	return text
}

func (w *payWalk) people() map[string]walkPay {
	out := map[string]walkPay{}
	for _, name := range []string{"Ann Ames", "Bo Bird", "Cy Cole", "Di Dunn"} {
		if name == "Di Dunn" && w.r.IntN(2) == 0 {
			continue
		}
		p := walkPay{officer: name == "Cy Cole", regular: money.Amount(w.r.IntN(200_000) + 50_000), fit: money.Amount(w.r.IntN(20_000))}
		if !p.officer && w.r.IntN(2) == 0 {
			p.overtime = money.Amount(w.r.IntN(20_000) + 1)
		}
		if name == "Ann Ames" {
			p.garnish = 50_00
		}
		out[name] = p
	}
	return out
}

// moves is what a run does to the books once everything is drawn.
func (r *walkRun) moves() map[string]money.Amount {
	m := map[string]money.Amount{}
	for _, p := range r.people {
		if p.officer {
			m["Officer pay"] += p.gross()
		} else {
			m[r.at[0]] += p.regular
			m["Yard wages"] += p.overtime
		}
		m["Employer tax"] += p.ss() + p.med()
		m[r.at[1]] -= p.garnish
		m["Estuary Bank"] -= p.net() + p.fit + 2*p.ss() + 2*p.med()
	}
	m["Payroll service fees"] += r.feeing
	m["Estuary Bank"] -= r.feeing
	return m
}

// goes is the account of a need for a run of a day: the choice of the latest day not
// after it.
func (n *walkNeed) goes(day string) string {
	out, from := "", ""
	for _, b := range n.dated {
		if b.from <= day && b.from >= from {
			out, from = b.account, b.from
		}
	}
	return out
}

func (w *payWalk) goes(day string) [2]string {
	return [2]string{w.needs[0].goes(day), w.needs[1].goes(day)}
}

func (w *payWalk) bringRun() {
	i := w.r.IntN(len(w.runs))
	run := w.runs[i]
	w.n++
	was := run.people
	if run.people == nil {
		run.people = w.people()
		w.act("bring the run of %s", run.check)
		w.take(w.bring("payroll-register", fmt.Sprintf("r%d.csv", w.n), run.file(w.n)))
		w.find(run)
		return
	}
	run.people = maps.Clone(was)
	p := run.people["Bo Bird"]
	p.regular += money.Amount(w.r.IntN(9_000) + 1)
	run.people["Bo Bird"] = p
	w.act("bring the run of %s corrected, posted %v", run.check, run.posted != nil)
	b := w.bring("payroll-register", fmt.Sprintf("r%d.csv", w.n), run.file(w.n))
	_, err := w.ImportFile(w.ctx, w.who, w.client, b.ID, sheet.Taking{Corrects: run.id})
	require.NoError(w.t, err, w.story())
	w.find(run)
}
