package payroll

import "cmp"

// FewPeople is below how many people the pay of a group would disclose a person's.
const FewPeople = 3

// Owed stands for every section where its items are owed: deductions and taxes withheld, and
// what the employer adds. An account of one person's dues is shown in one that many share.
const Owed Section = "owed"

// PaidAt says that an employee's pay of a section was posted to an account.
type PaidAt struct {
	Section  Section
	Account  int64
	Employee int64
	Gone     bool // it was moved to another account since: the account holds none of it now
}

// Folding maps each account whose pay is that of few people to the account it is shown
// in, for those who may not see pay (handbook section 5).
type Folding map[int64]int64

// Fold folds the accounts of each section that hold the pay of few people into the one
// with most people; where all are of few, they stand together. Accounts that are folded
// together by one section or another are shown in the one of them with most people, which
// is never folded itself. Accounts that a list of joined names are shown together whoever is
// in them: those to which pay of few people was posted at one time or another, since moving it
// would tell it. The order of what is given does not matter.
func Fold(paid []PaidAt, joined ...[]int64) Folding {
	type place struct {
		section Section
		account int64
	}
	people := map[place]map[int64]bool{}
	whole := map[int64]map[int64]bool{} // by account
	for _, p := range paid {
		k := place{p.Section, p.Account}
		if people[k] == nil {
			people[k] = map[int64]bool{}
		}
		if whole[p.Account] == nil {
			whole[p.Account] = map[int64]bool{}
		}
		if !p.Gone {
			people[k][p.Employee], whole[p.Account][p.Employee] = true, true
		}
	}
	for _, as := range joined {
		for _, a := range as {
			if whole[a] == nil {
				whole[a] = map[int64]bool{}
			}
		}
	}
	order := sortedKeys(people, func(a, b place) int {
		return cmp.Or(cmp.Compare(a.account, b.account), cmp.Compare(a.section, b.section))
	})
	most := map[Section]int64{}
	for _, k := range order {
		if h := most[k.section]; h == 0 || len(people[k]) > len(people[place{k.section, h}]) {
			most[k.section] = k.account
		}
	}
	with := map[int64]int64{} // account → another of those it is shown with
	var root func(a int64) int64
	root = func(a int64) int64 {
		if b, ok := with[a]; ok {
			return root(b)
		}
		return a
	}
	for _, k := range order {
		// Where nothing is left of it the account shows nothing of anybody.
		if a, b := root(k.account), root(most[k.section]); len(people[k]) > 0 && len(people[k]) < FewPeople && a != b {
			with[a] = b
		}
	}
	for _, as := range joined {
		for i := 1; i < len(as); i++ {
			if a, b := root(as[i]), root(as[0]); a != b {
				with[a] = b
			}
		}
	}
	host := map[int64]int64{} // root → the account with most people
	accounts := sortedKeys(whole, func(a, b int64) int { return cmp.Compare(a, b) })
	for _, a := range accounts {
		if h, ok := host[root(a)]; !ok || len(whole[a]) > len(whole[h]) {
			host[root(a)] = a
		}
	}
	out := Folding{}
	for _, a := range accounts {
		if h := host[root(a)]; h != a {
			out[a] = h
		}
	}
	return out
}

// Hosts says whether other accounts are folded into this one.
func (f Folding) Hosts(account int64) bool {
	for _, h := range f {
		if h == account {
			return true
		}
	}
	return false
}

// Private says whether an account, or what is folded into it, would disclose pay.
func (f Folding) Private(account int64) bool {
	_, folded := f[account]
	return folded || f.Hosts(account)
}
