package plans

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/kit"
)

func limitWords(p *jobs.Planned) (limit, why string) {
	l := p.Today.Limit
	gb, ok := l.GB.Get()
	if !ok {
		return "not yet known", "Nothing can be called fitting until this is recorded: " +
			hw.LimitPractices.Says(p.Request.Practice.MemoryLimit.Or(hw.LimitMaker)) + "."
	}
	if l.Unreachable {
		return gb.String() + " GB", "The stated " + l.Stated.String() + " GB cannot be reached: " + l.Arithmetic + "."
	}
	return gb.String() + " GB", "Shop rule: " +
		hw.LimitPractices.Says(p.Request.Practice.MemoryLimit.Or(hw.LimitMaker)) + "."
}

// verdictWords is the honest answer in one line, and the sums behind it.
func verdictWords(p *jobs.Planned) (verdict, why string) {
	if !p.Request.Asks() && p.Plan.Verdict != plan.Stop {
		return "Nothing requested yet.",
			"Say above how much memory or storage, which runtime or wireless is wanted, or tick what is to be done " +
				"with it."
	}
	switch p.Plan.Verdict {
	case plan.Stop:
		return "Stop.", "Nothing is planned until the pack is made safe."
	case plan.Enough:
		verdict = "No upgrade needed."
	case plan.Upgrade:
		verdict = "Worth doing."
	case plan.Partial:
		verdict = "Helps, but does not meet the whole request."
	case plan.ServiceOnly:
		verdict = "Services only, no parts."
	case plan.NotKnown:
		return "Not yet known.", "What the machine has is not known, so nothing can be called an upgrade: read it, " +
			"or look when it is open, and enter what is in it."
	default:
		verdict = "Not possible as asked."
	}
	if p.Today.Memory == nil {
		return verdict, "The modules fitted are not known, so the right size is not known."
	}
	today := p.Today.Memory.TotalGB
	peak, ok := p.Record.Machine.Usage.MemoryPeak.Get()
	if !ok {
		return verdict, fmt.Sprintf("It has %s GB. How much the work uses was not measured, so the right size is "+
			"not yet known.", today)
	}
	why = fmt.Sprintf("The work peaks at %s GB, and the machine has %s GB. It needs %s ÷ 0.8 = %s GB", peak, today,
		peak, p.Today.Need.Or(0))
	if size, ok := p.Plan.RightSize.MemoryGB.Get(); ok {
		why += fmt.Sprintf("; the next total that can be reached is %s GB.", size)
	} else {
		why += "; no total that can be reached is that large."
	}
	if peak*10 < today*8 {
		why += " That is under 80 % of what is fitted: memory is not the cause of the complaint."
	}
	return verdict, why
}

// provenWords says what was done on a job whose proof is signed.
func provenWords(r *jobs.MachineRecord) string {
	if r.Choice == nil {
		return "No part was chosen on it; what was found and done stands on its proof."
	}
	return "What was chosen was done: " + kit.ChosenWords(r.Choice) + "."
}

// outOfReach is a goal that nothing reaches, and why; Link is where what would settle it is entered, Plan the plan by a
// practice that would allow it.
type outOfReach struct{ Goal, Text, Link, Plan string }

// riskRows says each risk with its points, in the words of the warning that goes
// with it where there is one, and returns the other warnings.
func riskRows(o *plan.Option) (rows []riskRow, rest []plan.Warning) {
	said := map[string]bool{}
	for _, r := range o.Risk.Reasons {
		row := riskRow{Text: r.Code.Row().Says, Points: r.Points, Code: r.Code}
		if r.Fact != "" { // those of one kind are one line with the facts in it
			if n := len(rows); n > 0 && rows[n-1].Code == r.Code {
				rows[n-1].Points += r.Points
				rows[n-1].Facts = append(rows[n-1].Facts, r.Fact)
				continue
			}
			row.Facts = []string{r.Fact}
		}
		for _, w := range o.Warnings {
			if w.Code == r.Code && !said[string(w.Code)+w.Place] {
				row.Text = w.Text
				said[string(w.Code)+w.Place] = true
				break
			}
		}
		rows = append(rows, row)
	}
	for i := range rows {
		if r := &rows[i]; len(r.Facts) > 0 {
			r.Text = factsWords(r)
		}
	}
	for _, w := range o.Warnings {
		if !said[string(w.Code)+w.Place] {
			rest = append(rest, w)
		}
	}
	return rows, rest
}

