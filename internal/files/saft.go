package files

import (
	"bufio"
	"encoding/xml"
	"io"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
)

// The ledger as an OECD Standard Audit File for Tax (SAF-T), version 2.00: header,
// master files, general ledger entries, each element in the order of the published
// structure. Journals and their lines stream.

// SAFTHead is what the header of an audit file says.
type SAFTHead struct {
	Country, Created, Version      string
	Company, TaxID, Street, City   string
	Currency, From, To, Basis, Who string
}

// SAFTAccount is an account with its balances.
type SAFTAccount struct {
	ID, Name, Kind string
	Sort           string
	Opening        money.Amount
	Closing        money.Amount
}

// SAFTParty is a customer or supplier with its balances.
type SAFTParty struct {
	ID, Name, Street, Email, Telephone, Account string
	Opening, Closing                            money.Amount
}

// SAFTLine is a posted line; consecutive lines of one entry make a transaction.
type SAFTLine struct {
	Entry             int64
	Day, Posted, Kind string
	Memo, Who         string
	No                int
	Account, Text     string
	Customer, Vendor  string
	Amount            money.Amount
}

// SAFT is an audit file about to be written.
type SAFT struct {
	Head      SAFTHead
	Accounts  []SAFTAccount
	Customers []SAFTParty
	Suppliers []SAFTParty
	Entries   int
	Debit     money.Amount
	Credit    money.Amount
	Each      func(yield func(SAFTLine) error) error
}

type saftWriter struct {
	w     *bufio.Writer
	depth int
}

func (s *saftWriter) line(text string) {
	for range s.depth {
		_, _ = s.w.WriteString(" ")
	}
	_, _ = s.w.WriteString(text)
	_ = s.w.WriteByte('\n')
}

func (s *saftWriter) open(name string)  { s.line("<" + name + ">"); s.depth++ }
func (s *saftWriter) close(name string) { s.depth--; s.line("</" + name + ">") }

func (s *saftWriter) text(name, value string) {
	var b strings.Builder
	_ = xml.EscapeText(&b, []byte(value))
	s.line("<" + name + ">" + b.String() + "</" + name + ">")
}

// opt writes an element only if it says something.
func (s *saftWriter) opt(name, value string) {
	if value != "" {
		s.text(name, value)
	}
}

func (s *saftWriter) balance(what string, a money.Amount) {
	if a < 0 {
		s.text(what+"CreditBalance", a.Abs().String())
	} else {
		s.text(what+"DebitBalance", a.String())
	}
}

func cut(t string, n int) string {
	r := []rune(t)
	if len(r) > n {
		return string(r[:n])
	}
	return t
}

// WriteSAFT writes the audit file.
func WriteSAFT(w io.Writer, f SAFT) error {
	s := &saftWriter{w: bufio.NewWriterSize(w, 64<<10)}
	s.line(`<?xml version="1.0" encoding="UTF-8"?>`)
	s.line(`<AuditFile xmlns="urn:OECD:StandardAuditFile-Tax:2.00">`)
	s.depth++
	s.head(f.Head)
	s.open("MasterFiles")
	s.open("GeneralLedgerAccounts")
	for _, a := range f.Accounts {
		s.open("Account")
		s.text("AccountID", a.ID)
		s.text("AccountDescription", cut(a.Name, 256))
		s.opt("GroupingCategory", a.Kind)
		s.opt("GroupingCode", a.Sort)
		s.text("AccountType", saftType(a.Kind))
		s.balance("Opening", a.Opening)
		s.balance("Closing", a.Closing)
		s.close("Account")
	}
	s.close("GeneralLedgerAccounts")
	s.parties("Customers", "Customer", f.Customers)
	s.parties("Suppliers", "Supplier", f.Suppliers)
	s.close("MasterFiles")
	s.open("GeneralLedgerEntries")
	s.text("NumberOfEntries", strconv.Itoa(f.Entries))
	s.text("TotalDebit", f.Debit.String())
	s.text("TotalCredit", f.Credit.String())
	if f.Entries > 0 {
		if err := s.journal(f); err != nil {
			return err
		}
	}
	s.close("GeneralLedgerEntries")
	s.close("AuditFile")
	return s.w.Flush()
}

