package table

import (
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/core/money"
)

// headWords maps the titles of outside columns to meanings, folded by foldHead.
var headWords = map[string]string{
	"no": Number, "nr": Number, "num": Number, "number": Number, "account no": Number, "account number": Number, "acct no": Number, "acct": Number, "acct number": Number, "acct num": Number, "account num": Number, "code": Number, "account code": Number, "gl code": Number, "gl account": Number, "gl no": Number, "gl number": Number, "gl": Number, "ledger code": Number, "nominal code": Number, "account id": OutsideID, "a/c no": Number, "a/c": Number, "ac no": Number, "account nr": Number, "acct code": Number, "nominal": Number, "accnt no": Number, "accnt number": Number, "acc no": Number, "acc number": Number, "account ref": Number,
	"name": Name, "account": Name, "account name": Name, "account title": Name, "acct name": Name, "title": Name, "ledger account": Name, "account description": Name, "full name": Name, "description": Name, "ledger": Name, "particulars": Name, "account full name": Name, "gl account name": Name, "nominal name": Name, "gl name": Name, "acct description": Name, "acct desc": Name, "account desc": Name, "acct descr": Name, "account descr": Name, "acct title": Name,
	"id": OutsideID, "internal id": OutsideID, "external id": OutsideID, "outside id": OutsideID, "guid": OutsideID, "system id": OutsideID,
	"parent": Parent, "parent account": Parent, "parent no": Parent, "parent number": Parent, "parent name": Parent, "sub account of": Parent, "subaccount of": Parent, "parent code": Parent, "rolls up to": Parent,
	"kind": KindCol, "type": KindCol, "account type": KindCol, "class": KindCol, "classification": KindCol, "category": KindCol, "account class": KindCol, "acct type": KindCol, "group": KindCol, "account category": KindCol, "account kind": KindCol,
	"level": Level, "depth": Level, "indent": Level, "outline level": Level, "sort": SortCol, "sub type": SortCol, "subtype": SortCol, "detail type": SortCol, "detail": SortCol, "account sort": SortCol,
	"normal side": Normal, "normal balance": Normal, "normal": Normal, "normal bal": Normal, "norm bal": Normal, "usual side": Normal, "balance type": Normal, "active": ActiveCol, "status": ActiveCol, "is active": ActiveCol, "inactive": ActiveCol, "notes": Note, "note": Note, "memo": Note, "comment": Note, "tax code": TaxCode, "default tax code": TaxCode, "tax": TaxCode,
	"debit": Debit, "debits": Debit, "dr": Debit, "debit amount": Debit, "debit balance": Debit, "closing debit": Debit, "closing dr": Debit, "ending debit": Debit, "balance dr": Debit, "dr balance": Debit, "debit usd": Debit, "closing balance debit": Debit, "closing balance dr": Debit, "ending balance debit": Debit, "year to date debit": Debit, "ytd debit": Debit, "final debit": Debit,
	"credit": Credit, "credits": Credit, "cr": Credit, "credit amount": Credit, "credit balance": Credit, "closing credit": Credit, "closing cr": Credit, "ending credit": Credit, "balance cr": Credit, "cr balance": Credit, "credit usd": Credit, "closing balance credit": Credit, "closing balance cr": Credit, "ending balance credit": Credit, "year to date credit": Credit, "ytd credit": Credit, "final credit": Credit,
	"amount": Amount, "balance": Amount, "closing balance": Amount, "ending balance": Amount, "net": Amount, "total": Amount, "final balance": Amount, "net balance": Amount, "ytd balance": Amount, "year to date": Amount, "ytd": Amount, "closing": Amount, "balance usd": Amount, "amount usd": Amount, "net amount": Amount, "current balance": Amount, "value": Amount, "saldo": Amount, "net change": Amount,
	"dr/cr": Side, "d/c": Side, "dc": Side, "drcr": Side, "side": Side, "debit/credit": Side, "cr/dr": Side, "dr or cr": Side, "d/k": Side, "sign": Side, "db/cr": Side,
}

// earlier marks columns of another moment: opening balances, movements, last
// year. Where a file has them beside closing columns, closing wins.
var earlier = []string{"opening", "beginning", "movement", "activity", "prior", "previous", "last year", "budget", "start", "change", "period"}

