package table

import (
	"regexp"
	"slices"
	"strings"

	"coatrack/internal/core/money"
)

// Guess says what a file may be, with what speaks for it.
type Guess struct {
	As    As     `json:"as"`
	Kind  string `json:"kind,omitempty"` // of parties: customer or vendor
	Score int    `json:"score"`          // from 0; 50 and more is good, a lead of 15 over the next is sure
	Why   string `json:"why"`
}

// sign is something that speaks for a kind of file, in its titles, in the lines above
// them, or in the names of file and sheet.
type sign struct {
	as     As
	points int
	where  byte // t: titles, h: lines above and names, b: both
	re     *regexp.Regexp
	words  string
}

func speaks(as As, points int, where byte, words, re string) sign {
	return sign{as, points, where, regexp.MustCompile(`(?i)` + re), words}
}

// signs are taken from how the trade titles its lists; each counts once.
var signs = []sign{
	speaks(AsChart, 45, 'h', "its head names a chart of accounts", `chart of|accounts in use|account(s)? list|list of accounts|\bcoa\b|\bchart\b`),
	speaks(AsChart, 30, 't', "a column of account types", `account type|\bkind\b|\bsort\b|detail type|normal (side|balance)|part of the books|\btype\b|b/s|tax line|\bduty\b|\brole\b|\bgroup\b`),
	speaks(AsTrialBalance, 50, 'h', "its head names balances", `trial balance|\bbalances?\b|all accounts|opening, movement|\btb\b|ledger print`),
	speaks(AsTrialBalance, 25, 't', "columns of debits and credits", `debits?\b.*credits?\b|\bdr\b.*\bcr\b`),
	speaks(AsCrosswalk, 60, 't', "old and new beside each other", `(\bold|\bwas\b|legacy|\bformer|\bfrom\b).*(\bnew|\bbecomes?\b|\bnow\b|\bto\b|target)`),
	speaks(AsCrosswalk, 30, 'h', "its head says old to new", `old to new|crosswalk|mapping|conversion table`),
	speaks(AsInvoices, 45, 'h', "its head names what customers owe", `open invoices?|unpaid invoices?|receivables?|customers? owe|what (they|customers) owe|\ba/?r\b|\bar aging|invoices`),
	speaks(AsInvoices, 25, 't', "a column of customers", `customer|client|bill to|member`),
	speaks(AsInvoices, 20, 't', "invoices with due dates", `invoice|\bdoc(ument)?\b|\bdue\b|payable by`),
	speaks(AsInvoices, 15, 't', "a column of what is open", `\bopen\b|balance due|amount due|unpaid|outstanding|still`),
	speaks(AsBills, 50, 'h', "its head names unpaid bills", `open bills?|unpaid bills?|bills? not paid|payables?|\ba/?p\b|\bap aging|bills to pay`),
	speaks(AsBills, 25, 't', "a column of vendors", `vendor|supplier|creditor`),
	speaks(AsBills, 25, 't', "bills with due dates", `\bbill( no)?\b.*due|\bdue\b.*bill|bill no`),
	speaks(AsBills, 15, 't', "a column of what is open", `\bopen\b|balance due|amount due|unpaid|outstanding|still owed|owed`),
	speaks(AsParties, 45, 'h', "its head names customers or vendors", `\bcustomers\b|\bvendors\b|\bsuppliers\b|\bpayees\b|w-?9s?\b|contacts?|clients list|members list`),
	speaks(AsParties, 30, 't', "addresses", `street|address|\bzip\b|\bcity\b|\btown\b`),
	speaks(AsParties, 25, 't', "telephones and mail", `phone|e-?mail|\btel\b`),
	speaks(AsParties, 30, 't', "tax numbers or facts of Form W-9", `tax (no|id|number)|\bein\b|\bssn\b|\btin\b|classification|1099|exempt code|w-?9`),
	speaks(AsParties, 20, 't', "names of customers or vendors", `supplier|vendor|customer|payee`),
	speaks(AsUncleared, 60, 'h', "its head names what has not cleared", `not yet through|uncleared|outstanding (checks|items|deposits)|reconciliation|in transit|not cleared|unpresented`),
	speaks(AsUncleared, 25, 't', "checks and deposits", `\bcheck\b|payee or source|to or from|cleared`),
	speaks(AsStatement, 40, 'h', "its head names a bank account", `\bstatement\b|account ending|account (no|number)|\bbank\b|credit union|transactions`),
	speaks(AsStatement, 35, 't', "a running balance beside dated lines", `(date|posted|day).*(\bbalance\b|\bleft\b|running)`),
	speaks(AsStatement, 25, 't', "money in and out", `withdraw\w*|deposits?\b|paid in|paid out|money (in|out)`),
	speaks(AsPayments, 45, 'h', "its head names payments", `\bpayments\b|checks written|check register|paid to vendors|disbursements`),
	speaks(AsPayments, 30, 't', "whom was paid, and when", `(day|date|paid on).*(paid to|payee|vendor|supplier|contractor)|(paid to|payee|vendor|supplier|contractor).*(date|paid on)`),
	speaks(AsPayments, 25, 't', "the account each payment is charged to", `charged to|for account|expense account|category|\bsplit\b|account`),
	speaks(AsPayments, 20, 't', "how it was paid", `\bhow\b|method|\bfrom\b|out of|paid from|undoes`),
	speaks(AsPrior, 45, 'h', "its head names prior payments", `prior payments|payments before|earlier payments|year so far|before the (start|cutover)`),
	speaks(AsRegister, 50, 't', "pay and taxes of employees", `(regular|gross|salary|wages|earnings|officer pay|overtime).*(federal|medicare|social|soc|fica|tax|net)`),
	speaks(AsRegister, 35, 't', "items of employees", `employee.*\bitem\b|sort of item|pay item|earning or deduction`),
	speaks(AsRegister, 30, 'h', "its head names a check date", `check date|pay date|payroll (register|journal|summary|run)|pay of|run summary|pay period|period \d|\bpaid (on )?[a-z]{3,9} \d`),
	speaks(AsRegister, 40, 't', "this run beside the year to date", `this (run|period|pay|check).*(year|ytd|to date)|current.*(ytd|year to date)`),
	speaks(AsToDate, 50, 't', "pay and taxes of employees", `(regular|gross|salary|wages|earnings|officer|overtime).*(federal|medicare|social|soc|fica|tax|net)`),
	speaks(AsToDate, 35, 'h', "its head says through which day", `\bthrough\b.*by employee|year to date|\bytd\b|year-to-date|january 1 (to|through)|paid january 1`),
	speaks(AsPayBill, 45, 't', "premiums of members", `premium|cover(age)?( month)?\b.*(member|person|name)|member pays|group pays|subscriber`),
	speaks(AsPayBill, 45, 't', "charges of an invoice of the payroll provider", `(invoice|bill).*\bcharge\b|check date.*\bcharge\b|\bcharge\b.*(amount|total)`),
	speaks(AsPayBill, 60, 't', "what was sent on from pay", `from pay|from employer|\bsent\b|remitted|for check of`),
	speaks(AsPayBill, 25, 'h', "its head names a bill", `\bbill\b|invoice|premium|cover for|remit|paid out for|health|dental|retirement`),
	speaks(AsForms, 60, 't', "lines or boxes of forms", `\bform\b.*(box|line)|box ?\d.*box ?\d|(box|line)( no)?\b.*(form|quarter|amount)`),
	speaks(AsForms, 40, 'h', "its head names a form", `form (941|940|w-?2)|\bw-?2s?\b`),
}

