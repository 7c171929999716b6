package payees

import (
	"regexp"
	"strings"
)

// Kinds of methods. Cash, check, transfer and wire count; cards and payment
// networks are reported by others (IRC 6050W).
const (
	CashPaid    = "cash"
	CashiersChk = "cashier's check"
	TravelersCk = "traveler's check"
	MoneyOrder  = "money order"
	Check       = "check"
	Transfer    = "transfer"
	Wire        = "wire"
	Card        = "card"
	Network     = "network"
)

// Methods lists all kinds.
var Methods = []string{Check, Transfer, Wire, CashPaid, CashiersChk, TravelersCk, MoneyOrder, Card, Network}

// Where money came from: the sort of the funding account, as set.
const (
	FundBank    = "bank"
	FundCard    = "card"
	FundNetwork = "network"
	FundCash    = "cash"
)

// Method is how a payment was made and how that is known.
type Method struct {
	Kind    string
	Assumed bool   // a bank account with no method: taken as reportable
	From    string // said, payment, account, assumed
	Problem string // why the method is undecided; it excludes nothing
}

// Undecided says that the method is unknown or contradicted.
func (m Method) Undecided() bool { return m.Problem != "" }

// Cash says whether it is cash as IRC 6050R defines it: coin, currency, cashier's check, bank
// draft, traveler's check, money order.
func (m Method) Cash() bool {
	return m.Kind == CashPaid || m.Kind == CashiersChk || m.Kind == TravelersCk || m.Kind == MoneyOrder
}

func (m Method) how() string {
	switch m.From {
	case "account":
		return " (its funding account says so)"
	case "said":
		return " (as said)"
	}
	return ""
}

// MethodOf settles the method of a payment: what a person said, else what the
// payment says, else what follows from the funding account. Text that names no
// method, and a method that contradicts the funding account, are problems, not
// answers. A method that was only read out of a reference or memo (suggested) is not
// taken until it is said; where it would change the bucket, the method is undecided.
func MethodOf(said, stated, text, suggested, fund string) Method {
	if said != "" {
		return Method{Kind: said, From: "said"}
	}
	if stated != "" {
		m := Method{Kind: stated, From: "payment"}
		switch {
		case fund == FundCard && stated != Card && stated != Network:
			m.Problem = "it says “" + stated + "” but was paid from a card account"
		case fund == FundNetwork && stated != Network && stated != Card:
			m.Problem = "it says “" + stated + "” but was paid from a payment network's account"
		case fund == FundCash && (stated == Card || stated == Network):
			m.Problem = "it says “" + stated + "” but was paid from cash"
		}
		return m
	}
	if strings.TrimSpace(text) != "" {
		return Method{From: "payment", Problem: "“" + strings.TrimSpace(text) + "” is no method this ledger knows"}
	}
	follows := map[string]bool{FundCard: true, FundNetwork: true}[fund] // others report what follows from the account
	if suggested != "" && (fund == "" || follows != (suggested == Card || suggested == Network)) {
		return Method{From: "payment", Problem: "its reference or memo suggests “" + suggested + "”, and nobody has said so"}
	}
	switch fund {
	case FundCard:
		return Method{Kind: Card, From: "account"}
	case FundNetwork:
		return Method{Kind: Network, From: "account"}
	case FundCash:
		return Method{Kind: CashPaid, From: "account"}
	case FundBank:
		return Method{Kind: Check, From: "assumed", Assumed: true}
	}
	return Method{From: "payment", Problem: "neither a method nor a funding account is known"}
}

// methodWords are the words of methods in a column of methods.
var methodWords = map[string]string{
	"check": Check, "cheque": Check, "chk": Check, "ck": Check, "paper check": Check, "printed check": Check, "bill pay check": Check, "handwritten check": Check,
	"ach": Transfer, "eft": Transfer, "transfer": Transfer, "bank transfer": Transfer, "direct deposit": Transfer, "echeck": Transfer, "e-check": Transfer, "e check": Transfer, "direct debit": Transfer, "draw": Transfer, "bank draw": Transfer, "bank": Transfer, "online transfer": Transfer, "bill pay": Transfer, "electronic": Transfer, "ach transfer": Transfer, "person to person": Transfer, "person-to-person": Transfer, "p2p": Transfer, "bank's own transfer service": Transfer,
	"wire": Wire, "wire transfer": Wire, "cash": CashPaid, "petty cash": CashPaid, "currency": CashPaid,
	"cashier's check": CashiersChk, "cashiers check": CashiersChk, "bank draft": CashiersChk, "traveler's check": TravelersCk, "travelers check": TravelersCk, "travelers' check": TravelersCk, "traveller's cheque": TravelersCk, "travellers cheque": TravelersCk, "money order": MoneyOrder, "m.o.": MoneyOrder,
	"card": Card, "credit card": Card, "debit card": Card, "cc": Card, "credit": Card, "debit": Card, "visa": Card, "gift card": Card, "purchase card": Card, "company card": Card, "p-card": Card,
	"network": Network, "payment network": Network, "third party network": Network, "third-party network": Network, "payment app": Network, "wallet": Network, "online payment service": Network,
}

// ReadMethod reads a word in a column of methods; "" is what it does not know.
func ReadMethod(word string) string {
	w := strings.ToLower(strings.Join(strings.Fields(strings.Trim(word, " .")), " "))
	if m := methodWords[w]; m != "" {
		return m
	}
	// "by check 2311", "cash, from the till", "check no. 88"
	w, _, _ = strings.Cut(w, ",")
	for _, by := range []string{"by ", "paid by ", "via ", "per "} {
		w = strings.TrimPrefix(w, by)
	}
	return methodWords[methodNumber.ReplaceAllString(w, "")]
}

// methodNumber is the number of a check behind its word.
var methodNumber = regexp.MustCompile(`\s*(?:no\.?|number|#)?\s*\d+$`)

var inText = []struct {
	re     *regexp.Regexp
	method string
}{
	{regexp.MustCompile(`(?i)\bgift card\b|\b(credit|debit|company|purchase)?[ -]?card\b|\b(cc|pos)\b|(x{2,}|\*{2,}|…|\.\.\.|ending(?: in)?) ?\d{4}\b`), Card},
	{regexp.MustCompile(`(?i)\b(payment (app|network)|wallet|third[- ]party network)\b`), Network},
	{regexp.MustCompile(`(?i)\bcashier'?s? (check|chk)\b|\bbank draft\b`), CashiersChk},
	{regexp.MustCompile(`(?i)\btravell?er'?s'? (check|cheque|chk)\b`), TravelersCk},
	{regexp.MustCompile(`(?i)\bmoney order\b`), MoneyOrder},
	{regexp.MustCompile(`(?i)\bwire\b`), Wire},
	{regexp.MustCompile(`(?i)\b(ach|eft|e-?check|direct deposit|bank transfer|transfer|bill ?pay)\b`), Transfer},
	{regexp.MustCompile(`(?i)\b(check|cheque|chk|ck)\b\.? ?#? ?\d*`), Check},
	{regexp.MustCompile(`(?i)\b(petty )?cash\b`), CashPaid},
}

// SuggestMethod reads a method out of a reference or memo ("chk 2207", "card
// …7731", "ACH"). It is a suggestion, shown and never silent; a bare number is not
// taken for a check.
func SuggestMethod(texts ...string) (method, evidence string) {
	for _, t := range texts {
		for _, w := range inText {
			if m := w.re.FindString(t); m != "" {
				return w.method, "“" + strings.TrimSpace(m) + "” in “" + strings.TrimSpace(t) + "”"
			}
		}
	}
	return "", ""
}
