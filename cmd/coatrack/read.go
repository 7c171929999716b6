package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"text/tabwriter"

	"coatrack/internal/core/table"
	"coatrack/internal/files"

	"github.com/spf13/cobra"
)

func readCmd() *cobra.Command {
	var as, sheet, name string
	var sets []string
	var asJSON bool
	var guess *table.Guess
	var unsure string
	c := &cobra.Command{
		Use:   "read --as auto|" + kinds("|") + " [flags] FILE",
		Short: "Read a file the way the sheet does, without a database (docs/read.md)",
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) != 1 {
				return exitError{2, fmt.Errorf("read takes exactly one file")}
			}
			if as != "auto" && !table.As(as).Known() {
				return exitError{2, fmt.Errorf("--as must be auto or one of %s, not %q", kinds(", "), as)}
			}
			set, err := parseSettings(sets)
			if err != nil {
				return exitError{2, err}
			}
			if sheet != "" {
				set.Sheet = sheet
			}
			data, err := readLimited(args[0])
			if err != nil {
				return exitError{2, err}
			}
			if name == "" {
				name = filepath.Base(args[0])
			}
			if as == "auto" {
				f, err := files.Open(name, data, set, files.DefaultLimits)
				if err != nil {
					return exitError{1, err}
				}
				gs, sheet, err := f.Recognize("", table.Options{Settings: set})
				f.Close()
				if err != nil {
					return exitError{1, err}
				}
				if len(gs) == 0 {
					return exitError{1, fmt.Errorf("%s holds nothing that could be recognized", name)}
				}
				as, guess = string(gs[0].As), &gs[0]
				if set.Sheet == "" && sheet != "" {
					set.Sheet = sheet
				}
				if !table.Sure(gs) {
					unsure = fmt.Sprintf("it may also be %s (%s); say which with --as", gs[1].As.Words(), gs[1].Why)
				}
			}
			out, err := files.Read(name, data, table.Options{As: table.As(as), Settings: set}, files.DefaultLimits)
			if err != nil {
				return exitError{1, err}
			}
			if out.Recognized = guess; unsure != "" {
				out.Questions = append(out.Questions, table.Question{Key: "as", Why: unsure, Choices: []table.Choice{}})
			}
			if asJSON {
				enc := json.NewEncoder(cmd.OutOrStdout())
				enc.SetEscapeHTML(false)
				enc.SetIndent("", " ")
				if err := enc.Encode(out); err != nil {
					return err
				}
			} else {
				printReading(cmd.OutOrStdout(), out)
			}
			if out.Refused() {
				return exitError{1, nil}
			}
			return nil
		},
	}
	c.Flags().StringVar(&as, "as", "", "what the file is: auto (told by the file), "+kinds(", "))
	c.Flags().StringVar(&sheet, "sheet", "", "sheet of a workbook")
	c.Flags().StringVar(&name, "name", "", "the name it was uploaded under, for messages")
	c.Flags().StringArrayVar(&sets, "set", nil, "a setting, key=value (docs/read.md); may be repeated")
	c.Flags().BoolVar(&asJSON, "json", false, "print JSON instead of a table")
	return c
}

// kinds names what a file can be read as.
func kinds(sep string) string {
	var out []string
	for _, a := range table.All {
		out = append(out, string(a))
	}
	return strings.Join(out, sep)
}

// readLimited reads a file no larger than the limit allows.
func readLimited(path string) ([]byte, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, files.DefaultLimits.Bytes+1))
}

// parseSettings reads key=value pairs as docs/read.md lists them.
func parseSettings(pairs []string) (table.Settings, error) {
	var set table.Settings
	for _, p := range pairs {
		k, v, ok := strings.Cut(p, "=")
		if !ok {
			return set, fmt.Errorf("--set %s: write key=value", p)
		}
		if err := set.Put(k, v); err != nil {
			return set, err
		}
	}
	return set, nil
}

