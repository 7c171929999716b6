package payroll

import (
	"coatrack/internal/app/act"
	"coatrack/internal/core/money"
)

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
	Day   string          `json:"day"`
	Memo  string          `json:"memo"`
	Party string          `json:"party"`
	Lines []act.EntryLine `json:"lines"`
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
