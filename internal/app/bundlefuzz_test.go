package app_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"coatrack/internal/app/act"
	"coatrack/internal/app/parties"

	"github.com/stretchr/testify/require"
)

// places lists every value inside a document by the way to it.
func places(v any, at []any, out *[][]any) {
	switch v := v.(type) {
	case map[string]any:
		keys := []string{}
		for k := range v {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		for _, k := range keys {
			way := append(slices.Clone(at), k)
			*out = append(*out, way)
			places(v[k], way, out)
		}
	case []any:
		for i := range v {
			way := append(slices.Clone(at), i)
			*out = append(*out, way)
			places(v[i], way, out)
		}
	}
}

// change puts another value at a place, or takes it away; drop says so.
func change(doc any, way []any, to any, drop bool) {
	for _, k := range way[:len(way)-1] {
		if s, ok := k.(string); ok {
			doc = doc.(map[string]any)[s]
		} else {
			doc = doc.([]any)[k.(int)]
		}
	}
	switch k := way[len(way)-1].(type) {
	case string:
		if drop {
			delete(doc.(map[string]any), k)
		} else {
			doc.(map[string]any)[k] = to
		}
	case int:
		doc.([]any)[k] = to
	}
}

// A bundle that somebody changed in one place, anywhere, is either refused in words or
// makes a client whose books are in balance; it never fails without words, never in those of
// the database, and what is refused leaves nothing behind.
func TestAChangedBundleIsRefusedInWordsOrWhole(t *testing.T) {
	d := planDesk(t, "run")
	d.take(d.bring("parties", "vendors.csv", payeeVendors))
	d.take(d.bring("vendor-payments", "paid.csv", payeePaid))
	d.settle(parties.PartyChoice{Accept: true}, "*")
	d.take(d.bring("pay-bill", "bill.csv", carrierBill))
	var out bytes.Buffer
	require.NoError(t, d.ExportBundle(d.ctx, d.who, d.client, &out))
	var first any
	require.NoError(t, json.Unmarshal(out.Bytes(), &first))
	var ways [][]any
	places(first, nil, &ways)
	// Every kind of place is as likely as another, whatever its number.
	kinds := map[string][][]any{}
	for _, w := range ways {
		k := []string{}
		for _, x := range w {
			if s, ok := x.(string); ok {
				k = append(k, s)
			} else {
				k = append(k, "*")
			}
		}
		kinds[strings.Join(k, "/")] = append(kinds[strings.Join(k, "/")], w)
	}
	names := []string{}
	for k := range kinds {
		names = append(names, k)
	}
	slices.Sort(names)
	require.Greater(t, len(names), 200, "every part is in it")
	r := rand.New(rand.NewSource(11))
	r.Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
	clients := func() int {
		b, err := d.Board(d.ctx, d.who)
		require.NoError(t, err)
		return len(b)
	}
	had, made, refused := clients(), 0, 0
	var wrong []string
	for n, name := range names {
		var doc any
		require.NoError(t, json.Unmarshal(out.Bytes(), &doc))
		way := kinds[name][r.Intn(len(kinds[name]))]
		values := []any{nil, "", "x", -1, 999999, true, []any{}, map[string]any{}, "2026-02-30", strings.Repeat("9", 30)}
		to := values[r.Intn(len(values))]
		change(doc, way, to, r.Intn(4) == 0)
		text, err := json.Marshal(doc)
		require.NoError(t, err)
		words := fmt.Sprintf("%s set to %v", name, to)
		c, err := d.ImportBundle(d.ctx, d.who, text, fmt.Sprint("Changed ", n))
		if err != nil {
			refused++
			var said *act.Error
			if !errors.As(err, &said) {
				wrong = append(wrong, words+": "+err.Error())
				continue
			}
			for _, w := range []string{"SQLSTATE", "violates", "syntax", "pq:", "json:", "Go struct", "cannot unmarshal"} {
				if strings.Contains(said.Message, w) {
					wrong = append(wrong, words+": "+said.Message)
				}
			}
			continue
		}
		made++
		ps, err := d.Proofs(d.ctx, d.who, c.ID)
		if err != nil {
			wrong = append(wrong, words+", taken in: "+err.Error())
		}
		for _, p := range ps {
			if (p.Key == "ledger-balances" || p.Key == "balances-recomputed") && !p.Holds {
				wrong = append(wrong, words+": "+p.Sentence+" does not hold")
			}
		}
	}
	require.Empty(t, wrong)
	require.Equal(t, had+made, clients(), "what was refused left nothing")
	require.Greater(t, refused, 50)
	require.Greater(t, made, 20)
}
