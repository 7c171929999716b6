package files

import (
	"fmt"
	"regexp"
	"strings"
)

var statementTitles = []string{"Date", "Type", "Reference", "Id", "Payee", "Description", "Amount", "Balance"}

// statementSheet lays a statement out: what it says of itself above the titles,
// balances as rows of their own.
func statementSheet(name, account, bank, currency string, rows [][]string, opening, openDay, closing, closeDay string) sheetOf {
	s := sheetOf{name: name}
	s.rows = append(s.rows, []string{"Bank statement of account " + account, bank, currency}, statementTitles)
	if opening != "" {
		s.rows = append(s.rows, []string{openDay, "", "", "", "", "Opening balance", "", opening})
	}
	s.rows = append(s.rows, rows...)
	if closing != "" {
		s.rows = append(s.rows, []string{closeDay, "", "", "", "", "Closing balance", "", closing})
	}
	return s
}

// camtSheets lays out the statements of a camt.053 document. An entry of several
// details becomes a row for each detail, if their amounts add up to the entry.
func camtSheets(doc *node) (out []sheetOf) {
	for i, st := range doc.all("Stmt") {
		acct := st.say("Acct", "Id", "IBAN")
		if acct == "" {
			acct = st.say("Acct", "Id", "Othr", "Id")
		}
		var opening, openDay, closing, closeDay string
		for _, b := range st.all("Bal") {
			amt := signedBy(b.say("Amt"), b.say("CdtDbtInd"))
			switch b.say("Tp", "CdOrPrtry", "Cd") {
			case "OPBD", "PRCD":
				opening, openDay = amt, isoPart(b.say("Dt", "Dt"), b.say("Dt", "DtTm"))
			case "CLBD":
				closing, closeDay = amt, isoPart(b.say("Dt", "Dt"), b.say("Dt", "DtTm"))
			}
		}
		var rows [][]string
		for _, e := range st.all("Ntry") {
			if e.say("Sts") == "PDNG" || e.say("Sts", "Cd") == "PDNG" {
				continue
			}
			day := isoPart(e.say("BookgDt", "Dt"), e.say("BookgDt", "DtTm"))
			ind := e.say("CdtDbtInd")
			if e.say("RvslInd") == "true" {
				ind = map[string]string{"CRDT": "DBIT", "DBIT": "CRDT"}[ind]
			}
			id, info := e.say("AcctSvcrRef"), e.say("AddtlNtryInf")
			row := func(d *node, amt, id string) []string {
				ref := d.say("Refs", "EndToEndId")
				if ref == "" || ref == "NOTPROVIDED" {
					ref = d.say("Refs", "ChqNb")
				}
				party := d.say("RltdPties", "Cdtr", "Nm")
				if ind == "CRDT" {
					party = d.say("RltdPties", "Dbtr", "Nm")
				}
				for _, who := range []string{"Cdtr", "Dbtr"} {
					if party == "" && (who == "Dbtr") == (ind == "CRDT") {
						party = d.say("RltdPties", who, "Pty", "Nm")
					}
				}
				text := strings.Join(d.first("RmtInf").deep("Ustrd"), " ")
				if text == "" {
					text = info
				}
				return []string{day, e.say("BkTxCd", "Prtry", "Cd"), ref, id, party, text, amt, ""}
			}
			var details []*node
			for _, n := range e.all("NtryDtls") {
				details = append(details, n.all("TxDtls")...)
			}
			whole := signedBy(e.say("Amt"), ind)
			var parts [][]string
			if len(details) > 1 {
				for k, d := range details {
					amt := d.say("Amt")
					if amt == "" {
						amt = d.say("AmtDtls", "TxAmt", "Amt")
					}
					if amt == "" {
						parts = nil
						break
					}
					di := d.say("CdtDbtInd")
					if di == "" {
						di = ind
					}
					part := id
					if part != "" {
						part = fmt.Sprintf("%s/%d", id, k+1)
					}
					parts = append(parts, row(d, signedBy(amt, di), part))
				}
			}
			if parts != nil && addsTo(parts, 6, whole) {
				rows = append(rows, parts...)
				continue
			}
			var d *node
			if len(details) > 0 {
				d = details[0]
			} else {
				d = &node{}
			}
			rows = append(rows, row(d, whole, id))
		}
		name := "Statement"
		if len(doc.all("Stmt")) > 1 {
			name = fmt.Sprintf("Statement %d", i+1)
		}
		out = append(out, statementSheet(name, acct, st.say("Acct", "Svcr", "FinInstnId", "Nm"), st.say("Acct", "Ccy"), rows, opening, openDay, closing, closeDay))
	}
	return out
}

func signedBy(amt, ind string) string {
	if ind == "DBIT" && amt != "" && !strings.HasPrefix(amt, "-") {
		return "-" + amt
	}
	return amt
}

func isoPart(day, moment string) string {
	if day == "" {
		day = moment
	}
	if len(day) > 10 {
		day = day[:10]
	}
	return day
}

