package week

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/web/form"
	"yembo/web/kit"
)

// named is how a job is called in the reasons of another: by its machine.
func named(w *jobs.WeekPlan) func(id string) string {
	return func(id string) string {
		if r := w.Jobs[id]; r != nil {
			return r.Record.Machine.ID
		}
		return "another job"
	}
}

// comesOf is what a job waits for, as far as it is known.
func comesOf(w *jobs.WeekPlan, job int64) string {
	for _, a := range w.Arrivals {
		for _, id := range a.For {
			if id == job {
				return strings.Join(a.What, ", ")
			}
		}
	}
	if r := w.Jobs[strconv.FormatInt(job, 10)]; r != nil {
		return r.Record.State.For
	}
	return ""
}

// decide lists the promises that cannot be kept.
func (v *weekView) decide(w *jobs.WeekPlan, f *form.Form) {
	for i := range w.Rows {
		r := &w.Rows[i]
		if r.Plan == nil || r.Stands != week.Broken {
			continue
		}
		d := decideView{Job: r.JobID, Machine: r.Record.Machine.ID, Promised: base.TimeWords(r.Record.Promised),
			Rows: kit.ReasonRows(r.Plan, w.Stretches(r.JobID), named(w), comesOf(w, r.JobID)), From: w.Now,
			Honest: base.TimeWords(r.Honest), Typed: r.Honest.Format(time.RFC3339), Seen: seenPromise(&r.Record),
			Customer: r.Record.Customer, Contact: r.Record.Contact, CustomerID: r.Record.CustomerID, Who: r.Record.Contact}
		if r.Plan.Late != nil {
			d.Late = lateWords(*r.Plan.Late)
		}
		if r.AtLeast {
			d.AtLeast, d.Plan = base.TimeWords(r.Ready), "/machines/"+r.Record.Key
		}
		if f.Text("job") == fmt.Sprint(r.JobID) && len(f.Errors("/promise"))+len(f.Errors("/how")) > 0 {
			d.Sent, d.Who, d.Said = true, f.Text("/who"), f.Text("/said")
		}
		v.Decide = append(v.Decide, d)
	}
}

// seenPromise is what is promised for a job, as a form has to name it.
func seenPromise(r *jobs.MachineRecord) string {
	if r.Promised.IsZero() {
		return ""
	}
	return r.Promised.Truncate(time.Minute).Format(time.RFC3339)
}

// others lists what is planned with little time left, what has no place, what cannot stand where a hand put it, and what comes.
func (v *weekView) others(w *jobs.WeekPlan) {
	task := func(r *jobs.BenchRow, says string) taskView {
		return taskView{Job: r.JobID, Machine: r.Record.Machine.ID, Says: says}
	}
	for i := range w.Rows {
		r := &w.Rows[i]
		if r.Class == jobs.ClassDanger {
			t := task(r, r.Next)
			if t.Do = r.Why; r.Record.State.Waits != "" {
				t.Do += "; it waits for the " + base.OrWord(r.Record.State.Waits, "shop") + " beside that"
			}
			v.Danger = append(v.Danger, t)
		}
		if n := w.Passed[r.JobID]; n >= jobs.OftenPassed {
			t := task(r, fmt.Sprintf("is ready since %s, and %s went first", base.TimeWords(r.Since), hw.Count(n,
				"machine that came later", "machines that came later")))
			t.Do = "It was not promised. Promise it, or put it where it belongs."
			v.Passed = append(v.Passed, t)
		}
		if r.Stands == week.AtRisk && r.Plan != nil && r.Plan.Slack != nil {
			v.Risk = append(v.Risk, task(r, fmt.Sprintf("promised %s, ready %s before it", base.TimeWords(r.Record.Promised),
				lateWords(*r.Plan.Slack))))
		}
		if code, refused := w.Refused[r.JobID]; refused {
			pin := w.Arr.Pins[r.JobID]
			v.Refused = append(v.Refused, task(r, pin.Words()+": "+week.PinCodes.Says(code)))
		}
	}
	for _, x := range w.Made.Unplaced {
		r := w.Jobs[x.Job]
		t := task(r, r.Next)
		t.Do, t.Link = "waits for "+r.WaitsFor, fmt.Sprintf("/jobs/%d", r.JobID)
		if x.Code == week.NeverFits {
			t.Do = week.NoPlaces.Says(x.Code)
		}
		v.Unplaced = append(v.Unplaced, t)
	}
	for i := range w.Arrivals {
		a := &w.Arrivals[i]
		x := arrivalView{Order: a.Order, When: "day not known", Supplier: a.Supplier, What: strings.Join(a.What, ", "), Late: a.Late}
		if a.Due != "" {
			x.When, x.Sure = a.Due.Words(), a.Sure
		}
		var machines []string
		for _, id := range a.For {
			if r := w.Jobs[strconv.FormatInt(id, 10)]; r != nil {
				machines = append(machines, r.Record.Machine.ID)
			}
		}
		x.For = strings.Join(machines, ", ")
		v.Arrivals = append(v.Arrivals, x)
	}
}

