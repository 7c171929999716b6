package payees

import (
	"testing"

	"coatrack/internal/core/money"

	"github.com/stretchr/testify/require"
)

func TestNumbers(t *testing.T) {
	for _, c := range []struct{ id, kind, code, grade string }{
		{"123-45-6789", "ssn", "", ""},
		{"12-3456789", "ein", "", ""},
		{"123456789", "", "no-kind", Missing},
		{"", "ssn", "no-number", Missing},
		{"12-345678", "ein", "bad-number", Wrong},
		{"12-34567A9", "ein", "bad-number", Wrong},
		{"1234567890", "ein", "bad-number", Wrong},
		{"000-45-6789", "ssn", "bad-ssn", Wrong},
		{"666-45-6789", "ssn", "bad-ssn", Wrong},
		{"900-45-6789", "ssn", "bad-ssn", Wrong},
		{"123-00-6789", "ssn", "bad-ssn", Wrong},
		{"123-45-0000", "ssn", "bad-ssn", Wrong},
		{"912-70-1234", "itin", "", ""},
		{"912-66-1234", "itin", "bad-itin", Wrong},
		{"912-89-1234", "itin", "bad-itin", Wrong},
		{"912-93-1234", "itin", "bad-itin", Wrong},
		{"912-50-1234", "itin", "", ""},
		{"112-70-1234", "itin", "bad-itin", Wrong},
		{"07-1234567", "ein", "odd-ein", LookAt},
		{"49-1234567", "ein", "odd-ein", LookAt},
		{"99-1234567", "ein", "", ""},
		{"97-1234567", "ein", "odd-ein", LookAt},
		{"00-1234567", "ein", "odd-ein", LookAt},
	} {
		f, usable := NumberFault(c.id, c.kind)
		require.Equal(t, c.code, f.Code, "%+v", c)
		require.Equal(t, c.grade, f.Grade, "%+v", c)
		require.Equal(t, c.code != "no-number" && c.code != "bad-number", usable, "%+v", c)
		if d, _ := Digits(c.id); len(d) == 9 {
			require.NotContains(t, f.Words, d[:5])
		}
	}
	require.Equal(t, "XXX-XX-6789", Masked("123-45-6789", "ssn"))
	require.Equal(t, "XX-XXX6789", Masked("12-3456789", "ein"))
	require.Equal(t, "XXX-XX-XXX", Masked("123", ""), "of a short number nothing is shown")
}

// Form W-9 and its instructions.
func TestIdentityByClass(t *testing.T) {
	codes := func(change func(*Payee)) (out []string) {
		p := said
		change(&p)
		for _, f := range Identity(p) {
			out = append(out, f.Code+" "+f.Grade)
		}
		return out
	}
	for name, c := range map[string]struct {
		change func(*Payee)
		want   []string
	}{
		"in order":                    {func(p *Payee) {}, nil},
		"a trade name on line 1":      {func(p *Payee) { p.Name = "Marrow Rigging Co" }, []string{"owner-name wrong"}},
		"the same on both lines":      {func(p *Payee) { p.Name, p.TradeName = "Marrow Rigging", "Marrow rigging" }, []string{"owner-name wrong"}},
		"one word":                    {func(p *Payee) { p.Name = "Marrow" }, []string{"owner-name-look worth a look"}},
		"an LLC's name on line 1":     {func(p *Payee) { p.Class, p.Name = Disregarded, "Marrow Rigging LLC" }, []string{"owner-name wrong"}},
		"an LLC's own EIN, perhaps":   {func(p *Payee) { p.Class, p.TaxKind, p.TaxID = Disregarded, "ein", "12-3456789" }, []string{"ein-disregarded worth a look"}},
		"an EIN with a person's name": {func(p *Payee) { p.TaxKind, p.TaxID = "ein", "12-3456789" }, []string{"ein-person worth a look"}},
		"an SSN beside a corporation": {func(p *Payee) { p.Class, p.Name = SCorporation, "Bell Electric Inc." }, []string{"ssn-company wrong"}},
		"an SSN beside a partnership": {func(p *Payee) { p.Class, p.Name = Partnership, "Cobb & Lantern" }, []string{"ssn-company wrong"}},
		"a corporation with its EIN": {func(p *Payee) {
			p.Class, p.Name, p.TaxKind, p.TaxID = SCorporation, "Bell Electric Inc.", "ein", "12-3456789"
		}, nil},
		"an SSN for a trust":           {func(p *Payee) { p.Class, p.Name = Trust, "Pellan Field Trust" }, []string{"ssn-trust worth a look"}},
		"no postal code":               {func(p *Payee) { p.Zip = "" }, []string{"no-zip missing"}},
		"a postal code of four digits": {func(p *Payee) { p.Zip = "4001" }, []string{"bad-zip wrong"}},
		"a state written out":          {func(p *Payee) { p.State = "Maine" }, []string{"bad-state wrong"}},
		"nothing but a name":           {func(p *Payee) { *p = Payee{Name: "R. Vell", Class: Proprietor} }, []string{"no-number missing", "no-street missing", "no-city missing", "no-state missing", "no-zip missing"}},
	} {
		require.Equal(t, c.want, codes(c.change), name)
	}
	facts, have := Completeness(Payee{Name: "R. Vell", Class: Proprietor, ClassFrom: FromSaid})
	require.Equal(t, 2, have, "name and class")
	require.Equal(t, "needed", facts[2].State)
	require.Equal(t, LLCSCorp, ReadClass("LLC (S)"))
	require.Equal(t, Proprietor, ReadClass("Individual/Sole Proprietor"))
	require.Empty(t, ReadClass("LLC"), "how it is taxed is not said")
	for word, want := range map[string]string{
		"Individual/sole prop.": Proprietor, "Single-member LLC, disregarded": Disregarded, "LLC taxed as partnership": LLCPartners,
		"LLC taxed as S corp": LLCSCorp, "LLC (taxed as C corporation)": LLCCCorp, "Inc.": CCorporation, "Trust or estate": Trust, "Trust / estate": Trust,
		"C corporation or S corporation": "", "L.L.C., not known": "", "Cincinnati partners": "", "Real estate agent": "",
	} {
		require.Equal(t, want, ReadClass(word), word)
	}
	g, _ := GuessClass("Fathom Engines, Inc.")
	require.Equal(t, CCorporation, g)
	g, _ = GuessClass("Town of Pellan Reach")
	require.Equal(t, Government, g)
	g, _ = GuessClass("Ida Marrow")
	require.Empty(t, g)
}

