package act

import (
	"encoding/json"
	"strconv"
	"strings"
	"unicode"
)

func CountIf(b bool) int {
	if b {
		return 1
	}
	return 0
}

func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

func Deref(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}

func OrEmpty(s []string) []string {
	if s == nil {
		return []string{}
	}
	return s
}

func Itoa(i int) string { return strconv.Itoa(i) }

func Cols(at ...int) map[int]bool {
	m := map[int]bool{}
	for _, i := range at {
		m[i] = true
	}
	return m
}

func MustJSON(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return b
}

func DerefID(p *int64) int64 {
	if p == nil {
		return 0
	}
	return *p
}

func Initials(name string) string {
	var b strings.Builder
	for _, w := range strings.Fields(name) {
		for _, r := range w {
			if unicode.IsLetter(r) {
				b.WriteRune(unicode.ToUpper(r))
				break
			}
		}
		if b.Len() >= 2 {
			break
		}
	}
	return b.String()
}
