package kit

import (
	"net/url"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
)

// Listing is what a list is asked for, all of it in its address, and which page of it is shown.
type Listing struct {
	Path               string
	Query, Where, Sort string
	Wheres, Sorts      []hw.Term[string] // the choices
	Page, Found        int
	asked              url.Values
}

// Wheres are where jobs may stand, as lists are asked for it.
var Wheres = []hw.Term[string]{{Word: "open", Says: "open"}, {Word: "ready", Says: "waiting for us"},
	{Word: "bench", Says: "on a bench"}, {Word: "customer", Says: "waiting for the customer"},
	{Word: "parts", Says: "waiting for parts"}, {Word: "danger", Says: "stopped"}, {Word: "closed", Says: "closed"}}

// ListingOf reads what a list is asked for.
func ListingOf(c *echo.Context, wheres, sorts []hw.Term[string]) Listing {
	asked := c.QueryParams()
	l := Listing{
		Path:   c.Request().URL.Path,
		Query:  strings.TrimSpace(asked.Get("q")),
		Where:  asked.Get("where"),
		Sort:   asked.Get("sort"),
		Wheres: wheres,
		Sorts:  sorts,
		asked:  asked,
	}
	l.Page, _ = strconv.Atoi(asked.Get("page"))
	l.Page = min(max(l.Page, 1), 100_000)
	return l
}

func (l Listing) ListQuery() base.ListQuery {
	return base.ListQuery{Words: l.Query, Where: l.Where, Sort: l.Sort, Page: l.Page}
}

// Narrowed reports whether the list shows some of its rows alone.
func (l Listing) Narrowed() bool { return l.Query != "" || l.Where != "" }

// From and To are the numbers of the rows that the page shows.
func (l Listing) From() int { return (l.Page-1)*base.RowsOfPage + 1 }

func (l Listing) To() int { return min(l.Page*base.RowsOfPage, l.Found) }

// Earlier and Later are the addresses of the pages beside it, "" for none.
func (l Listing) Earlier() string {
	if l.Page == 1 {
		return ""
	}
	return l.at(min(l.Page-1, max(1, (l.Found+base.RowsOfPage-1)/base.RowsOfPage)))
}

func (l Listing) Later() string {
	if l.To() >= l.Found {
		return ""
	}
	return l.at(l.Page + 1)
}

func (l Listing) at(page int) string {
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
	switch days := DayNumber(now) - DayNumber(t); {
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

// StandsWords says where a job stands and since when: "waits for parts since Tue".
func StandsWords(st *jobs.State, closed, now time.Time) string {
	switch {
	case !closed.IsZero():
		return "closed " + hw.Day(closed.Format(time.DateOnly))
	case st.Danger != "":
		return "stopped: " + st.Danger
	case st.Waits == "" && st.Proven != nil:
		return "signed off, ready for hand-over"
	case st.Waits == "" && st.Worked != nil:
		return "work done, proof to do"
	case st.Declined != nil:
		return "declined, to be handed back"
	case st.Running != nil:
		return "on bench " + strconv.Itoa(st.Bench) + fromWhen(*st.Running, now)
	case st.Away != nil:
		return "the machine is not here yet"
	case st.Waits == jobs.WaitsParts:
		return "waits for parts" + fromWhen(st.Since, now)
	case st.Waits != "":
		return "waits for the customer" + fromWhen(st.Since, now)
	}
	return "waits for us" + fromWhen(st.Since, now)
}
