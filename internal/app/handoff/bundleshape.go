package handoff

import (
	"encoding/json"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"
	"coatrack/internal/core/money"
)

type bundleHead struct {
	Format  string       `json:"format"`
	Version int          `json:"version"`
	Made    string       `json:"made"`
	Client  act.Facts    `json:"client"`
	Debit   money.Amount `json:"debit"`
	Credit  money.Amount `json:"credit"`
	TaxID   string       `json:"tax_id,omitempty"` // only for those who may see whole numbers
	Locked  string       `json:"locked_through,omitempty"`
}

type bundleAccount struct {
	ID      int64             `json:"id"`
	Number  string            `json:"number,omitempty"`
	Name    string            `json:"name"`
	Kind    string            `json:"kind"`
	Sort    string            `json:"sort,omitempty"`
	Parent  int64             `json:"parent,omitempty"`
	Active  bool              `json:"active"`
	Role    string            `json:"role,omitempty"`
	TaxCode string            `json:"tax_code,omitempty"`
	Note    string            `json:"note,omitempty"`
	Pinned  bool              `json:"pinned,omitempty"`
	Merged  int64             `json:"merged_into,omitempty"`
	Outside map[string]string `json:"outside,omitempty"` // source → id
}

type bundleParty struct {
	ID int64 `json:"id"`
	parties.PartyFacts
	Active  bool            `json:"active"`
	Joined  *int64          `json:"joined_into,omitempty"` // whom it was joined into
	TaxID   string          `json:"tax_id,omitempty"`      // only for those who may see whole numbers
	Outside []bundleOutside `json:"outside,omitempty"`
}

type bundleOutside struct {
	Source string `json:"source"`
	Kind   string `json:"kind"`
	ID     string `json:"id"`
}

type bundleLabel struct {
	ID        int64  `json:"id"`
	Source    string `json:"source"`
	Kind      string `json:"kind"`
	Key       string `json:"key"`
	OutsideID string `json:"outside_id,omitempty"`
	Number    string `json:"number,omitempty"`
	Name      string `json:"name,omitempty"`
	Of        string `json:"account_kind,omitempty"`
	Section   string `json:"section,omitempty"`
}

type bundleBinding struct {
	ID         int64           `json:"id"`
	Label      int64           `json:"label"`
	Facet      string          `json:"facet"`
	Qualifiers json.RawMessage `json:"qualifiers,omitempty"`
	From       string          `json:"from,omitempty"`
	Answer     string          `json:"answer"`
	Account    int64           `json:"account,omitempty"`
	Party      int64           `json:"party,omitempty"`
	Parts      json.RawMessage `json:"parts,omitempty"`
	Box        string          `json:"box,omitempty"`
	Reason     string          `json:"reason,omitempty"`
	Evidence   string          `json:"evidence,omitempty"`
	Revisit    bool            `json:"revisit,omitempty"`
	By         string          `json:"by"`
	At         string          `json:"at"`
}

type bundleBatch struct {
	ID        int64           `json:"id"`
	Purpose   string          `json:"purpose"`
	Source    string          `json:"source"`
	Name      string          `json:"name"`
	Sheet     string          `json:"sheet,omitempty"`
	Format    string          `json:"format"`
	State     string          `json:"state"`
	Settings  json.RawMessage `json:"settings"`
	Confirmed json.RawMessage `json:"confirmed"`
	Reading   int             `json:"reading"`
	Account   int64           `json:"account,omitempty"`
	TakenAt   string          `json:"taken_at,omitempty"` // of several lists of a kind the one taken in last counts
	Fixes     []bundleFix     `json:"fixes,omitempty"`
	Bytes     []byte          `json:"bytes,omitempty"` // base64; only for those who may download the original
}

type bundleFix struct {
	Record int     `json:"record"`
	Col    int     `json:"col"`
	Text   *string `json:"text,omitempty"`
	Class  *string `json:"class,omitempty"`
}

