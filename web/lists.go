package web

import (
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop"
)

// listing is what a list is asked for, all of it in its address, and which page of it is shown.
type listing struct {
	Path               string
	Query, Where, Sort string
	Wheres, Sorts      []hw.Term[string] // the choices
	Page, Found        int
	asked              url.Values
}

// wheres are where jobs may stand, as lists are asked for it.
var wheres = []hw.Term[string]{{Word: "open", Says: "open"}, {Word: "ready", Says: "waiting for us"},
	{Word: "bench", Says: "on a bench"}, {Word: "customer", Says: "waiting for the customer"},
	{Word: "parts", Says: "waiting for parts"}, {Word: "danger", Says: "stopped"}, {Word: "closed", Says: "closed"}}

// listingOf reads what a list is asked for.
func listingOf(c *echo.Context, wheres, sorts []hw.Term[string]) listing {
	asked := c.QueryParams()
	l := listing{Path: c.Request().URL.Path, Query: strings.TrimSpace(asked.Get("q")), Where: asked.Get("where"), Sort: asked.Get("sort"),
		Wheres: wheres, Sorts: sorts, asked: asked}
	l.Page, _ = strconv.Atoi(asked.Get("page"))
	l.Page = min(max(l.Page, 1), 100_000)
	return l
}

func (l listing) query() shop.ListQuery {
	return shop.ListQuery{Words: l.Query, Where: l.Where, Sort: l.Sort, Page: l.Page}
}

// Narrowed reports whether the list shows some of its rows alone.
func (l listing) Narrowed() bool { return l.Query != "" || l.Where != "" }

// From and To are the numbers of the rows that the page shows.
func (l listing) From() int { return (l.Page-1)*shop.RowsOfPage + 1 }
func (l listing) To() int   { return min(l.Page*shop.RowsOfPage, l.Found) }

// Earlier and Later are the addresses of the pages beside it, "" for none.
func (l listing) Earlier() string {
	if l.Page == 1 {
		return ""
	}
	return l.at(min(l.Page-1, max(1, (l.Found+shop.RowsOfPage-1)/shop.RowsOfPage)))
}

func (l listing) Later() string {
	if l.To() >= l.Found {
		return ""
	}
	return l.at(l.Page + 1)
}

func (l listing) at(page int) string {
	to := url.Values{}
	for name, list := range l.asked {
		if name != "page" && list[0] != "" {
			to[name] = list
		}
	}
	if page > 1 {
		to.Set("page", strconv.Itoa(page))
	}
	if len(to) == 0 {
		return l.Path
	}
	return l.Path + "?" + to.Encode()
}

// fromWhen says since when something is so, the way people say it.
func fromWhen(t, now time.Time) string {
	switch days := dayNumber(now) - dayNumber(t); {
	case t.IsZero():
		return ""
	case days == 0:
		return " since " + t.Format("15:04")
	case days > 0 && days < 7:
		return " since " + t.Format("Mon")
	default:
		return " since " + hw.Day(t.Format(time.DateOnly))
	}
}

// standsWords says where a job stands and since when: "waits for parts since Tue".
func standsWords(st *shop.State, closed, now time.Time) string {
	switch {
	case !closed.IsZero():
		return "closed " + hw.Day(closed.Format(time.DateOnly))
	case st.Danger != "":
		return "stopped: " + st.Danger
	case st.Waits == "" && st.Proven != nil:
		return "proven, to be handed over"
	case st.Waits == "" && st.Worked != nil:
		return "the work is done, to be proven"
	case st.Declined != nil:
		return "declined, to be handed back"
	case st.Running != nil:
		return "on bench " + strconv.Itoa(st.Bench) + fromWhen(*st.Running, now)
	case st.Waits == shop.WaitsParts:
		return "waits for parts" + fromWhen(st.Since, now)
	case st.Waits != "":
		return "waits for the customer" + fromWhen(st.Since, now)
	}
	return "waits for us" + fromWhen(st.Since, now)
}

// jobListView is the list of jobs, open and closed.
type jobListView struct {
	listing
	Rows []jobListRow
}

type jobListRow struct {
	ID, CustomerID                                               int64
	Label, Key, Tag, Model, Customer, Complaint, Stands, TakenIn string
	Promised                                                     string
	Danger, Late                                                 bool
}

var jobSorts = []hw.Term[string]{{Word: "", Says: "newest first"}, {Word: "promised", Says: "promised first"},
	{Word: "customer", Says: "by customer"}, {Word: "machine", Says: "by machine"}}

func (s *server) listJobs(c *echo.Context) error {
	v := jobListView{listing: listingOf(c, wheres, jobSorts)}
	if id, ok := shop.JobOfLabel(v.Query); ok {
		return seeOther(c, "/jobs/"+strconv.FormatInt(id, 10))
	}
	list, err := s.Shop.ListJobs(c.Request().Context(), v.query())
	if err != nil {
		return err
	}
	v.Found = list.Found
	now := s.Shop.Now()
	for i := range list.Jobs {
		j := &list.Jobs[i]
		row := jobListRow{ID: j.ID, CustomerID: j.CustomerID, Label: shop.Label(j.ID), Key: j.Key, Tag: j.Tag, Model: j.Model,
			Customer: j.Customer, Complaint: j.Complaint, Stands: standsWords(&j.State, j.Closed, now), TakenIn: stamp(j.TakenIn),
			Danger: j.State.Danger != "" && j.Closed.IsZero()}
		if !j.Promised.IsZero() {
			row.Promised, row.Late = stamp(j.Promised), j.Closed.IsZero() && j.Promised.Before(now)
		}
		v.Rows = append(v.Rows, row)
	}
	return s.render(c, http.StatusOK, "jobs", "Jobs", "bench", v)
}