func printReading(w io.Writer, r *table.Reading) {
	fmt.Fprintf(w, "%s: %s", r.Name, r.Format)
	for _, s := range []string{r.Sheet, r.Encoding} {
		if s != "" {
			fmt.Fprintf(w, ", %s", s)
		}
	}
	fmt.Fprintf(w, "\ndelimiter %q, header row %d, decimal mark %q, sign %s\n", r.Delimiter, r.HeaderRow, r.DecimalMark, r.Sign)
	if r.Recognized != nil {
		fmt.Fprintf(w, "recognized as %s: %s\n", r.As.Words(), r.Recognized.Why)
	}
	if r.Title.Company != "" || r.Title.Day != "" {
		fmt.Fprintf(w, "title: %s, %s\n", r.Title.Company, r.Title.Day)
	}
	for _, c := range r.Columns {
		fmt.Fprintf(w, "  column %s  %-20s %s\n", table.ColumnLetters(c.Index), c.Title, c.Meaning)
	}
	tw := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	listed := r.As != table.AsChart && r.As != table.AsTrialBalance
	switch {
	case r.As.Payroll():
		fmt.Fprintln(tw, "row\temployee\tgroup\tsection\titem\tamount\tyear to date")
	case listed:
		fmt.Fprintln(tw, "row\tnumber\tname\tdocument\tdate\tdue\tdebit\tcredit\tto")
	default:
		fmt.Fprintln(tw, "row\tnumber\tname\tkind\tdebit\tcredit")
	}
	for _, row := range r.Rows {
		if row.Detail != nil && row.Pay != nil {
			for _, c := range row.Pay.Cells {
				toDate := ""
				if c.ToDate != nil {
					toDate = c.ToDate.String()
				}
				fmt.Fprintf(tw, "%d\t%s\t%s\t%s\t%s\t%s\t%s\n", row.Record, strings.TrimSpace(row.Pay.EmployeeID+" "+row.Pay.Employee), row.Pay.Group, c.Category, strings.TrimSpace(c.Code+" "+c.Item), c.Amount, toDate)
			}
			continue
		}
		d, c := "", ""
		if row.Amount >= 0 {
			d = row.Amount.Plain()
		} else {
			c = (-row.Amount).Plain()
		}
		if row.Detail != nil {
			fmt.Fprintf(tw, "%d\t%s\t%s\t%s\t%s\t%s\t%s\t%s\t%s\n", row.Record, row.Number, row.Name, row.Doc, row.Date, row.Due, d, c, strings.TrimSpace(row.ToNumber+" "+row.ToName))
			continue
		}
		fmt.Fprintf(tw, "%d\t%s\t%s\t%s\t%s\t%s\n", row.Record, row.Number, row.Name, row.Kind, d, c)
	}
	tw.Flush()
	for _, q := range r.Questions {
		fmt.Fprintf(w, "question %s: %s\n", q.Key, q.Why)
		for _, c := range q.Choices {
			fmt.Fprintf(w, "  --set %s=%s  %s\n", q.Key, c.Value, c.Words)
		}
	}
	for _, f := range r.Findings {
		where := ""
		if f.Record > 0 {
			where = "row " + strconv.Itoa(f.Record) + " "
		}
		fmt.Fprintf(w, "%s: %s%s (%s)\n", f.Severity, where, f.Message, f.Code)
	}
	t := r.Totals
	if r.As.Payroll() {
		if f := r.Run; f != nil {
			fmt.Fprintf(w, "run: %s for %s, period %s to %s, paid %s, %s, %d people, run id %q\n", f.Provider, f.Company, f.From, f.To, f.Check, f.Shape, f.People, f.RunID)
		}
		fmt.Fprintf(w, "%d records: %d rows, %d set aside, %d refused, %d blank\n", t.Records, t.Rows, t.SetAside, t.Refused, t.Blank)
		return
	}
	fmt.Fprintf(w, "%d records: %d rows, %d set aside, %d refused, %d blank; debit %s, credit %s, difference %s\n", t.Records, t.Rows, t.SetAside, t.Refused, t.Blank, t.Debit.Plain(), t.Credit.Plain(), t.Difference.Words())
}