// Recognize says what a list may be, the likeliest first: by its titles, then by what
// stands in it, then by the place where it was brought. name holds the names of file and
// sheet; place is what a person dropped it as, "" where that says nothing.
func Recognize(src Source, name string, place As, opt Options) ([]Guess, error) {
	probe := &reader{as: AsTrialBalance, opt: opt}
	sample, err := probe.sample(probe.cleaning(src))
	if err != nil || len(sample) == 0 {
		return nil, err
	}
	list := Source(func(yield func(*Record) bool) error {
		for _, rec := range sample {
			c := *rec
			if !yield(&c) {
				return nil
			}
		}
		return nil
	})
	var out []Guess
	for _, as := range All {
		g := guessAs(as, list, sample, name, opt)
		if as == place {
			g.Score += 12
			g.Why = strings.TrimPrefix(g.Why+", brought as such", ", ")
		}
		out = append(out, g)
	}
	slices.SortStableFunc(out, func(a, b Guess) int { return b.Score - a.Score })
	return out, nil
}

// guessAs reads the first records as one kind of list and says how well that goes.
func guessAs(as As, list Source, sample []*Record, name string, opt Options) Guess {
	o := Options{As: as, Delimited: opt.Delimited, Client: opt.Client}
	r, err := Read(list, o)
	if err != nil {
		return Guess{As: as}
	}
	head, titles := name, ""
	for _, rec := range sample {
		switch {
		case rec.No < r.HeaderRow || r.HeaderRow == 0 && filled(rec) <= 2 && len(head) < 400:
			head += " | " + joinCells(rec)
		case rec.No == r.HeaderRow:
			titles = strings.ToLower(joinTitles(rec))
		}
	}
	if as.Payments() { // no account that anything is charged to
		titles = strings.ReplaceAll(titles, "bank account", "bank")
	}
	g := Guess{As: as}
	var why []string
	for _, s := range signs {
		if s.as != as {
			continue
		}
		if (s.where == 't' || s.where == 'b') && s.re.MatchString(titles) || (s.where == 'h' || s.where == 'b') && s.re.MatchString(head) {
			g.Score += s.points
			why = append(why, s.words)
		}
	}
	has := map[string]bool{}
	for _, c := range r.Columns {
		has[c.Meaning] = true
	}
	add := func(ok bool, points int, words string) {
		if !ok {
			return
		}
		g.Score += points
		if words != "" {
			why = append(why, words)
		}
	}
	rows := r.Totals.Rows
	add(rows > 0 && r.Totals.Refused == 0, 10, "")
	add(r.Refused() || rows == 0, -60, "")
	add(r.Totals.Refused > rows, -30, "")
	switch as {
	case AsChart:
		add(has[Name] || has[NumName] || has[LevelName], 10, "")
		add(has[KindCol] || has[SortCol], 20, "")
		add(has[RoleCol] || has[LevelName] || has[Parent], 15, "")
		add(amountColumns(r) > 1, -30, "")
		add(hasWord(titles, "date", "payee"), -40, "")
	case AsTrialBalance:
		add(has[Debit] && has[Credit], 15, "")
		add(has[Amount] && (has[Number] || has[NumName]), 25, "accounts with a number and a balance")
		add(rows > 2 && r.Totals.Debit == r.Totals.Credit && r.Totals.Debit != 0, 45, "its amounts add up to zero")
		add(!has[Number] && !has[Name] && !has[NumName], -40, "")
		add(strings.Contains(titles, "due") || strings.Contains(titles, "date") && !strings.Contains(titles, "to date"), -30, "")
	case AsParties:
		add(has[Address] || has[Telephone] || has[Email] || has[TaxIDCol] || has[Terms], 15, "")
		add(has[PartyID], 5, "")
		g.Kind = r.PartyKind
	case AsInvoices, AsBills:
		add(has[DocNumber], 10, "")
		add(has[DateCol], 5, "")
		add(has[Due], 10, "")
		add(has[OpenCol] || has[Original], 5, "")
		add(has[Balance], -20, "")
	case AsStatement:
		add(has[Balance] && has[DateCol], 15, "")
		add(!has[DateCol], -40, "")
	case AsUncleared:
		add(has[DocNumber] || has[ClearedCol] || has[BankAccount], 5, "")
		add(has[Doc] && has[BankAccount], 25, "items with the bank account that they are on")
		add(checksAndDeposits(sample, r.HeaderRow), 35, "checks beside deposits")
	case AsPayments, AsPrior:
		add(has[Party] && has[DateCol], 10, "")
		add(has[Name] || has[Number] || has[NumName], 10, "")
		add(has[MethodCol] || has[FundCol], 10, "")
		add(as == AsPrior, -15, "")
		add(checksAndDeposits(sample, r.HeaderRow), -35, "")
	case AsCrosswalk:
		add((has[Number] || has[Name]) && (has[ToNumber] || has[ToName]), 20, "")
		add(!(has[Number] || has[Name]) || !(has[ToNumber] || has[ToName]), -60, "")
	case AsRegister, AsToDate:
		check := r.Run != nil && r.Run.Check != ""
		add(as == AsRegister && check, 25, "it says a check date")
		add(as == AsToDate && check, -40, "")
		add(as == AsToDate && r.Run != nil && r.Run.Through != "" && !check, 10, "")
		add(amountColumns(r) < 2 && !has[ItemCol], -30, "")
	case AsPayBill:
		add(r.Run != nil && len(r.Run.Bills) > 0, 10, "")
		add(has[BillNo] || has[PayeeCol], 5, "")
	}
	if len(why) > 2 {
		why = why[:2]
	}
	g.Score = max(g.Score, 0)
	g.Why = strings.Join(why, ", ")
	return g
}

