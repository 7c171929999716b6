// Package store keeps everything in PostgreSQL: GORM models and queries, SQL
// migrations, bulk COPY, and the one path by which entries are posted. It makes
// no decisions; it refuses only what the database itself refuses.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"strings"
	"time"

	"coatrack/internal/vault"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	"gorm.io/gorm/schema"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open database.
type Store struct {
	Pool  *pgxpool.Pool
	SQL   *sql.DB
	gorm  *gorm.DB
	Vault *vault.Vault
}

// Open connects as the serving role.
func Open(ctx context.Context, dsn string, v *vault.Vault) (*Store, error) {
	cfg, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, errors.New("the database address cannot be read; see coatrack serve --help")
	}
	if cfg.MaxConns < 20 {
		cfg.MaxConns = 20
	}
	// Statements here are short or walk whole lists once: compiling one costs more
	// than it gives, and a list of a client's size is sorted in memory.
	for k, v := range map[string]string{"jit": "off", "work_mem": "64MB"} {
		if _, said := cfg.ConnConfig.RuntimeParams[k]; !said {
			cfg.ConnConfig.RuntimeParams[k] = v
		}
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	db := stdlib.OpenDBFromPool(pool)
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: db}), &gorm.Config{
		Logger:                 logger.Discard,
		SkipDefaultTransaction: true,
		NamingStrategy:         schema.NamingStrategy{SingularTable: true},
		TranslateError:         false,
	})
	if err != nil {
		pool.Close()
		return nil, err
	}
	return &Store{pool, db, g, v}, nil
}

// Close ends all connections.
func (s *Store) Close() {
	_ = s.SQL.Close()
	s.Pool.Close()
}

// CheckRole refuses a serving role that could pass by row-level security.
func (s *Store) CheckRole(ctx context.Context) error {
	var super, bypass, owns bool
	err := s.Pool.QueryRow(ctx, `select rolsuper, rolbypassrls, exists (select 1 from pg_tables where tablename = 'ledger' and tableowner = current_user) from pg_roles where rolname = current_user`).Scan(&super, &bypass, &owns)
	if err != nil {
		return err
	}
	if super || bypass || owns {
		return errors.New("the serving database role could pass by row-level security; serve with a role of its own (coatrack migrate makes it)")
	}
	return nil
}

// migrator opens a database as its owner, with what brings it up to date.
func migrator(ownerDSN string) (*sql.DB, *goose.Provider, *pgx.ConnConfig, error) {
	cfg, err := pgx.ParseConfig(ownerDSN)
	if err != nil {
		return nil, nil, nil, errors.New("the owner's database address cannot be read")
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, nil, nil, err
	}
	db := stdlib.OpenDB(*cfg)
	p, err := goose.NewProvider(goose.DialectPostgres, db, sub)
	if err != nil {
		_ = db.Close()
	}
	return db, p, cfg, err
}

// Migrate brings the database up to date as its owner and makes the serving
// role that appDSN names, with its password and rights.
func Migrate(ctx context.Context, ownerDSN, appDSN string) error {
	db, p, cfg, err := migrator(ownerDSN)
	if err != nil {
		return err
	}
	defer db.Close()
	alone, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer alone.Close()
	if _, err := alone.ExecContext(ctx, `select pg_advisory_lock($1)`, migrating); err != nil {
		return err
	}
	defer func() {
		_, _ = alone.ExecContext(context.WithoutCancel(ctx), `select pg_advisory_unlock($1)`, migrating)
	}()
	if _, err := p.Up(ctx); err != nil {
		return err
	}
	return finish(ctx, db, cfg.Database, appDSN)
}

// migrating is the lock under which one program at a time brings a database up to date.
const migrating int64 = 0x636f6174 // "coat"

// agreed runs a statement about a role. Roles belong to the whole server, where no lock
// of one database holds: two databases brought up to date at once may touch the same role,
// and the server then refuses the later one. It is said again; saying it twice is harmless.
func agreed(ctx context.Context, db *sql.DB, q string) error {
	for try := 0; ; try++ {
		_, err := db.ExecContext(ctx, q)
		var pg *pgconn.PgError
		if err == nil || !errors.As(err, &pg) || try == 20 {
			return err
		}
		switch {
		case pg.Code == "42710", pg.Code == "23505" && strings.HasPrefix(q, "create role "): // the other one made it
			return nil
		case pg.Code == "XX000" && strings.Contains(pg.Message, "concurrently"), pg.Code == "40P01":
		default:
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(try+1) * 10 * time.Millisecond):
		}
	}
}

