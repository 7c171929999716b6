package store

import (
	"encoding/json"
	"time"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/ledger"
	"coatrack/internal/core/mapping"
	"coatrack/internal/core/party"
)

// Firm is a bookkeeping firm.
type Firm struct {
	ID       int64
	Name     string
	TimeZone string
}

// Person is a user of a firm.
type Person struct {
	ID           int64
	FirmID       int64
	Email        string
	Name         string
	Initials     string
	Role         string
	PasswordHash string
	SessionEpoch int
	Active       bool
	CreatedAt    time.Time
}

// APIToken is a token a person made; only its hash is kept.
type APIToken struct {
	ID         int64
	PersonID   int64
	Name       string
	Hash       []byte
	CreatedAt  time.Time
	LastUsedAt *time.Time
	RevokedAt  *time.Time
}

// TableName keeps GORM from guessing.
func (APIToken) TableName() string { return "api_token" }

// Ledger is a client's ledger with the client's particulars.
type Ledger struct {
	ID            int64
	FirmID        int64
	Name          string
	LegalName     string
	TradeName     string
	EntityClass   string
	TaxIDSealed   []byte
	Address       string
	Telephone     string
	FiscalYearEnd int
	Method        string
	Currency      string
	OpeningDay    time.Time
	Needs         Texts `gorm:"type:text[]"`
	LockedThrough *time.Time
	Version       int64
	PaidVersion   int64 `gorm:"->"` // of its payment lines; the database writes it
	PeopleVersion int64 `gorm:"->"` // of its parties and what is known of payees
	TouchedAt     time.Time
	TouchedBy     *int64
	CreatedAt     time.Time
}

// Opening returns the opening day.
func (l Ledger) Opening() ledger.Day { return ledger.Day(l.OpeningDay.Format("2006-01-02")) }

// LedgerMember is a person's role in one client.
type LedgerMember struct {
	LedgerID   int64
	PersonID   int64
	Role       string
	SeesPay    bool
	SeesTaxIds bool
}

// History is a line of the history.
type History struct {
	LedgerID  int64
	ID        int64 `gorm:"->"`
	At        time.Time
	PersonID  int64
	What      string
	Subject   string
	SubjectID int64
	Before    json.RawMessage `gorm:"type:jsonb"`
	After     json.RawMessage `gorm:"type:jsonb"`
	ByName    string          // who acted, of history that came with a bundle
}

// Account is an account row.
type Account struct {
	LedgerID int64
	ID       int64
	Number   string
	Name     string
	Kind     string
	Sort     string
	ParentID *int64
	Active   bool
	Role     string
	TaxCode  string
	Note     string
	Pinned   bool
	Hidden   Texts `gorm:"column:hidden_from;type:text[]"`
	Version  int64
	Merged   *int64 `gorm:"column:merged_into"`
}

// Core turns the row into the core's account.
func (a Account) Core() chart.Account {
	c := chart.Account{ID: a.ID, Number: a.Number, Name: a.Name, Kind: chart.Kind(a.Kind), Sort: chart.Sort(a.Sort), Active: a.Active, Role: chart.Role(a.Role), TaxCode: a.TaxCode, Note: a.Note, Pinned: a.Pinned, Hidden: a.Hidden, Version: a.Version}
	if a.ParentID != nil {
		c.ParentID = *a.ParentID
	}
	if a.Merged != nil && !a.Active { // made active again, it stands for itself
		c.Merged = *a.Merged
	}
	return c
}

// Batch is a file that arrived.
type Batch struct {
	LedgerID    int64
	ID          int64
	Purpose     string
	Source      string
	Name        string
	Sheet       string
	Format      string
	Fingerprint []byte
	Size        int64
	Bytes       []byte
	State       string
	Settings    json.RawMessage `gorm:"type:jsonb"`
	Summary     []byte          // sealed
	Confirmed   json.RawMessage `gorm:"type:jsonb"`
	Classes     []byte
	Records     int
	Reading     int
	AccountID   *int64 // the bank account that a statement or uncleared items belong to
	Version     int64
	CreatedBy   int64
	CreatedAt   time.Time
	TakenBy     *int64
	TakenAt     *time.Time
}

// Fix is a correction beside the raw text.
type Fix struct {
	LedgerID int64
	BatchID  int64
	ID       int64 `gorm:"->"`
	Record   int
	Col      int
	Text     *string
	Class    *string
	PersonID int64
	At       time.Time
}

// Label is an outside label.
type Label struct {
	LedgerID    int64
	ID          int64
	Source      string
	Kind        string
	Key         string
	OutsideID   string
	Number      string
	Name        string
	AccountKind string
	Section     string
}

// Core turns the row into the core's label.
func (l Label) Core() mapping.Label {
	return mapping.Label{ID: l.ID, Source: l.Source, Outside: l.OutsideID, Number: l.Number, Name: l.Name, Kind: chart.Kind(l.AccountKind), Section: l.Section}
}

// Fact is one amount under one label.
type Fact struct {
	LedgerID int64
	ID       int64
	BatchID  int64
	Reading  int
	LabelID  int64
	Day      time.Time
	Amount   int64
	Record   int
	Line     int
	Col      int
}

