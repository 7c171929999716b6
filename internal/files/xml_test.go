package files

import (
	"testing"

	"coatrack/internal/core/money"
	"coatrack/internal/core/table"

	"github.com/stretchr/testify/require"
)

func readAs(t *testing.T, as table.As, name, text string, set table.Settings) *table.Reading {
	t.Helper()
	r, err := Read(name, []byte(text), table.Options{As: as, Settings: set}, DefaultLimits)
	require.NoError(t, err)
	return r
}

const ofx1 = `OFXHEADER:100
DATA:OFXSGML
VERSION:102

<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>USD<BANKACCTFROM><BANKID>011000015<ACCTID>00123456<ACCTTYPE>CHECKING</BANKACCTFROM>
<BANKTRANLIST><DTSTART>20260601<DTEND>20260630
<STMTTRN><TRNTYPE>CHECK<DTPOSTED>20260612120000<TRNAMT>-120.00<FITID>A1<CHECKNUM>2199<NAME>Timber &amp; Sons</STMTTRN>
<STMTTRN><TRNTYPE>DEP<DTPOSTED>20260630<TRNAMT>64.80<FITID>A2<NAME>Deposit</STMTTRN>
</BANKTRANLIST><LEDGERBAL><BALAMT>944.80<DTASOF>20260630</LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>`

const ofx2 = `<?xml version="1.0" encoding="UTF-8"?><?OFX OFXHEADER="200" VERSION="211"?><OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>USD</CURDEF><BANKACCTFROM><BANKID>011000015</BANKID><ACCTID>00123456</ACCTID></BANKACCTFROM>
<BANKTRANLIST><DTSTART>20260601</DTSTART><STMTTRN><TRNTYPE>CHECK</TRNTYPE><DTPOSTED>20260612</DTPOSTED><TRNAMT>-120.00</TRNAMT><FITID>A1</FITID><CHECKNUM>2199</CHECKNUM><NAME>Timber &amp; Sons</NAME></STMTTRN>
<STMTTRN><TRNTYPE>DEP</TRNTYPE><DTPOSTED>20260630</DTPOSTED><TRNAMT>64.80</TRNAMT><FITID>A2</FITID></STMTTRN></BANKTRANLIST><LEDGERBAL><BALAMT>944.80</BALAMT><DTASOF>20260630</DTASOF></LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>`

// An entry of two details that add up becomes two rows; one whose details do not
// add up stays whole. 1,000.00 − 100.00 − 20.00 + 64.80 = 944.80.
const camt = `<?xml version="1.0"?><c:Document xmlns:c="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><c:BkToCstmrStmt><c:Stmt><c:Acct><c:Id><c:IBAN>XX00123456</c:IBAN></c:Id><c:Ccy>USD</c:Ccy></c:Acct>
<c:Bal><c:Tp><c:CdOrPrtry><c:Cd>OPBD</c:Cd></c:CdOrPrtry></c:Tp><c:Amt Ccy="USD">1000.00</c:Amt><c:CdtDbtInd>CRDT</c:CdtDbtInd><c:Dt><c:Dt>2026-06-01</c:Dt></c:Dt></c:Bal>
<c:Bal><c:Tp><c:CdOrPrtry><c:Cd>CLBD</c:Cd></c:CdOrPrtry></c:Tp><c:Amt Ccy="USD">944.80</c:Amt><c:CdtDbtInd>CRDT</c:CdtDbtInd><c:Dt><c:Dt>2026-06-30</c:Dt></c:Dt></c:Bal>
<c:Ntry><c:Amt>120.00</c:Amt><c:CdtDbtInd>DBIT</c:CdtDbtInd><c:Sts><c:Cd>BOOK</c:Cd></c:Sts><c:BookgDt><c:Dt>2026-06-12</c:Dt></c:BookgDt><c:AcctSvcrRef>R1</c:AcctSvcrRef>
<c:NtryDtls><c:TxDtls><c:Refs><c:EndToEndId>E1</c:EndToEndId></c:Refs><c:Amt>100.00</c:Amt><c:RltdPties><c:Cdtr><c:Pty><c:Nm>Timber</c:Nm></c:Pty></c:Cdtr></c:RltdPties></c:TxDtls><c:TxDtls><c:Amt>20.00</c:Amt></c:TxDtls></c:NtryDtls></c:Ntry>
<c:Ntry><c:Amt>64.80</c:Amt><c:CdtDbtInd>CRDT</c:CdtDbtInd><c:BookgDt><c:DtTm>2026-06-30T10:00:00</c:DtTm></c:BookgDt><c:AcctSvcrRef>R2</c:AcctSvcrRef></c:Ntry>
<c:Ntry><c:Amt>5.00</c:Amt><c:CdtDbtInd>CRDT</c:CdtDbtInd><c:Sts>PDNG</c:Sts><c:BookgDt><c:Dt>2026-06-30</c:Dt></c:BookgDt></c:Ntry>
</c:Stmt></c:BkToCstmrStmt></c:Document>`

