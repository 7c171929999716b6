package table

import (
	"strconv"

	"coatrack/internal/core/money"
)

// Options say what a list is read as, what a person decided, and what is known
// of the client (an ambiguous date is settled by the day that is expected).
type Options struct {
	As       As
	Settings Settings
	Expect   string // ISO date the title should bear, or ""
	// Row and Class, where set, are called for each data row and each record in
	// order, and Reading.Rows stays empty: for lists too long to hold.
	Row   func(Row)
	Class func(record int, class string)
	// Keep bounds the findings kept per code; the rest are counted. 0 is 500.
	Keep int
	// Delimited says that the records are lines of text cut at a delimiter, so that a
	// cell too many or too few is a fault and no habit of the format.
	Delimited bool
	Client    []string // what the client is called, if that is known
	PartyKind string   // customer or vendor, by the place where a list of parties was brought
	// Balance returns what an old account of a crosswalk had, debit positive, if that is known.
	Balance func(number, name string) (money.Amount, bool)
}

// sampleSize is how many records are looked at to find the header.
const sampleSize = 60

// evidenceEnough is after how many unambiguous amounts the decimal mark is settled.
const evidenceEnough = 2000

// reader reads one list. Its state is kept by phase: the layout says where what stands,
// the dialect how figures and days are written, and the body what came of the records
// so far. Each is settled before the next begins; the body is begun anew where a sign
// has to be tried out.
type reader struct {
	as  As
	opt Options
	out Reading

	layout
	dialect
	body bodyState

	perCode map[string]int
	quiet   bool
	changed []change // what cleaning changed in the record at hand
	cleaned []Cell
}

// layout says where what stands in a list: the titles, the meaning of each column, and
// what lines above and marks on the records say of the whole.
type layout struct {
	cols      []Column
	at        []meant // where each meaning stands
	cards     bool    // what was paid from is a card
	cCurrency int     // the column that says the currency of a row, -1: none
	outline   bool    // numbers are an outline's: 1, 1.1, 1.1.1

	cNum, cName, cBoth, cKind, cParent, cDeb, cCre, cAmt, cSide, cOut, cStatus int
	two                                                                        bool // debit and credit columns
	money                                                                      []int
	list                                                                       *listSpec    // set for lists other than charts and trial balances
	items                                                                      []PayCell    // of a wide register, by column
	blocks                                                                     []payBlock   // of a register by item
	whoHead                                                                    map[int]bool // rows that name an employee for the rows below
	jobOf                                                                      map[int]int  // headings within another heading, and which
	earns                                                                      bool         // a list of items names earnings, so that its gross adds them up
	carryWho                                                                   bool         // rows without a name are of the employee above

	headRec, headFrom int
	headText          string
	headCells         int   // cells of the row of titles
	lastRec           int   // the last filled record, where no column tells rows apart
	ids               []int // columns that tell rows apart, filled in most of them
	titles            []string
	listKind          string   // of a list of parties: customer or vendor
	headLines         []string // the lines above the titles, as they stand
	profiled          profiled // the profiles of the sample that was looked at last
	formTitles        []string // as they stand, of a list of form figures
	other             string   // another table on the page, once it began
	periodEnd         string   // of a statement, as its title says it
	firstCols         []Column // of the first list on the page, once another began
	pieces            pieces   // amounts that their own thousands commas cut
	full              bool     // rows of the file have a cell for each title
	ladder            []int    // columns that hold names, one a level
	said              says
	sideFound         int // the column, from 1, that was found to hold sides by what stands in it
	hiddenCols        map[int]bool
	ignored           []int           // columns that no rule reads, from 0
	checked           map[int]string  // columns that are only a check, by column from 1: what they were held against
	unused            map[int]int     // filled cells of columns that are not used, by column from 1
	signsTaken        map[int]int     // amounts with a currency sign, by column from 1
	formulaTexts      map[int]int     // texts written as formulas, by column from 1
	noValue           map[[2]int]bool // formulas without a stored value, by record and column
}

// dialect says how a list writes its figures and days.
type dialect struct {
	dec       byte
	sign      string
	thousands bool // a thousands sign was seen
	serials   bool // days are the day numbers of a workbook
}

func itoa(i int) string { return strconv.Itoa(i) }

