package jobs

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// Classes of the bench list, in its order.
const (
	ClassDanger = iota
	ClassRunning
	ClassReady
	ClassDone // the work is done: to prove, or proven and to hand over
	ClassCustomer
	ClassParts
	ClassAway  // all is here but the machine
	ClassOther // to survey or to plan
)

// BenchRow is an open job on the bench list: what is to be done next, and why it stands
// where it stands.
type BenchRow struct {
	JobID    int64
	Record   MachineRecord
	Class    int
	Next     string // the next action
	Why      string
	Data     string // what can be lost and comes before anything else, "" for nothing
	WaitsFor string
	Since    time.Time
	Minutes  hw.Maybe[hw.Dec] // that hands are on it
	Copies   bool             // a drive is copied beside it
	Copying  hw.Maybe[hw.Dec] // for how many minutes, where that is known
	Bench    int              // 0 where none is planned
	Start    time.Time        // when it is planned to begin, zero where it is not
	Until    time.Time        // when the bench is planned to be done with it, its proof too
	Stays    []Spell          // its times at the bench: what is tested or charged stands aside in between
	By       string           // who is planned to do it, "" where nobody is named
	Plan     *week.Planned    // its place in the week, nil for none
	AtLeast  bool             // nothing is chosen yet: it takes this at the least, and nothing can be promised
	Ready    time.Time        // when the customer can have it, by the plan; zero where there is none
	Honest   time.Time        // what could be promised now
	Stands   week.State       // how its promise stands by the plan, "" where there is none
	Due      base.Due         // when what it waits for comes, "" where that is not known
	Sure     bool             // the supplier has said so
	ToOrder  bool             // what it waits for is all still to be ordered
	Steps    int              // down to the places that are worked on
}

// copyingOf reports whether an option copies a drive, and for how many minutes, where that can be told.
func copyingOf(o *plan.Option) (copies bool, minutes hw.Maybe[hw.Dec]) {
	if o.Migration == nil || o.Migration.How != hw.Clone {
		return false, minutes
	}
	min, known := o.Migration.Minutes.Get()
	return !known || min > 0, o.Migration.Minutes
}

// CopyWords say beside the minutes of an option how long it copies, "" where it copies nothing.
func CopyWords(o *plan.Option) string {
	if o.Migration == nil || o.Migration.How != hw.Clone {
		return ""
	}
	if min, known := o.Migration.Minutes.Get(); known {
		return "then about " + min.String() + " min of copying"
	}
	return "then copying, duration not known"
}

// DurationOf is a number of minutes as a length of time.
func DurationOf(d hw.Dec) time.Duration {
	return time.Duration(d) * time.Minute / time.Duration(hw.DecOf(1))
}

// BenchList returns the open jobs in the order in which they want somebody: danger;
// running; ready to open, by promised time; done, to prove or to hand over; needs the customer; waits for parts; then
// the others, the oldest first. Jobs that are ready are planned onto the benches.
func (s *Jobs) BenchList(ctx context.Context) ([]BenchRow, error) {
	out, c, err := s.BenchAnd(ctx)
	if err != nil {
		return nil, err
	}
	rank(out)
	if _, _, err = scheduled(out, &c); err != nil {
		return nil, err
	}
	slices.SortStableFunc(out, byStart)
	return out, nil
}

// byStart puts what is ready in the order in which it is planned; the rest stays as it is ranked.
func byStart(a, b BenchRow) int {
	if a.Class != ClassReady || b.Class != ClassReady || a.Start.Equal(b.Start) || a.Start.IsZero() || b.Start.IsZero() {
		return a.Class - b.Class
	}
	return a.Start.Compare(b.Start)
}

// BenchAnd are the open jobs and what they are planned with.
func (s *Jobs) BenchAnd(ctx context.Context) (out []BenchRow, c Calendar, err error) {
	err = s.Store.View(ctx, func(tx store.Tx) (err error) {
		if c, err = s.CalendarIn(tx); err != nil {
			return err
		}
		out, err = s.BenchRows(tx)
		return err
	})
	return out, c, err
}

// BenchRows are the open jobs, each with where it stands.
func (s *Jobs) BenchRows(tx store.Tx) ([]BenchRow, error) {
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return nil, err
	}
	return s.rowsWith(tx, lacks)
}

// rowsWith are the open jobs with what they lack.
func (s *Jobs) rowsWith(tx store.Tx, lacks map[int64][]stock.Lack) ([]BenchRow, error) {
	jobs, err := tx.OpenJobs()
	if err != nil {
		return nil, err
	}
	var out []BenchRow
	for i := range jobs {
		m := &jobs[i].Machine
		model, err := s.open.record(&m.Model)
		if err != nil {
			return nil, err
		}
		r, err := recordOf(m, &jobs[i], model)
		if err != nil {
			return nil, err
		}
		out = append(out, Stand(r, lacks[r.JobID], s.Now()))
	}
	return out, nil
}

