package counter

import (
	"net/http"
	"strconv"

	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/kit"
)

// jobListView is the list of jobs, open and closed.
type jobListView struct {
	kit.Listing
	Rows []jobListRow
}

type jobListRow struct {
	ID, CustomerID                                               int64
	Label, Key, Tag, Model, Customer, Complaint, Stands, TakenIn string
	Promised                                                     string
	Danger, Late                                                 bool
}

var jobSorts = []hw.Term[string]{{Word: "", Says: "newest first"}, {Word: "promised", Says: "by due time"},
	{Word: "customer", Says: "by customer"}, {Word: "machine", Says: "by machine"}}

func (s *pages) listJobs(c *echo.Context) error {
	v := jobListView{Listing: kit.ListingOf(c, kit.Wheres, jobSorts)}
	if id, ok := base.JobOfLabel(v.Query); ok {
		return kit.SeeOther(c, "/jobs/"+strconv.FormatInt(id, 10))
	}
	list, err := s.Shop.ListJobs(c.Request().Context(), v.ListQuery())
	if err != nil {
		return err
	}
	v.Found = list.Found
	now := s.Shop.Now()
	for i := range list.Jobs {
		j := &list.Jobs[i]
		row := jobListRow{ID: j.ID, CustomerID: j.CustomerID, Label: base.Label(j.ID), Key: j.Key, Tag: j.Tag, Model: j.Model,
			Customer: j.Customer, Complaint: j.Complaint, Stands: kit.StandsWords(&j.State, j.Closed, now), TakenIn: kit.Stamp(j.TakenIn),
			Danger: j.State.Danger != "" && j.Closed.IsZero()}
		if !j.Promised.IsZero() {
			row.Promised, row.Late = kit.Stamp(j.Promised), j.Closed.IsZero() && j.Promised.Before(now)
		}
		v.Rows = append(v.Rows, row)
	}
	return s.Render(c, http.StatusOK, "jobs", "Jobs", "bench", v)
}
