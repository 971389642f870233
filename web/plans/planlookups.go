package plans

import (
	"net/http"
	"net/url"
	"slices"
	"strings"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/form"
	"yembo/web/kit"
)

// lookupRow is something better that the record lists and no part of the shelf is.
type lookupRow struct {
	Kind          hw.PartKind
	Wanted, Gives string
	Also          string
	Sought        bool // it is on the list to find already
}

// lookFor fills in what would have to be found, and what the customer brings.
func (v *planView) lookFor(p *jobs.Planned) {
	for _, l := range plan.Lookups(p.Input()) {
		v.Lookups = append(v.Lookups, lookupRow{l.Kind, l.Wanted, l.Gives, strings.Join(l.Also, ", "),
			slices.Contains(p.Sought, l.Wanted)})
	}
	for i := range p.Parts.Parts {
		if x := &p.Parts.Parts[i]; x.Brought() {
			v.Brought = append(v.Brought, kit.PartChoice{ID: x.ID, Name: x.Name})
		}
	}
}

// bringPart keeps a part that the customer brings for their machine.
func (s *pages) bringPart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	_, err = s.Shop.BringPart(c.Request().Context(), s.Acting(c), f.Text("token"), c.Param("id"), f.Text("/brings"))
	if err == nil {
		return kit.SeeOther(c, "/machines/"+c.Param("id")+"#brings")
	}
	if !f.Take(err) {
		return err
	}
	return s.planPage(c, c.Param("id"), http.StatusUnprocessableEntity,
		"The part that the customer brings is not kept: "+
			strings.Join(f.Errors("/brings"), "; ")+". You typed: "+f.Text("/brings"), url.Values{})
}
