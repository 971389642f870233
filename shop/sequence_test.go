package shop_test

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"

	"yembo/core/card"
	"yembo/core/plan"
	"yembo/core/run"
	"yembo/core/teardown"
	"yembo/shop/jobs"
	sim "yembo/standin/machine"
)

// TestOneSequence: for every option of every machine of the demo, the run sheet, the work card and the
// run have the same steps in the same order, the look at the pack and the trial start among them.
func TestOneSequence(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	rows, err := s.BenchList(ctx)
	if err != nil {
		t.Fatal(err)
	}
	options, looks, trials := 0, 0, 0
	for i := range rows {
		p, err := s.Plan(ctx, rows[i].Record.Key, jobs.PlanQuery{})
		if err != nil || p.Plan == nil {
			continue // nothing is wished of it
		}
		for k := range p.Plan.Options {
			o := &p.Plan.Options[k]
			where := fmt.Sprintf("%s, %s", rows[i].Record.Key, p.Words(o))
			for _, when := range card.TrialWhens.Terms() {
				trial := card.TrialWhen(when.Word)
				job, targets := plan.JobOf(p.Record.Chassis, p.Record.Machine, o)
				sheet, err := teardown.RunSheet(ctx, p.Record.Chassis, targets, job)
				if err != nil {
					continue // a way that nobody recorded has no sequence
				}
				c, err := card.Of(ctx, card.Job{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Trial: trial}, o)
				if err != nil {
					t.Fatal(err)
				}
				r, err := run.Make(
					ctx,
					run.Input{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Option: o, Trial: trial},
				)
				if err != nil {
					t.Fatal(err)
				}
				options++
				var recorded, onCard, inRun []string
				for _, list := range [][]card.Step{c.Down, c.Up} {
					for _, st := range list {
						if st.Kind == card.StepRecorded {
							recorded = append(recorded, st.ID)
						}
						onCard = append(onCard, string(st.Kind)+st.ID)
					}
				}
				for _, st := range r.Steps {
					switch st.Kind {
					case run.Down, run.Up:
						inRun = append(inRun, st.ID)
					case run.Hold, run.Look, run.Trial:
						inRun = append(inRun, string(st.Kind))
					}
					if st.Kind == run.Look {
						looks++
					} else if st.Kind == run.Trial {
						trials++
					}
				}
				if want := append(slices.Clone(sheet.Down), sheet.Up...); !slices.Equal(recorded, want) {
					t.Errorf("%s: the sheet has %s, the card %s", where, strings.Join(want, " "), strings.Join(recorded, " "))
				}
				closes := "before it goes on: " + strings.Join(c.Closing, "; ")
				saysIt := func(st run.Step) bool {
					return st.Kind == run.Up && st.ID == c.Cover && slices.Contains(st.Mind, closes)
				}
				if c.Cover != "" && len(c.Closing) > 0 && !slices.ContainsFunc(r.Steps, saysIt) {
					t.Errorf("%s: the step %s of the run does not say %q", where, c.Cover, closes)
				}
				if !slices.Equal(onCard, inRun) {
					t.Errorf("%s, trial %s: the card has %s, the run %s", where, trial, strings.Join(onCard, " "), strings.Join(inRun, " "))
				}
			}
		}
	}
	if options < 60 || looks < 30 || trials < 30 {
		t.Errorf("%d options with %d looks and %d trial starts were compared: too few to show anything", options, looks, trials)
	}
}

// TestReadingOfAnother: a reading whose serial is another machine's of ours says whose it is.
func TestReadingOfAnother(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	this, err := s.Machine(ctx, "wath-07")
	if err != nil {
		t.Fatal(err)
	}
	other, err := s.Machine(ctx, "wath-05")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		of   jobs.MachineRecord
		want string
	}{{other, "wath-05"}, {this, ""}} {
		made, err := sim.Reports(c.of.Chassis, c.of.Machine, sim.Faults{})
		if err != nil {
			t.Fatal(err)
		}
		reports := make([]jobs.Report, len(made))
		for i, r := range made {
			reports[i] = jobs.Report{Name: fmt.Sprint(i), Data: r.Data}
		}
		id, err := s.AddReading(ctx, okell, "", this.Key, reports, false)
		if err != nil {
			t.Fatal(err)
		}
		n, err := strconv.ParseInt(id, 10, 64)
		if err != nil {
			t.Fatal(err)
		}
		got, err := s.CompareReading(ctx, this.Key, n, nil)
		if err != nil {
			t.Fatal(err)
		}
		if c.want == "" && got.Of != nil || c.want != "" && (got.Of == nil || got.Of.Machine.ID != c.want) {
			t.Errorf("a reading of %s is said to be of %+v", c.of.Machine.ID, got.Of)
		}
	}
}
