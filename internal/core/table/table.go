// Package table reads an outside table: which columns mean what, how its
// amounts and dates are written, and which of its records are data. Nothing is
// lost: every record ends as a row, as set aside with a class and a reason, as
// refused with a finding, or as blank, and those four add up to the records of
// the file. What can be read in two ways becomes a Question with its reason; a
// provisional reading stands meanwhile and holds the posting.
//
// A trial balance such as
//
//	Heron Slip Boatyard LLC;;;
//	No.;Account;Debit;Credit
//	;Cash and bank;;
//	1010;Estuary Bank, operating;41,830.16;
//	;Total cash and bank;41,830.16;
//
// gives one title, one header, one section, one row of 41830.16 and one
// subtotal, which is compared with the rows above it.
package table

import (
	"strconv"

	"coatrack/internal/core/money"
)

// Cell is one cell. Text is what a person sees; Stored is the value underneath
// where the two can differ (a workbook's number), else empty.
type Cell struct {
	Text   string
	Stored string
}

// Record is one record of a list. No counts every record from 1 (in a workbook
// the sheet row); Line is the physical line on which it begins.
type Record struct {
	No, Line int
	Cells    []Cell
	Hidden   bool
	Plain    bool   // the file holds nothing but printable ASCII, so that no cell has to be cleaned
	Marks    []Mark // what was changed or left out while the file was split into cells
}

// Mark says of a record, or of one of its cells, what splitting the file into cells
// changed or could not read. Marks of a whole sheet stand on its first record.
type Mark struct {
	Code   string // one of the Mark… codes
	Column int    // from 1; 0 is the whole record or sheet
	Text   string // the cell as it stood, or what the mark is about
}

// Codes of marks; each becomes a finding of the same code.
const (
	MarkStrayQuote   = "stray-quote"      // a quote opens the cell and is not closed on purpose: the line was read by itself
	MarkInnerQuote   = "inner-quote"      // a quote inside a quoted cell that is not doubled, kept as text
	MarkHiddenColumn = "hidden-column"    // of a workbook's sheet
	MarkHiddenSheet  = "hidden-sheets"    // of a workbook: Text names them
	MarkNoValue      = "formula-no-value" // a formula without a stored value
	MarkFilledDown   = "merged-cells"     // Column: its merged cells were read into each of their rows
)

// Source replays the records of a list from the first one. The record is
// reused between calls of yield; its strings may be kept.
type Source func(yield func(*Record) bool) error

// As is what a file is read as.
type As string

// What a file can be read as.
const (
	AsChart        As = "chart"
	AsTrialBalance As = "trial-balance"
)

// Meanings a column can have. Docs: docs/read.md.
const (
	Ignore    = "ignore"
	Number    = "number"
	Name      = "name"
	NumName   = "number-and-name"
	Parent    = "parent"
	KindCol   = "kind"
	SortCol   = "sort"
	Normal    = "normal-side"
	ActiveCol = "active"
	OutsideID = "outside-id"
	Note      = "description"
	TaxCode   = "tax-code"
	Level     = "level"
	LevelName = "level-name" // of a chart that gives each level of names a column of its own
	RoleCol   = "role"
	Debit     = "debit"
	Credit    = "credit"
	Amount    = "amount"
	Side      = "side"
)

// Meanings lists what a column may be taken for, by what the file is read as.
func Meanings(as As) []string {
	if l := lists[as]; l != nil {
		return l.meanings
	}
	if as == AsChart {
		return []string{Ignore, Number, Name, NumName, Parent, KindCol, SortCol, Normal, ActiveCol, OutsideID, Note, TaxCode, Level, LevelName, RoleCol}
	}
	return []string{Ignore, Number, Name, NumName, Parent, KindCol, OutsideID, Debit, Credit, Amount, Side}
}

// Settings are a person's decisions about how a file is read. The zero value
// decides nothing: everything is worked out.
type Settings struct {
	Sheet       string            `json:"sheet,omitempty"`
	Encoding    string            `json:"encoding,omitempty"`
	Delimiter   string            `json:"delimiter,omitempty"`
	HeaderRow   int               `json:"header_row,omitempty"` // -1: the file has none
	DecimalMark string            `json:"decimal_mark,omitempty"`
	DateOrder   string            `json:"date_order,omitempty"`
	Sign        string            `json:"sign,omitempty"`
	Amounts     int               `json:"amount_columns,omitempty"` // which pair, by its first column's index
	Columns     map[int]string    `json:"columns,omitempty"`        // index from 1 → meaning
	Rows        map[int]string    `json:"rows,omitempty"`           // record → "row" or a class
	As          As                `json:"as,omitempty"`             // what a person said that the file is
	PartyKind   string            `json:"party_kind,omitempty"`     // customer or vendor, of a list that does not say which; account of a crosswalk that is neither's
	Through     string            `json:"through,omitempty"`        // ISO date: up to which day figures of a year to date count
	Kinds       map[int]string    `json:"kinds,omitempty"`          // of a chart: record of a heading → the kind of its accounts
	Pieces      string            `json:"split_amounts,omitempty"`  // join or keep: amounts cut by their own thousands commas
	Parents     string            `json:"parents,omitempty"`        // how a chart gives parents
	Fixes       map[string]string `json:"fixes,omitempty"`          // "record:index" → text beside the raw one
}