type bundleFact struct {
	ID      int64           `json:"id"`
	Batch   int64           `json:"batch"`
	Reading int             `json:"reading"`
	Label   int64           `json:"label"`
	Day     string          `json:"day"`
	Amount  money.Amount    `json:"amount"`
	Record  int             `json:"record"`
	Line    int             `json:"line"`
	Col     int             `json:"col"`
	Dims    json.RawMessage `json:"dims,omitempty"`
}

type bundleUnit struct {
	ID       int64         `json:"id"`
	Area     string        `json:"area"`
	Purpose  string        `json:"purpose"`
	Title    string        `json:"title"`
	Batch    int64         `json:"batch,omitempty"`
	Day      string        `json:"day"`
	Reverses int64         `json:"reverses,omitempty"`
	Note     string        `json:"note,omitempty"`
	OnceKey  string        `json:"once_key,omitempty"`
	By       string        `json:"by"`
	At       string        `json:"at"`
	Entries  []bundleEntry `json:"entries"`
}

type bundleEntry struct {
	ID       int64        `json:"id"`
	Day      string       `json:"day"`
	Kind     string       `json:"kind"`
	Party    string       `json:"party,omitempty"`  // in words
	Method   string       `json:"method,omitempty"` // in words
	Memo     string       `json:"memo,omitempty"`
	Reverses int64        `json:"reverses,omitempty"`
	Lines    []bundleLine `json:"lines"`
}

type bundleLine struct {
	Account int64             `json:"account"`
	Amount  money.Amount      `json:"amount"`
	Party   int64             `json:"party,omitempty"`
	Name    string            `json:"party_name,omitempty"` // of who is no party of the ledger
	Tags    map[string]string `json:"tags,omitempty"`
	Memo    string            `json:"memo,omitempty"`
	Traces  []bundleTrace     `json:"traces,omitempty"`
}

type bundleTrace struct {
	Fact     int64        `json:"fact"`
	Amount   money.Amount `json:"amount"`
	Bindings []int64      `json:"bindings,omitempty"`
}

type bundleItem struct {
	Side     string            `json:"side"`
	Source   string            `json:"source"`
	Party    int64             `json:"party"`
	Doc      string            `json:"document"`
	Number   string            `json:"number,omitempty"`
	Day      string            `json:"date,omitempty"`
	Due      string            `json:"due,omitempty"`
	Terms    string            `json:"terms,omitempty"`
	Amount   money.Amount      `json:"amount"`
	Original money.Amount      `json:"original"`
	Settled  money.Amount      `json:"settled"`
	Said     bool              `json:"said,omitempty"`
	Tax      money.Amount      `json:"tax"`
	Tags     map[string]string `json:"tags,omitempty"`
	Fact     int64             `json:"fact"`
	Record   int               `json:"record"`
	Unit     int64             `json:"unit"`
}

type bundleUncleared struct {
	Account int64        `json:"account"`
	Kind    string       `json:"kind"`
	Day     string       `json:"day,omitempty"`
	Number  string       `json:"number,omitempty"`
	Payee   string       `json:"payee,omitempty"`
	Amount  money.Amount `json:"amount"`
	Batch   int64        `json:"batch,omitempty"`
	Record  int          `json:"record,omitempty"`
}

type bundleBalance struct {
	Account int64        `json:"account"`
	Day     string       `json:"day"`
	Amount  money.Amount `json:"amount"`
	Batch   int64        `json:"batch,omitempty"`
}

type bundlePaper struct {
	Batch int64  `json:"batch"`
	Name  string `json:"name"`
	Kind  string `json:"kind"`
	Bytes []byte `json:"bytes"` // base64; only for those who may download originals
}

type bundleHistory struct {
	At      string          `json:"at"`
	By      string          `json:"by"`
	What    string          `json:"what"`
	Subject string          `json:"subject"`
	ID      int64           `json:"subject_id,omitempty"`
	Before  json.RawMessage `json:"before,omitempty"`
	After   json.RawMessage `json:"after,omitempty"`
}