// rank orders the bench list.
func rank(rows []BenchRow) {
	far := time.Unix(1<<40, 0)
	due := func(r *BenchRow) time.Time {
		if r.Record.Promised.IsZero() {
			return far // nothing promised comes after what is
		}
		return r.Record.Promised
	}
	sort.SliceStable(rows, func(i, j int) bool {
		a, b := &rows[i], &rows[j]
		if a.Class != b.Class {
			return a.Class < b.Class
		}
		if x, y := due(a), due(b); a.Class == ClassReady && !x.Equal(y) {
			return x.Before(y)
		}
		if !a.Record.TakenIn.Equal(b.Record.TakenIn) {
			return a.Record.TakenIn.Before(b.Record.TakenIn)
		}
		return a.JobID < b.JobID
	})
}

// Stand says where one job stands and what comes next; lacks is what it wants and does not have.
func Stand(r MachineRecord, lacks []stock.Lack, now time.Time) BenchRow {
	row := BenchRow{JobID: r.JobID, Record: r, Since: r.State.Since}
	if row.Since.IsZero() {
		row.Since = r.TakenIn
	}
	if r.Choice != nil {
		row.Minutes = hw.Known(r.Choice.Option.Minutes)
		row.Copies, row.Copying = copyingOf(&r.Choice.Option)
		row.Steps = depth(&r)
	}
	swollen := r.Machine.Fitted.Battery != nil && r.Machine.Fitted.Battery.Swollen.Or(false)
	switch {
	case r.State.Danger != "" || swollen:
		row.Class, row.WaitsFor = ClassDanger, "you, now"
		row.Next, row.Why = dangerWords(r.State.Danger, swollen)
	case r.State.Proven != nil && r.State.Waits == "":
		row.Class, row.WaitsFor = ClassDone, "hand-over"
		row.Since = *r.State.Proven
		row.Next, row.Why = "Hand over to "+base.OrWord(r.Customer, "its owner"), "Proven "+r.State.Proven.Format("2 Jan 15:04")
	case r.State.Worked != nil && r.State.Waits == "" && r.State.Proven == nil:
		row.Class, row.WaitsFor = ClassDone, "proof"
		row.Since, row.Bench = *r.State.Worked, r.State.Bench
		row.Next, row.Why = "Check and sign off", "The work ended "+r.State.Worked.Format("2 Jan 15:04")
	case r.State.Declined != nil:
		row.Class, row.WaitsFor = ClassDone, "hand-over"
		row.Since = *r.State.Declined
		row.Next, row.Why = "Hand it back to "+base.OrWord(
			r.Customer,
			"its owner",
		), "The quote was declined "+r.State.Declined.Format(
			"2 Jan 15:04",
		)
	case r.State.Running != nil:
		row.Class, row.Bench, row.Start = ClassRunning, r.State.Bench, *r.State.Running
		row.WaitsFor = fmt.Sprintf("bench %d, in progress", r.State.Bench)
		row.Next, row.Why = "Continue", "Begun "+r.State.Running.Format("15:04")
	case r.State.Waits == WaitsCustomer:
		row.Class, row.WaitsFor = ClassCustomer, "customer"
		row.Next, row.Why = "Ask again", r.State.For
		if r.State.Due.Ahead(now) {
			row.Next = "Wait until " + r.State.Due.Words()
		}
	case r.State.Waits == WaitsParts:
		row.Class, row.WaitsFor = ClassParts, "parts"
		if row.Due = r.State.Due; row.Due != "" {
			row.WaitsFor += ", due " + row.Due.Words()
		}
		row.Next, row.Why = "Check whether the parts have come", r.State.For
		if r.State.Due.Ahead(now) {
			row.Next = "Wait until " + r.State.Due.Words()
		}
		if len(lacks) > 0 {
			row.lacking(lacks, now)
			row.Why = base.OrWord(row.Why, r.State.For)
		}
	case r.Choice == nil:
		row.Class, row.WaitsFor = ClassOther, "a plan"
		row.Next, row.Why = unplanned(&r)
	default:
		row.chosen(&r, lacks, now)
	}
	if r.State.Away != nil {
		row.away(now)
	}
	if row.Class != ClassDone {
		row.Data = strings.Join(DataFirst(r.Machine), "; ")
	}
	return row
}

// DataFirst says for each drive that is failing what of its data comes before anything else.
func DataFirst(m *hw.Machine) []string {
	var out []string
	for i := range m.Fitted.Drives {
		if d := &m.Fitted.Drives[i]; d.Fails() {
			out = append(out, hw.UpperFirst(d.DataFirst()))
		}
	}
	return out
}

// dangerWords are the caution that comes before everything else.
func dangerWords(danger string, swollen bool) (next, why string) {
	switch {
	case swollen || strings.Contains(danger, "swollen") || strings.Contains(danger, "hot"):
		next = "Stop: move it to the fire box, then call the customer"
	case strings.Contains(danger, "damp"):
		next = "Stop: no charger, no start; let it dry open, then call"
	default:
		next = "Stop: gloves, mind the edges; cover the crack, then call"
	}
	if danger == "" {
		danger = "battery swollen"
	}
	return next, base.UpperFirst(danger) + ": make it safe before anything else"
}

