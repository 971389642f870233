package jobs

import (
	"strings"
	"testing"
	"time"
	"yembo/core/hw"
	"yembo/core/plan"
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
		rows = append(rows, Stand(r, lacks[r.Machine.ID], "2026-05-14"))
	}
	rank(rows)
	schedule(rows, now, base.Floor{}.OrUsual())
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
	// The bench that is free takes the first; the other goes on with what runs until 11:50.
	plan := map[string]string{}
	for _, r := range rows {
		plan[r.Record.Machine.ID[2:]] = r.WaitsFor
	}
	for id, want := range map[string]string{"ready-soon": "bench 2, 11:25", "ready-late": "bench 1, 12:00",
		"ready-none": "bench 2, 12:05", "order": "parts to be ordered", "parts": "parts, due Thu 21 May"} {
		if plan[id] != want {
			t.Errorf("%s waits for %q, want %q", id, plan[id], want)
		}
	}
	// 150 minutes of work and four benches to clear; two benches of an hour a day are taken for a day by it.
	var own int64
	for i := range rows {
		rows[i].Record.JobID = int64(i + 1)
		if rows[i].Class == ClassRunning {
			own = rows[i].Record.JobID
		}
	}
	for floor, want := range map[base.Floor]int{{Benches: 2, Opens: 9, Closes: 18}: 0, {Benches: 2, Opens: 9, Closes: 10}: 1,
		{Benches: 1, Opens: 9, Closes: 10}: 3} {
		if got := BenchDays(rows, floor, 0); got != want {
			t.Errorf("%+v: taken for %d days, want %d", floor, got, want)
		}
	}
	if got := BenchDays(rows, base.Floor{Benches: 1, Opens: 9, Closes: 10}, own); got != 1 {
		t.Errorf("the job's own work keeps its bench from it: %d", got)
	}
	if got := BenchDays([]BenchRow{{Class: ClassRunning}}, base.Floor{Benches: 1, Opens: 9, Closes: 18}, 1); got != 1 {
		t.Errorf("a job that nobody knows the minutes of keeps its bench for %d days", got)
	}
	// Over its plan a job keeps its bench: it is done now at the soonest. On a closed day nothing is planned.
	over := now.Add(-2 * time.Hour)
	late := []BenchRow{
		{Class: ClassRunning, Bench: 1, Start: over, Minutes: hw.Known(hw.DecOf(20)), Copying: hw.Known(hw.DecOf(10))},
		{Class: ClassRunning, Bench: 2, Start: over},
		{Class: ClassReady, Minutes: hw.Known(hw.DecOf(15))}}
	schedule(late, now, base.Floor{}.OrUsual())
	if r := late[2]; r.Bench != 1 || r.Start.Before(cleared(now)) {
		t.Errorf("planned onto bench %d at %v, which is taken", r.Bench, r.Start)
	}
	late[2].Start, late[2].Bench, late[0].Copying = time.Time{}, 0, hw.Known(hw.DecOf(150))
	if schedule(late, now, base.Floor{}.OrUsual()); !late[2].Start.After(now.Add(50 * time.Minute)) {
		t.Errorf("planned at %v onto a bench that copies until %v", late[2].Start, late[0].End())
	}
	late[2].Start = time.Time{}
	sunday := time.Date(2026, 5, 17, 11, 0, 0, 0, time.UTC)
	if schedule(late[2:], sunday, base.Floor{}.OrUsual()); !late[2].Start.IsZero() {
		t.Errorf("planned on a Sunday, %v", late[2].Start)
	}
	for at, doubt := range map[time.Time]string{sunday: "not open", now.Add(-time.Hour): "past", time.Date(2026, 5, 18, 6,
		0, 0, 0, time.UTC): "from 9 to 18",
		time.Date(2026, 5, 18, 17, 0, 0, 0, time.UTC): "", {}: ""} {
		if got := (base.Floor{}).Doubt(at, now); !strings.Contains(got, doubt) || (doubt == "") != (got == "") {
			t.Errorf("a promise for %v is doubted with %q", at, got)
		}
	}
	for i := range rows {
		rows[i].Start = time.Time{}
	}
	if schedule(rows, time.Date(2026, 5, 14, 17, 50, 0, 0, time.UTC), base.Floor{}.OrUsual()); !rows[2].Start.IsZero() {
		t.Errorf("30 minutes are planned at ten to six: %v", rows[2].Start)
	}
}
