package longacts

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	actroom "coatrack/internal/app/act"
	"coatrack/internal/app/clients"
	"coatrack/internal/app/openings"
	"coatrack/internal/app/sheet"
	"coatrack/internal/store"
)

// A long act (posting a list of many thousand items, taking such a file in, taking
// a whole opening back) is asked for, runs behind, says how far it is, can be
// cancelled, and is safe to run twice: its work and the word that it is done are
// one transaction. If the process dies in the middle nothing of it stays, and
// whoever finds it silent runs it again.

// LongAct is a long act and how far it is.
type LongAct struct {
	ID      int64           `json:"id"`
	Act     string          `json:"act"`
	State   string          `json:"state" enum:"waiting,running,done,failed,cancelled"`
	Done    int             `json:"done"`
	Total   int             `json:"total"`
	Words   string          `json:"words"`
	Result  json.RawMessage `json:"result,omitempty"`
	Problem *LongProblem    `json:"problem,omitempty"`
	By      actroom.Person  `json:"by"`
	At      string          `json:"at"`
}

// LongProblem is why a long act failed.
type LongProblem struct {
	Code    string `json:"code"`
	Message string `json:"message"`
}

// LongArgs are what a long act needs to know.
type LongArgs struct {
	Batch   int64    `json:"batch,omitempty"`
	Version int64    `json:"version,omitempty"`
	Gone    []string `json:"gone,omitempty" maxItems:"20000"`
	Account int64    `json:"account_id,omitempty"`
	Lines   string   `json:"gone_lines,omitempty" enum:"keep,drop" doc:"take-in of payments: as gone_lines there"`
	Note    string   `json:"note,omitempty"`
}

// LongActs are the acts that can run behind.
var LongActs = []string{"post-items", "take-in", "take-back-opening"}

// silent is after how long without a sign of life a running act counts as dead.
const silent = 15 * time.Second

// BeginLong asks for a long act.
func (a Acts) BeginLong(ctx context.Context, who actroom.Who, ledgerID int64, act string, args LongArgs) (LongAct, error) {
	var out LongAct
	err := a.In(ctx, who, ledgerID, actroom.Write, func(t *actroom.Tx) error {
		if !slices.Contains(LongActs, act) {
			return actroom.Fail(actroom.Invalid, "bad-act", "%q is not an act that runs behind", act)
		}
		if a.Queue == nil {
			return actroom.Fail(actroom.Conflict, "no-queue", "nothing runs behind on this server; do it directly")
		}
		var id int64
		if err := t.Raw(`insert into long_act (ledger_id, act, args, person_id) values (?, ?, ?::jsonb, ?) returning id`, t.Ledger, act, string(actroom.MustJSON(args)), who.Person.ID).Scan(&id).Error; err != nil {
			return err
		}
		if err := a.Queue(ctx, t.SQLTx(), t.Firm, t.Ledger, id); err != nil {
			return err
		}
		var err error
		out, err = longAct(t, id)
		return err
	})
	return out, err
}

func longAct(t *actroom.Tx, id int64) (LongAct, error) {
	var r struct {
		ID, PersonID      int64
		Act, State, Words string
		Done, Total       int
		Result, Problem   *string
		At                time.Time
	}
	if err := t.Raw(`select id, person_id, act, state, words, done, total, result::text as result, problem::text as problem, at from long_act where ledger_id = ? and id = ?`, t.Ledger, id).Scan(&r).Error; err != nil {
		return LongAct{}, err
	}
	if r.ID == 0 {
		return LongAct{}, actroom.ErrNotFound
	}
	ps, err := t.People()
	if err != nil {
		return LongAct{}, err
	}
	out := LongAct{ID: r.ID, Act: r.Act, State: r.State, Done: r.Done, Total: r.Total, Words: r.Words, By: ps[r.PersonID], At: actroom.Stamp(r.At)}
	if r.Result != nil {
		out.Result = json.RawMessage(*r.Result)
	}
	if r.Problem != nil {
		out.Problem = &LongProblem{}
		store.ReadKept("a long act", []byte(*r.Problem), out.Problem)
	}
	return out, nil
}

// GetLong says how far a long act is.
func (a Acts) GetLong(ctx context.Context, who actroom.Who, ledgerID, id int64) (LongAct, error) {
	var out LongAct
	err := a.In(ctx, who, ledgerID, actroom.Read, func(t *actroom.Tx) (err error) { out, err = longAct(t, id); return err })
	return out, err
}

// CancelLong cancels a long act that is not done; nothing of it stays.
func (a Acts) CancelLong(ctx context.Context, who actroom.Who, ledgerID, id int64) (LongAct, error) {
	var out LongAct
	err := a.In(ctx, who, ledgerID, actroom.Write, func(t *actroom.Tx) error {
		if err := t.Exec(`update long_act set state = 'cancelled', words = 'cancelled; nothing was changed' where ledger_id = ? and id = ? and state in ('waiting', 'running')`, t.Ledger, id).Error; err != nil {
			return err
		}
		var err error
		out, err = longAct(t, id)
		return err
	})
	return out, err
}

var errCancelled = errors.New("cancelled")

// ErrRuns says that an act runs elsewhere, or did until a moment ago: whoever asked
// asks again, until it is known whether that process lives.
var ErrRuns = errors.New("the act runs elsewhere")

