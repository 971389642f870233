package week

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// weekView is the page of a week.
type weekView struct {
	*form.Form
	Title, Summary      string
	Before, Next        string // the weeks beside it, as dates
	BeforeSays, NxtSays string
	At                  string // the week's first day
	Day                 string // that is shown alone on a narrow page
	Days                []dayTab
	Draw, DrawDay       *draw.Week
	Decide              []decideView
	Risk                []taskView
	Chosen              *chosenView
	Arrivals            []arrivalView
	Unplaced            []taskView
	Refused             []taskView
	Waiting             int  // changes that are not shown to all yet
	ShownEver           bool // the week was shown to all once
	ShownSays           string
	CanUndo, CanRedo    bool
	Alone               bool // one person, for whom nothing has to be shown
	Empty               bool
	Danger              []taskView
	Passed              []taskView // that were not promised, and others that came later went first
	Mark                string     // of how the week stands
}

// dayTab is a day that a narrow page shows alone.
type dayTab struct {
	Date, Says string
	Is         bool
}

// taskView is a job with something to be told of it.
type taskView struct {
	Job           int64
	Machine, Says string
	Do, Link      string
}

// decideView is a promise that cannot be kept: why, what could be promised instead, and whom to ring.
type decideView struct {
	Job               int64
	Machine, Promised string
	Late              string
	Rows              []kit.ReasonRow
	From              time.Time
	Honest, Typed     string // what could be promised, in words and as it is sent
	Seen              string // what is promised now
	Customer, Contact string
	CustomerID        int64
	Who, Said         string
	Sent              bool   // it was sent, and stands against something
	AtLeast           string // it is ready then at the least: nothing is chosen, and nothing can be promised
	Plan              string // where something is chosen
}

// offerView is a place that a job may take.
type offerView struct {
	N              int // as the drawing has it
	Bench          int
	Person         string
	Start, Says    string
	Promise, Typed string
}

// chosenView is the job that is looked at: where it stands, why, and where else it could go.
type chosenView struct {
	Job             int64
	Machine, Model  string
	Does            string
	Stands, Ready   string
	Promised, Slack string
	Pin             string
	Seen            int64
	Offers          []offerView
	Rows            []kit.ReasonRow
	From            time.Time
	Benches         []int
	Bench           int
	Start, Person   string
	People          []string
	CanMove         bool
	Why             string // it cannot be moved
	Link            string
}

// arrivalView is an order that comes.
type arrivalView struct {
	Order          int64
	When, Supplier string
	What, For      string
	Sure, Late     bool
}

// monday is the first day of the week of a time.
func monday(t time.Time) time.Time {
	day := time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, t.Location())
	return day.AddDate(0, 0, -(int(day.Weekday())+6)%7)
}

// askedWeek is the week that an address asks for, this one where it asks for none.
func askedWeek(c *echo.Context, now time.Time) time.Time {
	at, err := time.ParseInLocation(time.DateOnly, c.QueryParam("at"), now.Location())
	if err != nil || at.Sub(now).Abs() > 400*24*time.Hour {
		return monday(now)
	}
	return monday(at)
}

func (s *pages) showWeek(c *echo.Context) error {
	return s.weekPage(c, http.StatusOK, form.New(nil), c.QueryParam("job"))
}

// weekPage shows a week, with a job looked at, and a form that was sent and stands against something.
func (s *pages) weekPage(c *echo.Context, status int, f *form.Form, job string) error {
	ctx := c.Request().Context()
	w, err := s.Shop.Week(ctx)
	if err != nil {
		return err
	}
	first := askedWeek(c, w.Now)
	me := s.Acting(c).Name
	v := weekView{Form: f, Title: "Week of " + first.Format("2 January"), At: first.Format(time.DateOnly),
		Before: first.AddDate(0, 0, -7).Format(time.DateOnly), Next: first.AddDate(0, 0, 7).Format(time.DateOnly),
		BeforeSays: first.AddDate(0, 0, -7).Format("2 Jan"), NxtSays: first.AddDate(0, 0, 7).Format("2 Jan"),
		Waiting: len(w.Changes), ShownEver: w.Arr.Shown != nil, Alone: len(w.How.AtBench) <= 1, Empty: len(w.Rows) == 0,
		Mark: markOf(&w)}
	if v.ShownEver {
		v.ShownSays = base.TimeWords(w.Arr.Shown.At) + " by " + w.Arr.Shown.By
	}
	v.CanUndo, v.CanRedo = w.CanUndo(me)
	chosen, _ := strconv.ParseInt(job, 10, 64) // what is no number is no job
	in := drawn(&w, first, chosen)
	if r := w.Jobs[strconv.FormatInt(chosen, 10)]; r != nil {
		when, err := s.Shop.WhenOf(ctx, chosen, true)
		if err != nil {
			return err
		}
		v.Chosen = chosenOf(&w, r, &when, f)
		if r.Movable() {
			in.Proposed = proposed(r, &when)
		}
	}
	v.Draw = draw.DrawWeek(in)
	s.dayAlone(c, &v, in, &w)
	v.decide(&w, f)
	v.others(&w)
	v.Summary = summary(&w, len(v.Decide))
	return s.Render(c, status, "week", v.Title, "bench", v)
}