// Surveyed reports whether anything of a model's inside is recorded.
func Surveyed(ch *hw.Chassis) bool {
	return ch.Mem().Sockets != nil || ch.Slots != nil || ch.Steps != nil
}

// unplanned says what is missing before a job can be opened.
func unplanned(r *MachineRecord) (next, why string) {
	if !Surveyed(r.Chassis) {
		return "Record the model first", "Nothing of the " + r.Chassis.Name() + " is recorded yet"
	}
	why = r.Complaint
	if r.Wish.Goals == (hw.Goals{}) && len(r.Wish.Services) == 0 {
		return "Ask what is wanted", base.OrWord(why, "No request noted")
	}
	return "Choose an option", base.OrWord(why, "Nothing is chosen yet")
}

// chosen says what a chosen option still wants: a consent, parts, or opening.
func (row *BenchRow) chosen(r *MachineRecord, lacks []stock.Lack, now time.Time) {
	row.Since = r.ChosenAt
	o := &r.Choice.Option
	if open := r.OpenConsents(); len(open) > 0 {
		row.Class, row.WaitsFor = ClassCustomer, "customer"
		row.Next, row.Why = "Get the customer's consent", open[0].Row().Says
		return
	}
	if len(lacks) > 0 {
		row.Class = ClassParts
		row.lacking(lacks, now)
		return
	}
	row.Class, row.WaitsFor = ClassReady, "a bench"
	row.Next = fmt.Sprintf("Open it: %s min for %s", o.Minutes, placesOf(r.Chassis, o))
	row.Why = "All parts here"
	if copying := CopyWords(o); copying != "" {
		row.Why += "; " + copying
	}
	if r.ChosenBy != "" {
		row.Why += "; chosen " + r.ChosenAt.Format("2 Jan") + " by " + r.ChosenBy
	}
	if len(o.Buy) == 0 {
		row.Why = "No part is needed"
	}
}

// lacking says what to do about parts that are not there: plan anew without what can be had no
// more, ring about what is late, order what nobody ordered, or wait.
func (row *BenchRow) lacking(lacks []stock.Lack, now time.Time) {
	var gone, order, late, coming []string
	row.Due, row.Sure = "", true
	var due base.Due
	unsaid := false
	for i := range lacks {
		switch l := &lacks[i]; {
		case l.Gone:
			gone = append(gone, l.Name)
		case l.Order == nil || l.Order.N < l.N:
			order = append(order, l.Name)
		case l.Order.Due.Late(now):
			late = append(late, fmt.Sprintf("%s, order %d, was due %s",
				base.OrWord(l.Order.Supplier+" "+l.Order.Contact, "the supplier"),
				l.Order.Order, l.Order.Due.Words()))
		default:
			coming = append(coming, l.Name)
			due, unsaid = due.Later(l.Order.Due), unsaid || l.Order.Due == ""
			row.Sure = row.Sure && l.Order.Confirmed
		}
	}
	switch {
	case len(gone) > 0:
		row.WaitsFor, row.Next, row.Why = "a plan", "Plan again", "No longer available: "+strings.Join(gone, ", ")
	case len(order) > 0:
		row.ToOrder = len(late)+len(coming) == 0
		row.WaitsFor, row.Next, row.Why = "parts to be ordered", "Order "+strings.Join(order, ", "), "Not in stock"
	case len(late) > 0:
		row.WaitsFor, row.Next, row.Why = "parts, late", "Call "+late[0], "Overdue"
	default:
		row.WaitsFor = "parts"
		if !unsaid { // a day that nobody said may be any
			row.Due = due
		}
		if due != "" {
			row.WaitsFor += ", due " + due.Words()
		}
		row.Next, row.Why = "Wait for "+strings.Join(coming, ", "), "Ordered"
	}
}

// placesOf names what an option works on, places and services.
func placesOf(ch *hw.Chassis, o *plan.Option) string {
	var words []string
	seen := map[string]bool{}
	for _, a := range o.Actions {
		if a.Do != plan.DoKeep && !seen[a.Place] {
			seen[a.Place] = true
			words = append(words, a.Place)
		}
	}
	for _, id := range o.Services {
		words = append(words, ch.ServiceName(id))
	}
	if len(words) == 0 {
		return "a look"
	}
	return strings.Join(words, " and ")
}

// depth is how many steps lie above an option's places.
func depth(r *MachineRecord) (steps int) {
	var reaches []string
	for _, a := range r.Choice.Option.Actions {
		if reach, ok := r.Chassis.ReachOf(a.Place); ok && a.Do != plan.DoKeep {
			reaches = append(reaches, reach)
		}
	}
	for _, done := range teardown.Down(r.Chassis, reaches) {
		if done {
			steps++
		}
	}
	return steps
}
