package payees

import (
	"context"
	"fmt"

	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payees"
	"coatrack/internal/core/rulebook"
)

// Payees is a year of payments to vendors: the buckets, who was paid, and which box
// the accounts feed.
type Payees struct {
	Year      int            `json:"year"`
	DueYear   int            `json:"due_year" doc:"the year whose forms are next due"`
	Years     []int          `json:"years"`
	InBook    bool           `json:"in_book" doc:"the rulebook has this year's rules"`
	Note      string         `json:"note,omitempty"`
	Tape      []TapeLine     `json:"tape" doc:"the buckets; they add up to total"`
	Total     money.Amount   `json:"total"`
	Parts     []TapePart     `json:"parts" doc:"what total must equal: the payments by where they came from"`
	Apart     money.Amount   `json:"difference"`
	Blank     []string       `json:"blank" doc:"why nothing is on a form, nearest cause first"`
	Payees    []PayeeLine    `json:"payees"`
	Accounts  []PayeeNeed    `json:"accounts"`
	Counts    map[string]int `json:"counts" doc:"needs by state"`
	Funds     []PayeeFund    `json:"funds"`
	Suggested []MethodOffer  `json:"suggested_methods" doc:"methods read out of a reference or memo, not taken until said"`
	Rules     []payees.Rule  `json:"rules"`
	Rate      string         `json:"withholding_rate"`
	Twice     []TwicePaid    `json:"recognised" doc:"payments posted in the ledger that a file has too: counted once"`
	Loose     int            `json:"loose"`
	Unsettled int            `json:"unsettled" doc:"vendors of payments that nobody has settled"`
	SeesIDs   bool           `json:"sees_tax_ids"`
}

// Split is one payee's payments by bucket.
type Split = payees.Split

// TapeLine is a bucket on the tape.
type TapeLine struct {
	Bucket string       `json:"bucket"`
	Payees int          `json:"payees"`
	Lines  int          `json:"lines"`
	Amount money.Amount `json:"amount"`
}

// TapePart is where payments came from.
type TapePart struct {
	Words  string       `json:"words"`
	Amount money.Amount `json:"amount"`
}

// PaidMonth is a month of a bucket.
type PaidMonth struct {
	Month  string       `json:"month"`
	Bucket string       `json:"bucket"`
	Amount money.Amount `json:"amount"`
}

// PayeeLine is a payee in the pile.
type PayeeLine struct {
	ID      int64        `json:"id" doc:"of the vendor; negative where nobody settled who it is; 0 without a vendor"`
	Name    string       `json:"name"`
	State   string       `json:"state" enum:"undecided,on a form with a fault,gets forms and nothing to report,on a form,no form"`
	Amount  money.Amount `json:"amount" doc:"paid in the year"`
	Leading money.Amount `json:"leading" doc:"the figure its state is about"`
	Words   string       `json:"words"`
	Boxes   []string     `json:"boxes"`
	Joined  int          `json:"joined" doc:"vendors that are one payee"`
	Gets    string       `json:"gets" enum:",yes,no"`
	Class   string       `json:"class"`
}

// PayeeNeed is a charged account on the rack, with the box it feeds.
type PayeeNeed struct {
	Key        string             `json:"key"`
	Number     string             `json:"number"`
	Name       string             `json:"name"`
	Kind       string             `json:"kind"`
	Paid       money.Amount       `json:"paid"`
	Payees     int                `json:"payees"`
	Lines      int                `json:"lines"`
	State      string             `json:"state" enum:"open,suggested,set,left out,broken"`
	Box        string             `json:"box"`
	ByLine     bool               `json:"by_line"`
	Only       []NeedOnly         `json:"only" doc:"what only some vendors' charges feed"`
	Evidence   string             `json:"evidence"`
	By         string             `json:"by,omitempty"`
	BindingID  int64              `json:"binding_id"`
	Revisit    bool               `json:"revisit"`
	Warning    string             `json:"warning,omitempty"`
	Suggestion *payees.Suggestion `json:"suggestion,omitempty"`
}

// NeedOnly is an answer for one vendor's charges of an account.
type NeedOnly struct {
	PartyID int64  `json:"party_id"`
	Party   string `json:"party"`
	Answer  string `json:"answer"`
}

// PayeeFund is an account that payments were made from.
type PayeeFund struct {
	LabelID int64        `json:"label_id"`
	Name    string       `json:"name"`
	Sort    string       `json:"sort" enum:",bank,card,network,cash"`
	Said    bool         `json:"said"`
	Paid    money.Amount `json:"paid"`
	Lines   int          `json:"lines"`
}

// MethodOffer is a method read out of references and memos.
type MethodOffer struct {
	Method   string       `json:"method"`
	Lines    int          `json:"lines"`
	Amount   money.Amount `json:"amount"`
	Decides  int          `json:"decides" doc:"lines whose bucket waits for it"`
	Examples []string     `json:"examples"`
}

// TwicePaid is a payment that stands in the ledger and in a file.
type TwicePaid struct {
	EntryID int64        `json:"entry_id"`
	Day     string       `json:"day"`
	Party   string       `json:"party"`
	Amount  money.Amount `json:"amount"`
}

// GetPayees returns a year's payees; year 0 is the one whose forms are next due.
func (a Acts) GetPayees(ctx context.Context, who act.Who, ledgerID int64, year int) (Payees, error) {
	var out Payees
	err := a.In(ctx, who, ledgerID, act.Read, func(t *act.Tx) (err error) { out, err = payeeRows(t, year); return err })
	return out, err
}

func payeeRows(t *act.Tx, year int) (Payees, error) {
	if year == 0 {
		year = dueYear(t)
	}
	b, err := bookOf(t, year)
	if err != nil {
		return Payees{}, err
	}
	return b.view()
}

func (b *payeeBook) view() (Payees, error) {
	out := Payees{Year: b.year, DueYear: dueYear(b.t), Years: []int{}, InBook: b.inBook, Tape: []TapeLine{}, Parts: []TapePart{}, Blank: []string{}, Payees: []PayeeLine{}, Accounts: []PayeeNeed{}, Counts: map[string]int{}, Funds: []PayeeFund{}, Suggested: []MethodOffer{}, Rules: []payees.Rule{}, Twice: []TwicePaid{}}
	ys, err := b.t.PaidYears()
	if err != nil {
		return out, err
	}
	out.Years = append(out.Years, ys...)
	if y, ok := rulebook.Of(b.year); ok {
		out.Note = y.Returns.Note
	} else {
		out.Note = fmt.Sprintf("the rulebook has nothing on %d", b.year)
	}
	for _, o := range b.rules.Order {
		out.Rules = append(out.Rules, b.rules.Boxes[o])
	}
	out.Rate = b.rules.Rate.Words()
	out.SeesIDs = b.t.SeesTaxIDs
	b.tape(&out)
	b.pile(&out)
	b.needs(&out)
	if err := b.needPeople(&out); err != nil {
		return out, err
	}
	b.fundsView(&out)
	for _, r := range b.twice {
		if n := len(out.Twice); n > 0 && out.Twice[n-1].EntryID == r.EntryID {
			continue
		}
		out.Twice = append(out.Twice, TwicePaid{r.EntryID, r.Day.Format("2006-01-02"), r.Party, money.Amount(r.Total)})
	}
	if err := b.offers(&out); err != nil {
		return out, err
	}
	return out, nil
}