// MigrateTo brings a database up to a version and no further, without a serving role:
// to see what a later migration does with what is there.
func MigrateTo(ctx context.Context, ownerDSN string, version int64) error {
	db, p, _, err := migrator(ownerDSN)
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = p.UpTo(ctx, version)
	return err
}

// finish makes the queue's tables and the serving role with its rights.
func finish(ctx context.Context, db *sql.DB, database, appDSN string) error {
	queue, err := rivermigrate.New(riverdatabasesql.New(db), nil)
	if err != nil {
		return err
	}
	if _, err := queue.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return err
	}
	u, err := url.Parse(appDSN)
	if err != nil || u.User == nil {
		return errors.New("the serving database address must be a URL with a user")
	}
	role, pw := u.User.Username(), ""
	pw, _ = u.User.Password()
	id := pgx.Identifier{role}.Sanitize()
	var exists bool
	if err := db.QueryRowContext(ctx, `select exists (select 1 from pg_roles where rolname = $1)`, role).Scan(&exists); err != nil {
		return err
	}
	stmts := []string{}
	if !exists {
		stmts = append(stmts, "create role "+id+" login nosuperuser nobypassrls nocreatedb nocreaterole")
	}
	if pw != "" {
		stmts = append(stmts, "alter role "+id+" password '"+strings.ReplaceAll(pw, "'", "''")+"'")
	}
	stmts = append(stmts,
		"grant usage on schema public to "+id,
		"grant select on all tables in schema public to "+id,
		"grant execute on function sealed_sample() to "+id,
		"grant insert on data_key, firm, ledger, person, api_token, sessions, idempotency, password_try, ledger_member, history, account, account_outside, batch, raw_chunk, fix, source_choice, label, fact_block, binding, unit, once_key, entry, line_block, trace_block, acceptance, party, party_outside, item_block, item_end, item_dates, item_amendment, uncleared, bank_balance, signoff, ledger_choice, kit, kit_laid, connection, long_act, employee, pay_item, pay_run, pay_draw, pay_bill, pay_form, payee, paid_line, paid_fund, payee_threshold, payee_adjust, payee_look, letter, filing, filing_row, paper to "+id,
		"grant update on ledger, person, api_token, sessions, idempotency, ledger_member, account, account_outside, batch, source_choice, label, once_key, party, party_outside, item_end, item_dates, item_amendment, uncleared, bank_balance, signoff, ledger_choice, kit, connection, long_act, employee, pay_item, pay_run, pay_draw, pay_bill, pay_form, payee, paid_line, paid_fund, payee_threshold, payee_adjust, payee_look, filing, filing_row, paper to "+id,
		"grant delete on sessions, idempotency, password_try, raw_chunk, account_outside, party_outside, kit_laid, kit, ledger_choice, pay_form, paid_line, payee_threshold, filing_row to "+id,
		"do $$ declare t text; begin for t in select tablename from pg_tables where tablename like 'river%' loop execute format('grant select, insert, update, delete on %I to %I', t, '"+strings.ReplaceAll(role, "'", "''")+"'); end loop; end $$",
		"grant usage, select on all sequences in schema public to "+id,
		"grant temporary on database "+pgx.Identifier{database}.Sanitize()+" to "+id,
		"revoke insert, update, delete, truncate on balance, entry_account, posted_part from "+id,
	)
	for _, q := range stmts {
		if err := agreed(ctx, db, q); err != nil {
			return fmt.Errorf("%s: %w", strings.SplitN(q, " password ", 2)[0], err)
		}
	}
	return nil
}

// Ready says whether the database answers.
func (s *Store) Ready(ctx context.Context) error {
	var n int
	return s.Pool.QueryRow(ctx, "select count(*) from firm where id = 0").Scan(&n)
}
