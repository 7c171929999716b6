package files

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strings"

	"coatrack/internal/core/table"
)

// The XML formats that are read (OFX 2.x, ISO 20022 camt.053, OECD SAF-T) and
// OFX 1.x become plain records with a row of column titles, so that they lie on
// the same sheet as any other list and are read by the same rules. Namespaces
// and prefixes are taken as they come: only local names count. Documents that
// declare entities are refused.

// sheetOf is one list of such a file.
type sheetOf struct {
	name string
	rows [][]string
}

// openSheets makes a file of lists that are already apart.
func openSheets(name, format string, sheets []sheetOf, lim Limits) (*File, error) {
	f := &File{Name: name, Format: format, Close: func() {}}
	cells := 0
	for _, s := range sheets {
		f.Sheets = append(f.Sheets, Sheet{Name: s.name})
		for _, r := range s.rows {
			cells += len(r)
		}
	}
	if cells > lim.Cells {
		return nil, refuse("too-many-cells", "%s has more than %d values; split it", name, lim.Cells)
	}
	f.records = func(sheet string) (table.Source, error) {
		for i, s := range sheets {
			if s.name == sheet || sheet == "" && i == 0 {
				return func(yield func(*table.Record) bool) error {
					rec := &table.Record{}
					for k, row := range s.rows {
						rec.No, rec.Line = k+1, k+1
						rec.Cells = rec.Cells[:0]
						for _, c := range row {
							rec.Cells = append(rec.Cells, table.Cell{Text: c})
						}
						if !yield(rec) {
							return nil
						}
					}
					return nil
				}, nil
			}
		}
		return nil, refuse("no-sheet", "%s has no list %q", name, sheet)
	}
	return f, nil
}

// node is an element of an XML document: its local name, attributes, own text
// and children.
type node struct {
	name string
	attr map[string]string
	text string
	kids []*node
}

func (n *node) first(path ...string) *node {
	at := n
	for _, p := range path {
		if at == nil {
			return nil
		}
		var next *node
		for _, k := range at.kids {
			if k.name == p {
				next = k
				break
			}
		}
		at = next
	}
	return at
}

func (n *node) all(name string) (out []*node) {
	if n == nil {
		return nil
	}
	for _, k := range n.kids {
		if k.name == name {
			out = append(out, k)
		}
	}
	return out
}

func (n *node) say(path ...string) string {
	if x := n.first(path...); x != nil {
		return strings.Join(strings.Fields(x.text), " ")
	}
	return ""
}

// deep returns the texts of all elements of a name below n.
func (n *node) deep(name string) (out []string) {
	if n == nil {
		return nil
	}
	for _, k := range n.kids {
		if k.name == name {
			if t := strings.Join(strings.Fields(k.text), " "); t != "" {
				out = append(out, t)
			}
		}
		out = append(out, k.deep(name)...)
	}
	return out
}

var errEntities = errors.New("entities")

// parseXML reads a document into nodes; skip names elements that are passed over.
func parseXML(data []byte, skip map[string]bool) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(data))
	d.CharsetReader = charsetReader
	root := &node{}
	stack := []*node{root}
	for {
		tok, err := d.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		top := stack[len(stack)-1]
		switch t := tok.(type) {
		case xml.Directive:
			if bytes.Contains(bytes.ToUpper(t), []byte("DOCTYPE")) || bytes.Contains(bytes.ToUpper(t), []byte("ENTITY")) {
				return nil, errEntities
			}
		case xml.StartElement:
			if skip[t.Name.Local] {
				if err := d.Skip(); err != nil {
					return nil, err
				}
				continue
			}
			if len(stack) > 100 {
				return nil, errors.New("elements are nested too deeply")
			}
			n := &node{name: t.Name.Local}
			for _, a := range t.Attr {
				if n.attr == nil {
					n.attr = map[string]string{}
				}
				n.attr[a.Name.Local] = a.Value
			}
			top.kids = append(top.kids, n)
			stack = append(stack, n)
		case xml.EndElement:
			stack = stack[:len(stack)-1]
		case xml.CharData:
			if len(stack) > 1 {
				top.text += string(t)
			}
		}
	}
	if len(root.kids) == 0 {
		return nil, errors.New("there is no element in it")
	}
	return root.kids[0], nil
}

// openXML recognises which of the known documents an XML file is.
func openXML(name string, data []byte, lim Limits) (*File, error) {
	// A general ledger can be long; what is not a list that we read is skipped.
	root, err := parseXML(data, map[string]bool{"GeneralLedgerEntries": true, "SourceDocuments": true})
	switch {
	case errors.Is(err, errEntities):
		return nil, refuse("entities", "%s declares its own entities; such documents are not read", name)
	case err != nil:
		return nil, refuse("damaged", "%s is a damaged XML file (%v); export it again", name, err)
	}
	switch {
	case root.name == "AuditFile":
		return openSheets(name, "saf-t", saftSheets(root), lim)
	case root.first("BkToCstmrStmt") != nil:
		return openSheets(name, "camt.053", camtSheets(root.first("BkToCstmrStmt")), lim)
	case root.name == "OFX":
		return openSheets(name, "ofx", ofxSheets(root), lim)
	}
	return nil, refuse("not-a-table", "%s is an XML file of a kind that is not read here (its first element is %s); bring OECD SAF-T, camt.053, OFX, CSV or XLSX", name, root.name)
}
