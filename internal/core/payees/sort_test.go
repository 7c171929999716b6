package payees

import (
	"testing"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func self(id int64) int64 { return id }

func rules(t require.TestingT, year int) Rules {
	r, ok := RulesOf(year)
	require.True(t, ok)
	return r
}

var (
	byCheck = Method{Kind: Check, From: "payment"}
	byCard  = Method{Kind: Card, From: "payment"}
)

func set(box Box, amount money.Amount) Line {
	return Line{Payee: 1, N: 1, Amount: amount, State: mapping.Set, Box: box, Method: byCheck}
}

var said = Payee{ID: 1, Name: "Marrow, Ida", Class: Proprietor, ClassFrom: FromW9, Gets: GetsForms, TaxID: "123-45-6789", TaxKind: "ssn", Street: "1 Quay", City: "Pellan Reach", State: "ME", Zip: "04001"}

// The package's worked example: 3,380.00 on NEC 1, 640.00 not reportable, 850.00 by card.
func TestWorkedExample(t *testing.T) {
	lines := []Line{set("NEC 1", 1_480_00), set("NEC 1", 1_900_00), {Payee: 1, N: 1, Amount: 640_00, State: mapping.OutState, Method: byCheck}, set("NEC 1", 850_00)}
	lines[3].Method = byCard
	res := Sort(lines, map[int64]Payee{1: said}, self, rules(t, 2026))
	sums := Split{}
	for i, o := range res.Outcomes {
		sums[o.Bucket] += lines[i].Amount
	}
	require.Equal(t, Split{OnForm: 3_380_00, NotReportable: 640_00, OtherMethod: 850_00}, sums)
	forms := Forms(res, map[int64]Payee{1: said}, rules(t, 2026))
	require.Len(t, forms, 1)
	require.Equal(t, []BoxAmount{{"NEC 1", 3_380_00}}, forms[0].Boxes)
	require.Empty(t, forms[0].Faults)
}

// Each threshold is met at or above: one cent below is under it, the figure itself
// is on the form (IRC 6041, 6041A, 6050N, 6045, 6050R; P.L. 119-21 sec. 70433).
func TestThresholdsAreMetAtOrAbove(t *testing.T) {
	at := map[int]map[Box]money.Amount{
		2025: {"NEC 1": 600_00, "MISC 1": 600_00, "MISC 2": 10_00, "MISC 3": 600_00, "MISC 5": 1, "MISC 6": 600_00, "MISC 8": 10_00, "MISC 9": 600_00, "MISC 10": 600_00, "MISC 11": 600_00},
		2026: {"NEC 1": 2_000_00, "MISC 1": 2_000_00, "MISC 2": 10_00, "MISC 3": 2_000_00, "MISC 5": 1, "MISC 6": 2_000_00, "MISC 8": 10_00, "MISC 9": 2_000_00, "MISC 10": 600_00, "MISC 11": 600_00},
	}
	for year, boxes := range at {
		for box, a := range boxes {
			for amount, bucket := range map[money.Amount]string{a - 1: Under, a: OnForm} {
				if amount == 0 {
					continue
				}
				l, p := set(box, amount), said
				l.Method = Method{Kind: CashPaid, From: "payment"}
				p.Attorney = box == AttorneyBox
				res := Sort([]Line{l}, map[int64]Payee{1: p}, self, rules(t, year))
				require.Equal(t, bucket, res.Outcomes[0].Bucket, "%d %s %s", year, box, amount)
			}
		}
	}
}

// The tests in their order; each row differs from "on a form" in one thing.
func TestTheFirstTestThatAppliesDecides(t *testing.T) {
	base := func(f func(*Line, *Payee)) (Line, Payee) {
		l, p := set("NEC 1", 3_000_00), said
		f(&l, &p)
		return l, p
	}
	for name, c := range map[string]struct {
		change func(*Line, *Payee)
		bucket string
		words  string
	}{
		"nothing changed":                   {func(l *Line, p *Payee) {}, OnForm, "meets 2,000.00"},
		"left out":                          {func(l *Line, p *Payee) { l.State, l.Box = mapping.OutState, "" }, NotReportable, "left out"},
		"left out, though by card":          {func(l *Line, p *Payee) { l.State, l.Box, l.Method = mapping.OutState, "", byCard }, NotReportable, "left out"},
		"open, and by card":                 {func(l *Line, p *Payee) { l.State, l.Box, l.Method = mapping.Open, "", byCard }, OtherMethod, "6050W"},
		"open":                              {func(l *Line, p *Payee) { l.State, l.Box = mapping.Open, "" }, Undecided, "open"},
		"suggested":                         {func(l *Line, p *Payee) { l.State, l.Box = mapping.Suggested, "" }, Undecided, "only suggested"},
		"broken":                            {func(l *Line, p *Payee) { l.State, l.Box = mapping.Broken, "" }, Undecided, "broken"},
		"by card":                           {func(l *Line, p *Payee) { l.Method = byCard }, OtherMethod, "card"},
		"by network":                        {func(l *Line, p *Payee) { l.Method = MethodOf("", "", "", "", FundNetwork) }, OtherMethod, "network"},
		"gets none":                         {func(l *Line, p *Payee) { p.Gets, p.Why = GetsNone, "is our parent company" }, Exempt, "parent company"},
		"gets none, tax withheld":           {func(l *Line, p *Payee) { p.Gets, l.Withheld = GetsNone, 10_00 }, OnForm, "meets"},
		"corporation, not said":             {func(l *Line, p *Payee) { p.Class, p.Gets = SCorporation, "" }, Exempt, "corporation"},
		"LLC taxed as one":                  {func(l *Line, p *Payee) { p.Class, p.Gets = LLCCCorp, "" }, Exempt, "corporation"},
		"corporation that gets forms":       {func(l *Line, p *Payee) { p.Class = CCorporation }, OnForm, "meets"},
		"guessed corporation":               {func(l *Line, p *Payee) { p.Class, p.ClassFrom, p.Gets = CCorporation, FromGuess, "" }, Undecided, "nothing was said"},
		"incorporated attorney, legal fees": {func(l *Line, p *Payee) { p.Class, p.Attorney = CCorporation, true }, OnForm, "meets"},
		"incorporated, medical":             {func(l *Line, p *Payee) { p.Class, l.Box = CCorporation, "MISC 6" }, OnForm, "meets"},
		"incorporated attorney, settlement": {func(l *Line, p *Payee) { p.Class, p.Attorney, l.Box = SCorporation, true, "MISC 10" }, OnForm, "meets"},
		"settlement, no attorney":           {func(l *Line, p *Payee) { l.Box = "MISC 10" }, Undecided, "mark the payee as an attorney"},
		"settlement under 600.00, none":     {func(l *Line, p *Payee) { l.Box, l.Amount = "MISC 10", 100_00 }, Undecided, "not marked"},
		"settlement, none, put on a form": {func(l *Line, p *Payee) {
			l.Word = &Override{Bucket: OnForm, Box: "MISC 10", Reason: "an estate's counsel"}
		}, OnForm, "counsel"},
		"settlement by card, no attorney":     {func(l *Line, p *Payee) { l.Box, l.Method = "MISC 10", byCard }, OtherMethod, "card"},
		"incorporated, rent":                  {func(l *Line, p *Payee) { p.Class, l.Box, p.Gets = SCorporation, "MISC 1", "" }, Exempt, "MISC 1"},
		"tax-exempt, medical":                 {func(l *Line, p *Payee) { p.Class, l.Box, p.Gets = TaxExempt, "MISC 6", "" }, Exempt, "tax-exempt"},
		"government":                          {func(l *Line, p *Payee) { p.Class, p.Gets = Government, "" }, Exempt, "government"},
		"foreign":                             {func(l *Line, p *Payee) { p.Class, p.Gets = Foreign, "" }, Exempt, "W-8"},
		"rent through an agent":               {func(l *Line, p *Payee) { p.Agent, l.Box, p.Gets = true, "MISC 1", "" }, Exempt, "agent"},
		"rent through an agent, said yes":     {func(l *Line, p *Payee) { p.Agent, l.Box = true, "MISC 1" }, Exempt, "agent"},
		"rent through an agent, class unsaid": {func(l *Line, p *Payee) { p.Agent, l.Box, p.Class, p.Gets = true, "MISC 1", "", "" }, Exempt, "agent"},
		"an agent's own fee":                  {func(l *Line, p *Payee) { p.Agent = true }, OnForm, "meets"},
		"contradicted method":                 {func(l *Line, p *Payee) { l.Method = MethodOf("", Check, "", "", FundCard) }, Undecided, "card account"},
		"unknown method":                      {func(l *Line, p *Payee) { l.Method = MethodOf("", "", "barter", "", FundBank) }, Undecided, "barter"},
		"class missing":                       {func(l *Line, p *Payee) { p.Class = "" }, Undecided, "class is missing"},
		"not said":                            {func(l *Line, p *Payee) { p.Gets = "" }, Undecided, "gets forms"},
		"not said, under":                     {func(l *Line, p *Payee) { p.Gets, p.Class, l.Amount = "", "", 1_988_00 }, Under, "12.00 under the 2,000.00 threshold"},
		"under, but tax withheld":             {func(l *Line, p *Payee) { l.Amount, l.Withheld = 100_00, 24_00 }, OnForm, "withheld"},
		"no vendor":                           {func(l *Line, p *Payee) { l.Payee = 0 }, Undecided, "no vendor"},
		"line by line":                        {func(l *Line, p *Payee) { l.ByLine = true }, Undecided, "line by line"},
		"line by line, said": {func(l *Line, p *Payee) {
			l.ByLine, p.Attorney, l.Word = true, true, &Override{Box: "MISC 10", Reason: "the wharf case"}
		}, OnForm, "wharf case"},
		"line by line, said of no attorney":   {func(l *Line, p *Payee) { l.ByLine, l.Word = true, &Override{Box: "MISC 10", Reason: "the wharf case"} }, Undecided, "attorney"},
		"said not reportable":                 {func(l *Line, p *Payee) { l.Word = &Override{Bucket: NotReportable, Reason: "timber on a work bill"} }, NotReportable, "timber"},
		"under, put on a form":                {func(l *Line, p *Payee) { l.Amount, l.Word = 50_00, &Override{Bucket: OnForm, Reason: "they asked"} }, OnForm, "they asked"},
		"fish by check":                       {func(l *Line, p *Payee) { l.Box = "MISC 11" }, OtherMethod, "only cash"},
		"fish by money order":                 {func(l *Line, p *Payee) { l.Box, l.Method = "MISC 11", Method{Kind: MoneyOrder} }, OnForm, "meets 600.00"},
		"a refund of another year":            {func(l *Line, p *Payee) { l.Apart = "a refund of a payment of 2025" }, OtherYear, "2025"},
		"assumed method":                      {func(l *Line, p *Payee) { l.Method = MethodOf("", "", "", "", FundBank) }, OnForm, "assumed"},
		"set to a box that is filled by hand": {func(l *Line, p *Payee) { l.Box = "MISC 15" }, Undecided, "by hand"},
	} {
		l, p := base(c.change)
		res := Sort([]Line{l}, map[int64]Payee{1: p}, self, rules(t, 2026))
		require.Equal(t, c.bucket, res.Outcomes[0].Bucket, name)
		require.Contains(t, res.Outcomes[0].Reason, c.words, name)
	}
}

func TestAdjustmentsCountAsTheyStand(t *testing.T) {
	// 1,990.00 of work and 15.00 moved in from another box: 2,005.00 meets 2,000.00.
	in := Line{Payee: 1, Amount: 15_00, Box: "NEC 1", Adjust: true}
	res := Sort([]Line{set("NEC 1", 1_990_00), in}, map[int64]Payee{1: said}, self, rules(t, 2026))
	require.Equal(t, money.Amount(2_005_00), res.Sums[Key{1, "NEC 1"}].Amount)
	require.Equal(t, OnForm, res.Outcomes[1].Bucket)
	// A box by hand has no threshold.
	res = Sort([]Line{{Payee: 1, Amount: 5_00, Box: "MISC 15", Adjust: true}}, map[int64]Payee{1: said}, self, rules(t, 2026))
	require.Equal(t, OnForm, res.Outcomes[0].Bucket)
}

func TestJoinedPayeesAddUp(t *testing.T) {
	a, b := said, said
	b.ID, b.Name = 2, "Marrow, I."
	root := func(int64) int64 { return 1 }
	l := set("NEC 1", 1_200_00)
	m := l
	m.Payee = 2
	who := map[int64]Payee{1: Join([]Payee{a, b})}
	require.Equal(t, OnForm, Sort([]Line{l, m}, who, root, rules(t, 2026)).Outcomes[1].Bucket, "2,400.00 together")
	require.Equal(t, Under, Sort([]Line{l, m}, map[int64]Payee{1: a, 2: b}, self, rules(t, 2026)).Outcomes[1].Bucket)

	b.Gets, b.Class = GetsNone, CCorporation
	j := Join([]Payee{b, a})
	require.Empty(t, j.Gets, "two words that contradict each other are none")
	require.False(t, j.Known())
	b.Gets, b.Class = "", ""
	j = Join([]Payee{b, a})
	require.Equal(t, GetsForms, j.Gets)
	require.Equal(t, Proprietor, j.Class)
}

func TestMethods(t *testing.T) {
	for _, c := range []struct {
		said, stated, text, suggested, fund string
		kind                                string
		assumed, undecided                  bool
	}{
		{"", "", "", Card, FundBank, "", false, true},       // "card …7731" in the memo of a bank account
		{"", "", "", Check, FundBank, Check, true, false},   // "chk 2207" changes nothing
		{"", "", "", Check, FundCard, "", false, true},      // "chk 2207" on a card account
		{"", "", "", Network, FundCard, Card, false, false}, // reported by others either way
		{"", "", "", Transfer, "", "", false, true},
		{"", Check, "", Card, FundBank, Check, false, false}, // what the payment says stands before its memo
		{"", Check, "", "", FundBank, Check, false, false},
		{"", Card, "", "", FundBank, Card, false, false}, // a debit card
		{"", Check, "", "", FundCard, Check, false, true},
		{"", Transfer, "", "", FundNetwork, Transfer, false, true},
		{"", Card, "", "", FundNetwork, Card, false, false},
		{"", "", "", "", FundCard, Card, false, false},
		{"", "", "", "", FundNetwork, Network, false, false},
		{"", "", "", "", FundBank, Check, true, false},
		{"", "", "", "", FundCash, CashPaid, false, false},
		{"", Card, "", "", FundCash, Card, false, true},
		{"", "", "barter", "", FundBank, "", false, true},
		{"", "", "", "", "", "", false, true},
		{Wire, Check, "", "", FundCard, Wire, false, false}, // a person's word settles it
	} {
		m := MethodOf(c.said, c.stated, c.text, c.suggested, c.fund)
		require.Equal(t, c.kind, m.Kind, "%+v", c)
		require.Equal(t, c.assumed, m.Assumed, "%+v", c)
		require.Equal(t, c.undecided, m.Undecided(), "%+v", c)
	}
	for text, want := range map[string]string{
		"chk 2207": Check, "Check #118": Check, "card …7731": Card, "xxxx 7731": Card, "ACH": Transfer, "WIRE out": Wire, "paid by gift card": Card, "Money order 55": MoneyOrder,
		"cashier's check 9": CashiersChk, "travelers check 3": TravelersCk, "traveler's cheque": TravelersCk, "petty cash": CashPaid, "2207": "", "Rigging of the Tern": "", "check card 7731": Card, "payment app": Network, "cardigan": "", "achieved": "",
	} {
		m, why := SuggestMethod(text)
		require.Equal(t, want, m, text)
		require.Equal(t, want == "", why == "", text)
	}
	require.Equal(t, Check, ReadMethod(" Check. "))
	require.Equal(t, Card, ReadMethod("Credit  Card"))
	require.Empty(t, ReadMethod("barter"))
	require.Equal(t, TravelersCk, ReadMethod("Traveler's check"))
	require.Equal(t, Transfer, ReadMethod("person-to-person"), "reportable by the payer, to be checked")
	for kind, cash := range map[string]bool{CashPaid: true, CashiersChk: true, TravelersCk: true, MoneyOrder: true, Check: false, Wire: false, Transfer: false, Card: false, Network: false} {
		require.Equal(t, cash, Method{Kind: kind}.Cash(), kind) // IRC 6050R(c)
	}
}

// Backup withholding, IRC 3406. First row: 1,480.00 on 22 March, 1,900.00 on 14
// July reach 2,000.00 with the second, which counts whole: 24 % of it is 456.00.
func TestBackupWithholding(t *testing.T) {
	none, bad, ok := said, said, said
	none.TaxID = ""
	bad.TaxID = "12-345678A"
	order := ok
	order.Order = true
	pay := func(box Box, days ...any) (out []Paid) {
		for i := 0; i < len(days); i += 2 {
			out = append(out, Paid{Day: ledger.Day(days[i].(string)), Payment: int64(i + 1), Box: box, Amount: money.Amount(days[i+1].(int))})
		}
		return out
	}
	for name, c := range map[string]struct {
		p      Payee
		paid   []Paid
		before bool
		year   int
		from   ledger.Day
		due    money.Amount
	}{
		"from the payment that reaches it":      {none, pay("NEC 1", "2026-03-22", 1_480_00, "2026-07-14", 1_900_00), false, 2026, "2026-07-14", 456_00},
		"a number with a letter":                {bad, pay("NEC 1", "2026-03-22", 1_480_00, "2026-07-14", 1_900_00), false, 2026, "2026-07-14", 456_00},
		"a form last year: at once":             {none, pay("NEC 1", "2026-03-22", 1_480_00), true, 2026, "2026-03-22", 355_20},
		"the lower sum of 2025":                 {none, pay("NEC 1", "2025-03-22", 599_99, "2025-04-01", 1), false, 2025, "2025-04-01", 0},
		"royalties from the first dollar":       {none, pay("MISC 2", "2026-02-01", 100_00), false, 2026, "2026-02-01", 24_00},
		"attorney proceeds too":                 {none, pay("MISC 10", "2026-02-01", 50_00), false, 2026, "2026-02-01", 12_00},
		"boxes of IRC 6041 and 6041A together":  {none, append(pay("MISC 1", "2026-01-05", 1_500_00), Paid{Day: "2026-02-05", Payment: 9, Box: "NEC 1", Amount: 500_00}), false, 2026, "2026-02-05", 120_00},
		"two lines of one payment count whole":  {none, []Paid{{Day: "2026-02-05", Payment: 9, Box: "MISC 1", Amount: 1_000_00}, {Day: "2026-02-05", Payment: 9, Box: "NEC 1", Amount: 1_000_00}}, false, 2026, "2026-02-05", 480_00},
		"not yet reached":                       {none, pay("NEC 1", "2026-03-22", 1_999_99), false, 2026, "", 0},
		"a usable number":                       {ok, pay("NEC 1", "2026-03-22", 9_000_00), false, 2026, "", 0},
		"a notice of the IRS: once reportable":  {order, pay("NEC 1", "2026-03-22", 100_00, "2026-05-02", 1_900_00), false, 2026, "2026-05-02", 456_00},
		"a notice of the IRS, a form last year": {order, pay("NEC 1", "2026-03-22", 100_00), true, 2026, "2026-03-22", 24_00},
		"a share of the catch: from the first":  {none, pay("MISC 5", "2026-03-22", 100_00), false, 2026, "2026-03-22", 24_00},
		"a notice of the IRS, not reportable":   {order, pay("NEC 1", "2026-03-22", 100_00), false, 2026, "", 0},
	} {
		d, due := Withhold(c.p, c.paid, rules(t, c.year), c.before)
		require.Equal(t, c.from, d.From, name)
		require.Equal(t, c.due, d.Due, name)
		require.Equal(t, c.from != "", due, name)
	}
}

func TestSuggestionsAndWarnings(t *testing.T) {
	for name, c := range map[string]struct {
		kind chart.Kind
		box  Box
		out  bool
	}{
		"Equipment hire": {chart.Expense, "MISC 1", false}, "Mooring field rent": {chart.Expense, "MISC 1", false}, "Yard labor, hired": {chart.Expense, "NEC 1", false}, "Hired hands": {chart.Expense, "NEC 1", false}, "Payroll service fees": {chart.Expense, "NEC 1", false}, "Payroll taxes": {chart.Liability, "", true}, "Legal": {chart.Expense, "NEC 1", false}, "Legal settlements": {chart.Expense, "MISC 10", false},
		"Subcontract rigging": {chart.Expense, "NEC 1", false}, "Diving and hull work": {chart.Expense, "NEC 1", false}, "Design royalties": {chart.Expense, "MISC 2", false}, "Regatta prizes": {chart.Expense, "MISC 3", false},
		"Nurse and first aid": {chart.Expense, "MISC 6", false}, "Bronze fastenings": {chart.CostOfSales, "", true}, "Electricity": {chart.Expense, "", true}, "Freight in": {chart.Expense, "", true}, "Insurance": {chart.Expense, "", true},
		"Mast fittings": {chart.CostOfSales, "", false}, "Checking": {chart.Asset, "", true}, "Rent deposit": {chart.Asset, "", true}, "Sundry": {chart.Expense, "", false},
	} {
		s := Suggest("", name, c.kind, "")
		if c.box == "" && !c.out {
			require.Nil(t, s, name)
			continue
		}
		require.NotNil(t, s, name)
		require.Equal(t, c.box, s.Box, name)
		require.Equal(t, c.out, s.LeaveOut != "", name)
		require.NotEmpty(t, s.Evidence)
	}
	require.Contains(t, Warn("Legal", "MISC 10", false), "NEC 1")
	require.Contains(t, Warn("Equipment hire", "", true), "MISC 1")
	require.Empty(t, Warn("Legal", "NEC 1", false))
	require.Empty(t, Warn("Bronze fastenings", "", true))
}

// gen draws lines of a few payees in every state.
func gen(rt *rapid.T) ([]Line, map[int64]Payee) {
	who := map[int64]Payee{}
	for id := int64(1); id <= 4; id++ {
		who[id] = Payee{ID: id, Class: rapid.SampledFrom([]string{"", Proprietor, CCorporation, TaxExempt}).Draw(rt, "class"), ClassFrom: rapid.SampledFrom([]string{FromW9, FromGuess}).Draw(rt, "from"), Gets: rapid.SampledFrom([]string{"", GetsForms, GetsNone}).Draw(rt, "gets"), Attorney: rapid.Bool().Draw(rt, "attorney")}
	}
	lines := rapid.SliceOfN(rapid.Custom(func(rt *rapid.T) Line {
		l := Line{Payee: rapid.Int64Range(0, 4).Draw(rt, "payee"), N: 1, Amount: money.Amount(rapid.Int64Range(-500_00, 3_000_00).Draw(rt, "amount")), State: rapid.SampledFrom([]string{mapping.Set, mapping.Set, mapping.OutState, mapping.Open, mapping.Suggested, mapping.Broken}).Draw(rt, "state")}
		l.Method = MethodOf("", rapid.SampledFrom([]string{"", Check, Card, Transfer}).Draw(rt, "method"), "", "", rapid.SampledFrom([]string{FundBank, FundCard, ""}).Draw(rt, "fund"))
		if l.State == mapping.Set {
			l.Box = rapid.SampledFrom([]Box{"NEC 1", "MISC 1", "MISC 2", "MISC 6", "MISC 10", "MISC 11"}).Draw(rt, "box")
		}
		if rapid.IntRange(0, 9).Draw(rt, "held") == 0 {
			l.Withheld = 5_00
		}
		return l
	}), 0, 30).Draw(rt, "lines")
	return lines, who
}

// Every line is in one bucket of the list; the buckets add up to what was paid;
// the order of rows does not matter.
func TestBucketsPartitionWhateverTheOrder(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		lines, who := gen(rt)
		r := rules(rt, 2026)
		res := Sort(lines, who, self, r)
		require.Len(rt, res.Outcomes, len(lines))
		for _, o := range res.Outcomes {
			require.Contains(rt, Buckets, o.Bucket)
			require.NotEmpty(rt, o.Reason)
		}
		var onForms, inSums money.Amount
		for i, o := range res.Outcomes {
			if o.Bucket == OnForm {
				onForms += lines[i].Amount
			}
		}
		for _, f := range Forms(res, who, r) {
			for _, b := range f.Boxes {
				inSums += b.Amount
			}
		}
		require.Equal(rt, onForms, inSums, "the forms hold what the lines on a form add up to")
		perm := rapid.Permutation(lines).Draw(rt, "order")
		again := Sort(perm, who, self, r)
		require.Equal(rt, len(res.Sums), len(again.Sums))
		for k, s := range res.Sums {
			require.Equal(rt, *s, *again.Sums[k])
		}
	})
}

