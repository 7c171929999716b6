package payroll

import (
	"coatrack/internal/app/accounts"
	"coatrack/internal/app/openings"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
	"coatrack/internal/core/proof"
)

// RunView is a run laid as report, ledger, difference.
type RunView struct {
	RunLine
	Provider string             `json:"provider"`
	Company  string             `json:"company"`
	SeesPay  bool               `json:"sees_pay"`
	Sections []RunSection       `json:"sections"`
	Ties     []RunTie           `json:"ties"`
	Draws    []RunDraw          `json:"draws"`
	Offers   []DrawOffer        `json:"offers" doc:"statement lines that could be draws of this run"`
	Entries  []RunEntry         `json:"entries" doc:"as planned, or as posted"`
	Holds    []RunHold          `json:"holds"`
	Waits    []payroll.Wait     `json:"waits" doc:"what holds it, once for each item and half"`
	Drift    []RunEntry         `json:"drift" doc:"of a posted run: what a later mapping, or draws said later, change"`
	Replaces int64              `json:"replaces,omitempty" doc:"the run that this one corrects; only what changed is posted"`
	Changes  []RunChange        `json:"changes" doc:"against the run that it corrects, item by item"`
	Unusual  []string           `json:"unusual" doc:"what to look at before it posts"`
	Clean    int                `json:"clean_before" doc:"posted runs of its kind before it"`
	Shares   []OfficerShare     `json:"officer_shares" doc:"asked for where only totals are reported"`
	Summary  string             `json:"summary,omitempty" doc:"the summary that joined it"`
	Missing  []accounts.Account `json:"missing_roles" doc:"accounts that posting would make, for roles nobody holds"`
	Blocks   []openings.Block   `json:"blocks"`
	Notes    []string           `json:"notes"`
	Rules    PayRules           `json:"rules"`
	Last     *RunBeside         `json:"last,omitempty" doc:"the run before, to hold this one against"`
	People   []RunPerson        `json:"employees" doc:"only for those who may see pay"`
	Year     string             `json:"year_words,omitempty" doc:"what the rulebook lacks for this year"`
	Version  int64              `json:"version"`

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
	Posts  bool         `json:"posts" doc:"false: it only feeds boxes of forms, and has no ledger figure"`
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
