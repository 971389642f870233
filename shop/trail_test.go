package shop_test

import (
	"errors"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/store"
)

// TestTrailAddsUp: whatever is done with a job, its stretches follow each other without a gap, and
// what they come to is the whole.
func TestTrailAddsUp(t *testing.T) {
	s := workshop(t)
	rnd := rand.New(rand.NewPCG(4, 11))
	for id := int64(1); id <= 14; id++ {
		then := s.Now()
		for range 12 {
			then = then.Add(time.Duration(rnd.IntN(90)) * time.Minute)
			other := *s
			later := &other
			later.Clock = func() time.Time { return then }
			to := []string{jobs.MoveStart, jobs.MovePause, jobs.WaitsCustomer, jobs.WaitsParts, jobs.MoveReady, jobs.MoveSafe,
				jobs.MoveClose, jobs.MoveReopen, jobs.MoveAway, jobs.MoveHere}[rnd.IntN(10)]
			err := later.MoveJob(t.Context(), okell, "", id, jobs.Move{To: to, For: "a word", Why: "a test", Bench: 1 + rnd.IntN(2)})
			if err == nil && rnd.IntN(3) == 0 {
				err = later.AddContact(t.Context(), okell, "", id, jobs.Contact{How: "phone", Agreed: "yes"}, []hw.Consent{hw.ConsentData})
			}
			var faults hw.Faults
			if err != nil && !errors.As(err, &faults) {
				t.Fatal(err)
			}
			j, err := later.Job(t.Context(), id)
			if err != nil {
				t.Fatal(err)
			}
			at, sum := j.Trail.From, time.Duration(0)
			for _, x := range j.Trail.Spans {
				if !x.From.Equal(at) || !x.To.After(x.From) {
					t.Fatalf("job %d: a stretch from %v to %v comes after %v", id, x.From, x.To, at)
				}
				at = x.To
			}
			for _, d := range j.Trail.Spent {
				sum += d
			}
			if whole := j.Trail.Until.Sub(j.Trail.From); sum != whole || whole > 0 && !at.Equal(j.Trail.Until) {
				t.Fatalf("job %d: %v of %v", id, sum, whole)
			}
			running := slices.ContainsFunc(
				j.Trail.Stations,
				func(x jobs.Station) bool { return x.Open && x.ID == jobs.StationOpened && !x.At.IsZero() },
			)
			if j.State.Running != nil && !running {
				t.Fatalf("job %d runs, and its trail has it at %+v", id, j.Trail.Stations)
			}
		}
	}
}

// TestStops: what stands against opening a machine is told before it is put on a bench, and goes
// on only with a reason, which stays.
func TestStops(t *testing.T) {
	s := workshop(t)
	start := func(id int64, why string) error {
		return s.MoveJob(t.Context(), okell, "", id, jobs.Move{To: jobs.MoveStart, Bench: 2, Why: why})
	}
	for id, says := range map[int64]string{
		jobOfMachine(t, s, "wath-11").JobID: "consent is open: a glued part",
		jobOfMachine(t, s, "wath-07").JobID: "machine not inspected",
	} {
		var faults hw.Faults
		if err := start(id, " "); !errors.As(err, &faults) || faults[0].Pointer != "/why" || !strings.Contains(faults[0].Text, says) {
			t.Errorf("job %d: %v, want %q", id, err, says)
		}
		if err := start(id, "the mate stands beside it"); err != nil {
			t.Fatal(err)
		}
		j, err := s.Job(t.Context(), id)
		if err != nil || j.State.Despite != "the mate stands beside it" || len(j.Stops) == 0 ||
			!strings.Contains(j.History[0].What, "anyway ("+says) {
			t.Errorf("job %d begun all the same: %+v, %v, %q, %v", id, j.State, j.Stops, j.History[0].What, err)
		}
		if err := s.MoveJob(t.Context(), okell, "", id, jobs.Move{To: jobs.MovePause}); err != nil {
			t.Fatal(err)
		}
	}
	r := jobOfMachine(t, s, "corrie-02").Record
	r.Promised = s.Now().Add(jobs.DurationOf(r.Choice.Option.Minutes) + 14*time.Minute) // and a quarter of an hour to prove it
	for _, c := range []struct {
		now   time.Time
		lacks []stock.Lack
		want  []jobs.StopKind
	}{
		{s.Now(), nil, []jobs.StopKind{jobs.StopPromise}},
		{s.Now().Add(-2 * time.Minute), nil, nil},
		{s.Now().Add(-2 * time.Minute), []stock.Lack{{N: 1, Order: &stock.Coming{Due: "2026-05-21"}}},
			[]jobs.StopKind{jobs.StopPart, jobs.StopPromise}},
		{s.Now().Add(-2 * time.Minute), []stock.Lack{{N: 1}}, []jobs.StopKind{jobs.StopPart}},
	} {
		var got []jobs.StopKind
		for _, x := range jobs.StopsOf(&r, c.lacks, &jobs.Calendar{Now: c.now}) {
			got = append(got, x.Kind)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("at %v with %v: %v, want %v", c.now, c.lacks, got, c.want)
		}
	}
}