// chosenOf is a job that is looked at.
func chosenOf(w *jobs.WeekPlan, r *jobs.BenchRow, when *jobs.When, f *form.Form) *chosenView {
	v := &chosenView{Job: r.JobID, Machine: r.Record.Machine.ID, Model: r.Record.Chassis.Name(), From: w.Now,
		Seen: w.LastMove(r.JobID), Link: fmt.Sprintf("/jobs/%d", r.JobID), CanMove: r.Movable()}
	if v.Promised = "not promised"; !r.Record.Promised.IsZero() {
		v.Promised = "promised for " + base.TimeWords(r.Record.Promised)
	}
	var does []string
	for _, s := range w.Stretches(r.JobID) {
		does = append(does, fmt.Sprintf("%s %d min", s.What, s.Planned()))
	}
	if r.Record.Choice != nil {
		v.Does = hw.UpperFirst(strings.Join(does, ", "))
	}
	if r.Plan == nil {
		v.CanMove = false
		if v.Why = "It has no place yet: it waits for " + r.WaitsFor; r.Class == jobs.ClassReady {
			v.Why = "It has no place yet: " + r.WaitsFor
		}
		return v
	}
	v.Rows = kit.ReasonRows(r.Plan, w.Stretches(r.JobID), named(w), comesOf(w, r.JobID))
	v.Stands = fmt.Sprintf("Bench %d, %s to %s", r.Bench, base.TimeWords(r.Start), kit.ClockFrom(r.Until, r.Start))
	if r.By != "" {
		v.Stands += ", " + r.By
	}
	v.Ready = base.TimeWords(r.Ready)
	if s := r.Plan.Slack; s != nil {
		v.Slack = lateWords(*s) + " before it"
	} else if l := r.Plan.Late; l != nil {
		v.Slack = lateWords(*l) + " too late"
	}
	if pin, ok := w.Arr.Pins[r.JobID]; ok {
		v.Pin, v.Person = fmt.Sprintf("put there by %s, %s", pin.By, kit.Stamp(pin.At)), pin.Person
	}
	if !v.CanMove {
		if v.Why = "It is under way, and goes on where it stands."; r.Class == jobs.ClassDone {
			v.Why = "Its work is done; it is still to be proven."
		}
		return v
	}
	for b := range w.How.FloorOf().Benches {
		v.Benches = append(v.Benches, b+1)
	}
	v.Bench, v.Start = r.Bench, typed(r.Start)
	if len(w.How.AtBench) > 1 {
		v.People = w.How.AtBench
	}
	if f.Text("job") == fmt.Sprint(r.JobID) && f.Text("/start") != "" { // as it was sent
		v.Start, v.Person = f.Text("/start"), f.Text("/person")
		if n, ok := f.Whole("/bench").Get(); ok {
			v.Bench = n
		}
	}
	for i, o := range when.Offers {
		says := "promise " + base.TimeWords(o.Honest)
		if i == 0 {
			says = "earliest; " + says
		}
		v.Offers = append(v.Offers, offerView{N: i + 1, Bench: o.Bench, Person: o.Person, Start: base.TimeWords(o.Start), Says: says,
			Typed: typed(o.Start)})
	}
	return v
}

// typed is a time as it is typed.
func typed(t time.Time) string { return t.Format("2 Jan 2006 15:04") }