// words parts a title written as one word: "InvoiceDate" is "Invoice Date".
func words(s string) string {
	if strings.ContainsAny(s, " _-.") || len(s) < 6 {
		return s
	}
	var b strings.Builder
	was := ' '
	for _, c := range s {
		if unicode.IsUpper(c) && unicode.IsLower(was) {
			b.WriteByte(' ')
		}
		b.WriteRune(c)
		was = c
	}
	return b.String()
}

// shortTitles are the trade's abbreviations in titles; a title that is not known as it
// stands is looked up once more written out.
var shortTitles = map[string]string{"acct": "account", "accts": "accounts", "amt": "amount", "bal": "balance", "beg": "beginning", "begin": "beginning", "end": "ending", "chg": "change", "cust": "customer", "vend": "vendor", "inv": "invoice", "desc": "description", "descr": "description", "orig": "original", "pmt": "payment", "dt": "date", "num": "number", "nbr": "number", "prev": "previous", "trans": "transaction", "ref": "reference", "dept": "department", "emp": "employee"}

// writtenOut is a folded title with its abbreviations written out.
func writtenOut(folded string) string {
	words := strings.Split(folded, " ")
	for i, w := range words {
		if long := shortTitles[w]; long != "" {
			words[i] = long
		}
	}
	return strings.Join(words, " ")
}

func foldHead(s string) string {
	s = strings.ToLower(words(money.Trim(s)))
	s = strings.NewReplacer("\n", " ", "\r", " ", ".", "", "#", " no ", "_", " ", "(", " ", ")", " ", "$", " ", ":", "", "-", " ", "*", "").Replace(s)
	s = strings.Join(strings.Fields(s), " ")
	s = strings.ReplaceAll(s, " / ", "/")
	return s
}

// headMeaning reads a column title. when is "earlier" for columns of another
// moment than the balance looked for.
func headMeaning(title string, as As) (meaning, when string) {
	if l := lists[as]; l != nil {
		return l.meaning(title), ""
	}
	f := foldHead(title)
	if f == "" {
		return "", ""
	}
	if m, ok := headWords[f]; ok {
		return fit(m, f, as), ""
	}
	if f = writtenOut(f); headWords[f] != "" {
		return fit(headWords[f], f, as), ""
	}
	for _, e := range earlier {
		if strings.Contains(f, e) {
			when = "earlier"
		}
	}
	words := strings.Fields(strings.ReplaceAll(f, "/", " "))
	last := ""
	if len(words) > 0 {
		last = words[len(words)-1]
	}
	has := func(w string) bool { return slices.Contains(words, w) }
	switch {
	case has("dr") && has("cr") || has("debit") && has("credit"): // "Balance Dr/(Cr)": one signed column
		return fit(Amount, f, as), when
	case last == "debit" || last == "debits" || last == "dr" || strings.HasPrefix(f, "debit "):
		return fit(Debit, f, as), when
	case last == "credit" || last == "credits" || last == "cr" || strings.HasPrefix(f, "credit "):
		return fit(Credit, f, as), when
	case f == "balance sheet": // the report's name
		return "", ""
	case strings.HasPrefix(f, "balance") || strings.HasSuffix(f, "balance") || strings.HasPrefix(f, "amount") || strings.HasSuffix(f, "amount"):
		return fit(Amount, f, as), when
	case when == "earlier":
		return "", when
	case strings.Contains(f, "account") && strings.Contains(f, "name"):
		return fit(Name, f, as), ""
	case strings.Contains(f, "account") && (last == "number" || last == "no" || last == "code"):
		return fit(Number, f, as), ""
	case strings.Contains(f, "parent"):
		return Parent, ""
	}
	return "", when
}

// fit drops meanings that the purpose does not have.
func fit(m, f string, as As) string {
	if as == AsChart {
		switch m {
		case Debit, Credit, Amount:
			return Ignore
		case Side:
			return Normal
		}
	} else {
		switch m {
		case SortCol:
			return KindCol
		case Normal, ActiveCol, Note, TaxCode, Level:
			return Ignore
		}
	}
	return m
}
