package jobs

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/stock"
)

// TestBenchOrder holds the order of the bench list: danger, running, ready by promised
// time, needs the customer, waits for parts, then the oldest.
func TestBenchOrder(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	hour := func(n int) time.Time { return now.Add(time.Duration(n) * time.Hour) }
	running := hour(-1)
	chosen := func(o plan.Option) *base.Choice { return &base.Choice{Option: o} }
	lacks := map[string][]stock.Lack{"7-order": {{Part: "away", Name: "Away", N: 1}}}
	record := func(id string, taken int, change func(r *MachineRecord)) MachineRecord {
		r := MachineRecord{Machine: &hw.Machine{ID: id}, Chassis: &hw.Chassis{Slots: []hw.Slot{}},
			Wish: &hw.Request{Goals: hw.Goals{MemoryGB: hw.Known(hw.DecOf(16))}}, TakenIn: hour(taken)}
		change(&r)
		return r
	}
	var rows []BenchRow
	for _, r := range []MachineRecord{
		record("9-to-plan-new", -1, func(*MachineRecord) {}),
		record("8-to-plan-old", -90, func(*MachineRecord) {}),
		record("7-order", -3, func(r *MachineRecord) {
			r.Choice = chosen(plan.Option{Buy: []plan.Buy{{Part: "away",
				Quantity: 1}}})
		}),
		record("6-parts", -4, func(r *MachineRecord) {
			r.State = State{Waits: WaitsParts, For: "pack",
				Due: "2026-05-21"}
		}),
		record("5-consent", -2, func(r *MachineRecord) { r.Choice = chosen(plan.Option{Consents: []hw.Consent{"seal"}}) }),
		record("4-ready-none", -80, func(r *MachineRecord) { r.Choice = chosen(plan.Option{Minutes: hw.DecOf(10)}) }),
		record("3-ready-late", -2, func(r *MachineRecord) {
			r.Choice, r.Promised = chosen(plan.Option{Minutes: hw.DecOf(20),
				Buy: []plan.Buy{{Part: "here", Quantity: 1}}}), hour(5)
		}),
		record("2-ready-soon", -1, func(r *MachineRecord) {
			r.Choice,
				r.Promised = chosen(plan.Option{Minutes: hw.DecOf(30)}), hour(2)
		}),
		record("1-running", -1, func(r *MachineRecord) {
			r.Choice, r.State = chosen(plan.Option{Minutes: hw.DecOf(90)}), State{Running: &running, Bench: 1}
		}),
		record("0-danger", -1, func(r *MachineRecord) { r.Machine.Fitted.Battery = &hw.FittedBattery{Swollen: hw.Known(true)} }),
	} {
		rows = append(rows, Stand(r, lacks[r.Machine.ID], time.Date(2026, 5, 14, 12, 0, 0, 0, time.UTC)))
	}
	rank(rows)
	for i := range rows {
		rows[i].JobID = int64(i + 1)
	}
	if _, _, err := scheduled(rows, &Calendar{Now: now, How: base.Settings{AtBench: []string{"A", "B"}}}); err != nil {
		t.Fatal(err)
	}
	last := ""
	for _, r := range rows {
		if r.Record.Machine.ID < last {
			t.Errorf("%s stands after %s", r.Record.Machine.ID, last)
		}
		last = r.Record.Machine.ID
		if r.Next == "" || r.Why == "" && r.Class != ClassOther {
			t.Errorf("%s does not say what is next, or why: %+v", last, r)
		}
	}
	// The danger takes the hands that are free, then they open the first at the bench that is free; the other bench goes on
	// with what runs until 11:50, is proven and cleared. What waits for parts has its place when they come.
	plan := map[string]string{}
	for _, r := range rows {
		plan[r.Record.Machine.ID[2:]] = r.WaitsFor
	}
	for id, want := range map[string]string{"ready-soon": "bench 2, 11:30", "ready-late": "bench 1, 12:15",
		"ready-none": "bench 2, 12:25", "order": "parts to be ordered", "parts": "parts, due Thu 21 May"} {
		if plan[id] != want {
			t.Errorf("%s waits for %q, want %q", id, plan[id], want)
		}
	}
	if r := rows[1]; r.Until.Format("15:04") != "12:05" || r.Stands != week.None || !strings.Contains(r.Why, "30 min left") {
		t.Errorf("what runs ends %v, stands %q: %s", r.Until, r.Stands, r.Why)
	}
	sunday := time.Date(2026, 5, 17, 11, 0, 0, 0, time.UTC)
	for at, doubt := range map[time.Time]string{sunday: "not open", now.Add(-time.Hour): "past", time.Date(2026, 5, 18, 6,
		0, 0, 0, time.UTC): "from 09:00 to 18:00",
		time.Date(2026, 5, 18, 17, 0, 0, 0, time.UTC): "", {}: ""} {
		if got := (&base.Settings{}).Doubt(at, now); !strings.Contains(got, doubt) || (doubt == "") != (got == "") {
			t.Errorf("a promise for %v is doubted with %q", at, got)
		}
	}
}