// dayAlone is the day that a narrow page shows.
func (s *pages) dayAlone(c *echo.Context, v *weekView, in *draw.WeekIn, w *jobs.WeekPlan) {
	v.Day = c.QueryParam("day")
	if v.Day == "" {
		v.Day = w.Now.Format(time.DateOnly)
	}
	at := slices.IndexFunc(in.Days, func(d draw.WeekDay) bool { return d.From.Format(time.DateOnly) >= v.Day })
	if at < 0 {
		at = 0
	}
	for i, d := range in.Days {
		v.Days = append(v.Days, dayTab{d.From.Format(time.DateOnly), d.From.Format("Mon 2"), i == at})
	}
	if len(in.Days) > 0 {
		one := *in
		one.Width, one.Days = 362, in.Days[at:at+1]
		v.Day = in.Days[at].From.Format(time.DateOnly)
		v.DrawDay = draw.DrawWeek(&one)
	}
}

// summary says in a line what is to be decided.
func summary(w *jobs.WeekPlan, broken int) string {
	planned := 0
	for i := range w.Rows {
		if w.Rows[i].Plan != nil {
			planned++
		}
	}
	out := fmt.Sprintf("%s planned on %s.", hw.Count(planned, "job", "jobs"), hw.Count(w.How.FloorOf().Benches, "bench", "benches"))
	if broken > 0 {
		out += " " + hw.Count(broken, "promise", "promises") + " cannot be kept."
	}
	if n := len(w.Made.Unplaced); n > 0 {
		out += fmt.Sprintf(" %s a date yet.", hw.Count(n, "job is without", "jobs are without"))
	}
	return out
}

// spansOf are the parts of a job's place, for the drawing.
func spansOf(w *jobs.WeekPlan, r *jobs.BenchRow) []draw.WeekSpan {
	var out []draw.WeekSpan
	stretches := w.Stretches(r.JobID)
	for i, s := range r.Plan.Stretches {
		from, errFrom := time.Parse(time.RFC3339, s.Start)
		to, errTo := time.Parse(time.RFC3339, s.End)
		if errFrom != nil || errTo != nil || i >= len(stretches) {
			continue
		}
		if from = from.Local(); i == 0 && r.Class == jobs.ClassRunning {
			from = r.Start
		}
		kind := stretches[i].What
		if stretches[i].Aside && kind != jobs.DoProof {
			kind = "aside"
		}
		out = append(out, draw.WeekSpan{Kind: kind, From: from, To: to.Local()})
	}
	return out
}

// lateWords are a length of open time.
func lateWords(minutes int) string {
	if minutes < 60 {
		return fmt.Sprintf("%d min", minutes)
	}
	if minutes%60 == 0 {
		return fmt.Sprintf("%d h", minutes/60)
	}
	return fmt.Sprintf("%d h %d min", minutes/60, minutes%60)
}

// drawn is a week as it is drawn: its open days, and those on which something stands though it is closed.
func drawn(w *jobs.WeekPlan, first time.Time, chosen int64) *draw.WeekIn {
	in := &draw.WeekIn{Now: w.Now, Width: 1206}
	floor := w.How.FloorOf()
	used := map[string]time.Duration{}
	for i := range w.Rows {
		if r := &w.Rows[i]; r.Plan != nil {
			for _, s := range spansOf(w, r) {
				if s.Kind != "aside" {
					used[s.From.Format(time.DateOnly)] += s.To.Sub(s.From)
				}
			}
		}
	}
	open := 0
	for i := range 7 {
		day := first.AddDate(0, 0, i)
		spans, why := w.How.OpenOn(day)
		date := day.Format(time.DateOnly)
		if len(spans) == 0 && why == "" && used[date] == 0 {
			continue
		}
		d := draw.WeekDay{From: base.AtHour(day, floor.Opens), To: base.AtHour(day, floor.Closes)}
		if len(spans) == 0 {
			d.Shut = hw.UpperFirst(base.OrWord(why, "closed"))
		}
		minutes := 0
		for _, x := range spans {
			minutes += base.SpanMinutes(x)
		}
		open += minutes
		d.Taken = fmt.Sprintf("%s of %s", clockLong(used[date]), clockLong(time.Duration(minutes*floor.Benches)*time.Minute))
		in.Days = append(in.Days, d)
	}
	people := make([]map[string]bool, floor.Benches)
	for i := range w.Rows {
		r := &w.Rows[i]
		if r.Plan == nil || r.Bench < 1 || r.Bench > floor.Benches {
			continue
		}
		if people[r.Bench-1] == nil {
			people[r.Bench-1] = map[string]bool{}
		}
		if r.By != "" {
			people[r.Bench-1][r.By] = true
		}
		id := r.Record.Machine.ID
		_, pinned := w.Arr.Pins[r.JobID]
		d := draw.WeekDive{Job: r.JobID, Label: id, Lane: r.Bench - 1, Steps: r.Steps, Spans: spansOf(w, r),
			Running: r.Class == jobs.ClassRunning, Pinned: pinned, Chosen: r.JobID == chosen, Broken: r.Stands == week.Broken,
			Seen:    w.LastMove(r.JobID),
			Movable: r.Movable(),
			Title:   fmt.Sprintf("%s: bench %d, %s to %s", id, r.Bench, kit.ClockFrom(r.Start, w.Now), kit.ClockFrom(r.Until, w.Now))}
		if r.By != "" {
			d.Title += ", " + r.By
		}
		in.Dives = append(in.Dives, d)
		in.Flags = append(in.Flags, flagsOf(r)...)
	}
	for b := range floor.Benches {
		lane := draw.WeekLane{Name: fmt.Sprintf("Bench %d", b+1)}
		var names []string
		for name := range people[b] {
			names = append(names, name)
		}
		slices.Sort(names)
		if len(names) == 1 && len(w.How.AtBench) > 1 {
			lane.Sub = names[0]
		}
		in.Lanes = append(in.Lanes, lane)
	}
	if n := len(in.Lanes); n > 0 {
		in.Lanes[n-1].Away = away(w, in.Days)
	}
	for i := range w.Arrivals {
		if a := &w.Arrivals[i]; a.Due != "" && !a.Late {
			at, timed, ok := a.Due.At(w.Now.Location())
			if !timed {
				at = base.AtHour(at, floor.Closes) // by the end of that day
			}
			if n := len(in.Days); !ok || n == 0 || at.After(in.Days[n-1].To) || at.Before(in.Days[0].From) {
				continue // another week's
			}
			p := draw.WeekParcel{Order: a.Order, At: at, Label: fmt.Sprint(a.Order),
				What: strings.Join(a.What, ", "), Jobs: a.For, Link: fmt.Sprintf("/orders/%d", a.Order)}
			if a.Order == 0 {
				p.Label, p.Link = "parts", fmt.Sprintf("/jobs/%d", a.For[0])
			}
			in.Parcels = append(in.Parcels, p)
		}
	}
	return in
}