// Binding is a label's answer, append-only.
type Binding struct {
	LedgerID   int64
	ID         int64 `gorm:"->"`
	LabelID    int64
	Facet      string
	Qualifiers json.RawMessage `gorm:"type:jsonb"`
	FromDay    *time.Time
	Answer     string
	AccountID  *int64
	PartyID    *int64
	Parts      json.RawMessage `gorm:"type:jsonb"`
	Box        string
	Reason     string
	Evidence   string
	Revisit    bool
	PersonID   int64
	At         time.Time
}

// Core turns the row into the core's binding.
func (b Binding) Core() mapping.Binding {
	c := mapping.Binding{ID: b.ID, LabelID: b.LabelID, Facet: b.Facet, Answer: b.Answer, Box: b.Box, Reason: b.Reason, Evidence: b.Evidence, Revisit: b.Revisit}
	if len(b.Qualifiers) > 2 {
		ReadKept("a mapping", b.Qualifiers, &c.Qualifiers)
	}
	if b.FromDay != nil {
		c.From = ledger.Day(b.FromDay.Format("2006-01-02"))
	}
	if b.AccountID != nil {
		c.AccountID = *b.AccountID
	}
	if b.PartyID != nil {
		c.PartyID = *b.PartyID
	}
	if len(b.Parts) > 2 {
		ReadKept("a mapping", b.Parts, &c.Parts)
	}
	return c
}

// Unit is what was posted together and is taken back as one.
type Unit struct {
	LedgerID     int64
	ID           int64
	Area         string
	Purpose      string
	Title        string
	BatchID      *int64
	Day          time.Time
	ReversesUnit *int64
	Note         string
	PersonID     int64
	At           time.Time
}

// Acceptance is a person's word that a difference may stand.
type Acceptance struct {
	LedgerID    int64
	ID          int64 `gorm:"->"`
	Proof       string
	LeftAmount  int64
	RightAmount int64
	Reason      string
	PersonID    int64
	At          time.Time
	Withdrawn   bool // the acceptance before this row counts no longer
}

// Party is a customer or vendor.
type Party struct {
	LedgerID    int64
	ID          int64 `gorm:"->"`
	Name        string
	TradeName   string
	Kinds       Texts `gorm:"type:text[]"`
	Class       string
	Terms       string
	Address     string
	Email       string
	Telephone   string
	TaxIDSealed []byte
	Note        string
	Active      bool
	JoinedInto  *int64 // of one that was joined into another
	Version     int64
}

// Core turns the row into the core's party.
func (p Party) Core() party.Party {
	return party.Party{ID: p.ID, Name: p.Name, TradeName: p.TradeName, Kinds: p.Kinds, Terms: p.Terms, Active: p.Active}
}

// Uncleared is a check or deposit that had not cleared at the cutover.
type Uncleared struct {
	LedgerID  int64
	ID        int64 `gorm:"->"`
	AccountID int64
	Kind      string
	Day       *time.Time
	Number    string
	Payee     string
	Amount    int64
	BatchID   *int64
	Record    int
	PersonID  int64
	At        time.Time
	RemovedAt *time.Time
}

// BankBalance is what a statement says as of a day.
type BankBalance struct {
	LedgerID  int64
	ID        int64 `gorm:"->"`
	AccountID int64
	Day       time.Time
	Amount    int64
	BatchID   *int64
	Withdrawn bool
	PersonID  int64
	At        time.Time
}

// Signoff is a signature under the opening, and its unlocking if there was one.
type Signoff struct {
	LedgerID     int64
	ID           int64 `gorm:"->"`
	What         string
	Through      time.Time
	Note         string
	PersonID     int64
	At           time.Time
	UnlockedBy   *int64
	UnlockedAt   *time.Time
	UnlockReason string
}

// Kit is a client's choices, saved for others of the firm.
type Kit struct {
	ID       int64 `gorm:"->"`
	FirmID   int64
	Name     string
	Client   string
	Rows     json.RawMessage `gorm:"type:jsonb"`
	PersonID int64
	At       time.Time
}

// Connection is a connected outside ledger.
type Connection struct {
	LedgerID     int64
	ID           int64 `gorm:"->"`
	FirmID       int64
	Kind         string
	Address      string
	CompanyID    string
	Company      string
	TaxIDMasked  string
	Currency     string
	LastEntry    *time.Time
	ConsentBy    int64
	ConsentAt    time.Time
	ConsentUntil time.Time
	EndedAt      *time.Time
	PulledAt     *time.Time
	FromDay      *time.Time
}

// Strings is a text array of the database.
func Strings(s []string) Texts { return Texts(s) }

// Employee is somebody a provider pays.
type Employee struct {
	LedgerID int64
	ID       int64 `gorm:"->"`
	Source   string
	Key      string
	Number   string
	Name     string
	Team     string
	Officer  bool
	Status   string // see payroll.ReadStatuses
}

// Payee is what is known of a vendor for information returns.
type Payee struct {
	LedgerID      int64
	PartyID       int64
	TaxKind       string
	NumberMark    []byte
	ClassFrom     string
	W9Day         *time.Time `gorm:"column:w9_day"`
	Street        string
	City          string
	State         string
	Zip           string
	Attorney      bool
	ExemptCode    string
	Agent         bool
	Ordered       bool
	Gets          string
	Why           string
	WithoutNumber bool
	JoinedTo      *int64
	Apart         bool
	LegalName     string     // line 1 of Form W-9, where it is not the vendor's name
	EConsent      *time.Time `gorm:"column:e_consent"` // agreed to get statements electronically
	MatchCode     *int
	MatchMark     []byte
	MatchDay      *time.Time
	Version       int64
}
