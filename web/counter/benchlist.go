package counter

import (
	"fmt"
	"math"
	"net/http"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/web/draw"
	"yembo/web/kit"
)

// benchView is the home page: the day on the benches, and the open jobs in the order in
// which they want somebody.
type benchView struct {
	Day     string
	Summary string
	Groups  []benchGroup
	Strip   *dayStrip
	Models  int
	Total   int
	ToAsk   []work.ToAsk
	First   []jobs.FirstStep // of a new shop, nil where they are done
	Samples bool             // there are sample records
}

// ringLine is a customer to be told that a promise cannot be kept.
type ringLine struct {
	JobID             int64
	MachineID         string
	Customer, Contact string
	Promised, Says    string
}

type benchGroup struct {
	Name string
	Rows []benchLine
	Ring []ringLine // in place of rows
}

type benchLine struct {
	Link                      string // to where its next action is done
	Number                    int
	JobID                     int64
	Label, MachineID, Model   string
	Customer                  string
	Next, Why, Data           string
	WaitsFor, Since, Promised string
	Honest                    string // what could be promised, where the promise is not kept by the plan
	Late, Danger, Running     bool
}

func (s *pages) showBenchList(c *echo.Context) error {
	ctx := c.Request().Context()
	if is, err := s.isNew(c); err != nil {
		return err
	} else if is {
		return kit.SeeOther(c, "/welcome")
	}
	rows, err := s.Shop.BenchList(ctx)
	if err != nil {
		return err
	}
	now := s.Shop.Now()
	v := benchView{Day: now.Format("Monday 2 January"), Total: len(rows)}
	if len(rows) == 0 {
		if v.Models, err = s.Shop.ModelCount(ctx); err != nil {
			return err
		}
	}
	started := s.Workshop
	if started == kit.NoName {
		started = ""
	}
	if v.First, err = s.Shop.FirstSteps(ctx, started); err != nil {
		return err
	}
	samples, err := s.Shop.Samples(ctx)
	if err != nil {
		return err
	}
	v.Samples = samples.Models+samples.Parts > 0
	if v.ToAsk, err = s.Shop.ToAsk(c.Request().Context()); err != nil {
		return err
	}
	wanted := 0
	var ring []ringLine
	for i := range rows {
		r := &rows[i]
		line := benchLine{Number: i + 1, JobID: r.JobID, Label: base.Label(r.JobID), MachineID: r.Record.Machine.ID,
			Model: r.Record.Chassis.Name(), Customer: r.Record.Customer,
			Next: r.Next, Why: r.Why, Data: r.Data, WaitsFor: r.WaitsFor, Since: kit.SinceWords(now, r.Since),
			Danger: r.Class == jobs.ClassDanger, Running: r.Class == jobs.ClassRunning}
		line.Promised, line.Late = promisedWords(now, r.Record.Promised)
		if r.Stands == week.Broken {
			if line.Honest = base.TimeWords(r.Honest); r.AtLeast {
				line.Honest = "not before " + line.Honest
			}
			ring = append(ring, ringLine{r.JobID, r.Record.Machine.ID, r.Record.Customer, r.Record.Contact,
				base.TimeWords(r.Record.Promised), insteadWords(r)})
		}
		if line.Link = fmt.Sprintf("/jobs/%d", r.JobID); r.Class == jobs.ClassCustomer {
			if line.Link += "#talk"; r.Record.State.Quote != 0 {
				line.Link = kit.QuoteAt(r.Record.State.Quote)
			}
		}
		if r.Class <= jobs.ClassDone {
			wanted++
		}
		name := groupOf(r, now)
		if n := len(v.Groups); n == 0 || v.Groups[n-1].Name != name {
			v.Groups = append(v.Groups, benchGroup{Name: name})
		}
		g := &v.Groups[len(v.Groups)-1]
		g.Rows = append(g.Rows, line)
	}
	if len(ring) > 0 {
		at := 0
		if v.Groups[0].Name == "Now" {
			at = 1
		}
		v.Groups = slices.Insert(v.Groups, at, benchGroup{Name: "Ring", Ring: ring})
	}
	v.Summary = fmt.Sprintf("%s, %d can start now", hw.Count(len(rows), "open job", "open jobs"), wanted)
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return err
	}
	v.Strip = dayOf(rows, now, how.FloorOf())
	return s.Render(c, http.StatusOK, "benchlist", "Bench", "bench", v)
}

