package bench

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"yembo/shop/jobs"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/proof"
	sim "yembo/standin/machine"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

func measureOf(m *proof.Measure) measureView {
	j := m.Judge()
	x := measureView{
		Measure:    *m,
		Slope:      draw.SlopeOf(m, j),
		Judgement:  hw.UpperFirst(proof.Judgeds.Says(j.Judged)),
		BeforeRuns: runsText(m.Before.Runs),
		AfterRuns:  runsText(m.After.Runs),
		Better:     map[bool]string{true: "less is better", false: "more is better"}[m.Less],
	}
	if n, ok := j.Percent.Get(); ok {
		sign := "+"
		if n < 0 {
			sign = "−"
			n = -n
		}
		x.Judgement += fmt.Sprintf(": %s%s %%", sign, n)
	}
	var under []string
	if len(m.Before.Runs) > 0 {
		under = append(under, "before "+x.BeforeRuns)
	}
	if len(m.After.Runs) > 0 {
		under = append(under, "after "+x.AfterRuns)
	}
	switch j.Judged {
	case proof.NoChange:
		under = append(under, "the ranges overlap")
	case proof.Other:
		under = append(under, fmt.Sprintf("“%s” before, “%s” after", m.Before.Profile, m.After.Profile))
	case proof.Better, proof.Worse, proof.TooFew, proof.Waits:
		if m.After.Profile != "" {
			under = append(under, m.After.Profile)
		} else if j.Judged == proof.Better || j.Judged == proof.Worse {
			under = append(under, "how it was measured is not known")
		}
	}
	for _, side := range []struct {
		name string
		*proof.Side
	}{{"before", &m.Before}, {"after", &m.After}} {
		if side.From != "" && side.From != proof.ByHand {
			under = append(under, side.name+" "+proof.Froms.Says(side.From))
		}
	}
	x.Under = hw.UpperFirst(strings.Join(under, "; "))
	if len(j.Odd) > 0 {
		x.Odd = "Far from the others: " + strings.Join(j.Odd, ", ") + ". A typing error? Enter the runs of that side again."
	}
	return x
}

func runsText(runs []hw.Dec) string {
	words := make([]string, len(runs))
	for i, r := range runs {
		words[i] = r.String()
	}
	return strings.Join(words, " ")
}

// runsOf reads runs as they are typed: "4870 4910 4930".
func runsOf(f *form.Form, name string) []hw.Dec {
	var out []hw.Dec
	for _, w := range strings.Fields(strings.ReplaceAll(f.Text(name), ";", " ")) {
		d, err := hw.ParseDec(strings.ReplaceAll(strings.Trim(w, ","), ",", "."))
		if err != nil {
			f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(w), "numbers with spaces between"))
			continue
		}
		out = append(out, d)
	}
	return out
}

// changeProof notes something on a proof.
func (s *pages) changeProof(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	ctx, a, token := c.Request().Context(), s.Acting(c), f.Text("token")
	to := kit.ProofAt(id)
	switch f.Text("do") {
	case "sign":
		err = s.Shop.SignProof(ctx, a, token, id, f.Text("/why"), f.Text("/agreed"))
		to += "#sign"
	case "hand":
		ask := f.DayAhead("/ask", s.Shop.Now())
		if f.Count() == 0 {
			err = s.Shop.HandOver(
				ctx,
				a,
				token,
				id,
				work.HandingOver{To: f.Text("/to"), With: f.Values["with"], AskOn: ask, Path: f.Text("/signature")},
			)
		}
		to = fmt.Sprintf("/jobs/%d/report", id)
	case "asked":
		err = s.Shop.Asked(ctx, a, token, id, f.Text("/said"))
		to = fmt.Sprintf("/jobs/%d", id)
	case "simulate":
		return s.simulateProof(c, f, id)
	default:
		entry := proofEntry(f)
		if entry == nil && f.Count() == 0 {
			return echo.ErrBadRequest
		}
		if f.Count() == 0 {
			err = s.Shop.ChangeProof(ctx, a, token, id, entry)
		}
		to += anchorOf(f.Text("do"))
	}
	if err == nil && f.Count() == 0 {
		return kit.SeeOther(c, to)
	}
	if err != nil && !f.Take(err) {
		return err
	}
	return s.proofPage(c, http.StatusUnprocessableEntity, f)
}

