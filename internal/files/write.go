package files

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Out is a table that leaves: its titles, which columns hold amounts, and its rows
// one after the other, so that long ones stream.
type Out struct {
	Name   string
	Titles []string
	Money  map[int]bool // columns, from 0, that hold decimal amounts
	Each   func(yield func(row []string) error) error
}

// Neutral keeps a spreadsheet from taking text for a formula: text that begins
// with = + - @ or a control character gets an apostrophe before it.
func Neutral(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// WriteCSV writes a table as CSV in UTF-8.
func WriteCSV(w io.Writer, t Out) error {
	c := csv.NewWriter(w)
	if err := c.Write(t.Titles); err != nil {
		return err
	}
	row := make([]string, len(t.Titles))
	err := t.Each(func(r []string) error {
		for i, v := range r {
			if !t.Money[i] {
				v = Neutral(v)
			}
			row[i] = v
		}
		return c.Write(row[:len(r)])
	})
	if err != nil {
		return err
	}
	c.Flush()
	return c.Error()
}

// WriteXLSX writes a table as a workbook of one sheet: amounts as numbers, all
// else as text, which no spreadsheet takes for a formula.
func WriteXLSX(w io.Writer, t Out) error {
	x := excelize.NewFile()
	defer x.Close()
	name := t.Name
	if len(name) > 31 {
		name = name[:31]
	}
	if err := x.SetSheetName("Sheet1", name); err != nil {
		return err
	}
	format := "#,##0.00"
	money, err := x.NewStyle(&excelize.Style{CustomNumFmt: &format})
	if err != nil {
		return err
	}
	bold, err := x.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	s, err := x.NewStreamWriter(name)
	if err != nil {
		return err
	}
	cells := make([]any, len(t.Titles))
	for i, v := range t.Titles {
		cells[i] = excelize.Cell{Value: v, StyleID: bold}
	}
	if err := s.SetRow("A1", cells); err != nil {
		return err
	}
	n := 1
	err = t.Each(func(r []string) error {
		n++
		if n > 1_048_576 {
			return fmt.Errorf("a workbook holds 1,048,576 rows; take the CSV")
		}
		for i, v := range r {
			if t.Money[i] && v != "" {
				f, err := strconv.ParseFloat(v, 64)
				if err != nil {
					return err
				}
				cells[i] = excelize.Cell{Value: f, StyleID: money}
				continue
			}
			cells[i] = v
		}
		return s.SetRow("A"+strconv.Itoa(n), cells[:len(r)])
	})
	if err != nil {
		return err
	}
	if err := s.Flush(); err != nil {
		return err
	}
	_, err = x.WriteTo(w)
	return err
}
