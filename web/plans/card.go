package plans

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/kit"
)

// cardView is the work card: everything the option does, in the order of the hands, and a
// place for signatures. It is printed in black and white.
type cardView struct {
	*card.Card
	Job, Key, MachineID, Model, Code, Serial string
	Customer, Contact, Complaint             string
	Paper                                    string // a4 or letter
	Does, Minutes, Total, Memory             string
	Data                                     []string // of drives that are failing: before anything else
	Consents                                 []string // that are still open
	Warnings                                 []plan.Warning
	Cautions                                 []string
	Long                                     bool // the way back is on a sheet of its own
	ChosenBy, ChosenAt, Printed              string
	Gone                                     bool // the chosen option is not among the plan's any more
}

// longJob is how many lines stand on one sheet, as measured on the demo's cards; with more
// the way back is printed on a sheet of its own.
const longJob = 104

// linesOf estimates how many lines of half a sheet's width a card takes.
func linesOf(c *card.Card) int {
	lines := 0
	say := func(words string) { lines += 1 + len(words)/52 }
	for _, list := range [][]card.Step{c.Down, c.Up} {
		for _, st := range list {
			say(st.Does)
			for _, x := range append(append([]string{st.Why, strings.Join(st.How, "; ")}, st.Screws...), st.Mind...) {
				if x != "" {
					say(x)
				}
			}
		}
	}
	for _, f := range c.Fit {
		say(f.What)
		for _, x := range f.How {
			say(x)
		}
	}
	for _, x := range append(append([]string{}, c.FirstStart...), c.StaysOut...) {
		say(x)
	}
	return lines + len(c.Old)
}

func (s *pages) showCard(c *echo.Context) error {
	id := c.Param("id")
	r, err := s.Shop.Machine(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if r.Choice == nil {
		return s.planPage(c, id, http.StatusConflict,
			"No option is chosen yet. Choose one, then its work card can be printed.", c.QueryParams())
	}
	p, err := s.Shop.Plan(c.Request().Context(), id, queryOf(r.Choice))
	if err != nil {
		return err
	}
	v, err := buildCard(c.Request().Context(), &p)
	if err != nil {
		return err
	}
	if v.Paper, err = s.PaperOf(c); err != nil {
		return err
	}
	v.Printed = kit.Stamp(s.Shop.Now())
	return s.Render(c, http.StatusOK, "card", "Work card for "+v.MachineID, "machines", v)
}

// queryOf asks for the plan that a choice was made from: under its practice, and with the
// same combination where it was put together by hand.
func queryOf(c *base.Choice) jobs.PlanQuery {
	q := jobs.PlanQuery{Practice: &c.Practice}
	if c.Option.ID != jobs.OwnID {
		return q
	}
	q.Own = map[string]string{}
	for _, a := range c.Option.Actions {
		switch {
		case a.Do == plan.DoRemove:
			q.Own[a.Place] = plan.Removed
		case a.Part != "":
			q.Own[a.Place] = a.Part
		}
	}
	return q
}

func buildCard(ctx context.Context, p *jobs.Planned) (cardView, error) {
	r, o := &p.Record, p.Record.Choice.Option
	v := cardView{Key: r.Key, MachineID: r.Machine.ID, Model: r.Chassis.Name(), Code: r.Chassis.Code,
		Serial: r.Machine.Serial, Customer: r.Customer,
		Contact: r.Contact, Complaint: r.Complaint, Minutes: o.Minutes.String(),
		Total: hw.Money(r.Choice.Currency, o.TotalCents),
		Does:  kit.ChosenWords(r.Choice), ChosenBy: r.ChosenBy, ChosenAt: kit.Stamp(r.ChosenAt), Warnings: o.Warnings,
		Data: jobs.DataFirst(r.Machine),
		Gone: true}
	if r.JobID != 0 {
		v.Job = base.Label(r.JobID)
	}
	for i := range p.Plan.Options {
		if isChosen(r.Choice, &p.Plan.Options[i]) {
			v.Gone = false
		}
	}
	if p.Own != nil && len(p.Against) == 0 && isChosen(r.Choice, p.Own) {
		v.Gone = false
	}
	if o.Memory != nil {
		v.Memory, _ = memoryWords(o.Memory)
	}
	for _, code := range o.Consents {
		if !slices.Contains(r.Details.Consents, code) {
			v.Consents = append(v.Consents, code.Row().Says)
		}
	}
	var err error
	v.Card, err = card.Of(
		ctx,
		card.Job{
			Chassis: r.Chassis,
			Machine: r.Machine,
			Parts:   p.Parts,
			Printed: p.Settings.Loosen == base.LoosenPrinted,
			Trial:   p.Settings.TrialOf(),
		},
		&o,
	)
	if err != nil {
		return v, err
	}
	v.Long = linesOf(v.Card) > longJob
	v.Cautions = card.Cautions(r.Chassis)
	return v, nil
}