// groupOf names the stretch of the list that a job stands in.
func groupOf(r *jobs.BenchRow, now time.Time) string {
	switch r.Class {
	case jobs.ClassDanger, jobs.ClassRunning:
		return "Now"
	case jobs.ClassReady:
		if !r.Record.Promised.IsZero() && r.Record.Promised.Before(now.AddDate(0, 0, 1)) {
			return "Today"
		}
		return "Ready"
	case jobs.ClassDone:
		return "Done"
	case jobs.ClassCustomer:
		return "Customer"
	case jobs.ClassParts:
		return "Parts"
	case jobs.ClassAway:
		return "To come"
	}
	return "To plan"
}

// insteadWords are what can be said in place of a promise that cannot be kept.
func insteadWords(r *jobs.BenchRow) string {
	if r.AtLeast {
		return "Not before " + base.TimeWords(r.Ready) + "; nothing is chosen yet"
	}
	return base.TimeWords(r.Honest) + " can be promised instead"
}

// promisedWords says when a job was promised, and whether that is past.
func promisedWords(now, at time.Time) (words string, late bool) {
	if at.IsZero() {
		return "none given", false
	}
	late = at.Before(now)
	switch days := kit.DayNumber(at) - kit.DayNumber(now); {
	case days == 0:
		words = "today " + at.Format("15:04")
	case days == 1:
		words = "tomorrow " + at.Format("15:04")
	default:
		words = at.Format("Mon 2 Jan")
	}
	return words, late
}

// dayStrip is the day on the benches: each job drawn as a dive, as deep as its steps.
type dayStrip struct {
	Width, Height int
	Hours         []hourMark
	Benches       []benchTrack
	NowX          float64 // 0 outside the day
	Now           string
	Right         bool // the mark's text goes to the left of it
}

type hourMark struct {
	X     float64
	Text  string
	Last  bool
	Third bool // shown on a narrow page too
}

type benchTrack struct {
	Number int
	Y      float64
	Dives  []dive
}

type dive struct {
	JobID         int64
	Machine, Path string
	Title         string
	X, Y          float64 // of the text
	End           bool    // text ends there, so that it stays on the page
	Running       bool
}

// The day strip, in units of the drawing.
const (
	stripLeft  = 96.0
	stripRight = 1196.0
	trackStep  = 84.0
	maxDive    = 44.0
)

func xOf(t time.Time, floor base.Floor) float64 {
	h := float64(t.Hour()) + float64(t.Minute())/60
	return stripLeft + (h-float64(floor.Opens))/float64(floor.Closes-floor.Opens)*(stripRight-stripLeft)
}

// onStrip is where a time stands in the drawing of a day; what is before the day or after it stands at
// its edge.
func onStrip(t, day time.Time, floor base.Floor) float64 {
	switch n := kit.DayNumber(t) - kit.DayNumber(day); {
	case n < 0:
		return stripLeft
	case n > 0:
		return stripRight
	}
	return min(max(xOf(t, floor), stripLeft), stripRight)
}

