package store_test

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// What points at a customer or vendor points at one of its own ledger, by insert and by
// update, though it is asked for as a set; and nobody is deleted.
func TestPartiesArePointedAtInTheirLedgerOnly(t *testing.T) {
	s, _ := books(t)
	run := func(led int64, sql string) error { return exec(s, led, led, sql) }
	require.NoError(t, run(1, `insert into party (ledger_id, name) values (1, 'Alder'), (1, 'Birch')`))
	require.NoError(t, run(2, `insert into party (ledger_id, name) values (2, 'Cedar')`)) // its id is 3
	require.NoError(t, run(1, `insert into payee (ledger_id, party_id) values (1, 1), (1, 2)`))
	require.NoError(t, run(1, `insert into party_outside (ledger_id, source, kind, outside_id, party_id) values (1, 'old', 'vendor', 'V-1', 1)`))
	require.NoError(t, run(1, `update payee set joined_to = 1 where party_id = 2`))
	for _, sql := range []string{
		`insert into payee (ledger_id, party_id) values (1, 3)`,
		`insert into payee (ledger_id, party_id) values (1, 99)`,
		`insert into party_outside (ledger_id, source, kind, outside_id, party_id) values (1, 'old', 'vendor', 'V-2', 2), (1, 'old', 'vendor', 'V-3', 3)`,
		`update payee set joined_to = 3 where party_id = 2`,
		`update party_outside set party_id = 99`,
		`update party set joined_into = 3 where id = 2`,
	} {
		require.ErrorContains(t, run(1, sql), "not in this ledger", sql)
	}
	require.Error(t, run(1, `delete from party where id = 2`))
	require.Error(t, run(1, `insert into party (ledger_id, name) values (2, 'mine')`), "another ledger's row is not written")
}
