package store

import (
	"context"
	"encoding/json"
	"fmt"

	"coatrack/internal/core/payees"
	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
)

// sealedColumns are all places that hold what is sealed: the table, its key, the
// column, and what the seal is about.
var sealedColumns = []struct{ table, key, ledger, column, what string }{
	{"raw_chunk", "batch_id::text || '/' || first_record", "ledger_id", "cells", "cells"},
	{"batch", "id::text", "ledger_id", "bytes", "bytes"},
	{"batch", "id::text", "ledger_id", "summary", "summary"},
	{"party", "id::text", "ledger_id", "tax_id_sealed", "tax id"},
	{"ledger", "id::text", "id", "tax_id_sealed", "tax id"},
	{"paper", "id::text", "ledger_id", "bytes", "paper"},
	{"letter", "id::text", "ledger_id", "paper", "letter"},
	{"filing_row", "filing_id::text || '/' || no", "ledger_id", "sealed", "filing"},
}

// Rotate seals everything anew under another data key, as the database's owner and in
// one transaction: all of it or nothing. The application must not run meanwhile.
// Marks, by which a number is known again, are made anew; answers kept for repeated
// requests and of name matching are dropped. It returns how many were sealed anew.
func Rotate(ctx context.Context, ownerDSN string, from, to *vault.Vault) (int, error) {
	conn, err := pgx.Connect(ctx, ownerDSN)
	if err != nil {
		return 0, fmt.Errorf("the owner's database cannot be reached")
	}
	defer conn.Close(ctx)
	tx, err := conn.Begin(ctx)
	if err != nil {
		return 0, err
	}
	defer tx.Rollback(ctx) //nolint:errcheck // after a commit it does nothing
	n := 0
	for _, c := range sealedColumns {
		k, err := rotateColumn(ctx, tx, c.table, c.key, c.ledger, c.column, c.what, from, to)
		if err != nil {
			return 0, fmt.Errorf("%s.%s: %w", c.table, c.column, err)
		}
		n += k
	}
	for _, q := range []string{`delete from idempotency`, `update payee set match_code = null, match_mark = null, match_day = null`} {
		if _, err := tx.Exec(ctx, q); err != nil {
			return 0, err
		}
	}
	if err := rotateMarks(ctx, tx, to); err != nil {
		return 0, err
	}
	if _, err := tx.Exec(ctx, `insert into data_key (mark) values ($1) on conflict (one) do update set mark = excluded.mark, at = now()`, keyMark(to)); err != nil {
		return 0, err
	}
	return n, tx.Commit(ctx)
}

type sealedRow struct {
	key    string
	ledger int64
	sealed []byte
}

// rotateColumn goes through a column in pages, so that it need not be held whole.
func rotateColumn(ctx context.Context, tx pgx.Tx, table, key, ledger, column, what string, from, to *vault.Vault) (int, error) {
	n, after := 0, ""
	for {
		rows, err := tx.Query(ctx, `select `+key+` || '@' || `+ledger+`, `+ledger+`, `+column+` from `+table+` where `+column+` is not null and `+key+` || '@' || `+ledger+` > $1 order by 1 limit 200`, after)
		if err != nil {
			return n, err
		}
		page, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (s sealedRow, err error) {
			return s, r.Scan(&s.key, &s.ledger, &s.sealed)
		})
		if err != nil || len(page) == 0 {
			return n, err
		}
		batch := &pgx.Batch{}
		for _, r := range page {
			plain, err := from.Open(r.sealed, about(r.ledger, what))
			if err != nil {
				return n, err
			}
			batch.Queue(`update `+table+` set `+column+` = $1 where `+key+` || '@' || `+ledger+` = $2`, to.Seal(plain, about(r.ledger, what)), r.key)
		}
		if err := tx.SendBatch(ctx, batch).Close(); err != nil {
			return n, err
		}
		n += len(page)
		after = page[len(page)-1].key
	}
}

// rotateMarks makes the marks of numbers anew, from what was just sealed anew.
func rotateMarks(ctx context.Context, tx pgx.Tx, v *vault.Vault) error {
	type row struct {
		ledger, party int64
		kind          string
		sealed        []byte
	}
	rows, err := tx.Query(ctx, `select p.ledger_id, p.party_id, p.tax_kind, a.tax_id_sealed from payee p join party a on a.ledger_id = p.ledger_id and a.id = p.party_id where p.number_mark is not null and a.tax_id_sealed is not null`)
	if err != nil {
		return err
	}
	all, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (x row, err error) {
		return x, r.Scan(&x.ledger, &x.party, &x.kind, &x.sealed)
	})
	if err != nil {
		return err
	}
	for _, x := range all {
		plain, err := v.Open(x.sealed, about(x.ledger, "tax id"))
		if err != nil {
			return err
		}
		d, _ := payees.Digits(string(plain))
		if _, err := tx.Exec(ctx, `update payee set number_mark = $1 where ledger_id = $2 and party_id = $3`, v.Mark(x.kind+"|"+d, about(x.ledger, "mark")), x.ledger, x.party); err != nil {
			return err
		}
	}
	type sent struct {
		ledger, filing int64
		no             int
		sealed         []byte
	}
	rows, err = tx.Query(ctx, `select ledger_id, filing_id, no, sealed from filing_row where number_mark is not null`)
	if err != nil {
		return err
	}
	forms, err := pgx.CollectRows(rows, func(r pgx.CollectableRow) (x sent, err error) {
		return x, r.Scan(&x.ledger, &x.filing, &x.no, &x.sealed)
	})
	if err != nil {
		return err
	}
	for _, x := range forms {
		plain, err := v.Open(x.sealed, about(x.ledger, "filing"))
		if err != nil {
			return err
		}
		var cells []string
		if err := json.Unmarshal(plain, &cells); err != nil {
			return err
		}
		if _, err := tx.Exec(ctx, `update filing_row set number_mark = $1 where ledger_id = $2 and filing_id = $3 and no = $4`, v.Mark(cells[EfileKind]+"|"+cells[EfileNumber], about(x.ledger, "mark")), x.ledger, x.filing, x.no); err != nil {
			return err
		}
	}
	return nil
}

// Where a sent row has its number and the number's kind (docs/efile.md).
const (
	EfileNumber = 9
	EfileKind   = 10
)
