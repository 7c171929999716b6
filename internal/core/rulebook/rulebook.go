// Package rulebook holds what public authorities say, by tax year, as data: a
// later year is a new file, not a new program. Every figure carries its source,
// the day it was read and a mark: "sure" is known well, "check" is to be compared
// with the printed form before it is relied on.
//
// For 2026 the social security base is 184,500.00, so an employee paid 185,000.00
// by year end has 184,500.00 in box 3, and the tax on it is 11,439.00 on each side.
package rulebook

import (
	"embed"
	"encoding/json"
	"fmt"
	"math/big"
	"sort"
	"strconv"
	"strings"

	"coatrack/internal/core/money"
)

//go:embed data/*.json
var data embed.FS

// Figure is a rate or an amount with where it comes from.
type Figure struct {
	Value  string `json:"value"`
	Source string `json:"source"`
	Read   string `json:"read"` // ISO date
	Mark   string `json:"mark"` // sure or check
}

// Box is a box or a line of a form.
type Box struct {
	Box     string `json:"box"`
	Caption string `json:"caption"`
	Source  string `json:"source"`
	Mark    string `json:"mark"`
}

// Year is what the book has for a tax year.
type Year struct {
	Year    int                 `json:"year"`
	Payroll map[string]Figure   `json:"payroll"`
	Forms   map[string][]Box    `json:"forms"`
	Due     map[string][]string `json:"due"` // ISO dates
	Returns Returns             `json:"returns"`
}

var years = func() map[int]Year {
	out := map[int]Year{}
	fs, err := data.ReadDir("data")
	if err != nil {
		panic(err)
	}
	for _, f := range fs {
		raw, err := data.ReadFile("data/" + f.Name())
		if err != nil {
			panic(err)
		}
		var y Year
		if err := json.Unmarshal(raw, &y); err != nil {
			panic(fmt.Errorf("%s: %w", f.Name(), err))
		}
		if strconv.Itoa(y.Year)+".json" != f.Name() {
			panic(f.Name() + " is of another year")
		}
		out[y.Year] = y
	}
	return out
}()

// Of returns what the book has for a year; ok is false if it has nothing.
func Of(year int) (Year, bool) { y, ok := years[year]; return y, ok }

// Years lists the years that the book has something for.
func Years() []int {
	var out []int
	for y := range years {
		out = append(out, y)
	}
	sort.Ints(out)
	return out
}

// Rate is a share in millionths: 6.2 % is 62,000.
type Rate int64

// Of returns the share of an amount, rounded to the cent, halves away from zero.
func (r Rate) Of(a money.Amount) money.Amount {
	p := big.NewInt(0).Mul(big.NewInt(int64(a)), big.NewInt(int64(r)))
	half := big.NewInt(500_000)
	if p.Sign() < 0 {
		half.Neg(half)
	}
	return money.Amount(p.Add(p, half).Quo(p, big.NewInt(1_000_000)).Int64())
}

// Words writes the rate as a percentage: 6.2 %.
func (r Rate) Words() string {
	return strings.TrimRight(strings.TrimRight(fmt.Sprintf("%d.%04d", r/10_000, r%10_000), "0"), ".") + " %"
}

// Rate returns a rate of the year's payroll figures; ok is false if the book does
// not have it.
func (y Year) Rate(key string) (Rate, bool) {
	f, ok := y.Payroll[key]
	if !ok {
		return 0, false
	}
	x, ok := new(big.Rat).SetString(f.Value)
	if !ok {
		return 0, false
	}
	x.Mul(x, big.NewRat(1_000_000, 1))
	return Rate(new(big.Int).Quo(x.Num(), x.Denom()).Int64()), true
}

// Amount returns an amount of the year's payroll figures.
func (y Year) Amount(key string) (money.Amount, bool) {
	f, ok := y.Payroll[key]
	if !ok {
		return 0, false
	}
	a, _, err := money.Read(f.Value, '.')
	return a, err == nil
}

// Caption returns what a form calls a box.
func (y Year) Caption(form, box string) string {
	for _, b := range y.Forms[form] {
		if b.Box == box {
			return b.Caption
		}
	}
	return ""
}

// Has says whether a form of the year has a box.
func (y Year) Has(form, box string) bool { return y.Caption(form, box) != "" }

// BoxAs finds a line or box of a form as somebody wrote it, whatever its case and
// spaces ("12 d"); "" if the form has none such.
func (y Year) BoxAs(form, written string) string {
	plain := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), "")) }
	for _, b := range y.Forms[form] {
		if plain(b.Box) == plain(written) {
			return b.Box
		}
	}
	return ""
}
