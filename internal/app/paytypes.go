package app

import (
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
)

// RunView is a run laid as report, ledger, difference.
type RunView struct {
	RunLine
	Provider string         `json:"provider"`
	Company  string         `json:"company"`
	SeesPay  bool           `json:"sees_pay"`
	Sections []RunSection   `json:"sections"`
	Ties     []RunTie       `json:"ties"`
	Draws    []RunDraw      `json:"draws"`
	Offers   []DrawOffer    `json:"offers" doc:"statement lines that could be draws of this run"`
	Entries  []RunEntry     `json:"entries" doc:"as planned, or as posted"`
	Holds    []RunHold      `json:"holds"`
	Waits    []payroll.Wait `json:"waits" doc:"what holds it, once for each item and half"`
	Drift    []RunEntry     `json:"drift" doc:"of a posted run: what a later mapping, or draws said later, change"`
	Replaces int64          `json:"replaces,omitempty" doc:"the run that this one corrects; only what changed is posted"`
	Changes  []RunChange    `json:"changes" doc:"against the run that it corrects, item by item"`
	Unusual  []string       `json:"unusual" doc:"what to look at before it posts"`
	Clean    int            `json:"clean_before" doc:"posted runs of its kind before it"`
	Shares   []OfficerShare `json:"officer_shares" doc:"asked for where only totals are reported"`
	Summary  string         `json:"summary,omitempty" doc:"the summary that joined it"`
	Missing  []Account      `json:"missing_roles" doc:"accounts that posting would make, for roles nobody holds"`
	Blocks   []Block        `json:"blocks"`
	Notes    []string       `json:"notes"`
	Rules    PayRules       `json:"rules"`
	Last     *RunBeside     `json:"last,omitempty" doc:"the run before, to hold this one against"`
	People   []RunPerson    `json:"employees" doc:"only for those who may see pay"`
	Year     string         `json:"year_words,omitempty" doc:"what the rulebook lacks for this year"`
	Version  int64          `json:"version"`

	drift []ledger.Entry
	last  int64 // its latest unit

	planned []ledger.Entry // what drift was worked out from
	memo    string
}

// RunBeside is the run before.
type RunBeside struct {
	ID     int64        `json:"id"`
	Check  string       `json:"check_date"`
	Gross  money.Amount `json:"gross"`
	Taxes  money.Amount `json:"taxes"`
	Fee    money.Amount `json:"fee"`
	People int          `json:"people"`
}

// RunSection is a section of a run with its items.
type RunSection struct {
	Name   string       `json:"name"`
	Report money.Amount `json:"report"`
	Ledger money.Amount `json:"ledger"`
	Rows   []RunRow     `json:"rows"`
}

// RunRow is an item of a run.
type RunRow struct {
	ItemID int64        `json:"item_id"`
	Name   string       `json:"name"`
	Kind   string       `json:"kind"`
	Sure   bool         `json:"sure"`
	Report money.Amount `json:"report"`
	Ledger money.Amount `json:"ledger" doc:"what the plan or the posting puts in the ledger"`
	Hidden bool         `json:"hidden,omitempty" doc:"its amounts are in another row's, for those who may not see pay"`
	Needs  []PayNeed    `json:"needs"`
}

// RunTie is a tie with whether it holds.
type RunTie struct {
	proof.Proof
	Difference money.Amount `json:"difference"`
	Within     money.Amount `json:"within" doc:"tolerance of a computed tax"`
	Holds      bool         `json:"holds"`
}

// RunDraw is what left, or will leave, the bank.
type RunDraw struct {
	ID       int64        `json:"id,omitempty"`
	Kind     string       `json:"kind" enum:"net,taxes,fee,check"`
	Day      string       `json:"day"`
	Amount   money.Amount `json:"amount"`
	Hidden   bool         `json:"hidden,omitempty" doc:"the amount is hidden from those who may not see pay"`
	Words    string       `json:"words"`
	Expected bool         `json:"expected" doc:"not seen on a statement, nor said by a person"`
	Batch    int64        `json:"batch_id,omitempty"`
	Record   int          `json:"record,omitempty"`
}

// DrawOffer is a statement line for a draw.
type DrawOffer struct {
	Kind   string       `json:"kind"`
	Day    string       `json:"day"`
	Amount money.Amount `json:"amount"`
	Off    money.Amount `json:"off" doc:"by what it differs from the run"`
	Words  string       `json:"words"`
	Batch  int64        `json:"batch_id"`
	Record int          `json:"record"`
	File   string       `json:"file"`
	Also   []DrawJoin   `json:"also" doc:"draws that the line pays too; amount is the rest of it"`
	More   []DrawLine   `json:"more" doc:"further lines that the draw was split into"`
}

// DrawJoin is another draw that a statement line pays.
type DrawJoin struct {
	Run    int64        `json:"run_id,omitempty" doc:"of another run; 0 is this one"`
	Check  string       `json:"check_date,omitempty" doc:"of the other run"`
	Kind   string       `json:"kind" enum:"net,taxes,fee"`
	Amount money.Amount `json:"amount"`
}

// DrawLine is a further line of a statement.
type DrawLine struct {
	Batch  int64        `json:"batch_id"`
	Record int          `json:"record"`
	Day    string       `json:"day,omitempty"`
	Amount money.Amount `json:"amount,omitempty"`
	Words  string       `json:"words,omitempty"`
}

// RunEntry is one entry of a run.
type RunEntry struct {
	Day   string      `json:"day"`
	Memo  string      `json:"memo"`
	Party string      `json:"party"`
	Lines []EntryLine `json:"lines"`
}

// EntryLine is a line of an entry.
type EntryLine struct {
	AccountID int64        `json:"account_id"`
	Account   string       `json:"account"`
	Amount    money.Amount `json:"amount"`
	Agency    string       `json:"agency,omitempty"`
}

// RunHold is what keeps a run from posting.
type RunHold struct {
	ItemID int64        `json:"item_id"`
	Facet  string       `json:"facet"`
	Group  string       `json:"group"`
	Amount money.Amount `json:"amount"`
	Words  string       `json:"words"`
}

// RunPerson is an employee's part of a run.
type RunPerson struct {
	ID    int64                  `json:"id"`
	Name  string                 `json:"name"`
	Group string                 `json:"group"`
	Gross money.Amount           `json:"gross"`
	Net   money.Amount           `json:"net"`
	Check string                 `json:"check,omitempty"`
	Items map[int64]money.Amount `json:"items"`
}
