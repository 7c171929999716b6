package payroll

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"coatrack/internal/app/act"
	"coatrack/internal/app/fold"
	"coatrack/internal/core/money"
	"coatrack/internal/core/payroll"
)

// FormPlace is a line of boxes 15 to 17 of Form W-2, or of boxes 18 to 20: a state or a
// locality with its wages and its tax.
type FormPlace struct {
	payroll.PlaceSum
	EmployerID string   `json:"employer_id" doc:"the employer's number with the state, for box 15"`
	People     int      `json:"people" doc:"employees who have such a line"`
	Items      []BoxFed `json:"items"`
}

// atLeast is how many people a total must hold to be shown to those who may not see pay.
const atLeast = 3

// formPlaces lays boxes 15 to 20 out for everybody, and per employee. Those who may not see
// pay get none of them where one would hold fewer than three people.
func formPlaces(t *act.Tx, out *PayForms, ps []payroll.Paying, name map[int64]string) (map[int64][]payroll.PlaceSum, error) {
	places := payroll.W2Places(ps)
	people := map[string]int{}
	undivided := 0
	key := func(s payroll.PlaceSum) string { return fmt.Sprint(s.Local, s.Place) }
	for who, lines := range places {
		apart := false
		for _, l := range lines {
			if who != 0 {
				people[key(l)]++
				apart = apart || !l.Divided
			}
		}
		undivided += act.CountIf(apart)
	}
	out.Places = []FormPlace{}
	if !out.SeesPay && slices.ContainsFunc(out.W2, func(b FormBox) bool { return b.Hidden && (b.Box == "16" || b.Box == "18") }) {
		out.Notes = append(out.Notes, "boxes 15 to 20 are hidden: their sums would tell what boxes hide")
		return nil, nil
	}
	for _, l := range places[0] {
		n := people[key(l)]
		if !out.SeesPay && n < atLeast {
			out.Places = []FormPlace{}
			out.Notes = append(out.Notes, "boxes 15 to 20 are hidden: a place has fewer than three people")
			return nil, nil
		}
		x := FormPlace{PlaceSum: l, People: n, Items: []BoxFed{}}
		for _, f := range l.Fed {
			if f.Amount != 0 {
				x.Items = append(x.Items, BoxFed{f.ItemID, name[f.ItemID], f.Fraction, f.Amount})
			}
		}
		x.Fed = []payroll.Fed{}
		if !l.Local && l.Place != "" {
			var err error
			if x.EmployerID, err = t.Choice("state-id:" + l.Place); err != nil {
				return nil, err
			}
		}
		out.Places = append(out.Places, x)
	}
	if slices.ContainsFunc(places[0], func(l payroll.PlaceSum) bool { return l.Assumed }) {
		out.Notes = append(out.Notes, "Box 18 has the state's wages for employees whose local wages no item says. A locality may tax other wages: set box 18, with the locality, on the items that it taxes.")
	}
	if undivided > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("wages of %d %s taxed in several places are not divided in boxes 16 or 18: say on the items which pay is of which place, or divide them by hand", undivided, act.Plural(undivided, "employee", "employees")))
	}
	if !out.SeesPay {
		return nil, nil
	}
	return places, nil
}

// SetStateID keeps the employer's number with a state, for box 15 of Form W-2; empty takes it
// away.
func (a Acts) SetStateID(ctx context.Context, who act.Who, ledgerID int64, state, number string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if _, err := t.Lock(); err != nil {
			return err
		}
		code := payroll.StateCode(state)
		if code == "" {
			return act.Fail(act.Invalid, "no-such-state", "%q is no state; write its postal code or its name", state)
		}
		number = strings.TrimSpace(number)
		if len(number) > 20 || strings.ContainsFunc(number, func(r rune) bool { return r > unicode.MaxASCII || !unicode.IsPrint(r) }) {
			return act.Fail(act.Invalid, "bad-state-id", "the number for %s has %d characters; box 15 takes up to 20 letters, digits and marks", code, len([]rune(number)))
		}
		was, err := t.Choice("state-id:" + code)
		if err != nil {
			return err
		}
		if err := t.Choose("state-id:"+code, number, who.Person.ID, t.Now); err != nil {
			return err
		}
		return t.Log("employer's state number", "client", t.Ledger, map[string]string{"state": code, "number": was}, map[string]string{"state": code, "number": number})
	})
}

// readPlace is the place of a pay item as a person says it: nil is as its name says, empty is
// none.
func readPlace(said string, feeds []payroll.Feed) (*string, error) {
	said = strings.TrimSpace(said)
	switch strings.ToLower(said) {
	case "":
		return nil, nil
	case "none":
		return new(string), nil
	}
	local := false
	for _, f := range feeds {
		local = local || f.Form == "w2" && (f.Box == "18" || f.Box == "19")
	}
	if local {
		if len([]rune(said)) > 20 {
			return nil, act.Fail(act.Invalid, "bad-place", "%q has more than 20 characters, which box 20 does not take", said)
		}
		return &said, nil
	}
	code := payroll.StateCode(said)
	if code == "" {
		return nil, act.Fail(act.Invalid, "no-such-state", "%q is no state; write its postal code or its name, or none", said)
	}
	return &code, nil
}

// place is the state or locality that an item is of.
func placeOf(p fold.PayItemRow, feeds []payroll.Feed) string {
	if p.Place != nil {
		return *p.Place
	}
	return payroll.PlaceOf(p.Name, feeds)
}

// personPlaces are an employee's lines of boxes 15 to 20 as they are shown.
func personPlaces(lines []payroll.PlaceSum) []PersonPlace {
	out := []PersonPlace{}
	for _, l := range lines {
		out = append(out, PersonPlace{l.Local, l.Place, l.Wages, l.Tax, l.Divided})
	}
	return out
}

// PersonPlace is an employee's line of boxes 15 to 17, or of 18 to 20.
type PersonPlace struct {
	Local   bool         `json:"local"`
	Place   string       `json:"place"`
	Wages   money.Amount `json:"wages"`
	Tax     money.Amount `json:"tax"`
	Divided bool         `json:"divided"`
}
