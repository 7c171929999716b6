package payroll

import "strings"

// MaxSource is the longest name of a source, in letters.
const MaxSource = 80

// Known is a run that is here: the source that it came under, and the provider that its
// register named, "" if none.
type Known struct{ Source, Provider string }

// SourceOf says which source a payroll file comes from that names a provider: the one
// whose runs name it too, the latest first; where runs of the usual source name only
// somebody else, it is another provider's and a source of its own; else the usual one.
// Under a wrong source all items would be new, and a correction one more run.
func SourceOf(provider, usual string, latestFirst []Known) string {
	named := oneSpaced(provider)
	if named == "" {
		return usual
	}
	others := false
	for _, k := range latestFirst {
		if strings.EqualFold(oneSpaced(k.Provider), named) {
			return k.Source
		}
		others = others || k.Source == usual && k.Provider != ""
	}
	if r := []rune(named); others {
		return string(r[:min(MaxSource, len(r))])
	}
	return usual
}

func oneSpaced(s string) string { return strings.Join(strings.Fields(s), " ") }