func (s *saftWriter) head(h SAFTHead) {
	s.open("Header")
	s.text("AuditFileVersion", "2.00")
	s.text("AuditFileCountry", h.Country)
	s.text("AuditFileDateCreated", h.Created)
	s.text("SoftwareCompanyName", "Coatrack")
	s.text("SoftwareID", "Coatrack")
	s.text("SoftwareVersion", h.Version)
	s.open("Company")
	s.text("RegistrationNumber", h.TaxID)
	s.text("Name", cut(h.Company, 256))
	s.open("Address")
	s.opt("StreetName", cut(h.Street, 70))
	s.opt("City", h.City)
	s.text("Country", h.Country)
	s.close("Address")
	s.close("Company")
	s.text("DefaultCurrencyCode", h.Currency)
	s.open("SelectionCriteria")
	s.text("SelectionStartDate", h.From)
	s.text("SelectionEndDate", h.To)
	s.close("SelectionCriteria")
	s.text("TaxAccountingBasis", h.Basis)
	s.opt("UserID", h.Who)
	s.close("Header")
}

// saftType is the kind of account in the structure's own words.
func saftType(kind string) string {
	switch kind {
	case "asset":
		return "Asset"
	case "liability":
		return "Liability"
	case "equity":
		return "Equity"
	case "income", "other income":
		return "Sale"
	case "cost of sales", "expense", "other expense":
		return "Expense"
	}
	return "Other"
}

func (s *saftWriter) parties(group, one string, list []SAFTParty) {
	if len(list) == 0 {
		return
	}
	s.open(group)
	for _, p := range list {
		s.open(one)
		s.text("Name", cut(p.Name, 256))
		s.open("Address")
		s.opt("StreetName", cut(p.Street, 70))
		s.close("Address")
		if p.Email != "" || p.Telephone != "" {
			s.open("Contact")
			s.opt("Telephone", p.Telephone)
			s.opt("Email", p.Email)
			s.close("Contact")
		}
		s.text(one+"ID", p.ID)
		s.opt("AccountID", p.Account)
		s.balance("Opening", p.Opening)
		s.balance("Closing", p.Closing)
		s.close(one)
	}
	s.close(group)
}

func (s *saftWriter) journal(f SAFT) error {
	s.open("Journal")
	s.text("JournalID", "GL")
	s.text("Description", "General ledger")
	s.text("Type", "GL")
	var at int64
	err := f.Each(func(l SAFTLine) error {
		if l.Entry != at {
			if at != 0 {
				s.close("Transaction")
			}
			at = l.Entry
			s.open("Transaction")
			s.text("TransactionID", strconv.FormatInt(l.Entry, 10))
			s.text("Period", strings.TrimLeft(l.Day[5:7], "0"))
			s.text("PeriodYear", l.Day[:4])
			s.text("TransactionDate", l.Day)
			s.opt("SourceID", l.Who)
			s.opt("TransactionType", cut(l.Kind, 9))
			s.text("Description", cut(l.Memo, 256))
			s.text("SystemEntryDate", l.Posted)
			s.text("GLPostingDate", l.Day)
		}
		s.open("Line")
		s.text("RecordID", strconv.Itoa(l.No))
		s.text("AccountID", l.Account)
		s.opt("CustomerID", l.Customer)
		s.opt("SupplierID", l.Vendor)
		s.text("Description", cut(l.Text, 256))
		side := "DebitAmount"
		if l.Amount < 0 {
			side = "CreditAmount"
		}
		s.open(side)
		s.text("Amount", l.Amount.Abs().String())
		s.close(side)
		s.close("Line")
		return nil
	})
	if err != nil {
		return err
	}
	if at != 0 {
		s.close("Transaction")
	}
	s.close("Journal")
	return nil
}