// hasWord says whether a title is one of these words or begins or ends with one.
func hasWord(titles string, words ...string) bool {
	for _, t := range strings.FieldsFunc(titles, func(r rune) bool { return r == ' ' || r == '|' }) {
		if slices.Contains(words, t) {
			return true
		}
	}
	return false
}

// checksAndDeposits says whether a column holds nothing but words for checks and for
// deposits, some of each: a list of payments has no deposits.
func checksAndDeposits(sample []*Record, header int) bool {
	type seen struct{ checks, deposits, other int }
	cols := map[int]*seen{}
	for _, rec := range sample {
		if rec.No <= header {
			continue
		}
		for i, c := range rec.Cells {
			t := money.Trim(c.Text)
			if t == "" {
				continue
			}
			s := cols[i]
			if s == nil {
				s = &seen{}
				cols[i] = s
			}
			switch k := unclearedKind(t); {
			case len(t) > 30 || k == "":
				s.other++
			case k == DocCheck:
				s.checks++
			default:
				s.deposits++
			}
		}
	}
	for _, s := range cols {
		if s.other == 0 && s.checks > 0 && s.deposits > 0 {
			return true
		}
	}
	return false
}

// amountColumns counts the columns that hold amounts, used or not.
func amountColumns(r *Reading) int {
	n := 0
	for _, c := range r.Columns {
		switch c.Meaning {
		case Debit, Credit, Amount, PayCol, TotalCol, OpenCol, Original, Balance, Settled:
			n++
		}
	}
	return n
}

