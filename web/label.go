package web

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/boombuler/barcode/code128"
	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop"
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

// quiet is how many modules stay white on either side of a code.
const quiet = 10

// bars draws a text as Code 128, one unit a module, in one path.
func bars(text string) (path string, width int, err error) {
	code, err := code128.Encode(text)
	if err != nil {
		return "", 0, err
	}
	n := code.Bounds().Dx()
	var b strings.Builder
	for x := 0; x < n; {
		run := x
		for run < n && isBar(code.At(run, 0).RGBA()) {
			run++
		}
		if run == x {
			x++
			continue
		}
		fmt.Fprintf(&b, "M%d 0h%dv30h-%dz", quiet+x, run-x, run-x)
		x = run
	}
	return b.String(), n + 2*quiet, nil
}

func isBar(r, _, _, _ uint32) bool { return r == 0 }

func (s *server) showLabel(c *echo.Context) error {
	id, err := jobID(c)
	if err != nil {
		return err
	}
	j, err := s.Shop.Job(c.Request().Context(), id)
	if err != nil {
		return err
	}
	v := labelView{Label: shop.Label(id), MachineID: j.Machine.ID, Model: j.Chassis.Name(), Customer: j.Customer,
		TakenIn: stamp(j.TakenIn), Danger: j.State.Danger, JobID: id}
	if !j.Promised.IsZero() {
		v.Promised = j.Promised.Format("Mon 2 Jan, 15:04")
	}
	if v.Path, v.Width, err = bars(v.Label); err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "label", "Label "+v.Label, "machines", v)
}

// intakeSheetView is the intake sheet: what was seen and agreed, to be signed.
type intakeSheetView struct {
	labelView
	Workshop, Contact, Serial, Complaint string
	Wish, Budget                         string
	Condition                            []string
	Looked                               bool
	Details                              shop.Details
	Consents                             []consentRow
	Paper, Printed, SignedAt             string
}

func (s *server) showIntakeSheet(c *echo.Context) error {
	id, err := jobID(c)
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
	v := intakeSheetView{labelView: labelView{Label: shop.Label(id), MachineID: j.Machine.ID, Model: j.Chassis.Name(),
		Customer: j.Customer, TakenIn: stamp(j.TakenIn), Danger: j.State.Danger, JobID: id},
		Workshop: s.workshop(s.settings(c)), Contact: j.Contact, Serial: j.Machine.Serial, Complaint: j.Complaint,
		Wish: wishWords(j.Wish, j.Chassis), Condition: conditionWords(&j.Details.Condition),
		Looked: j.Details.Condition.Looked, Details: j.Details, Consents: consentRows(j.Details.Consents),
		Printed: stamp(s.Shop.Now())}
	if v.Paper, err = s.paperOf(c); err != nil {
		return err
	}
	if cents, ok := j.Wish.BudgetCents.Get(); ok {
		v.Budget = hw.Money(how.Currency, cents)
	}
	if !j.Promised.IsZero() {
		v.Promised = j.Promised.Format("Mon 2 Jan, 15:04")
	}
	if sig := j.Details.Signature; sig != nil {
		v.SignedAt = stamp(sig.At)
	}
	if v.Path, v.Width, err = bars(v.Label); err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "intakesheet", "Intake "+v.Label, "machines", v)
}
