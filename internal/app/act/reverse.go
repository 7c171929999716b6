package act

func (t *Tx) Reverse(unit int64, note string) error {
	later, err := t.CorrectedBy(unit)
	if err != nil {
		return err
	}
	if later != 0 {
		return &Error{What: Conflict, Code: "corrected-later", Message: "a later list corrected items of this one; take that one back first, or take all of the opening back", Detail: map[string]int64{"unit": later}}
	}
	for _, undo := range t.App.Reversals {
		if err := undo(t, unit, note); err != nil {
			return err
		}
	}
	id, err := t.PostReversal(unit, t.Who.Person.ID, note)
	if err != nil {
		return err
	}
	return t.Log("taken back as one", "unit", unit, nil, map[string]any{"reversal": id, "why": note})
}