// anchorOf is where on the page a form stands.
func anchorOf(do string) string {
	return map[string]string{"first": "#first", "met": "#first", "mended": "#first", "measure": "#measures",
		"unmeasure": "#measures", "test": "#measures", "data": "#data",
		"old": "#data", "seam": "#seam", "note": "#sign"}[do]
}

// proofEntry is what a form notes on a proof, nil where it is none.
func proofEntry(f *form.Form) work.ProofEntry {
	code := proof.Code(f.Text("code"))
	switch f.Text("do") {
	case "look":
		return work.LookedAt(f.Text("line"), f.Is("same", "yes"), f.Text("said"))
	case "met":
		return work.Meets(code, false)
	case "mended":
		return work.Meets(code, true)
	case "tried":
		return work.Tries(code, f.Text("place"), f.Whole("try").Or(-1), f.Text("said"))
	case "really":
		return work.IsReally(f.Text("place"))
	case "counts":
		return work.ReadingCounts(int64(f.Whole("reading").Or(0)))
	case "first":
		return work.FirstStarts(f.Text("id"), jobs.FirstAnswer(f.Text("answer")), f.Text("note"))
	case "measure":
		m := proof.Measure{Name: f.Text("/name"), Unit: f.Text("/unit"), Less: f.Is("/less", "yes"),
			Before: proof.Side{Profile: f.Text("/profile"), Runs: runsOf(f, "/before"), From: proof.From(f.Text("/from"))},
			After:  proof.Side{Profile: f.Text("/profile"), Runs: runsOf(f, "/after"), From: proof.From(f.Text("/from"))}}
		return work.WasMeasured(m)
	case "unmeasure":
		return work.Unmeasured(f.Text("name"))
	case "test":
		return work.Tests(
			jobs.MemoryTest{
				Tool:    f.Text("/tool"),
				Passes:  f.Whole("/passes").Or(0),
				Minutes: f.Dec("/minutes"),
				TotalGB: f.Dec("/total_gb").Or(0),
				Errors:  f.Whole("/errors"),
			},
		)
	case "data":
		return work.DataIs(
			jobs.DataDone{
				Steps:      f.Values["step"],
				Minutes:    f.Dec("/data_minutes"),
				Verified:   f.Text("/verified"),
				ReadErrors: f.Whole("/read_errors"),
				Note:       f.Text("/data_note"),
			},
		)
	case "old":
		return work.OldGoes(
			f.Text("place"),
			jobs.OldPart{Goes: jobs.Goes(f.Text("goes")), How: f.Text("how"), Days: f.Whole("days").Or(0), Serial: f.Text("serial")},
		)
	case "seam":
		edges := f.Values["edge"]
		if len(edges) == 0 {
			f.Fault("edge", hw.Word(hw.FaultMissing, "", "the edge that was looked along"))
			return nil
		}
		return work.Seam(edges...)
	case "note":
		return work.ProofNoted(f.Text("/text"))
	}
	return nil
}

// simulateProof reads the simulated machine as it should be after the work, with the faults that are
// switched on.
func (s *pages) simulateProof(c *echo.Context, f *form.Form, id int64) error {
	ctx := c.Request().Context()
	p, err := s.Shop.Proof(ctx, id)
	if err != nil {
		return err
	}
	faults, err := sim.FaultsOf(f.Values["fault"])
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	m := *p.Expected
	m.ID = p.Job.Machine.ID
	reports, err := sim.Reports(p.Job.Chassis, &m, faults)
	if err != nil {
		return err
	}
	var sent []jobs.Report
	for _, r := range reports {
		sent = append(sent, jobs.Report{Name: "simulated " + r.Name, Data: r.Data})
	}
	if _, err := s.Shop.AddReading(ctx, s.Acting(c), f.Text("token"), p.Job.Key, sent, true); err != nil {
		if !f.Take(err) {
			return err
		}
		return s.proofPage(c, http.StatusUnprocessableEntity, f)
	}
	for i, code := range sim.Screen(faults) {
		token := fmt.Sprintf("%s-%d", f.Text("token"), i)
		if err := s.Shop.ChangeProof(ctx, s.Acting(c), token, id, work.Meets(code, false)); err != nil {
			return err
		}
	}
	return kit.SeeOther(c, kit.ProofAt(id))
}
