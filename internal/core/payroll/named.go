package payroll

import (
	"fmt"
	"strings"
)

// Named finds employees by the number or name under which a paper has them.
type Named map[string][]int64

// Add makes an employee known.
func (n Named) Add(id int64, number, name string) {
	for _, k := range [...]string{numberKey(number), nameKey(name)} {
		if k != "" {
			n[k] = append(n[k], id)
		}
	}
}

// numberKey and nameKey keep numbers and names apart; leading zeros and the order of
// first and last name do not matter.
func numberKey(s string) string {
	s = strings.TrimLeft(strings.ToLower(strings.TrimSpace(s)), "0")
	if s == "" {
		return ""
	}
	return "number " + s
}

func nameKey(s string) string {
	if s = PersonKey(s); s == "" {
		return ""
	}
	return "name " + s
}

// Find returns the employee of a number, else of a name; 0 where neither is said. words
// say why nobody, or more than one, was found. A number goes before a name, and must not
// contradict it.
func (n Named) Find(number, name string) (id int64, words string) {
	by := func(key, said string) (int64, string) {
		switch ids := n[key]; len(ids) {
		case 0:
			return 0, fmt.Sprintf("no run has an employee “%s”", said)
		case 1:
			return ids[0], ""
		default:
			return 0, fmt.Sprintf("“%s” is the name of %d employees; give the number", said, len(ids))
		}
	}
	k, l := numberKey(number), nameKey(name)
	if k == "" && l == "" {
		return 0, ""
	}
	if k == "" {
		return by(l, name)
	}
	id, words = by(k, number)
	if words != "" || l == "" {
		return id, words
	}
	for _, other := range n[l] {
		if other == id {
			return id, ""
		}
	}
	if len(n[l]) > 0 {
		return 0, fmt.Sprintf("number %s and the name “%s” are two employees", strings.TrimSpace(number), name)
	}
	return id, ""
}
