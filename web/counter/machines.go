package counter

import (
	"net/http"
	"slices"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/kit"
)

type machineRow struct {
	Key                         string // of its address
	ID, Model, Customer, Serial string
	CustomerID, JobID           int64
	Label, Wish, State, TakenIn string
	Promised                    string
	Danger, Late                bool
}

type machineList struct {
	kit.Listing
	Rows []machineRow
	All  int
}

var machineSorts = []hw.Term[string]{{Word: "", Says: "newest first"}, {Word: "promised", Says: "by due time"},
	{Word: "tag", Says: "by name"}, {Word: "customer", Says: "by customer"}, {Word: "model", Says: "by model"}}

func (s *pages) listMachines(c *echo.Context) error {
	view := machineList{
		Listing: kit.ListingOf(
			c,
			append(slices.Clone(kit.Wheres), hw.Term[string]{Word: "none", Says: "without a job"}),
			machineSorts,
		),
	}
	list, err := s.Shop.ListMachines(c.Request().Context(), view.ListQuery())
	if err != nil {
		return err
	}
	view.All, view.Found, view.Rows = list.All, list.Found, machineRows(list.Machines, s.Shop.Now())
	return s.Render(c, http.StatusOK, "machines", "Machines", "machines", view)
}

func machineRows(list []jobs.MachineRow, now time.Time) []machineRow {
	var out []machineRow
	for i := range list {
		r := &list[i]
		row := machineRow{Key: r.Key, ID: r.ID, Model: r.Model, Customer: r.Customer, CustomerID: r.CustomerID,
			Serial: r.Serial, Wish: kit.WishWords(r.Wish, nil), TakenIn: kit.Stamp(r.TakenIn), JobID: r.JobID, State: "no job",
			Danger: r.State.Danger != "" && r.Closed.IsZero()}
		if r.JobID != 0 {
			row.Label, row.State = base.Label(r.JobID), kit.StandsWords(&r.State, r.Closed, now)
		}
		if !r.Promised.IsZero() && r.Closed.IsZero() {
			row.Promised, row.Late = kit.Stamp(r.Promised), r.Promised.Before(now)
		}
		out = append(out, row)
	}
	return out
}
