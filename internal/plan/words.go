package plan

import (
	"errors"
	"fmt"
	"reflect"
	"regexp"
	"strings"

	"coatrack/internal/core/near"

	"gopkg.in/yaml.v3"
)

var noField = regexp.MustCompile(`field (\S+) not found in type plan\.(\w+)`)

// wordsOf are the words that each part of a plan knows.
var wordsOf = func() map[string][]string {
	out := map[string][]string{}
	for _, v := range []any{Plan{}, Act{}, Settle{}, Role{}, Balance{}, Choose{}, File{}, Account{}, Bind{}, Accept{}, Expect{}, PayRules{}, PayItem{}, PayBind{}, Draw{}, Box{}, PayeeWord{}, Fund{}, Adjust{}, Split{}, SplitPart{}, Reverse{}, ReverseGone{}, Mend{}, AcceptProof{}, UnclearedItem{}, Merge{}, BillWord{}, RunWord{}, Feed{}} {
		t := reflect.TypeOf(v)
		for i := range t.NumField() {
			if w, _, _ := strings.Cut(t.Field(i).Tag.Get("yaml"), ","); w != "" && w != "bring" && w != "take-in" {
				out[t.Name()] = append(out[t.Name()], w)
			}
		}
	}
	return out
}()

// meant says of each unknown word of a plan which known one is near it, and which there are.
func meant(err error) error {
	var of *yaml.TypeError
	if !errors.As(err, &of) {
		return err
	}
	var out []string
	for _, line := range of.Errors {
		out = append(out, noField.ReplaceAllStringFunc(line, func(m string) string {
			f := noField.FindStringSubmatch(m)
			what := "word of " + strings.ToLower(strings.TrimSuffix(f[2], "Word"))
			if f[2] == "Act" {
				what = "act"
			}
			return fmt.Sprintf("“%s” is no %s; %s", f[1], what, near.Instead(f[1], wordsOf[f[2]]))
		}))
	}
	return errors.New(strings.Join(out, "; "))
}