// 1096 by kind: NEC 1 + 3; MISC 1, 2, 3, 5, 6, 8, 9, 10, 11. Box 15 is not added.
func TestTransmittals(t *testing.T) {
	forms := []Form{
		{Payee: 1, Kind: "NEC", Boxes: []BoxAmount{{"NEC 1", 3_380_00}}, Held: 10_00},
		{Payee: 2, Kind: "NEC", Boxes: []BoxAmount{{"NEC 1", 2_000_00}, {"NEC 3", 1_00}}},
		{Payee: 2, Kind: "MISC", Boxes: []BoxAmount{{"MISC 1", 14_400_00}, {"MISC 10", 12_000_00}, {"MISC 15", 7_00}}, Held: 5_00},
	}
	require.Equal(t, []Transmittal{{"NEC", 2, 10_00, 5_381_00}, {"MISC", 1, 5_00, 26_400_00}}, Transmittals(forms))
}

func TestAMissingNumberIsAFaultNotALostForm(t *testing.T) {
	p := said
	p.TaxID = ""
	who := map[int64]Payee{1: p}
	forms := Forms(Sort([]Line{set("NEC 1", 3_000_00)}, who, self, rules(t, 2026)), who, rules(t, 2026))
	require.Len(t, forms, 1)
	require.True(t, forms[0].Blocked())
	p.WithoutNumber = true
	who[1] = p
	forms = Forms(Sort([]Line{set("NEC 1", 3_000_00)}, who, self, rules(t, 2026)), who, rules(t, 2026))
	require.False(t, forms[0].Blocked(), "filed without a number on purpose")
}

func TestABlankResultExplainsItself(t *testing.T) {
	r := rules(t, 2026)
	under := []Sum{{Payee: 1, Box: "NEC 1", Amount: 1_988_00, Bucket: Under}}
	require.Equal(t, "12.00 under the 2,000.00 threshold of NEC 1", Explain(under, Split{Under: 1_988_00}, 1_988_00, 2026, nil, r))
	require.Equal(t, "all 3,150.00 was paid by card or network", Explain(nil, Split{OtherMethod: 3_150_00}, 3_150_00, 2026, nil, r))
	require.Equal(t, "no payment hit a mapped account", Explain(nil, Split{NotReportable: 3_150_00}, 3_150_00, 2026, nil, r))
	require.Equal(t, "back 450.00 is of another year: a void or refund of a payment of that year changes neither year's form", Explain(nil, Split{OtherYear: -450_00}, -450_00, 2026, nil, r))
	require.Equal(t, "you are looking at 2026; 3,150.00 was paid in 2025", Explain(nil, Split{}, 0, 2026, map[int]money.Amount{2025: 3_150_00}, r))
	require.Equal(t, "nothing was paid in 2026", Explain(nil, Split{}, 0, 2026, nil, r))
	require.Empty(t, Explain([]Sum{{Bucket: OnForm}}, Split{}, 0, 2026, nil, r))
	require.Equal(t, []string{"no payment of 2026 is here", "5.00 was paid in 2025: you may be looking at the wrong year"}, Blank(0, Result{}, nil, false, false, 2026, map[int]money.Amount{2025: 5_00}))
	require.Equal(t, []string{"no account is mapped to a box yet", "nothing was said on anybody: whether they get forms, and their class", "7.00 is undecided"}, Blank(3, Result{}, Split{Undecided: 7_00}, false, false, 2026, nil))
}
