package store

import "github.com/jackc/pgx/v5"

// How labels are looked up.
const (
	RenameLabels = iota // made if they are not there, renamed if they are called otherwise now
	KeepLabels          // made if they are not there; what stands stays
	FindLabels          // only found; 0 for one that is not there
)

// EnsureLabels returns the ids of labels in the order given. Each is given once.
func (t *Tx) EnsureLabels(labels []Label, how int) ([]int64, error) {
	ids := make([]int64, len(labels))
	if len(labels) == 0 {
		return ids, nil
	}
	var sources, kinds, keys, outside, numbers, names, accountKinds, sections []string
	for _, l := range labels {
		sources, kinds, keys, outside = append(sources, l.Source), append(kinds, l.Kind), append(keys, l.Key), append(outside, l.OutsideID)
		numbers, names, accountKinds, sections = append(numbers, l.Number), append(names, l.Name), append(accountKinds, l.AccountKind), append(sections, l.Section)
	}
	if how != FindLabels {
		then := `nothing`
		if how == RenameLabels {
			then = `update set name = excluded.name, number = excluded.number, account_kind = excluded.account_kind, section = excluded.section
		where (l.name, l.number, l.account_kind, l.section) is distinct from (excluded.name, excluded.number, excluded.account_kind, excluded.section)`
		}
		err := t.run(`insert into label as l (ledger_id, source, kind, key, outside_id, number, name, account_kind, section)
		select $1::bigint, x.source, x.kind, x.key, x.outside, x.number, x.name, x.of, x.section from unnest($2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[]) x(source, kind, key, outside, number, name, of, section)
		on conflict (ledger_id, source, kind, key) do `+then, t.Ledger, sources, kinds, keys, outside, numbers, names, accountKinds, sections)
		if err != nil {
			return nil, mapError(err)
		}
	}
	// Each is looked up by its key, however large or new the table is.
	err := t.rows(func(rows pgx.Rows) error {
		var n, id int64
		err := rows.Scan(&n, &id)
		if err == nil {
			ids[n-1] = id
		}
		return err
	}, `select x.n, coalesce((select l.id from label l where l.ledger_id = $1 and l.source = x.source and l.kind = x.kind and l.key = x.key), 0)
		from unnest($2::text[], $3::text[], $4::text[]) with ordinality x(source, kind, key, n)`, t.Ledger, sources, kinds, keys)
	if err != nil {
		return nil, err
	}
	return ids, t.know("label", len(labels))
}

// manyRows is from how many rows on the planner is told about a bulk load.
const manyRows = 2_000

// know has the planner look at a table into which n rows were just put, unless it
// knows the table at such a size already.
func (t *Tx) know(table string, n int) error {
	if n < manyRows {
		return nil
	}
	return t.knows(table, n)
}

// knowBlocks is know for a table of blocks: rows went in, in so many blocks.
func (t *Tx) knowBlocks(table string, rows, blocks int) error {
	if rows < manyRows {
		return nil
	}
	return t.knows(table, blocks)
}

func (t *Tx) knows(table string, n int) error {
	var known float64
	if err := t.Raw(`select reltuples from pg_class where oid = ?::regclass`, table).Scan(&known).Error; err != nil || known > 2*float64(n) {
		return err
	}
	return t.Exec(`select know_table(?)`, table).Error
}
