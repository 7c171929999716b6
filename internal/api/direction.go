package api

import (
	"fmt"
	"net/url"
	"reflect"
	"strings"
)

// turns says whether a character turns the direction of writing: it cannot be seen, and what
// stands beside it, a figure say, then reads in another order than it is.
func turns(c rune) bool {
	return c == 0x061C || c == 0x200E || c == 0x200F || c >= 0x202A && c <= 0x202E || c >= 0x2066 && c <= 0x2069
}

// turned finds such a character in what a request says, with the name of its field.
func turned(v reflect.Value, field string) (string, rune) {
	switch v.Kind() {
	case reflect.String:
		if i := strings.IndexFunc(v.String(), turns); i >= 0 {
			for _, c := range v.String()[i:] {
				return field, c
			}
		}
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() {
			return turned(v.Elem(), field)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			f := v.Type().Field(i)
			if !f.IsExported() {
				continue
			}
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			if name == "" {
				name = field
			}
			if at, c := turned(v.Field(i), name); c != 0 {
				return at, c
			}
		}
	case reflect.Slice, reflect.Array:
		if k := v.Type().Elem().Kind(); k >= reflect.Bool && k <= reflect.Complex128 {
			return "", 0
		}
		for i := range v.Len() {
			if at, c := turned(v.Index(i), field); c != 0 {
				return at, c
			}
		}
	case reflect.Map:
		for it := v.MapRange(); it.Next(); {
			for _, x := range []reflect.Value{it.Key(), it.Value()} {
				if at, c := turned(x, field); c != 0 {
					return at, c
				}
			}
		}
	}
	return "", 0
}

// plainDirection refuses what was typed with a character that turns the direction of writing.
// Those in files are taken out, with a note, as the file is read.
func plainDirection(in any) *Problem {
	at, c := turned(reflect.ValueOf(in), "")
	if c == 0 {
		return nil
	}
	p := &Problem{Code: "turned-text"}
	if at == "" {
		at = "what was sent"
	}
	p.Status, p.Title, p.Detail = 422, "Unprocessable Entity", fmt.Sprintf("%s holds a character that cannot be seen and turns the direction of writing (U+%04X); type it anew without. Nothing was saved", at, c)
	return p
}

// attachment names a download. A character that turns the direction of writing would hide
// what kind of file it is, and is shown as _.
func attachment(name string) string {
	name = strings.Map(func(c rune) rune {
		if turns(c) {
			return '_'
		}
		return c
	}, name)
	return "attachment; filename*=UTF-8''" + url.PathEscape(name)
}