func joinTitles(rec *Record) string {
	var out []string
	for _, c := range rec.Cells {
		if t := money.Trim(c.Text); t != "" {
			out = append(out, writtenOut(foldHead(t)))
		}
	}
	return strings.Join(out, " | ")
}

// Sure says whether the first of some guesses leads far enough to be taken without asking.
func Sure(gs []Guess) bool {
	return len(gs) > 0 && gs[0].Score >= 50 && (len(gs) < 2 || gs[0].Score-gs[1].Score >= 15)
}

// lead is by how much another kind must lead over the one that was said, to be spoken of.
const lead = 30

// Mistaken returns what a file looks like where that is plainly another kind than it was
// brought as.
func Mistaken(gs []Guess, as As) (Guess, bool) {
	if !Sure(gs) || gs[0].As == as {
		return Guess{}, false
	}
	if as == AsPrior && gs[0].As == AsPayments { // one shape: which of the two only its bringer knows
		return Guess{}, false
	}
	for _, g := range gs {
		if g.As == as && gs[0].Score-g.Score < lead {
			return Guess{}, false
		}
	}
	return gs[0], true
}

// SayMistaken leaves of a reading's findings and questions the one that matters: that the
// file looks like another kind, with the answers to it.
func (r *Reading) SayMistaken(g Guess) {
	r.Recognized = &g
	r.Findings = []Finding{{Code: "wrong-kind", Severity: Hold, Message: "This looks like " + g.As.Words() + ", not " + r.As.Words() + ": " + g.Why + "."}}
	r.Questions = []Question{{Key: "as", Needed: true, Why: "this looks like " + g.As.Words() + ", not " + r.As.Words(), Choices: []Choice{{string(g.As), "Read it as " + g.As.Words()}, {string(r.As), "Keep it as " + r.As.Words()}}}}
}

// Words for kinds of files, as a sentence has them: "open invoices".
var kindNames = map[As]string{
	AsChart: "a chart of accounts", AsTrialBalance: "a trial balance", AsParties: "customers or vendors", AsInvoices: "open invoices", AsBills: "open bills", AsUncleared: "uncleared bank items", AsStatement: "a bank statement",
	AsCrosswalk: "a crosswalk", AsPayments: "payments to vendors", AsPrior: "prior payments of the year", AsRegister: "a payroll register", AsToDate: "pay of the year to date", AsPayBill: "a carrier's or provider's bill", AsForms: "a provider's own forms",
}

// Words names a kind of file in a sentence.
func (a As) Words() string { return kindNames[a] }
