package payroll

import (
	"context"
	"slices"
	"strings"

	"coatrack/internal/app/act"
	"coatrack/internal/core/payroll"
)

// PayStatus is what can be set on an employee that the law treats otherwise.
type PayStatus struct {
	Status string `json:"status"`
	Words  string `json:"words"`
	Effect string `json:"effect" doc:"what it does to the forms and to the checks of a run"`
	Source string `json:"source"`
	Mark   string `json:"mark" enum:"sure,check"`
}

func statusOf(ss []payroll.Status) []string {
	out := []string{}
	for _, s := range ss {
		out = append(out, string(s))
	}
	return out
}

// offeredStatuses are the statuses that fit the client's entity class.
func offeredStatuses(t *act.Tx) []PayStatus {
	out := []PayStatus{}
	for _, s := range payroll.StatusSpecs {
		if s.Fits(t.Client.EntityClass) {
			out = append(out, PayStatus{string(s.Status), s.Words, s.Effect, s.Source, s.Mark})
		}
	}
	return out
}

// SetEmployeeStatus sets what the law treats otherwise in an employee; none removes all. It needs
// the right to see pay, since the boxes that change are one person's.
func (a Acts) SetEmployeeStatus(ctx context.Context, who act.Who, ledgerID, employee int64, set []string) error {
	return a.In(ctx, who, ledgerID, act.Write, func(t *act.Tx) error {
		if err := mayFormOf(t, "w2", employee); err != nil {
			return err
		}
		if _, err := t.Lock(); err != nil {
			return err
		}
		var keep []string
		for _, s := range set {
			spec, ok := payroll.StatusSpecOf(payroll.Status(s))
			switch {
			case !ok:
				return act.Fail(act.Invalid, "no-such-status", "%q is no status of an employee", s)
			case !spec.Fits(t.Client.EntityClass):
				return act.Fail(act.Invalid, "status-does-not-fit", "%q holds only with other employers: this client is a %s (%s)", spec.Words, t.Client.EntityClass, spec.Source)
			case !slices.Contains(keep, s):
				keep = append(keep, s)
			}
		}
		var was string
		if err := t.Raw(`select status from employee where ledger_id = ? and id = ?`, t.Ledger, employee).Scan(&was).Error; err != nil {
			return err
		}
		now := strings.Join(keep, " ")
		if now == was {
			return nil
		}
		if err := t.Exec(`update employee set status = ? where ledger_id = ? and id = ?`, now, t.Ledger, employee).Error; err != nil {
			return err
		}
		return t.Log("employee's status set", "employee", employee, map[string]string{"status": was}, map[string]string{"status": now})
	})
}
