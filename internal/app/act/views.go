package act

import (
	"coatrack/internal/core/money"
)

// EntryLine is a line of an entry.
type EntryLine struct {
	AccountID int64        `json:"account_id"`
	Account   string       `json:"account"`
	Amount    money.Amount `json:"amount"`
	Agency    string       `json:"agency,omitempty"`
}

// WhySource is one source row behind a figure.
type WhySource struct {
	FactID   int64        `json:"fact_id"`
	BatchID  int64        `json:"batch_id"`
	File     string       `json:"file"`
	Sheet    string       `json:"sheet,omitempty"`
	Record   int          `json:"record"`
	Line     int          `json:"line"`
	Column   int          `json:"column"`
	Cell     string       `json:"cell"`
	Raw      string       `json:"raw" doc:"the raw text of the row"`
	Fixed    string       `json:"fixed,omitempty" doc:"a correction beside the raw text"`
	Label    string       `json:"label"`
	Kind     string       `json:"kind" doc:"of the label: old account, customer or vendor"`
	LabelID  int64        `json:"label_id"`
	Amount   money.Amount `json:"amount"`
	TakenBy  string       `json:"taken_by"`
	TakenAt  string       `json:"taken_at"`
	Mapping  string       `json:"mapping,omitempty"`
	MappedBy string       `json:"mapped_by,omitempty"`
	MappedAt string       `json:"mapped_at,omitempty"`
}
