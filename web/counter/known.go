package counter

import (
	"encoding/json"
	"net/http"
	"strings"

	"yembo/shop/base"
	"yembo/shop/care"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/kit"
)

// knownView is everything that is held of one customer, to be read and printed.
type knownView struct {
	care.Known
	ID       int64
	Printed  string
	Machines []knownMachine
	Jobs     []knownJob
}

type knownMachine struct {
	care.KnownMachine
	Fitted []string
}

type knownJob struct {
	care.KnownJob
	Number      int64
	Wanted      string
	Conditions  []string
	Accessories string
	Consents    []string
}

func (s *pages) showKnown(c *echo.Context) error {
	id, err := kit.Number(c, "customer")
	if err != nil {
		return err
	}
	k, err := s.Shop.Known(c.Request().Context(), id, false)
	if err != nil {
		return err
	}
	v := knownView{Known: k, ID: id, Printed: kit.Stamp(s.Shop.Now())}
	for _, m := range k.Machines {
		v.Machines = append(v.Machines, knownMachine{m, fittedWords(m.Machine)})
	}
	for _, j := range k.Jobs {
		row := knownJob{KnownJob: j, Wanted: kit.WishWords(j.Wish, &hw.Chassis{}),
			Conditions:  conditionWords(&j.Details.Condition),
			Accessories: strings.Join(j.Details.Accessories, ", ")}
		row.Number, _ = base.JobOfLabel(j.Label)
		for _, code := range j.Details.Consents {
			row.Consents = append(row.Consents, code.Row().Says)
		}
		v.Jobs = append(v.Jobs, row)
	}
	return s.Render(c, http.StatusOK, "known", "Data held on "+k.Name, "customers", v)
}

// exportKnown writes the same as a document, with the pictures.
func (s *pages) exportKnown(c *echo.Context) error {
	id, err := kit.Number(c, "customer")
	if err != nil {
		return err
	}
	k, err := s.Shop.Known(c.Request().Context(), id, true)
	if err != nil {
		return err
	}
	doc, err := json.MarshalIndent(k, "", "  ")
	if err != nil {
		return err
	}
	return kit.SendFile(c, "customer-"+c.Param("customer")+".json", "application/json", doc)
}