// proposed are the places that a job could have beside the one that it has, for the drawing.
func proposed(r *jobs.BenchRow, when *jobs.When) []draw.WeekProposed {
	var out []draw.WeekProposed
	for i, o := range when.Offers {
		if o.Start.Equal(r.Start) && o.Bench == r.Bench {
			continue
		}
		out = append(out, draw.WeekProposed{Label: strconv.Itoa(i + 1), Lane: o.Bench - 1, Steps: r.Steps, From: o.Start,
			To: o.Start.Add(time.Duration(when.Stretches[0].Planned()) * time.Minute), Promise: o.Honest})
	}
	return out
}

// flagsOf are what was promised of a job, and what could be instead.
func flagsOf(r *jobs.BenchRow) []draw.WeekFlag {
	if r.Record.Promised.IsZero() {
		return nil
	}
	f := draw.WeekFlag{Job: r.JobID, Label: r.Record.Machine.ID, Lane: r.Bench - 1, At: r.Record.Promised, Kind: string(r.Stands),
		Ready: r.Ready}
	if r.Stands != week.Broken {
		return []draw.WeekFlag{f}
	}
	if r.Plan.Late != nil {
		f.Late = "too late by " + lateWords(*r.Plan.Late)
	}
	honest := f
	honest.Kind, honest.At, honest.Ready = "honest", r.Honest, r.Honest
	return []draw.WeekFlag{f, honest}
}

// away is when somebody of a shop of several is not there, by their names; why stays where it is kept.
func away(w *jobs.WeekPlan, days []draw.WeekDay) []draw.WeekAway {
	if len(w.How.AtBench) < 2 {
		return nil
	}
	var out []draw.WeekAway
	for _, d := range days {
		date := d.From.Format(time.DateOnly)
		for _, s := range w.How.Away {
			if s.From <= date && date <= s.To && slices.Contains(w.How.AtBench, s.Who) && d.Shut == "" {
				out = append(out, draw.WeekAway{From: d.From, To: d.To, Words: s.Who + " away"})
			}
		}
	}
	return out
}

// clockLong is a length of time as hours and minutes.
func clockLong(d time.Duration) string {
	m := int(d.Minutes())
	return fmt.Sprintf("%d:%02d", m/60, m%60)
}

// answered goes back to the week after something was done; what stands against it is shown at its field, what another has done
// meanwhile in words.
func (s *pages) answered(c *echo.Context, f *form.Form, err error) error {
	job := f.Text("job")
	var moved jobs.ErrMoved
	switch {
	case err == nil && f.Count() == 0:
		to := "/week?at=" + f.Text("at") + "&day=" + f.Text("day")
		if job != "" {
			to += "&job=" + job
		}
		return kit.SeeOther(c, to)
	case errors.As(err, &moved):
		f.Fault("/moved", hw.UpperFirst(moved.Says)+". Nothing was changed: look again")
		return s.weekPage(c, http.StatusConflict, f, job)
	case err != nil && !f.Take(err):
		return err
	}
	return s.weekPage(c, http.StatusUnprocessableEntity, f, job)
}