// TestParseTalk: one line says how, with whom, what was said, agreed and consented to; free words
// never give a consent.
func TestParseTalk(t *testing.T) {
	for line, want := range map[string]string{
		"phone J. Farrow: will ask; agreed: 1 TB; consents: seal, Data": "phone|J. Farrow|will ask|1 TB|[seal data]",
		"phone will ring back":                                         "phone||will ring back||[]",
		"note: the van comes at 15:00; two boxes":                      "note||the van comes at 15:00; two boxes||[]",
		"Counter T. Marr: the data stays; agreed: keep the data on it": "counter|T. Marr|the data stays|keep the data on it|[]",
		"mail agreed: yes":                                             "mail|||yes|[]",
		"mail: consents: glued":                                        "mail||||[glued_part]",
		"phone desk: at 9:30; agreed: at 10:15":                        "phone|desk|at 9:30|at 10:15|[]",
		"phone: consents: a glued part is loosened, a seal is broken":  "phone||||[glued_part seal]",
		"smoke signal":                                                 "/talk: column 1: begin with",
		"phone Farrow: yes; consents: seal, sael": "/talk: column 36: \"sael\" is no consent: " +
			"beyond, unproven, data",
		"  phone ":                  "/talk: column 9: what was said or agreed",
		"":                          "/talk: column 1: begin with",
		"phone ü: yes; consents: x": "/talk: column 25:",
	} {
		x, err := jobs.ParseTalk(line)
		got := ""
		if err != nil {
			got = err.Error()
		} else {
			codes := []string{}
			for _, c := range x.Consents {
				codes = append(codes, string(c))
			}
			got = strings.Join([]string{x.How, x.Who, x.Said, x.Agreed, "[" + strings.Join(codes, " ") + "]"}, "|")
		}
		if got != want && (err == nil || !strings.HasPrefix(got, want)) {
			t.Errorf("%q is %q, want %q", line, got, want)
		}
	}
}

// TestDemoFollowsItsClock: whatever day the demo starts on, nothing in it is told for a day to come that
// was, or said of a month that is long past.
func TestDemoFollowsItsClock(t *testing.T) {
	now := time.Date(2027, 12, 3, 11, 20, 0, 0, time.UTC)
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	s := shop.New(st, func() time.Time { return now })
	if err := s.SeedDemo(t.Context()); err != nil {
		t.Fatal(err)
	}
	date := regexp.MustCompile(`20[0-9]{2}-[0-9]{2}-[0-9]{2}|[0-9]{1,2} May`)
	rows, err := s.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for i := range rows {
		r := &rows[i]
		for _, text := range append([]string{r.Why, r.WaitsFor, r.Record.State.For, r.Record.Complaint}, r.Record.Details.Told) {
			if old := date.FindString(text); old != "" {
				t.Errorf("%s says %q", r.Record.Machine.ID, text)
			}
		}
		for _, f := range r.Record.Chassis.Findings {
			if on, err := time.Parse(time.DateOnly, f.On); err == nil && (on.After(now) || on.Before(now.AddDate(-2, 0, 0))) {
				t.Errorf("%s was seen on %s", f.Path, f.On)
			}
		}
	}
}