// FixKey is the key of a corrected cell in Settings.Fixes.
func FixKey(record, index int) string { return strconv.Itoa(record) + ":" + strconv.Itoa(index) }

// Classes of records that are not data.
const (
	ClassTitle      = "title"
	ClassHeader     = "header"
	ClassBlank      = "blank"
	ClassSection    = "section"
	ClassSubtotal   = "subtotal"
	ClassGrand      = "grand_total"
	ClassPageHeader = "page_header"
	ClassPageFooter = "page_footer"
	ClassNote       = "note"
	ClassRow        = "row"     // data
	ClassRefused    = "refused" // data that could not be read
)

// Severities of findings.
const (
	RefuseFile = "refuse-file"
	RefuseRow  = "refuse-row"
	Hold       = "hold-posting"
	Notice     = "note"
)

// Column is a column of the list and what it was taken for. Index counts from 1.
type Column struct {
	Index   int    `json:"index"`
	Title   string `json:"title"`
	Meaning string `json:"meaning"`
	Offset  int    `json:"offset,omitempty"` // of a register: the column that takes its amounts back, or that it takes back
}

// Choice is one answer to a question, with what it would make of the value.
type Choice struct {
	Value string `json:"value"`
	Words string `json:"words"`
}

// Question is something that can be read in two ways. Key names the setting
// that answers it.
type Question struct {
	Key     string   `json:"key"`
	Why     string   `json:"why"`
	Choices []Choice `json:"choices"`
	Record  int      `json:"record,omitempty"`
	Column  int      `json:"column,omitempty"`
	// Needed says that the file cannot be imported before the answer.
	Needed bool `json:"needed,omitempty"`
}

// Unanswered returns the first question without whose answer the file cannot be imported,
// nil if there is none.
func (r *Reading) Unanswered() *Question {
	for i := range r.Questions {
		if r.Questions[i].Needed {
			return &r.Questions[i]
		}
	}
	return nil
}

// Row is one data record as read. Amount is debit positive.
type Row struct {
	Record  int          `json:"record"`
	Line    int          `json:"line"`
	Number  string       `json:"number"`
	Name    string       `json:"name"`
	Parent  string       `json:"parent"`
	Kind    string       `json:"kind"`
	Amount  money.Amount `json:"amount"`
	Sort    string       `json:"sort,omitempty"`
	Outside string       `json:"outside_id,omitempty"`
	Section string       `json:"section,omitempty"`
	Active  string       `json:"active,omitempty"`
	Normal  string       `json:"normal_side,omitempty"`
	TaxCode string       `json:"tax_code,omitempty"`
	Note    string       `json:"description,omitempty"`
	Role    string       `json:"role,omitempty"` // charts: the duty that the account is said to have
	Cell    int          `json:"-"`              // index of the cell that gave the amount
	*Detail              // what the rows of lists carry; nil for charts and trial balances
}

// Aside is a record that is not data.
type Aside struct {
	Record int    `json:"record"`
	Line   int    `json:"line"`
	Class  string `json:"class"`
	Text   string `json:"text"`
	Reason string `json:"reason"`
	// Amount is what a row would have counted with, as it stands, where its state sets it aside.
	Amount *money.Amount `json:"amount,omitempty"`
}

// Finding is something a person should know about a cell, a record or the file.
type Finding struct {
	Code       string `json:"code"`
	Severity   string `json:"severity"`
	Record     int    `json:"record"`
	Line       int    `json:"line"`
	Column     int    `json:"column"`
	Cell       string `json:"cell"`
	Text       string `json:"text"`
	Message    string `json:"message"`
	Suggestion string `json:"suggestion"`
	// Confirmable says that a person may let it stand as it is.
	Confirmable bool `json:"confirmable,omitempty"`
	// CanCount says that a person may mark its row as one that counts as it is.
	CanCount bool `json:"can_count,omitempty"`
}

// canCount are the findings about rows that a person may mark as rows that count.
var canCount = map[string]bool{"unknown-state": true, "too-few-cells": true, "division": true, "maybe-same": true}

// CanCount says whether a person may mark the row of a finding as one that counts.
func CanCount(code string) bool { return canCount[code] }