// Read reads a list. It fails only if the source fails; what is wrong with the
// content is said in the findings.
func Read(src Source, opt Options) (*Reading, error) {
	r := &reader{as: opt.As, opt: opt, perCode: map[string]int{}, layout: layout{list: lists[opt.As], noValue: map[[2]int]bool{}, hiddenCols: map[int]bool{}, checked: map[int]string{}}, dialect: dialect{dec: '.'}}
	src = r.cleaning(src)
	if r.opt.Keep == 0 {
		r.opt.Keep = 500
	}
	r.out = Reading{As: opt.As, Columns: []Column{}, Questions: []Question{}, Rows: []Row{}, SetAside: []Aside{}, Findings: []Finding{}, Classes: map[string]int{}}
	sample, err := r.sample(src)
	if err != nil {
		return nil, err
	}
	if len(sample) == 0 {
		r.note("empty", RefuseFile, nil, 0, "the file has no records; check that the right file was exported")
		r.finish()
		return &r.out, nil
	}
	if sample, err = r.farHead(src, sample); err != nil {
		return nil, err
	}
	r.heads(sample)
	if !r.as.Payroll() && r.as != AsForms {
		r.guessColumns(sample)
	}
	r.listColumns()
	if r.as.Payroll() {
		r.registerGuess(sample)
		r.registerColumns(sample)
	}
	if r.as == AsForms {
		r.formColumns(sample)
	}
	r.override()
	r.numName(sample)
	r.findOutline(sample)
	r.currencyColumn()
	r.cardColumn()
	r.findSide(sample)
	r.askUntitled(sample)
	r.title(sample)
	if r.as.Payroll() {
		r.registerTitle(sample)
		r.tellRegister(sample)
	}
	r.findIDs(sample)
	if r.list != nil && !r.listUsable(sample) || r.list == nil && !r.usable() {
		r.finish()
		// Still classify, so that the grid can be shown.
		return &r.out, r.classifyOnly(src)
	}
	r.agingSummary()
	if len(r.ids) == 0 && len(r.money) > 0 {
		if err := src(func(rec *Record) bool {
			if filled(rec) > 0 {
				r.lastRec = rec.No
			}
			return true
		}); err != nil {
			return nil, err
		}
	}
	if err := r.findPieces(src); err != nil {
		return nil, err
	}
	src = r.joining(src)
	if err := r.evidence(src); err != nil {
		return nil, err
	}
	if r.list != nil {
		if err := r.dayOrder(src); err != nil {
			return nil, err
		}
		if err := r.decideListSign(src); err != nil {
			return nil, err
		}
	} else if err := r.decideSign(src); err != nil {
		return nil, err
	}
	if r.as.Payroll() && r.col(ItemCol) < 0 {
		r.offsets(sample)
		r.tellParts()
	}
	r.findIgnored()
	r.start(false)
	if err := src(func(rec *Record) bool { r.record(rec); return true }); err != nil {
		return nil, err
	}
	r.check()
	r.tellCounts()
	r.tellColumns()
	r.finish()
	return &r.out, nil
}

func (r *reader) finish() {
	r.out.Columns = r.cols
	if r.firstCols != nil {
		r.out.Columns = r.firstCols
	}
	if r.out.Columns == nil {
		r.out.Columns = []Column{}
	}
	if st := r.out.Statement; st != nil {
		st.To = max(st.To, r.periodEnd) // nothing moved in its last days
	}
	r.out.HeaderRow = r.headRec
	r.out.DecimalMark = string(r.dec)
	r.out.Sign = r.sign
	t := &r.out.Totals
	t.Records = t.Rows + t.SetAside + t.Refused + t.Blank
	t.Difference = t.Debit - t.Credit
	t.ColumnDebit, t.ColumnCredit = t.Debit, t.Credit
	if r.two {
		t.ColumnDebit, t.ColumnCredit = r.body.colD, r.body.colC
	}
}

func (r *reader) classifyOnly(src Source) error {
	n := 0
	err := src(func(rec *Record) bool {
		n++
		if filled(rec) == 0 {
			r.out.Totals.Blank++
			r.class(rec, ClassBlank)
			return true
		}
		r.out.Totals.Refused++
		r.class(rec, ClassRefused)
		return true
	})
	r.out.Totals.Records = n
	return err
}

func (r *reader) class(rec *Record, c string) {
	if r.opt.Class != nil {
		r.opt.Class(rec.No, c)
	}
}

// sample copies the first records with something in them.
func (r *reader) sample(src Source) ([]*Record, error) {
	var out []*Record
	n := 0
	err := src(func(rec *Record) bool {
		n++
		if filled(rec) > 0 {
			c := *rec
			c.Cells = append([]Cell(nil), rec.Cells...)
			for k := range c.Cells {
				c.Cells[k] = r.fixed(rec, k, c.Cells[k])
			}
			out = append(out, &c)
		}
		return len(out) < sampleSize && n < 5000 || r.opt.Settings.HeaderRow >= n
	})
	return out, err
}