// dayOf draws the jobs that run or are planned today; nil when there is none.
func dayOf(rows []jobs.BenchRow, now time.Time, floor base.Floor) *dayStrip {
	d := &dayStrip{Width: 1206, Height: int(30 + trackStep*float64(floor.Benches))}
	if h := now.Hour(); h >= floor.Opens && h < floor.Closes {
		d.NowX, d.Now = xOf(now, floor), now.Format("15:04")
	}
	for h := floor.Opens; h <= floor.Closes; h++ {
		mark := hourMark{X: stripLeft + float64(h-floor.Opens)/float64(floor.Closes-floor.Opens)*(stripRight-stripLeft),
			Last: h == floor.Closes, Third: (h-floor.Opens)%3 == 0}
		if d.Now == "" || math.Abs(mark.X-d.NowX) > 46 {
			mark.Text = fmt.Sprintf("%02d:00", h) // not under the time it is
		}
		d.Hours = append(d.Hours, mark)
	}
	any := false
	for b := 1; b <= floor.Benches; b++ {
		track := benchTrack{Number: b, Y: 36 + trackStep*float64(b-1)}
		var taken []nameSpot
		for i := range rows {
			r := &rows[i]
			// What runs is drawn, whenever it was begun; what is ready where it is planned today.
			if r.Bench != b || r.Start.IsZero() || r.Class == jobs.ClassDone ||
				r.Class != jobs.ClassRunning && (kit.DayNumber(r.Start) != kit.DayNumber(now) || !r.Minutes.IsKnown()) {
				continue
			}
			any = true
			track.Dives = append(track.Dives, diveOf(r, track.Y, now, floor, &taken))
		}
		d.Benches = append(d.Benches, track)
	}
	if !any {
		return nil
	}
	return d
}

// hourWords is a time of today by the clock, of another day with that.
func hourWords(t, now time.Time) string {
	if kit.DayNumber(t) == kit.DayNumber(now) {
		return t.Format("15:04")
	}
	return t.Format("Mon 2 Jan 15:04")
}

// nameSpot is where a name stands.
type nameSpot struct{ from, to, y float64 }

func (n nameSpot) free(taken []nameSpot) bool {
	for _, o := range taken {
		if n.from < o.to && o.from < n.to && math.Abs(n.y-o.y) < 11 {
			return false
		}
	}
	return true
}

// diveOf draws one job: down through its steps, along the bottom, and up again.
func diveOf(r *jobs.BenchRow, y float64, now time.Time, floor base.Floor, taken *[]nameSpot) dive {
	end := r.Until
	if len(r.Stays) > 0 {
		end = r.Stays[0].To // what is tested or charged after it stands aside
	}
	if r.Class == jobs.ClassRunning && end.Before(now) {
		end = now
	}
	x0, x1 := onStrip(r.Start, now, floor), onStrip(end, now, floor)
	if x0 = min(x0, stripRight-6); x1 < x0+6 {
		x1 = x0 + 6
	}
	steps := max(r.Steps, 1)
	depth := min(float64(steps)*3.5+8, maxDive)
	side := (x1 - x0) * 0.38
	v := dive{JobID: r.JobID, Machine: r.Record.Machine.ID, Path: draw.DivePath(x0, x1, y, depth, steps),
		Running: r.Class == jobs.ClassRunning,
		Title: fmt.Sprintf("%s, %s to %s: %s", r.Record.Machine.ID, hourWords(r.Start, now), hourWords(end, now),
			r.Next)}
	name := []rune(v.Machine)
	if len(name) > 18 {
		v.Machine = string(name[:17]) + "…"
	}
	width := float64(len([]rune(v.Machine)))*7.4 + 12
	v.X = x0 + side*0.6
	if v.X+width > stripRight {
		v.X, v.End = stripRight, true
	}
	left := v.X
	if v.End {
		left -= width
	}
	// No name stands across the line that says what time it is.
	if line := xOf(now, floor); left < line+4 && left+width > line-4 {
		if left = line - 5 - width; left >= stripLeft {
			v.X, v.End = line-5, true
		} else {
			v.X, v.End, left = line+6, false, line+6
		}
	}
	for line := range 3 {
		spot := nameSpot{left, left + width, y + depth + 15 + 14*float64(line)}
		if spot.free(*taken) {
			*taken = append(*taken, spot)
			v.Y = spot.y
			return v
		}
	}
	v.Machine = "" // no room for its name: it stands in the title and in the list
	return v
}