// TestScheduled: over its plan a job keeps its bench and is done now at the soonest; a copy keeps it too; what does not fit
// before closing goes on another open day; one person has two hands; a promise that is not kept says what could be.
func TestScheduled(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC) // a Thursday
	over := now.Add(-2 * time.Hour)
	known := func(minutes int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(minutes)) }
	ready := func(id int64, minutes int) BenchRow {
		return BenchRow{JobID: id, Class: ClassReady, Minutes: known(minutes), Record: MachineRecord{Machine: &hw.Machine{},
			Chassis: &hw.Chassis{ID: "aster", Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "a"}}}},
			Choice:  &base.Choice{Option: plan.Option{Minutes: hw.DecOf(minutes)}}}}
	}
	one, two := base.Settings{AtBench: []string{"A"}}, base.Settings{AtBench: []string{"A", "B"}}
	closed, away, lunch := one, one, one
	closed.Closed = []base.Spell{{From: "2026-05-14", To: "2026-05-17", Why: "holiday"}}
	away.Away = []base.Spell{{Who: "A", From: "2026-05-14", To: "2026-05-18"}}
	lunch.Break = "11:30-13:00"
	promised := ready(3, 15)
	promised.Record.Promised = now.Add(time.Minute)
	// What is typed may lie at the ends of time.
	extreme := one
	extreme.Closed = []base.Spell{{From: "0001-01-01", To: "2026-05-14"}, {From: "2027-01-01", To: "9999-12-31"}}
	extreme.Away = []base.Spell{{Who: "A", From: "0001-01-01", To: "2026-05-18"}, {Who: "A", From: "2027-01-01", To: "9999-12-31"}}
	far, past := ready(1, 15), ready(2, 15)
	far.Record.Promised, past.Record.Promised = now.AddDate(900, 0, 0), now.AddDate(-900, 0, 0)
	unknown := ready(2, 15) // a copy of which nobody knows how long it takes is planned for a night
	unknown.Record.Choice.Option.Migration = &plan.Migration{How: hw.Clone}
	waiting := func(id int64, due base.Due, away *Away) BenchRow {
		r := ready(id, 15)
		r.Class, r.Due, r.Record.State.Away = ClassParts, due, away
		return r
	}
	comes := ready(3, 15)
	comes.Class, comes.Record.State.Away = ClassAway, &Away{Due: "2026-05-15 10:00"}
	tested := func(place string, how base.WeekPractice) (BenchRow, base.Settings) {
		r, with := ready(3, 15), one
		with.Week, r.Record.Choice.Option.Actions = how, []plan.Action{{Do: plan.DoAdd, Place: place}}
		return r, with
	}
	memory, withTest := tested("a", base.WeekPractice{Test: hw.Known(600)})
	pack, withCharge := tested(hw.BatteryPlace, base.WeekPractice{Charge: hw.Known(600)})
	lone, attended := tested("a", base.WeekPractice{Test: hw.Known(600), Attend: true})
	other, withNone := tested("wlan", base.WeekPractice{Test: hw.Known(600), Charge: hw.Known(600)})
	measured := ready(3, 15)
	measured.Record.Choice.Option.Actions = []plan.Action{{Do: plan.DoReplace, Place: "m2b"}, {Do: plan.DoAdd, Place: "a"}}
	repasted := ready(3, 15)
	repasted.Record.Choice.Option.Services = []string{"repaste"}
	runs := map[string][]hw.Dec{"aster|a m2b": {hw.DecOf(40), hw.DecOf(25), hw.DecOf(30)}, "aster|a": {1, 1, 1},
		"other|a m2b":   {1, 1, 1},
		"aster|repaste": {hw.DecOf(40), hw.DecOf(40), hw.DecOf(40)}}
	gone := func(id int64, bench int) BenchRow {
		return BenchRow{JobID: id, Class: ClassRunning, Bench: bench, Start: now, Minutes: known(60)}
	}
	for name, x := range map[string]struct {
		rows []BenchRow
		at   time.Time
		how  base.Settings
		want string // bench, start and end of the last, and its promise
	}{
		"over the plan": {[]BenchRow{{JobID: 1, Class: ClassRunning, Bench: 1, Start: over, Minutes: known(20)},
			{JobID: 2, Class: ClassRunning, Bench: 2, Start: over}, ready(3, 15)}, now, two, "1 11:50 12:20 none"},
		"a copy": {[]BenchRow{{JobID: 1, Record: ready(1, 20).Record, Class: ClassRunning, Bench: 1, Start: over,
			Minutes: known(20), Copies: true, Copying: known(150)},
			{JobID: 2, Class: ClassRunning, Bench: 2, Start: over}, ready(3, 15)}, now, two, "1 12:35 13:05 none"},
		"one person": {[]BenchRow{ready(1, 60), ready(3, 15)}, now, one, ""},
		"a Sunday": {[]BenchRow{ready(3, 15)}, time.Date(2026, 5, 17, 11, 0, 0, 0, time.UTC), one,
			"1 Mon 18 May 09:00 09:30 none"},
		"ten to six": {[]BenchRow{ready(3, 30)}, time.Date(2026, 5, 14, 17, 50, 0, 0, time.UTC), one,
			"1 Fri 15 May 09:00 09:45 none"},
		"a closed day":             {[]BenchRow{ready(3, 15)}, now, closed, "1 Mon 18 May 09:00 09:30 none"},
		"somebody is away":         {[]BenchRow{ready(3, 15)}, now, away, "1 Tue 19 May 09:00 09:30 none"},
		"over the break":           {[]BenchRow{ready(3, 15)}, now, lunch, "1 13:00 13:30 none"},
		"longer than half a day":   {[]BenchRow{ready(3, 400)}, now, lunch, "1 Fri 15 May 09:00 17:25 none"},
		"longer than a day":        {[]BenchRow{ready(3, 700)}, now, one, "1 11:20 14:15 none"},
		"a copy that nobody knows": {[]BenchRow{unknown}, now, one, "1 11:20 09:15 none"},
		"the ends of time":         {[]BenchRow{far, past, ready(3, 15)}, now, extreme, "1 Tue 19 May 10:00 10:30 none"},
		// Somebody whom nobody named, at a bench that was taken away, is at that job alone.
		"more than named": {[]BenchRow{gone(1, 1), gone(2, 7), ready(3, 15)}, now, one, "2 12:35 13:05 none"},
		"too late":        {[]BenchRow{promised}, now, one, "1 11:20 11:50 broken"},
		// Parts that come at an hour are looked at from then on; those of a day at its end; so is a machine that comes.
		"parts at an hour":     {[]BenchRow{waiting(3, "2026-05-15 10:00", nil)}, now, one, "1 Fri 15 May 10:15 10:45 none"},
		"parts of a day":       {[]BenchRow{waiting(3, "2026-05-15", nil)}, now, one, "1 Mon 18 May 09:15 09:45 none"},
		"a machine that comes": {[]BenchRow{comes}, now, one, "1 Fri 15 May 10:00 10:30 none"},
		"parts, then a machine": {[]BenchRow{waiting(3, "2026-05-15 10:00", &Away{"2026-05-15 12:00"})}, now, one,
			"1 Fri 15 May 12:00 12:30 none"},
		"a machine of no day": {[]BenchRow{waiting(3, "2026-05-15 10:00", &Away{})}, now, one, "0 Mon 1 Jan 00:00 00:00 "},
		// As three runs of the model with the same targets took: their median.
		"measured": {[]BenchRow{measured}, now, one, "1 11:20 12:05 none"},
		"measured, under way": {[]BenchRow{{JobID: 3, Class: ClassRunning, Bench: 1, Start: now, Minutes: known(15),
			Record: measured.Record}}, now, one, "1 11:20 12:05 none"},
		// A test of new memory runs over night where it may; a new pack is charged with somebody there, and a card needs neither.
		"a test":             {[]BenchRow{memory}, now, withTest, "1 11:20 09:15 none"},
		"a test, attended":   {[]BenchRow{lone}, time.Date(2026, 5, 14, 15, 0, 0, 0, time.UTC), attended, "0 Mon 1 Jan 00:00 00:00 "},
		"a charge":           {[]BenchRow{pack}, now, withCharge, "0 Mon 1 Jan 00:00 00:00 "},
		"a service":          {[]BenchRow{repasted}, now, one, "1 11:20 12:15 none"},
		"a card, not tested": {[]BenchRow{other}, now, withNone, "1 11:20 11:50 none"},
	} {
		if _, _, err := scheduled(x.rows, &Calendar{Now: x.at, How: x.how, Runs: runs}); err != nil {
			t.Fatal(err)
		}
		r := &x.rows[len(x.rows)-1]
		if x.want == "" {
			if a, b := &x.rows[0], r; a.Start.Before(b.Until) && b.Start.Before(a.Until) {
				t.Errorf("%s: %v and %v by the same hands", name, a.Start, b.Start)
			}
			continue
		}
		if got := fmt.Sprintf("%d %s %s %s", r.Bench, clockWords(r.Start, x.at), r.Until.Format("15:04"), r.Stands); got != x.want {
			t.Errorf("%s: %s, not %s", name, got, x.want)
		}
		if r.Stands == week.Broken && !r.Honest.After(r.Ready) {
			t.Errorf("%s: ready %v, and could be promised for %v", name, r.Ready, r.Honest)
		}
	}
}
