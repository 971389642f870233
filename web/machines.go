package web

import (
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop"
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
	listing
	Rows []machineRow
	All  int
}

var machineSorts = []hw.Term[string]{{Word: "", Says: "newest first"}, {Word: "promised", Says: "promised first"},
	{Word: "tag", Says: "by name"}, {Word: "customer", Says: "by customer"}, {Word: "model", Says: "by model"}}

func (s *server) listMachines(c *echo.Context) error {
	view := machineList{listing: listingOf(c, append(slices.Clone(wheres), hw.Term[string]{Word: "none", Says: "without a job"}), machineSorts)}
	list, err := s.Shop.ListMachines(c.Request().Context(), view.query())
	if err != nil {
		return err
	}
	view.All, view.Found, view.Rows = list.All, list.Found, machineRows(list.Machines, s.Shop.Now())
	return s.render(c, http.StatusOK, "machines", "Machines", "machines", view)
}

func machineRows(list []shop.MachineRow, now time.Time) []machineRow {
	var out []machineRow
	for i := range list {
		r := &list[i]
		row := machineRow{Key: r.Key, ID: r.ID, Model: r.Model, Customer: r.Customer, CustomerID: r.CustomerID,
			Serial: r.Serial, Wish: wishWords(r.Wish, nil), TakenIn: stamp(r.TakenIn), JobID: r.JobID, State: "no job",
			Danger: r.State.Danger != "" && r.Closed.IsZero()}
		if r.JobID != 0 {
			row.Label, row.State = shop.Label(r.JobID), standsWords(&r.State, r.Closed, now)
		}
		if !r.Promised.IsZero() && r.Closed.IsZero() {
			row.Promised, row.Late = stamp(r.Promised), r.Promised.Before(now)
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
	_, err = s.Shop.Choose(ctx, s.actor(c), c.FormValue("token"), id, c.FormValue("option"), c.FormValue("seen"), st.query)
	var agreed shop.Agreed
	var overtaken shop.Overtaken
	if errors.As(err, &agreed) {
		st.agreed = &agreedView{
			Label:  agreed.Quote.Label(),
			Quote:  agreed.Quote.ID,
			Option: shop.Fingerprint(agreed.Option),
			Words:  agreed.Words,
			Cost:   hw.Money(how.Currency, agreed.Option.TotalCents),
		}
		alt := agreed.Quote.Doc.Alternative(agreed.Quote.Given.Letter)
		st.agreed.Was, st.agreed.WasCost = alt.Letter+": "+alt.Name, hw.Money(agreed.Quote.Doc.Currency, alt.Sum.Total)
		return s.planPageOf(c, id, http.StatusConflict, "", &st)
	}
	if errors.As(err, &overtaken) {
		return s.planPage(
			c,
			id,
			http.StatusConflict,
			"Nothing was stored: "+overtaken.Error()+". Look at it, and choose again if yours is to stand.",
			st.values,
		)
	}
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
