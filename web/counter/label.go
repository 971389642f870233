package counter

import (
	"net/http"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// labelView is the label of a job: its number in a code that any scanner reads, and in
// letters.
type labelView struct {
	Label, MachineID, Model, Customer, TakenIn, Promised string
	Danger                                               string
	Width                                                int // modules of the code, with its quiet zones
	Path                                                 string
	JobID                                                int64
}

func (s *pages) showLabel(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	j, err := s.Shop.Job(c.Request().Context(), id)
	if err != nil {
		return err
	}
	v := labelView{Label: base.Label(id), MachineID: j.Machine.ID, Model: j.Chassis.Name(), Customer: j.Customer,
		TakenIn: kit.Stamp(j.TakenIn), Danger: j.State.Danger, JobID: id}
	if !j.Promised.IsZero() {
		v.Promised = j.Promised.Format("Mon 2 Jan, 15:04")
	}
	if v.Path, v.Width, err = kit.Bars(v.Label); err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "label", "Label "+v.Label, "machines", v)
}

// intakeSheetView is the intake sheet: what was seen and agreed, to be signed.
type intakeSheetView struct {
	labelView
	Workshop, Contact, Serial, Complaint string
	Wish, Budget                         string
	Condition                            []string
	Looked                               bool
	Details                              jobs.Details
	Consents                             []kit.ConsentRow
	Paper, Printed, SignedAt             string
}

func (s *pages) showIntakeSheet(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	j, err := s.Shop.Job(ctx, id)
	if err != nil {
		return err
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	v := intakeSheetView{labelView: labelView{Label: base.Label(id), MachineID: j.Machine.ID, Model: j.Chassis.Name(),
		Customer: j.Customer, TakenIn: kit.Stamp(j.TakenIn), Danger: j.State.Danger, JobID: id},
		Workshop: s.WorkshopName(s.Settings(c)), Contact: j.Contact, Serial: j.Machine.Serial, Complaint: j.Complaint,
		Wish: kit.WishWords(j.Wish, j.Chassis), Condition: conditionWords(&j.Details.Condition),
		Looked: j.Details.Condition.Looked, Details: j.Details, Consents: kit.ConsentRows(j.Details.Consents),
		Printed: kit.Stamp(s.Shop.Now())}
	if v.Paper, err = s.PaperOf(c); err != nil {
		return err
	}
	if cents, ok := j.Wish.BudgetCents.Get(); ok {
		v.Budget = kit.BudgetWords(&how, cents)
	}
	if !j.Promised.IsZero() {
		v.Promised = j.Promised.Format("Mon 2 Jan, 15:04")
	}
	if sig := j.Details.Signature; sig != nil {
		v.SignedAt = kit.Stamp(sig.At)
	}
	if v.Path, v.Width, err = kit.Bars(v.Label); err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "intakesheet", "Intake "+v.Label, "machines", v)
}
