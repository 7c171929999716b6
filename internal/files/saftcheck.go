package files

import (
	"fmt"
	"strings"

	"coatrack/internal/core/money"
)

// saftOrder is the order in which the published structure has the elements that
// are written here; those that must be there begin with "!".
var saftOrder = map[string][]string{
	"AuditFile":             {"!Header", "!MasterFiles", "GeneralLedgerEntries", "SourceDocuments"},
	"Header":                {"!AuditFileVersion", "!AuditFileCountry", "AuditFileRegion", "!AuditFileDateCreated", "!SoftwareCompanyName", "!SoftwareID", "!SoftwareVersion", "!Company", "!DefaultCurrencyCode", "SelectionCriteria", "HeaderComment", "TaxAccountingBasis", "TaxEntity", "UserID"},
	"Company":               {"!RegistrationNumber", "!Name", "!Address", "Contact", "TaxRegistration", "BankAccount"},
	"Address":               {"StreetName", "Number", "AdditionalAddressDetail", "Building", "City", "PostalCode", "Region", "Country", "AddressType"},
	"Contact":               {"ContactPerson", "Telephone", "Fax", "Email", "Website"},
	"SelectionCriteria":     {"SelectionStartDate", "SelectionEndDate"},
	"MasterFiles":           {"GeneralLedgerAccounts", "Taxonomies", "Customers", "Suppliers", "TaxTable", "AnalysisTypeTable"},
	"GeneralLedgerAccounts": {"!Account"},
	"Account":               {"!AccountID", "!AccountDescription", "StandardAccountID", "GroupingCategory", "GroupingCode", "!AccountType", "AccountCreationDate", "OpeningDebitBalance", "OpeningCreditBalance", "ClosingDebitBalance", "ClosingCreditBalance"},
	"Customers":             {"!Customer"},
	"Suppliers":             {"!Supplier"},
	"Customer":              {"RegistrationNumber", "!Name", "!Address", "Contact", "TaxRegistration", "BankAccount", "!CustomerID", "SelfBillingIndicator", "AccountID", "OpeningDebitBalance", "OpeningCreditBalance", "ClosingDebitBalance", "ClosingCreditBalance"},
	"Supplier":              {"RegistrationNumber", "!Name", "!Address", "Contact", "TaxRegistration", "BankAccount", "!SupplierID", "SelfBillingIndicator", "AccountID", "OpeningDebitBalance", "OpeningCreditBalance", "ClosingDebitBalance", "ClosingCreditBalance"},
	"GeneralLedgerEntries":  {"!NumberOfEntries", "!TotalDebit", "!TotalCredit", "Journal"},
	"Journal":               {"!JournalID", "!Description", "!Type", "Transaction"},
	"Transaction":           {"!TransactionID", "!Period", "!PeriodYear", "!TransactionDate", "SourceID", "TransactionType", "!Description", "BatchID", "!SystemEntryDate", "!GLPostingDate", "CustomerID", "SupplierID", "SystemID", "!Line"},
	"Line":                  {"!RecordID", "!AccountID", "Analysis", "ValueDate", "SourceDocumentID", "CustomerID", "SupplierID", "!Description", "DebitAmount", "CreditAmount", "TaxInformation"},
	"DebitAmount":           {"!Amount", "CurrencyCode", "CurrencyAmount", "ExchangeRate"},
	"CreditAmount":          {"!Amount", "CurrencyCode", "CurrencyAmount", "ExchangeRate"},
}

// CheckSAFT holds an audit file against the structure: elements known, in order,
// the required ones there; accounts and parties named by lines are in the master
// files; sums are those of the lines and each transaction balances.
func CheckSAFT(data []byte) error {
	root, err := parseXML(data, nil)
	if err != nil {
		return err
	}
	if root.name != "AuditFile" {
		return fmt.Errorf("the first element is %s", root.name)
	}
	if err := checkOrder(root); err != nil {
		return err
	}
	known := map[string]bool{}
	m := root.first("MasterFiles")
	for _, a := range m.first("GeneralLedgerAccounts").all("Account") {
		known["AccountID "+a.say("AccountID")] = true
	}
	for _, c := range m.first("Customers").all("Customer") {
		known["CustomerID "+c.say("CustomerID")] = true
	}
	for _, c := range m.first("Suppliers").all("Supplier") {
		known["SupplierID "+c.say("SupplierID")] = true
	}
	g := root.first("GeneralLedgerEntries")
	var debit, credit money.Amount
	n := 0
	for _, j := range g.all("Journal") {
		for _, t := range j.all("Transaction") {
			n++
			var sum money.Amount
			for _, l := range t.all("Line") {
				for _, ref := range []string{"AccountID", "CustomerID", "SupplierID"} {
					if v := l.say(ref); v != "" && !known[ref+" "+v] {
						return fmt.Errorf("transaction %s, line %s: %s %s is not in the master files", t.say("TransactionID"), l.say("RecordID"), ref, v)
					}
				}
				d, _, _ := money.Read(l.say("DebitAmount", "Amount"), '.')
				c, _, _ := money.Read(l.say("CreditAmount", "Amount"), '.')
				debit, credit, sum = debit+d, credit+c, sum+d-c
			}
			if sum != 0 {
				return fmt.Errorf("transaction %s does not balance", t.say("TransactionID"))
			}
		}
	}
	for what, is := range map[string]string{"NumberOfEntries": fmt.Sprint(n), "TotalDebit": debit.String(), "TotalCredit": credit.String()} {
		if got := g.say(what); got != is {
			return fmt.Errorf("%s is %s, the lines come to %s", what, got, is)
		}
	}
	return nil
}

func checkOrder(n *node) error {
	order, ok := saftOrder[n.name]
	if !ok {
		if len(n.kids) > 0 {
			return fmt.Errorf("%s is not an element of the structure", n.name)
		}
		return nil
	}
	at := 0
	has := map[string]bool{}
	for _, k := range n.kids {
		i := -1
		for p, name := range order {
			if strings.TrimPrefix(name, "!") == k.name {
				i = p
			}
		}
		if i < 0 {
			return fmt.Errorf("%s does not belong in %s", k.name, n.name)
		}
		if i < at {
			return fmt.Errorf("%s stands out of order in %s", k.name, n.name)
		}
		at = i
		has[k.name] = true
		if err := checkOrder(k); err != nil {
			return err
		}
	}
	for _, name := range order {
		if strings.HasPrefix(name, "!") && !has[name[1:]] {
			return fmt.Errorf("%s lacks %s", n.name, name[1:])
		}
	}
	return nil
}