func TestBankStatements(t *testing.T) {
	for name, text := range map[string]string{"a.ofx": ofx1, "b.ofx": ofx2} {
		r := readAs(t, table.AsStatement, name, text, table.Settings{})
		require.Equal(t, "ofx", r.Format, name)
		require.Len(t, r.Rows, 2, name)
		require.Equal(t, money.Amount(-12000), r.Rows[0].Amount)
		require.Equal(t, "Timber & Sons", r.Rows[0].Name)
		require.Equal(t, "2199", r.Rows[0].Number)
		require.Equal(t, "A1", r.Rows[0].Outside)
		require.Equal(t, "2026-06-12", r.Rows[0].Date)
		require.Equal(t, money.Amount(94480), *r.Statement.Closing)
		require.Equal(t, "2026-06-30", r.Statement.To)
		require.Equal(t, "00123456", r.Statement.Account)
		require.Empty(t, r.Findings)
	}
	r := readAs(t, table.AsStatement, "s.xml", camt, table.Settings{})
	require.Equal(t, "camt.053", r.Format)
	require.Len(t, r.Rows, 3, "two details of the first entry, the second; what is pending is not booked")
	require.Equal(t, []money.Amount{-10000, -2000, 6480}, []money.Amount{r.Rows[0].Amount, r.Rows[1].Amount, r.Rows[2].Amount})
	require.Equal(t, "Timber", r.Rows[0].Name)
	require.Equal(t, money.Amount(100000), *r.Statement.Opening)
	require.Equal(t, money.Amount(94480), *r.Statement.Closing)
	require.Empty(t, r.Findings)
}

const saft = `<?xml version="1.0"?><n1:AuditFile xmlns:n1="urn:StandardAuditFile-Taxation-Financial"><n1:Header><n1:Company><n1:Name>Larkrise Orchard Association</n1:Name></n1:Company><n1:SelectionCriteria><n1:SelectionStartDate>2026-01-01</n1:SelectionStartDate><n1:SelectionEndDate>2026-06-30</n1:SelectionEndDate></n1:SelectionCriteria></n1:Header>
<n1:MasterFiles><n1:GeneralLedgerAccounts>
<n1:Account><n1:AccountID>1010</n1:AccountID><n1:AccountDescription>Bank</n1:AccountDescription><n1:AccountType>Asset</n1:AccountType><n1:OpeningDebitBalance>10.00</n1:OpeningDebitBalance><n1:ClosingDebitBalance>864.80</n1:ClosingDebitBalance></n1:Account>
<n1:Account><n1:AccountID>3000</n1:AccountID><n1:AccountDescription>Net assets</n1:AccountDescription><n1:AccountType>Equity</n1:AccountType><n1:OpeningCreditBalance>10.00</n1:OpeningCreditBalance><n1:ClosingCreditBalance>864.80</n1:ClosingCreditBalance></n1:Account>
</n1:GeneralLedgerAccounts><n1:Customers><n1:Customer><n1:CustomerID>C-1</n1:CustomerID><n1:CompanyStructure><n1:Name>Alder Marine</n1:Name><n1:Address><n1:StreetName>Quay</n1:StreetName><n1:Number>4</n1:Number><n1:City>Pellan Reach</n1:City></n1:Address></n1:CompanyStructure></n1:Customer></n1:Customers></n1:MasterFiles><n1:GeneralLedgerEntries><n1:Journal><n1:Transaction/></n1:Journal></n1:GeneralLedgerEntries></n1:AuditFile>`

func TestAuditFile(t *testing.T) {
	r := readAs(t, table.AsChart, "audit.xml", saft, table.Settings{})
	require.Equal(t, "saf-t", r.Format)
	require.Len(t, r.Rows, 2)
	require.Equal(t, "asset", r.Rows[0].Kind)
	r = readAs(t, table.AsTrialBalance, "audit.xml", saft, table.Settings{})
	require.Equal(t, money.Amount(86480), r.Totals.Debit, "closing balances, unless one says opening")
	require.Equal(t, money.Amount(0), r.Totals.Difference)
	require.Equal(t, "2026-06-30", r.Title.Day)
	require.Equal(t, "Larkrise Orchard Association", r.Title.Company)
	var set table.Settings
	require.NoError(t, set.Put("amount_columns", "5"))
	r = readAs(t, table.AsTrialBalance, "audit.xml", saft, set)
	require.Equal(t, money.Amount(1000), r.Totals.Debit)
	r = readAs(t, table.AsParties, "audit.xml", saft, table.Settings{})
	require.Equal(t, "Customers", r.Sheet)
	require.Len(t, r.Rows, 1)
	require.Equal(t, "4 Quay, Pellan Reach", r.Rows[0].Address)
	require.Equal(t, "customer", r.Rows[0].PartyKind)
}

func TestXMLThatIsNotRead(t *testing.T) {
	for text, code := range map[string]string{
		`<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "c">]><AuditFile>&b;</AuditFile>`: "entities",
		`<?xml version="1.0"?><Invoice/>`:                                               "not-a-table",
		`<?xml version="1.0"?><AuditFile><Header>`:                                      "damaged",
		"OFXHEADER:100\n\nnothing":                                                      "damaged",
	} {
		r := readAs(t, table.AsChart, "x.xml", text, table.Settings{})
		require.True(t, r.Refused())
		require.Equal(t, code, r.Findings[0].Code, text)
	}
}