// RunLong runs a long act that waits, or that fell silent. An act that shows signs of
// life is ErrRuns; one that ended is nothing to do. It is called by whatever took it
// from the queue.
func (a Acts) RunLong(ctx context.Context, firm, ledger, id int64) error {
	var person int64
	var act string
	var args LongArgs
	claimed := false
	err := a.Store.InFirm(ctx, firm, ledger, func(st *store.Tx) error {
		var r struct {
			PersonID  int64
			Act, Args string
		}
		if err := st.Raw(`update long_act set state = 'running', beat = now(), done = 0, words = 'begun' where ledger_id = ? and id = ? and (state = 'waiting' or state = 'running' and beat < now() - ?::interval) returning person_id, act, args::text as args`, ledger, id, silent.String()).Scan(&r).Error; err != nil {
			return err
		}
		if r.PersonID == 0 {
			var runs bool
			if err := st.Raw(`select exists (select 1 from long_act where ledger_id = ? and id = ? and state = 'running')`, ledger, id).Scan(&runs).Error; err != nil || !runs {
				return err
			}
			return ErrRuns
		}
		claimed, person, act = true, r.PersonID, r.Act
		return json.Unmarshal([]byte(r.Args), &args)
	})
	if err != nil || !claimed {
		return err
	}
	who, err := clients.Of(a.App).PersonByID(ctx, person)
	if err != nil {
		return err
	}
	work, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	go a.beat(work, stop, firm, ledger, id)
	result, err := a.doLong(work, who, ledger, id, act, args)
	if err == nil || errors.Is(context.Cause(work), errCancelled) {
		return nil
	}
	if ctx.Err() != nil { // the process ends; the next one need not wait for silence
		last, end := context.WithTimeout(context.WithoutCancel(ctx), signTime)
		defer end()
		_ = a.Store.InFirm(last, firm, ledger, func(st *store.Tx) error {
			return st.Exec(`update long_act set state = 'waiting', done = 0, words = 'begins again' where ledger_id = ? and id = ? and state = 'running'`, ledger, id).Error
		})
		return err
	}
	_ = result
	p := LongProblem{Code: "internal", Message: "something went wrong on our side; nothing was saved"}
	var e *actroom.Error
	if errors.As(err, &e) {
		p = LongProblem{e.Code, e.Message}
	}
	return a.Store.InFirm(ctx, firm, ledger, func(st *store.Tx) error {
		return st.Exec(`update long_act set state = 'failed', problem = ?::jsonb, words = '' where ledger_id = ? and id = ? and state = 'running'`, string(actroom.MustJSON(p)), ledger, id).Error
	})
}

// signTime is how long a sign of life may wait for a connection. A long act holds its
// ledger, and those who wait for it hold the others: an act that waited for one of them
// to say how far it is would never end.
const signTime = 2 * time.Second

// beat gives a sign of life every second and stops the work when it is cancelled.
func (a Acts) beat(ctx context.Context, stop context.CancelCauseFunc, firm, ledger, id int64) {
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			sign, end := context.WithTimeout(ctx, signTime)
			_ = a.Store.InFirm(sign, firm, ledger, func(st *store.Tx) error {
				var state string
				err := st.Raw(`update long_act set beat = now() where ledger_id = ? and id = ? returning state`, ledger, id).Scan(&state).Error
				if state == "cancelled" {
					stop(errCancelled)
				}
				return err
			})
			end()
		}
	}
}

// say tells how far a long act is, outside its own transaction.
func (a Acts) sayLong(ctx context.Context, firm, ledger, id int64, done, total int, words string) {
	sign, end := context.WithTimeout(ctx, signTime)
	defer end()
	_ = a.Store.InFirm(sign, firm, ledger, func(st *store.Tx) error {
		return st.Exec(`update long_act set done = ?, total = ?, words = ? where ledger_id = ? and id = ? and state = 'running'`, done, total, words, ledger, id).Error
	})
	if a.Paused != nil {
		a.Paused(words)
	}
}

func (a Acts) doLong(ctx context.Context, who actroom.Who, ledgerID, id int64, act string, args LongArgs) (any, error) {
	var result any
	err := a.In(ctx, who, ledgerID, actroom.Write, func(t *actroom.Tx) error {
		say := func(done int, words string) { a.sayLong(ctx, t.Firm, t.Ledger, id, done, 4, words) }
		if _, err := t.Lock(); err != nil {
			return err
		}
		say(1, "reading")
		switch act {
		case "post-items":
			b, err := openings.ItemBatch(t, args.Batch)
			if err != nil {
				return err
			}
			say(2, "posting")
			unit, err := openings.PostItems(t, b, args.Gone)
			if err != nil {
				return err
			}
			result = map[string]int64{"unit": unit}
		case "take-in":
			b, err := sheet.OnSheet(t, args.Batch, args.Version)
			if err != nil {
				return err
			}
			say(2, "taking in")
			if err := sheet.ImportFile(t, b, sheet.Taking{AccountID: args.Account, GoneLines: args.Lines}); err != nil {
				return err
			}
			result = map[string]int64{"batch": args.Batch}
		case "take-back-opening":
			say(2, "taking back")
			n, err := openings.ReverseAll(t, args.Note)
			if err != nil {
				return err
			}
			result = map[string]int{"count": n}
		}
		say(3, "keeping it")
		// The work and the word that it is done stand or fall together.
		res := t.Exec(`update long_act set state = 'done', done = 4, total = 4, words = 'done', result = ?::jsonb where ledger_id = ? and id = ? and state = 'running'`, string(actroom.MustJSON(result)), t.Ledger, id)
		if res.Error != nil {
			return res.Error
		}
		if res.RowsAffected == 0 {
			return errCancelled
		}
		return nil
	})
	return result, err
}
