package plans

import (
	"slices"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
	"yembo/shop/jobs"
	"yembo/web/draw"
)

// weights order notes: what can hurt, what can be lost, what is in doubt, and what is worth saying.
var weights = []struct {
	kind  string
	codes []hw.Code
}{
	{"danger", []hw.Code{hw.CodeSwollen}},
	{"data", []hw.Code{hw.CodeDriveFailing, hw.CodeRaid0}},
	{"doubt", []hw.Code{hw.CodeMachineNotKnown, hw.CodeNotInspected, hw.CodeLimitInferred, hw.CodeUnreachable, hw.CodeFactDisputed,
		hw.CodeFactDefaulted}},
}

// weightOf is where a note stands among the weights; what is in none is a remark.
func weightOf(code hw.Code) int {
	for i, w := range weights {
		if slices.Contains(w.codes, code) {
			return i
		}
	}
	return len(weights)
}

// noteGroup is notes that say the same of several facts.
type noteGroup struct {
	Says  string
	Texts []string
	Link  string // to what would settle a single one, "" for nothing
	code  hw.Code
}

// groupNotes puts notes of one kind together, by their weight, and the equal ones on one line; a swollen pack stands
// above everything and is not among them. Those of data come first of all on the page.
func groupNotes(notes []plan.Note, link func(fact string) string) (data, rest []noteGroup) {
	var out []noteGroup
	at := map[hw.Code]int{}
	for _, n := range notes {
		if n.Code == hw.CodeSwollen {
			continue
		}
		i, there := at[n.Code]
		if !there {
			i = len(out)
			at[n.Code] = i
			out = append(out, noteGroup{Says: n.Code.Row().Says, code: n.Code})
		}
		text := n.Text
		if n.About != "" {
			text = n.About + ": not recorded, taken as usual"
		}
		if len(n.Facts) > 0 {
			out[i].Link = link(n.Facts[0])
		}
		out[i].Texts = append(out[i].Texts, text)
	}
	slices.SortStableFunc(out, func(a, b noteGroup) int { return weightOf(a.code) - weightOf(b.code) })
	for _, g := range out {
		if weightOf(g.code) == 1 {
			data = append(data, g)
		} else {
			rest = append(rest, g)
		}
	}
	return data, rest
}

// fetchRow is a fact worth fetching, with the address of its field.
type fetchRow struct{ About, Could, Step, Link string }

// maxFetch is how many facts are named; the others are in the list of what is ruled out.
const maxFetch = 6

// worthFetching lists the facts that could change the plan, with the addresses of their fields.
func (v *planView) worthFetching(p *jobs.Planned, why *plan.Explainer) {
	list := why.WorthFetching(p.Plan)
	if p.GuessedAP {
		v.Fetch = append(v.Fetch, fetchRow{About: "the customer's access point", Link: "#ap",
			Could: "the shop's own, " + hw.Standards.Says(p.Request.Practice.AccessPoint.Or("")) + ", stands in for it: a guess that " +
				"decides which card is any faster"})
	}
	for _, x := range list[:min(len(list), maxFetch)] {
		row := fetchRow{About: x.About, Could: x.Could, Link: factLink(p, x.Fact)}
		if i := p.Record.Chassis.StepByID(x.Step); i >= 0 {
			row.Step = hw.LowerFirst(p.Record.Chassis.Steps[i].Does())
		}
		v.Fetch = append(v.Fetch, row)
	}
	v.FetchMore = len(list) - min(len(list), maxFetch)
}

// reachAsk asks behind which step a place lies that an option changes and nobody tied to one.
type reachAsk struct {
	Place    string
	Steps    []hw.Term[string]
	Proposed string // the last step of the way that it is reckoned with
}

// askReach lists the places of the plan's options whose way nobody recorded.
func (v *planView) askReach(p *jobs.Planned) {
	ch := p.Record.Chassis
	asked := map[string]bool{}
	for i := range p.Plan.Options {
		for _, a := range p.Plan.Options[i].Actions {
			if a.Do != plan.DoKeep && !asked[a.Place] && teardown.WayTo(ch, a.Place) == teardown.NotRecorded {
				asked[a.Place] = true
				v.Reach = append(v.Reach, reachAsk{Place: a.Place})
			}
		}
	}
	if len(v.Reach) == 0 {
		return
	}
	down := teardown.WaysInto(ch, nil).Down([]string{teardown.NotRecorded})
	for k := range v.Reach {
		x := &v.Reach[k]
		for i := range ch.Steps {
			if ch.Steps[i].BackBefore != "" {
				continue
			}
			x.Steps = append(x.Steps, hw.Term[string]{Word: ch.Steps[i].ID, Says: hw.LowerFirst(draw.BareStep(ch, &ch.Steps[i]))})
			if down[i] {
				x.Proposed = ch.Steps[i].ID
			}
		}
	}
}

// adviceRow is what the record says to whoever works at a place.
type adviceRow struct {
	Place string
	Texts []string
}

// advise lists what the record says of the places that the options shown change, each once.
func (v *planView) advise(p *jobs.Planned, shown []*plan.Option) {
	said := map[string]bool{}
	for _, o := range shown {
		for _, a := range o.Actions {
			if a.Do == plan.DoKeep || said[a.Place] {
				continue
			}
			said[a.Place] = true
			if texts := card.Advice(p.Record.Chassis, a.Place); len(texts) > 0 {
				v.Advice = append(v.Advice, adviceRow{a.Place, texts})
			}
		}
	}
}
