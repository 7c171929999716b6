package parties

import (
	"fmt"
	"strings"

	"coatrack/internal/core/chart"
	"coatrack/internal/core/mapping"
	"coatrack/internal/store"
)

// AccountFinder finds the chart's account that a file names.
type AccountFinder struct {
	byNo   map[string]chart.Account
	byName map[string]chart.Account
}

func FindAccounts(as []chart.Account) AccountFinder {
	f := AccountFinder{map[string]chart.Account{}, map[string]chart.Account{}}
	for _, a := range as {
		if !a.Active {
			continue
		}
		if a.Number != "" {
			f.byNo[strings.ToLower(a.Number)] = a
		}
		k := mapping.Fold(a.Name)
		if _, twice := f.byName[k]; twice {
			f.byName[k] = chart.Account{} // two of that name: neither is meant beyond doubt
		} else {
			f.byName[k] = a
		}
	}
	return f
}

func (f AccountFinder) Find(number, name string) chart.Account {
	if a, ok := f.byNo[strings.ToLower(number)]; number != "" && ok {
		return a
	}
	if number == "" && name != "" {
		return f.byName[mapping.Fold(name)]
	}
	return chart.Account{}
}

// AccountKey names a charged account: the chart's own where the file means one.
func AccountKey(a chart.Account) string { return fmt.Sprint("account:", a.ID) }

func (f AccountFinder) Label(number, name, parent string) store.Label {
	if a := f.Find(number, name); a.ID != 0 {
		return store.Label{Key: AccountKey(a), Number: a.Number, Name: a.Name}
	}
	switch {
	case number != "":
		return store.Label{Key: "no:" + strings.ToLower(number), Number: number, Name: name, Section: parent}
	case name != "":
		return store.Label{Key: "name:" + strings.ToLower(parent+":"+name), Name: name, Section: parent}
	}
	return store.Label{Key: "none", Name: "no account named"}
}

func OneAddress(street, city, state, zip string) string {
	var parts []string
	for _, s := range []string{street, city, strings.TrimSpace(state + " " + zip)} {
		if s != "" {
			parts = append(parts, s)
		}
	}
	return strings.Join(parts, ", ")
}