// ofxSheets lays out the statements of an OFX document, version 1 or 2.
func ofxSheets(root *node) (out []sheetOf) {
	var walk func(n *node)
	walk = func(n *node) {
		for _, k := range n.kids {
			if k.name != "STMTRS" && k.name != "CCSTMTRS" {
				walk(k)
				continue
			}
			acct := k.say("BANKACCTFROM", "ACCTID")
			if acct == "" {
				acct = k.say("CCACCTFROM", "ACCTID")
			}
			list := k.first("BANKTRANLIST")
			var rows [][]string
			for _, t := range list.all("STMTTRN") {
				ref := t.say("CHECKNUM")
				if ref == "" {
					ref = t.say("REFNUM")
				}
				name := t.say("NAME")
				if name == "" {
					name = t.say("PAYEE", "NAME")
				}
				rows = append(rows, []string{ofxDay(t.say("DTPOSTED")), t.say("TRNTYPE"), ref, t.say("FITID"), name, t.say("MEMO"), t.say("TRNAMT"), ""})
			}
			name := "Statement"
			if len(out) > 0 {
				name = fmt.Sprintf("Statement %d", len(out)+1)
			}
			out = append(out, statementSheet(name, acct, k.say("BANKACCTFROM", "BANKID"), k.say("CURDEF"), rows, "", ofxDay(list.say("DTSTART")), k.say("LEDGERBAL", "BALAMT"), ofxDay(k.say("LEDGERBAL", "DTASOF"))))
		}
	}
	walk(root)
	return out
}

func ofxDay(t string) string {
	if len(t) < 8 {
		return t
	}
	return t[:4] + "-" + t[4:6] + "-" + t[6:8]
}

var (
	sgmlTag   = regexp.MustCompile(`<(/?)([A-Za-z0-9.]+)>([^<\r\n]*)`)
	ofxEntity = strings.NewReplacer("&amp;", "&", "&lt;", "<", "&gt;", ">", "&nbsp;", " ", "&quot;", `"`, "&apos;", "'")
)

// openOFX1 reads the older OFX, whose elements with a value are not closed.
func openOFX1(name string, data []byte, lim Limits) (*File, error) {
	text := string(data)
	if !validUTF8(text) {
		text = latin(data)
	}
	i := strings.Index(strings.ToUpper(text), "<OFX>")
	if i < 0 {
		return nil, refuse("damaged", "%s begins like an OFX statement but holds none; export it again", name)
	}
	root := &node{}
	stack := []*node{root}
	for _, m := range sgmlTag.FindAllStringSubmatch(text[i:], -1) {
		tag, val := strings.ToUpper(m[2]), strings.TrimSpace(m[3])
		if m[1] == "/" {
			for k := len(stack) - 1; k > 0; k-- {
				if stack[k].name == tag {
					stack = stack[:k]
					break
				}
			}
			continue
		}
		n := &node{name: tag, text: ofxEntity.Replace(val)}
		top := stack[len(stack)-1]
		top.kids = append(top.kids, n)
		if val == "" {
			stack = append(stack, n)
			if len(stack) > 100 {
				return nil, refuse("damaged", "%s nests too deeply to be a statement", name)
			}
		}
	}
	sheets := ofxSheets(root)
	if len(sheets) == 0 {
		return nil, refuse("no-rows", "%s holds no bank statement", name)
	}
	return openSheets(name, "ofx", sheets, lim)
}

// saftSheets lays out the master files of an OECD SAF-T audit file: accounts with
// opening and closing balances, customers, suppliers.
func saftSheets(root *node) []sheetOf {
	h := root.first("Header")
	company := h.say("Company", "Name")
	if company == "" {
		company = h.say("CompanyName")
	}
	to := h.say("SelectionCriteria", "SelectionEndDate")
	if to == "" {
		to = h.say("EndDate")
	}
	title := [][]string{{company}}
	if to != "" {
		title = append(title, []string{"As of " + to})
	}
	m := root.first("MasterFiles")
	accounts := m.first("GeneralLedgerAccounts")
	if accounts == nil {
		accounts = m
	}
	acc := sheetOf{name: "Accounts", rows: append(append([][]string{}, title...), []string{"Account number", "Account name", "Account type", "Parent account", "Opening debit", "Opening credit", "Closing debit", "Closing credit"})}
	for _, a := range accounts.all("Account") {
		kind := a.say("AccountType")
		if g := a.say("GroupingCategory"); g != "" && (kind == "" || strings.EqualFold(kind, "GL")) {
			kind = g
		}
		if strings.EqualFold(kind, "GL") {
			kind = ""
		}
		acc.rows = append(acc.rows, []string{a.say("AccountID"), a.say("AccountDescription"), kind, a.say("ParentAccountID"), a.say("OpeningDebitBalance"), a.say("OpeningCreditBalance"), a.say("ClosingDebitBalance"), a.say("ClosingCreditBalance")})
	}
	out := []sheetOf{acc}
	parties := func(group, one, id, heading string) {
		list := m.first(group)
		if list == nil {
			return
		}
		s := sheetOf{name: group, rows: append(append([][]string{}, title...), []string{heading, "Id", "Address", "City", "Zip", "Telephone", "Email", "Tax id", "Balance"})}
		for _, c := range list.all(one) {
			name := c.say("Name")
			if name == "" {
				name = c.say("CompanyStructure", "Name")
			}
			if name == "" {
				name = c.say("CompanyName")
			}
			at := c.first("Address")
			if at == nil {
				at = c.first("CompanyStructure", "Address")
			}
			street := at.say("StreetName")
			if n := at.say("Number"); n != "" {
				street = strings.TrimSpace(n + " " + street)
			}
			bal := c.say("ClosingDebitBalance")
			if cr := c.say("ClosingCreditBalance"); cr != "" {
				bal = "-" + cr
			}
			who := c.first("Contact")
			s.rows = append(s.rows, []string{name, c.say(id), street, at.say("City"), at.say("PostalCode"), who.say("Telephone"), who.say("Email"), c.say("TaxRegistration", "TaxRegistrationNumber"), bal})
		}
		out = append(out, s)
	}
	parties("Customers", "Customer", "CustomerID", "Customer")
	parties("Suppliers", "Supplier", "SupplierID", "Vendor")
	return out
}