// factsWords says of facts of one kind which they are.
func factsWords(r *riskRow) string {
	names := make([]string, len(r.Facts))
	for i, path := range r.Facts {
		names[i] = hw.FactSays(path)
	}
	what := "disputed"
	if r.Code == hw.CodeFactAssumed {
		what = "known from a seller or assumed"
	}
	if len(names) == 1 {
		return names[0] + " is " + what
	}
	return fmt.Sprintf("%d facts are %s: %s", len(names), what, strings.Join(names, "; "))
}

func memoryWords(m *plan.MemoryState) (line, sub string) {
	if line = m.Words(); m == nil {
		return line, ""
	}
	if mts, ok := m.SpeedMTs.Get(); ok {
		sub = strconv.Itoa(mts) + " MT/s"
	} else {
		sub = "speed not yet known"
	}
	if bw, ok := m.Bandwidth.Get(); ok {
		sub += ", " + bw.String() + " GB/s"
		if m.Mode.Or("") == "asymmetric" {
			sub += " on the interleaved part"
		}
	}
	return line, sub
}

// batteryWords says which pack is in use. One that nobody told, of a model that has no
// other, is said to be taken.
func batteryWords(b *plan.BatteryState, m *hw.Machine) string {
	if b == nil {
		return "not known"
	}
	words := cmp.Or(b.Option+b.PartNumber, "a pack")
	if m.Fitted.Battery == nil && !b.FullWh.IsKnown() {
		words += ", the only pack of the model: not known"
	}
	if wh, ok := b.FullWh.Get(); ok {
		words += ", " + wh.String() + " Wh"
	}
	if h, ok := b.RuntimeH.Get(); ok && b.AtLeast {
		words += ", at least " + h.String() + " h"
	} else if ok {
		words += ", " + h.String() + " h"
	}
	return words
}

func wirelessWords(w *plan.WirelessState) string {
	if w == nil {
		return "not known"
	}
	return w.Slot + " " + hw.Standards.Says(w.Standard.Or("standard not yet known"))
}

// practiceWords say in short under which practice it is planned.
func practiceWords(pr *hw.Practice) string {
	words := []string{hw.LimitPractices.Says(pr.MemoryLimit.Or(hw.LimitMaker)), hw.Pairings.Says(pr.Pairing.Or(hw.PairAny)),
		"boot drive: " + hw.Migrations.Says(pr.Migration.Or(hw.Clone)), "2.5-inch bay may be used"}
	if !pr.AllowBay.Or(true) {
		words[3] = "2.5-inch bay stays empty"
	}
	return strings.Join(words, "; ")
}

// replaceFailing is the address of the plan with a wish for what a failing drive holds, "" where none fails or storage
// is wished for already.
func replaceFailing(p *jobs.Planned, st *planState) string {
	if p.Request.Goals.StorageGB.IsKnown() {
		return ""
	}
	fails, gb := false, hw.Dec(0)
	for i := range p.Record.Machine.Fitted.Drives {
		d := &p.Record.Machine.Fitted.Drives[i]
		if d.Raid0.Or(false) { // taken apart by hand
			return ""
		}
		fails = fails || d.Fails()
		gb += max(d.Drive.Capacity.Or(0), d.UsedGB.Or(0))
	}
	if !fails || gb == 0 {
		return ""
	}
	next := url.Values{}
	for name, list := range st.values {
		next[name] = list
	}
	for _, name := range wishNames {
		if value := st.Text(name); value != "" {
			next.Set(name, value)
		}
	}
	for _, x := range p.Request.Services {
		if !slices.Contains(next["service"], x.ID) {
			next.Add("service", x.ID)
		}
	}
	for _, place := range p.Request.Keep {
		if !slices.Contains(next["keep"], place) {
			next.Add("keep", place)
		}
	}
	next.Set("wish", "1")
	next.Set("storage_gb", kit.DecWords(hw.Known(gb)))
	return "?" + next.Encode()
}
