package app_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	payeesroom "coatrack/internal/app/payees"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"

	"github.com/stretchr/testify/require"
)

// sheet is the year's worksheet without what only one client can have: its ids.
func (d *desk) sheet(year int) []string {
	d.t.Helper()
	var b bytes.Buffer
	require.NoError(d.t, d.WriteWorksheet(d.ctx, d.who, d.client, year, "csv", &b))
	rows, err := csv.NewReader(&b).ReadAll()
	require.NoError(d.t, err)
	var out []string
	for _, r := range rows {
		out = append(out, strings.Join(r[1:], "|")) // the first is an id
	}
	slices.Sort(out)
	return out
}

// What is known of a year does not depend on the order in which it was told: files in any
// order, then words in any order, end in the same buckets, line by line.
func TestTheYearDoesNotDependOnTheOrder(t *testing.T) {
	header := "Date,Payment id,Vendor,Vendor no,Ref,Method,Paid from,Account,Amount\n"
	vendors := []string{"\"Marrow, Ida\",V-1", "\"Ness, Ada\",V-2", "Fathom Engines Inc.,V-3", "Cobb & Lantern LLP,V-4", "Bell Electric,V-5"}
	accounts := []string{"6450 Subcontract rigging", "6460 Sailmaking", "6900 Legal", "5120 Bronze fastenings"}
	base := newDesk(t)
	base.Now = func() time.Time { return time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC) }
	for seed := range uint64(5) {
		r := rand.New(rand.NewPCG(seed, 1099))
		var files [3]string
		var total money.Amount
		for k := range files {
			files[k] = header
			for n := range 8 {
				a := money.Amount(r.IntN(200_000) + 1)
				total += a
				files[k] += fmt.Sprintf("2026-%02d-%02d,P-%d-%d,%s,%d,%s,1010 Operating,%s,%s\n", 1+4*k+r.IntN(4), 1+r.IntN(28), k, n, vendors[r.IntN(len(vendors))], 2200+100*k+n, []string{"Check", "ACH", "", "Card"}[r.IntN(4)], accounts[r.IntN(len(accounts))], a)
			}
		}
		told := func(order int) (tape_ map[string]money.Amount, lines []string, story string) {
			q := rand.New(rand.NewPCG(seed, uint64(order)))
			c, err := base.NewClient(base.ctx, base.who, act.Facts{Name: fmt.Sprintf("Year %d told %d", seed, order), LegalName: "Year LLC", EntityClass: "LLC taxed as S corporation", FiscalYearEnd: 12, Method: "accrual", Currency: "USD", OpeningDay: "2026-01-01"})
			require.NoError(t, err)
			here := *base
			d := &here
			d.client = c.ID
			d.take(d.bring("chart", "chart.csv", payeeChart))
			var done []string
			run := func(acts map[string]func()) {
				names := make([]string, 0, len(acts))
				for n := range acts {
					names = append(names, n)
				}
				slices.Sort(names)
				q.Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
				for _, n := range names {
					done = append(done, n)
					acts[n]()
				}
			}
			bring := map[string]func(){"vendors": func() { d.take(d.bring("parties", "vendors.csv", payeeVendors)) }}
			for k, text := range files {
				bring[fmt.Sprint("payments ", k)] = func() { d.take(d.bring("vendor-payments", fmt.Sprintf("p%d.csv", k), text)) }
			}
			run(bring)
			d.settle(parties.PartyChoice{Accept: true}, "*")
			d.settle(parties.PartyChoice{Make: true}, "*")
			paid := map[string]bool{}
			for _, n := range d.payees(2026).Accounts {
				paid[n.Name] = true
			}
			words := map[string]func(){
				"a threshold": func() {
					require.NoError(t, d.SetThreshold(d.ctx, d.who, d.client, payeesroom.OwnThreshold{Year: 2026, Box: "NEC 1", Amount: ptr(money.Amount(1_500_00)), Reason: "asked for"}))
				},
			}
			for name, c := range map[string]payeesroom.BoxChoice{"Subcontract rigging": {Box: "NEC 1"}, "Sailmaking": {Box: "NEC 1"}, "Legal": {Box: "MISC 10", Sure: true}, "Bronze fastenings": {LeaveOut: "goods"}} {
				if paid[name] {
					words["box of "+name] = func() { d.box(c, name) }
				}
			}
			for name, change := range map[string]func(*payeesroom.PayeeFacts){
				"Marrow, Ida":         func(f *payeesroom.PayeeFacts) { f.Gets = "yes" },
				"Ness, Ada":           func(f *payeesroom.PayeeFacts) { f.Gets, f.Why = "no", "ours" },
				"Fathom Engines Inc.": func(f *payeesroom.PayeeFacts) { f.Class = payees.CCorporation },
				"Bell Electric":       func(f *payeesroom.PayeeFacts) { f.Class, f.Gets = payees.Proprietor, "yes" },
			} {
				if slices.ContainsFunc(d.payees(2026).Payees, func(p payeesroom.PayeeLine) bool { return p.Name == name }) {
					words["word on "+name] = func() { d.say(name, change) }
				}
			}
			run(words)
			return tape(d.payees(2026)), d.sheet(2026), strings.Join(done, "\n")
		}
		tape1, lines1, story1 := told(1)
		tape2, lines2, story2 := told(2)
		require.Equal(t, tape1, tape2, "%s\n--\n%s", story1, story2)
		require.Equal(t, lines1, lines2, "%s\n--\n%s", story1, story2)
		var sum money.Amount
		for _, a := range tape1 {
			sum += a
		}
		require.Equal(t, total, sum, "every cent is in one bucket")
	}
}
