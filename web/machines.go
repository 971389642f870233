package web

import (
	"errors"
	"net/http"

	"github.com/labstack/echo/v5"

	"yembo/shop"
)

type machineRow struct {
	Key                         string // of its address
	ID, Model, Customer, Serial string
	CustomerID, JobID           int64
	Label, Wish, State, TakenIn string
	Danger                      bool
}

type machineList struct {
	Query string
	Rows  []machineRow
	All   int
	More  bool
}

func (s *server) listMachines(c *echo.Context) error {
	view := machineList{Query: c.QueryParam("q")}
	list, err := s.Shop.Machines(c.Request().Context(), view.Query)
	if err != nil {
		return err
	}
	view.All, view.More, view.Rows = list.All, list.More, machineRows(list.Machines)
	return s.render(c, http.StatusOK, "machines", "Machines", "machines", view)
}

func machineRows(list []shop.MachineRow) []machineRow {
	var out []machineRow
	for i := range list {
		r := &list[i]
		row := machineRow{Key: r.Key, ID: r.ID, Model: r.Model, Customer: r.Customer, CustomerID: r.CustomerID,
			Serial: r.Serial,
			Wish:   wishWords(r.Wish, nil), TakenIn: stamp(r.TakenIn), JobID: r.JobID}
		if r.JobID != 0 {
			row.Label = shop.Label(r.JobID)
		}
		switch {
		case r.Danger != "" && r.Closed.IsZero():
			row.State, row.Danger = "stopped: "+r.Danger, true
		case r.JobID == 0:
			row.State = "no job"
		case !r.Closed.IsZero():
			row.State = "closed " + r.Closed.Format("2 Jan 06")
		default:
			row.State = "open"
		}
		out = append(out, row)
	}
	return out
}

func (s *server) choose(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	id := c.Param("id")
	ctx := c.Request().Context()
	st := readState(c, c.Request().PostForm)
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	st.query.Practice = st.practice(how.Practice)
	_, err = s.Shop.Choose(ctx, s.actor(c), c.FormValue("token"), id, c.FormValue("option"), st.query)
	if errors.Is(err, shop.ErrDanger) {
		return s.planPage(c, id, http.StatusConflict, "Nothing was stored: the machine is to be made safe first.",
			st.values)
	}
	if errors.Is(err, shop.ErrPlanChanged) {
		return s.planPage(c, id, http.StatusConflict,
			"The plan changed since this page was shown: a part, the record or the practice is another now. Nothing "+
				"was stored; this is the plan as it stands.", st.values)
	}
	if err != nil {
		return err
	}
	return seeOther(c, "/machines/"+id+"/card")
}