// confirmable are the findings that a person may confirm: the file is right as it is, or
// what it lacks is known.
var confirmable = map[string]bool{
	"other-company": true, "other-day": true, "other-currency": true, "duplicate-account": true, "both-sides": true, "three-places": true, "printed-total-differs": true, "no-day": true, "arithmetic": true, "after-cutover": true,
	"unknown-document": true, "mixed-currency": true, "statement-does-not-add": true, "split-differs": true, "aging-summary": true, "bad-byte": true, "count-differs": true, "tax-digits": true, "lost-digits": true, "llc-unsaid": true,
	"maybe-split": true, "same-id": true, "lost-zero": true, "parts-differ": true, "maybe-same": true, "all-positive": true,
}

// Confirmable says whether a person may let findings of a code stand.
func Confirmable(code string) bool { return confirmable[code] }

// Totals count the file: Records = Rows + SetAside + Refused + Blank.
type Totals struct {
	Records       int           `json:"records"`
	Rows          int           `json:"rows"`
	SetAside      int           `json:"set_aside"`
	Refused       int           `json:"refused"`
	Blank         int           `json:"blank"`
	Debit         money.Amount  `json:"debit"`
	Credit        money.Amount  `json:"credit"` // without sign
	Difference    money.Amount  `json:"difference"`
	ColumnDebit   money.Amount  `json:"column_debit"`  // the debit column added up as it stands, negatives and all
	ColumnCredit  money.Amount  `json:"column_credit"` // the same of the credit column
	PrintedDebit  *money.Amount `json:"printed_debit"`
	PrintedCredit *money.Amount `json:"printed_credit"`
	Open          *money.Amount `json:"open,omitempty"` // lists of items: what is open, in the list's own sign
}

// Title is what the lines above the header say about the file.
type Title struct {
	Company string `json:"company,omitempty"`
	Day     string `json:"day,omitempty"` // ISO date
	DayText string `json:"day_text,omitempty"`
	DayRec  int    `json:"day_record,omitempty"`

	CompanyRec int    `json:"company_row,omitempty"`
	PreparedBy string `json:"prepared_by,omitempty"` // who made the report, where a line says so
	From       string `json:"from,omitempty"`        // ISO date: the first day of a period
	To         string `json:"to,omitempty"`
}

// Reading is what became of a list. Its JSON is part of docs/read.md.
type Reading struct {
	As          As         `json:"as"`
	Name        string     `json:"name"`
	Format      string     `json:"format"`
	Sheet       string     `json:"sheet"`
	Encoding    string     `json:"encoding"`
	Delimiter   string     `json:"delimiter"`
	HeaderRow   int        `json:"header_row"`
	DecimalMark string     `json:"decimal_mark"`
	DateOrder   string     `json:"date_order"`
	Sign        string     `json:"sign"`
	Title       Title      `json:"title"`
	Columns     []Column   `json:"columns"`
	Questions   []Question `json:"questions"`
	Rows        []Row      `json:"rows"`
	SetAside    []Aside    `json:"set_aside"`
	Findings    []Finding  `json:"findings"`
	Totals      Totals     `json:"totals"`
	Currency    string     `json:"currency,omitempty"` // the one that all amounts bear, as a code; "" where none or only "$" is said
	// Counts of set-aside records by class.
	Classes     map[string]int  `json:"classes"`
	Parents     string          `json:"parents,omitempty"` // charts: column, path, level, indent, prefix or none
	Statement   *StatementFacts `json:"statement,omitempty"`
	PartyTotals []PartyTotal    `json:"party_totals,omitempty"` // lists grouped by party
	Run         *RunFacts       `json:"run,omitempty"`          // registers
	Forms       []string        `json:"forms,omitempty"`        // a provider's own forms: which ones, in words
	Recognized  *Guess          `json:"recognized,omitempty"`   // what the file looks like, where that was asked
	PartyKind   string          `json:"party_kind,omitempty"`   // of a list of parties and of a crosswalk of theirs: customer or vendor, where all are one
}

// CellName names a cell the way a spreadsheet does: column 4 of record 8 is D8.
func CellName(record, index int) string {
	if index < 1 {
		return ""
	}
	return ColumnLetters(index) + strconv.Itoa(record)
}

// ColumnLetters names a column: 1 is A, 27 is AA.
func ColumnLetters(index int) string {
	var b []byte
	for ; index > 0; index = (index - 1) / 26 {
		b = append([]byte{byte('A' + (index-1)%26)}, b...)
	}
	return string(b)
}

// Refused says whether the whole file was refused.
func (r *Reading) Refused() bool {
	for _, f := range r.Findings {
		if f.Severity == RefuseFile {
			return true
		}
	}
	return false
}
