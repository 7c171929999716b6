package files

import (
	"testing"

	"coatrack/internal/core/table"
)

func TestStrangeCustomersAndVendors(t *testing.T) {
	for _, c := range []strange{
		{"a vendor list by its id's title", table.AsParties, "Vendor id,Name,Address\nV1,Total Turf Care,1 Quay\nV2,Sum & Sons,2 Quay\n", "rows 2; quiet about party_kind; first Total Turf Care"},
		{"customers by the head", table.AsParties, "Customers of Heron Slip Boatyard LLC\nName,Phone\nCobb,207-555-0101\nFry,207-555-0102\n", "rows 2; quiet about party_kind"},
		{"one twice, word for word", table.AsParties, "Vendor,Phone\nCobb,207-555-0101\nFry,207-555-0102\nCobb,207-555-0101\n", "rows 2; says same-row"},
		{"two of one name by their ids", table.AsParties, "Vendor,Vendor no,City\nJonah Pell,V-1,Osier\nJonah Pell,V-2,Tarn\n", "rows 2; quiet about duplicate-name"},
		{"a tax number that lost its digits", table.AsParties, "Vendor,EIN\nCobb,1.23E+08\nFry,12-3456721\n", "rows 2; says lost-digits"},
		{"a zip in a number column", table.AsParties, "Vendor,Street,City,State,Zip\nCobb,1 Quay,Osier,ME,4612\nFry,2 Quay,Tarn,ME,04613\n", "rows 2; says short-zip"},
		{"names with unseen characters", table.AsParties, "Vendor,Phone\nCobb\u200b Marine,207-555-0101\n\u202aFry Marine\u202c,207-555-0102\n", "rows 2; first Cobb Marine; last Fry Marine"},
		{"a footer of counts", table.AsParties, "Vendor,Phone\nCobb,207-555-0101\nFry,207-555-0102\n2 vendors listed\n", "rows 2; says count-agrees; last Fry"},
		{"a count that is wrong", table.AsParties, "Vendor,Phone\nCobb,207-555-0101\nFry,207-555-0102\n3 vendors listed\n", "rows 2; says count-differs"},
		{"a column of shoe sizes", table.AsParties, "Vendor,Phone,Shoe size\nCobb,207-555-0101,43\nFry,207-555-0102,41\n", "rows 2; says column-not-used"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangePayments(t *testing.T) {
	head := "Date,Payment id,Vendor,Method,Paid from,Account,Amount\n"
	for _, c := range []strange{
		{"one row a line", table.AsPayments, head + "07/14/2026,K-1,Total Turf Care,Card,2110 Card,6450 Rigging,40.00\n07/15/2026,K-2,Net Gain Gear,Check 2311,1010 Bank,6450 Rigging,60.00\n", "rows 2; debit 100.00"},
		{"splits below, without a date", table.AsPayments, head + "07/14/2026,K-1,Cobb,Check,1010 Bank,6450 Rigging,40.00\n,,,,,6460 Oil,10.00\n07/15/2026,K-2,Fry,Check,1010 Bank,6450 Rigging,5.00\n", "rows 3; debit 55.00"},
		{"a void and its split", table.AsPayments, head + "07/14/2026,K-1,Cobb,Check,1010 Bank,6450 Rigging,40.00\n07/15/2026,VOID K-2,Fry,Check,1010 Bank,6450 Rigging,5.00\n,,,,,6460 Oil,10.00\n", "rows 1; skip 15.00; debit 40.00; says void"},
		{"a status column", table.AsPayments, "Date,Vendor,Account,Amount,Status\n07/14/2026,Cobb,6450 Rigging,40.00,Cleared\n07/15/2026,Fry,6450 Rigging,5.00,Voided\n07/16/2026,Fry,6450 Rigging,6.00,\n", "rows 2; skip 5.00; debit 46.00; says void"},
		{"a month total in the middle", table.AsPayments, "Date,Vendor,Account,Amount\n07/14/2026,Cobb,6450 Rigging,40.00\n07/15/2026,Fry,6450 Rigging,5.00\nTotal July,,,45.00\n08/01/2026,Fry,6450 Rigging,6.00\nTotal August,,,6.00\nTotal,,,51.00\n", "rows 3; debit 51.00"},
		{"a vendor's heading", table.AsPayments, "Date,Check no,Account,Amount\nCobb Marine\n07/14/2026,2311,6450 Rigging,40.00\nTotal Cobb Marine,,,40.00\nTotal Turf Care\n07/15/2026,2312,6450 Rigging,5.00\nTotal Total Turf Care,,,5.00\n", "rows 2; debit 45.00; last Total Turf Care"},
		{"a letter O", table.AsPayments, head + "07/14/2026,K-1,Cobb,Check,1010 Bank,6450 Rigging,4O.00\n07/15/2026,K-2,Fry,Check,1010 Bank,6450 Rigging,5.00\n", "rows 1; hold 2; debit 5.00"},
		{"a refund", table.AsPayments, head + "07/14/2026,K-1,Cobb,Check,1010 Bank,6450 Rigging,40.00\n07/15/2026,K-2,Cobb,Refund,1010 Bank,6450 Rigging,-15.00\n", "rows 2; debit 40.00; credit 15.00"},
		{"dates as serials", table.AsPayments, "Date,Vendor,Account,Amount\n46217,Cobb,6450 Rigging,40.00\n07/15/2026,Fry,6450 Rigging,5.00\n", "rows 1; hold 2; debit 5.00"},
		{"debits and a credit", table.AsPayments, "Date,Vendor,Account,Amount,D/C\n07/14/2026,Cobb,6450 Rigging,40.00,D\n07/15/2026,Fry,6450 Rigging,5.00,D\n07/16/2026,Fry,6450 Rigging,2.00,C\n", "rows 3; debit 45.00; credit 2.00"},
		{"the bank account's side", table.AsPayments, "Date,Vendor,Account,Amount,D/C\n07/14/2026,Cobb,6450 Rigging,40.00,C\n07/15/2026,Fry,6450 Rigging,5.00,C\n07/16/2026,Fry,6450 Rigging,2.00,D\n", "rows 3; debit 45.00; credit 2.00; says payments-negative"},
		{"no vendor at all", table.AsPayments, "Date,Vendor,Account,Amount\n07/14/2026,,6450 Rigging,40.00\n07/15/2026,Fry,6450 Rigging,5.00\n", "rows 2; debit 45.00"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangeBankFiles(t *testing.T) {
	for _, c := range []strange{
		{"money in and out", table.AsStatement, "Date,Description,Withdrawals,Deposits,Balance\n06/01/2026,TOTAL FUEL,40.00,,960.00\n06/02/2026,DEPOSIT,,100.00,\"1,060.00\"\n", "rows 2; debit 100.00; credit 40.00"},
		{"an opening row", table.AsStatement, "Date,Description,Amount,Balance\n06/01/2026,Opening balance,,1000.00\n06/01/2026,FUEL,-40.00,960.00\n06/02/2026,DEPOSIT,100.00,1060.00\n06/30/2026,Closing balance,,1060.00\n", "rows 2; debit 100.00; credit 40.00"},
		{"a balance that does not run", table.AsStatement, "Date,Description,Amount,Balance\n06/01/2026,FUEL,-40.00,960.00\n06/02/2026,DEPOSIT,100.00,1061.00\n", "rows 2; says statement-does-not-add"},
		{"no signs, a running balance", table.AsStatement, "Date,Details,Amount,Balance\n06/13/2026,Deposit till,100.00,1100.00\n06/14/2026,Harbor Marine,40.00,1060.00\n06/15/2026,Bay Point,15.00,1075.00\n06/16/2026,Rent,500.00,575.00\n", "rows 4; debit 115.00; credit 540.00; says signs-by-balance; quiet about side-not-proved"},
		{"no signs, newest first", table.AsStatement, "Date,Details,Amount,Balance\n06/16/2026,Rent,500.00,575.00\n06/15/2026,Bay Point,15.00,1075.00\n06/14/2026,Harbor Marine,40.00,1060.00\n06/13/2026,Till,100.00,1100.00\n", "rows 4; debit 115.00; credit 540.00; says side-not-proved"},
		{"no signs, an opening row", table.AsStatement, "Date,Details,Amount,Balance\n06/13/2026,Opening balance,,1200.00\n06/13/2026,Slip,100.00,1100.00\n06/14/2026,Harbor Marine,40.00,1060.00\n06/15/2026,Bay Point,15.00,1075.00\n", "rows 3; debit 15.00; credit 140.00; says signs-by-balance; quiet about side-not-proved"},
		{"no signs, and a balance that does not run", table.AsStatement, "Date,Details,Amount,Balance\n06/13/2026,Slip,100.00,1100.00\n06/14/2026,Harbor Marine,40.00,1060.00\n06/15/2026,Bay Point,15.00,1080.00\n", "rows 3; quiet about signs-by-balance; says statement-does-not-add"},
		{"all of it came in", table.AsStatement, "Date,Details,Amount,Balance\n06/13/2026,Till,100.00,1100.00\n06/14/2026,Till,40.00,1140.00\n", "rows 2; debit 140.00; quiet about signs-by-balance"},
		{"a D and a C", table.AsStatement, "Date,Description,Amount,D/C\n06/01/2026,FUEL,40.00,D\n06/02/2026,DEPOSIT,100.00,C\n", "rows 2; debit 100.00; credit 40.00"},
		{"marks behind the amounts", table.AsStatement, "Date,Description,Amount,Balance\n06/13/2026,FUEL,40.00 DR,40.00 DR\n06/14/2026,DEPOSIT,100.00 CR,60.00 CR\n", "rows 2; debit 100.00; credit 40.00; quiet about statement-does-not-add"},
		{"words for the side", table.AsStatement, "Date,Type,Description,Amount\n06/13/2026,Withdrawal,FUEL,40.00\n06/14/2026,Deposit,TILL,100.00\n06/15/2026,Service charge,,3.00\n", "rows 3; debit 100.00; credit 43.00"},
		{"signs and words that say the same", table.AsStatement, "Date,Type,Description,Amount\n06/13/2026,DEBIT,FUEL,-40.00\n06/14/2026,CREDIT,TILL,100.00\n", "rows 2; debit 100.00; credit 40.00"},
		{"no sign anywhere", table.AsStatement, "Date,Description,Amount\n06/13/2026,FUEL,40.00\n06/14/2026,TILL,100.00\n", "rows 2; debit 140.00; says all-positive"},
		{"a side that says nothing", table.AsStatement, "Date,Description,Amount,D/C\n06/13/2026,FUEL,40.00,D\n06/14/2026,TILL,100.00,C\n06/15/2026,OTHER,1.00,?\n", "rows 2; hold 4; debit 100.00; credit 40.00"},
		{"pending lines", table.AsStatement, "Status,Date,Description,Amount\nPosted,06/01/2026,FUEL,-40.00\nPending,06/02/2026,COFFEE,-4.00\n", "rows 1; skip -4.00; credit 40.00"},
		{"checks without a sign", table.AsUncleared, "Outstanding checks\nNo,Date,Payee,Amount\n101,6/1/2026,Rope Co,40.00\n102,6/2/2026,Total Marine,60.00\nTotal,,,100.00\n", "rows 2; credit 100.00"},
		{"sides of the books", table.AsUncleared, "No,Date,Name,Amount,D/C\n101,6/1/2026,Rope Co,40.00,C\n,6/30/2026,Till,25.00,D\n", "rows 2; debit 25.00; credit 40.00"},
		{"both by a word", table.AsUncleared, "Kind,No,Date,Name,Amount\nCheck,101,6/1/2026,Rope Co,40.00\nDeposit,,6/30/2026,Till,25.00\n", "rows 2; debit 25.00; credit 40.00"},
		{"one that cleared", table.AsUncleared, "Kind,No,Date,Name,Amount,Cleared\nCheck,101,6/1/2026,Rope Co,40.00,6/20/2026\nCheck,102,6/2/2026,Cobb,10.00,\n", "rows 1; credit 10.00"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangeCrosswalks(t *testing.T) {
	for _, c := range []strange{
		{"two columns of numbers", table.AsCrosswalk, "Old,New\n0101,1010\n0102,1020\n", "rows 2"},
		{"numbers and names in one cell", table.AsCrosswalk, "Old account,New account\n0101 Bank,1010 Operating bank\n0102 Till,1020 Till\n", "rows 2; first Bank; last Till"},
		{"was and becomes", table.AsCrosswalk, "Was,Name,Becomes,Name\n0101,Bank,1010,Operating bank\n", "rows 1; first Bank"},
		{"shares", table.AsCrosswalk, "Old number,New number,Share\n0799,6620,60%\n0799,6890,40%\n", "rows 2"},
		{"shares that leave something", table.AsCrosswalk, "Old number,New number,Share\n0799,6620,60%\n0799,6890,30%\n0801,6890,\n", "rows 1; hold 2 3"},
		{"two that take the rest", table.AsCrosswalk, "Old number,New number,Amount\n0799,6620,10.00\n0799,6890,\n0799,6891,rest\n", "rows 0; hold 2 3 4"},
		{"divided without a word how", table.AsCrosswalk, "Old number,New number\n0799,6620\n0799,6890\n0801,6890\n", "rows 2; hold 3; says duplicate-account"},
		{"no new account", table.AsCrosswalk, "Old number,New number\n0799,6620\n0801,\n", "rows 1; hold 3; says no-target"},
		{"vendors, two columns", table.AsCrosswalk, "Old vendor,New vendor\nTimber and Sons,Timber & Sons LLC\n3 Rivers Supply,Three Rivers Supply\n", "rows 2"},
		{"customers by the head, with an amount", table.AsCrosswalk, "Heron Slip Boatyard\nCustomers: old to new\nCustomer id,Old name,Is now,Amount\nC-1,Alder,Alder & Co,10.00\nC-2,Birch,Birch Marine,5.00\n,,,15.00\n", "rows 2; first Alder; last Birch; says column-not-used"},
		{"one vendor in two rows", table.AsCrosswalk, "Old vendor,New vendor\nCobb,Cobb Welding\nCobb,Cobb Marine\n", "rows 1; hold 3; says duplicate-account"},
		{"several codes and a name with an ampersand", table.AsCrosswalk, "Legacy supplier,New supplier\nA & B,Alder & Birch\n12 & 14,Cobb\n", "rows 2"},
		{"many old in one cell", table.AsCrosswalk, "Old number,New number\n\"0799, 0801\",6620\n0802,6890\n", "rows 1; hold 2; says several-accounts"},
	} {
		t.Run(c.name, c.check)
	}
}

func TestStrangePayroll(t *testing.T) {
	for _, c := range []strange{
		{"bands over columns", table.AsRegister, "Check date: 08/31/2026\n,Earnings,,Taxes,,\nEmployee,Regular,Overtime,Federal,Medicare,Net pay\n\"Ames, Ann\",1000.00,,100.00,14.50,885.50\n\"Total, Corin\",500.00,50.00,50.00,7.98,492.02\nTotals,1500.00,50.00,150.00,22.48,1377.52\n", "rows 2; people 2; item Regular 1500.00; item Federal 150.00; first Ames, Ann"},
		{"columns under Totals", table.AsRegister, "Check date: 08/31/2026\n,Pay,,Taxes,,Totals,,\nEmployee,Regular,Bonus,Federal,Medicare,Gross,Taxes,Net\nAnn Ames,1000.00,50.00,100.00,15.23,1050.00,115.23,934.77\nBo Bird,800.00,,80.00,11.60,800.00,91.60,708.40\n", "rows 2; people 2; item Regular 1800.00; item Bonus 50.00; item Federal 180.00; says totals-column"},
		{"a department's subtotal", table.AsRegister, "Check date: 08/31/2026\nDept,Employee,Regular,Federal,Net\nYard,Ann Ames,1000.00,100.00,900.00\nYard,Bo Bird,800.00,80.00,720.00\nTotal Yard,,1800.00,180.00,1620.00\nOffice,Cy Cole,500.00,50.00,450.00\nTotal Office,,500.00,50.00,450.00\nGrand total,,2300.00,230.00,2070.00\n", "rows 3; people 3; item Regular 2300.00; item Federal 230.00"},
		{"an average and a head count", table.AsRegister, "Check date,Employee,Regular,Federal,Net\n08/31/2026,Ann Ames,1000.00,100.00,900.00\n08/31/2026,Bo Bird,800.00,80.00,720.00\n08/31/2026,2 employees,1800.00,180.00,1620.00\n08/31/2026,Average,900.00,90.00,810.00\n", "rows 2; people 2; item Regular 1800.00; last Bo Bird"},
		{"a long list, the name once", table.AsRegister, "Pay date: 08/31/2026\nEmployee,Item,Amount\nAnn Ames,Regular,1000.00\n,Federal tax,-100.00\nBo Bird,Regular,800.00\n,Federal tax,-80.00\n", "rows 4; people 2; item Regular 1800.00; item Federal tax -180.00; last Bo Bird"},
		{"a letter O in the first row of a person", table.AsRegister, "Pay date: 08/31/2026\nEmployee,Item,Amount\nAnn Ames,Regular,1000.00\n,Federal tax,-100.00\nBo Bird,Regular,8OO.00\n,Federal tax,-80.00\n", "rows 3; hold 5; item Federal tax -180.00; last Bo Bird"},
		{"this run beside the year", table.AsRegister, "Check date: 08/31/2026\nItem,This run,Year to date\nRegular,1800.00,14400.00\nFederal tax,180.00,1440.00\n", "item Regular 1800.00; item Federal tax 180.00"},
		{"the year through a day", table.AsToDate, "Paid January 1 through June 30, 2026, by employee\nEmployee,Regular,Federal\nAnn Ames,6000.00,600.00\nBo Bird,4800.00,480.00\nTotal,10800.00,1080.00\n", "rows 2; people 2; item Regular 10800.00; quiet about through"},
		{"the year without a day", table.AsToDate, "Employee,Regular,Federal\nAnn Ames,6000.00,600.00\nBo Bird,4800.00,480.00\n", "rows 2; says through"},
		{"two carriers' bills", table.AsPayBill, "Carrier,Invoice no,Invoice date,Coverage month,Member,Premium\nLarkmead,H-77,07/28/2026,July 2026,\"AMES, ANN\",200.00\nLarkmead,H-77,07/28/2026,July 2026,\"BIRD, BO\",200.00\nBill total,,,,,400.00\nSandling,D-4,07/29/2026,July 2026,\"AMES, ANN\",31.50\nBill total,,,,,31.50\n", "rows 3; people 2; bill H-77 400.00; bill D-4 31.50"},
		{"a premium that is no sum of its parts", table.AsPayBill, "Larkmead Health Cover\nInvoice no: H-78\nCoverage month: July 2026\nMember,Premium,Member pays,Group pays\n\"AMES, ANN\",200.00,60.00,140.00\n\"BIRD, BO\",200.00,60.00,130.00\n", "rows 2; says parts-differ"},
		{"a credit among the members", table.AsPayBill, "Larkmead Health Cover\nInvoice no: H-79\nCoverage month: July 2026\nMember,Premium\n\"AMES, ANN\",200.00\n\"BIRD, BO\",-50.00\nTotal,150.00\n", "rows 2; item Premium 150.00"},
	} {
		t.Run(c.name, c.check)
	}
}