// Joining two payees of like class and word, neither with a negative sum, never
// lowers what is reported.
func TestJoiningNeverLowersWhatIsReported(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		lines, who := gen(rt)
		like := who[1]
		like.ID = 2
		who[2] = like
		r := rules(rt, 2026)
		apart := Sort(lines, who, self, r)
		sums := map[Key]money.Amount{} // of what would count, exempt or not: withheld tax lifts an exemption for both
		for _, l := range lines {
			if b := l.box(); b != "" && (l.Payee == 1 || l.Payee == 2) && l.Method.Kind != Card && !l.Method.Undecided() {
				sums[Key{l.Payee, b}] += l.Amount
			}
		}
		for _, a := range sums {
			if a < 0 {
				rt.Skip("a negative sum")
			}
		}
		joined := Sort(lines, map[int64]Payee{1: Join([]Payee{who[1], who[2]}), 3: who[3], 4: who[4]}, func(id int64) int64 {
			if id == 2 {
				return 1
			}
			return id
		}, r)
		sum := func(x Result) (a money.Amount) {
			for _, s := range x.Sums {
				if s.Bucket == OnForm {
					a += s.Amount
				}
			}
			return a
		}
		require.GreaterOrEqual(rt, sum(joined), sum(apart))
	})
}

// Adding a payment that is excluded changes no form.
func TestAnExcludedPaymentChangesNoForm(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		lines, who := gen(rt)
		r := rules(rt, 2026)
		before := Forms(Sort(lines, who, self, r), who, r)
		x := Line{Payee: rapid.Int64Range(1, 4).Draw(rt, "payee"), N: 1, Amount: 9_999_00, State: mapping.Set, Box: "NEC 1", Method: byCard}
		if rapid.Bool().Draw(rt, "left out") {
			x.State, x.Box, x.Method = mapping.OutState, "", byCheck
		}
		require.Equal(rt, before, Forms(Sort(append(lines, x), who, self, r), who, r))
	})
}
