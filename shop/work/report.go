package work

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/shop/base"
	"yembo/shop/jobs"
)

// Report is what the customer of a job gets, as far as it is proven.
func (s *Hands) Report(ctx context.Context, job int64) (*proof.Report, error) {
	p, err := s.Proof(ctx, job)
	if err != nil {
		return nil, err
	}
	how, err := s.Settings(ctx)
	if err != nil {
		return nil, err
	}
	r := &reporter{
		p: &p,
		out: &proof.Report{Format: proof.FormatReport, Job: base.Label(job), Found: []string{}, Done: []proof.ReportDone{},
			Measures: []proof.ReportMeasure{}, Tests: []string{}, Left: []string{}, Data: []string{}, Old: []proof.ReportOld{},
			Care: []string{}, Cautions: []string{},
			Warranty: []proof.ReportWarranty{}, Open: []string{}, Notes: []string{}},
	}
	out, j := r.out, &p.Job
	out.Shop = proof.ReportShop{Name: base.OrWord(how.Workshop, s.Called), Address: how.Address}
	out.Customer, out.Complaint = j.Customer, j.Complaint
	out.Machine = proof.ReportMachine{ID: j.Machine.ID, Model: j.Chassis.Name(), Serial: j.Machine.Serial}
	r.found()
	r.done()
	r.sentence()
	r.measured()
	r.left()
	r.aftercare()
	if sign := p.Doc.Sign; sign != nil {
		out.Signed = &proof.ReportSigned{By: sign.By, On: sign.At.Format(time.DateOnly)}
		out.Open = append(out.Open, sign.Open...)
		if sign.Why != "" {
			out.Agreed = sign.Why + " (" + sign.Agreed + ")"
		}
	} else {
		out.Open = append(out.Open, p.Bars...)
	}
	for _, n := range p.Doc.Notes {
		out.Notes = append(out.Notes, n.Text)
	}
	if h := p.Doc.Hand; h != nil {
		out.Handed = &proof.ReportHanded{
			To:      h.To,
			On:      h.At.Format(time.DateOnly),
			With:    append([]string{}, h.With...),
			Without: append([]string{}, h.Without...),
		}
	}
	return out, nil
}

type reporter struct {
	p   *Proof
	out *proof.Report
}

// found tells how the machine came.
func (r *reporter) found() {
	c := &r.p.Job.Details.Condition
	if d := c.Danger(); d != "" {
		r.out.Found = append(r.out.Found, "It came "+d+".")
	}
	if c.Screws {
		r.out.Found = append(r.out.Found, "Screws were missing when it came.")
	}
	if c.Note != "" {
		r.out.Found = append(r.out.Found, c.Note)
	}
	if gb, ok := r.p.totalOf(r.p.Before); ok {
		r.out.Found = append(r.out.Found, "It had "+gb.String()+" GB of memory.")
	}
}

// done lists what was fitted and done, with the warranty of each part.
func (r *reporter) done() {
	if r.p.Option == nil {
		return
	}
	for _, a := range r.p.Option.Actions {
		part := partNamed(r.p.Parts, a.Part)
		switch {
		case a.Do == plan.DoKeep:
		case r.p.leftOut(a.Place):
			r.out.Left = append(
				r.out.Left,
				fmt.Sprintf("%s stays as it was: %s", hw.PlaceSays(a.Place), r.p.Run.State.Done["fit:"+a.Place].Data.Why),
			)
		case part == nil:
			r.out.Done = append(r.out.Done, proof.ReportDone{Place: hw.PlaceSays(a.Place), What: "taken out: " + a.Out})
		default:
			serial := r.p.serialIn(a.Place)
			what := part.Name
			if really, other := r.p.Doc.Really[a.Place]; other {
				what, serial = reallyWords(&really)
			}
			r.out.Done = append(r.out.Done, proof.ReportDone{Place: hw.PlaceSays(a.Place), What: what, Serial: serial})
			if r.p.Warranty != "" && !part.Brought() {
				r.out.Warranty = append(r.out.Warranty, proof.ReportWarranty{What: what, Serial: serial, Until: r.p.Warranty})
			}
		}
	}
	for _, id := range r.p.Option.Services {
		r.out.Done = append(r.out.Done, proof.ReportDone{What: r.p.Job.Chassis.ServiceName(id)})
	}
}

func reallyWords(r *jobs.Really) (what, serial string) {
	switch {
	case r.Module != nil:
		return strings.TrimSpace(gbWords(r.Module.Capacity) + " " + string(r.Module.Type)), r.Module.Serial
	case r.Drive != nil:
		return strings.TrimSpace(gbWords(r.Drive.Capacity) + " " + hw.Interfaces.Says(r.Drive.Interface)), r.Drive.Serial
	}
	return "nothing", ""
}

// gbWords is a capacity, in words where it is not told.
func gbWords(m hw.Maybe[hw.Dec]) string {
	if gb, ok := m.Get(); ok {
		return gb.String() + " GB"
	}
	return "of a size not known,"
}

// memoryWords say what the memory is now, as far as all of it is told.
func (r *reporter) memoryWords() string {
	before, was := r.p.totalOf(r.p.Before)
	after, is := r.p.totalOf(r.p.Expected)
	switch {
	case r.p.memoryOpen():
		return "its memory was changed and is not yet all in order"
	case was && is:
		return fmt.Sprintf("it has %s GB of memory, it had %s", after, before)
	case is:
		return fmt.Sprintf("it has %s GB of memory", after)
	}
	return "its memory was changed"
}

// sentence says first and plainly what the machine has now.
func (r *reporter) sentence() {
	var words []string
	if r.p.Touches(hw.KindMemory) {
		words = append(words, r.memoryWords())
	}
	words = append(words, r.partWords()...)
	if r.p.Option != nil {
		for _, id := range r.p.Option.Services {
			words = append(words, hw.LowerFirst(r.p.Job.Chassis.ServiceName(id)))
		}
	}
	switch {
	case r.p.Doc.Sign == nil:
		r.out.Sentence = "A draft: the work on your machine is not proven yet."
	case len(words) == 0 && len(r.out.Done) > 0:
		r.out.Sentence = "Your machine is ready. The work is listed below."
	case len(words) == 0:
		r.out.Sentence = "Your machine was looked at; nothing in it was changed."
	default:
		r.out.Sentence = "Your machine is ready: " + strings.Join(words, "; ") + "."
	}
}

// partWords say which drives, pack and card it has now. One that came out of a machine is not called new.
func (r *reporter) partWords() []string {
	var out []string
	if r.p.Option == nil {
		return nil
	}
	for _, a := range r.p.Option.Actions {
		part := partNamed(r.p.Parts, a.Part)
		if part == nil || r.p.leftOut(a.Place) {
			continue
		}
		is := "it has a new "
		if part.Pulled() || part.Brought() {
			is = "it has another "
		}
		switch {
		case part.Drive != nil:
			if words := r.driveWords(a.Place); words != "" {
				out = append(out, is+words)
			}
		case part.Battery != nil:
			out = append(out, is+"battery")
		case part.Wireless != nil:
			out = append(out, is+"wireless card")
		}
	}
	return out
}

// driveWords are the drive that is in a place now, "" where none is.
func (r *reporter) driveWords(place string) string {
	for i := range r.p.Expected.Fitted.Drives {
		if f := &r.p.Expected.Fitted.Drives[i]; f.Place == place {
			words := "drive"
			if gb, ok := f.Drive.Capacity.Get(); ok {
				words += " of " + gb.String() + " GB"
			}
			if mi := r.p.Option.Migration; mi != nil && mi.Place == place {
				words += ", which it starts from"
			}
			return words
		}
	}
	return ""
}

// judgedWords are a judgement for a customer.
func judgedWords(j *proof.Judgement) string {
	words := proof.Judgeds.Says(j.Judged)
	if n, ok := j.Percent.Get(); ok {
		words += " by " + max(n, -n).String() + " %"
	}
	return words
}

// measured tells what was measured and tested.
func (r *reporter) measured() {
	for i := range r.p.Doc.Measures {
		m := &r.p.Doc.Measures[i]
		j := m.Judge()
		r.out.Measures = append(
			r.out.Measures,
			proof.ReportMeasure{Name: m.Name, Unit: m.Unit, Before: j.Before, After: j.After, Shows: judgedWords(&j)},
		)
	}
	if t := r.p.Doc.Test; t != nil {
		says := "no error"
		if n, told := t.Errors.Get(); !told {
			says = "its errors are not known"
		} else if n > 0 {
			says = fmt.Sprintf("%d errors", n)
		}
		words := fmt.Sprintf("Memory test over %s GB with %s, %d passes", t.TotalGB, t.Tool, t.Passes)
		if t.Passes == 1 {
			words = fmt.Sprintf("Memory test over %s GB with %s, one pass", t.TotalGB, t.Tool)
		}
		if n, ok := t.Minutes.Get(); ok {
			words += fmt.Sprintf(", %s min", n)
		}
		r.out.Tests = append(r.out.Tests, words+": "+says+".")
	}
	for _, f := range r.p.First {
		if d, done := r.p.Doc.First[f.ID]; done && d.Answer == jobs.FirstNoTest {
			r.out.Tests = append(r.out.Tests, f.Says+": this cannot be tested in our shop.")
		}
	}
}

// left tells what was left alone.
func (r *reporter) left() {
	for _, id := range r.p.Job.Wish.Keep {
		r.out.Left = append(r.out.Left, hw.PlaceSays(id)+" was left as it is, as you asked.")
	}
	if r.p.Job.Choice != nil && !r.p.Touches(hw.KindBattery) && r.p.Before.Fitted.Battery != nil {
		r.out.Left = append(r.out.Left, "The battery is the one that was in it.")
	}
	if d := r.p.Doc.Data; d != nil {
		if d.Verified != "" {
			way := "Your data was copied and compared: "
			if o := r.p.Option; o != nil && o.Migration != nil && o.Migration.How == hw.Clean {
				way = "The system was installed anew, your files were brought over and compared: "
			}
			r.out.Data = append(r.out.Data, way+d.Verified+".")
		}
		if n, ok := d.ReadErrors.Get(); ok && n > 0 {
			r.out.Data = append(r.out.Data, fmt.Sprintf("%d places of the old drive could not be read.", n))
		}
		if d.Note != "" {
			r.out.Data = append(r.out.Data, d.Note)
		}
	}
	for _, old := range r.p.Old {
		d, told := r.p.Doc.Old[old.Place]
		goes := "not said yet"
		if told {
			goes = d.Words()
			if d.Goes == jobs.GoesBack {
				goes = "back to you"
			}
		}
		r.out.Old = append(r.out.Old, proof.ReportOld{What: old.What, Goes: goes, Serial: d.Serial})
	}
}

// aftercare tells how to look after it, and what to mind (docs/rules.md, The way in).
func (r *reporter) aftercare() {
	ch := r.p.Job.Chassis
	battery := ch.Batteries == nil || len(ch.Batteries) > 0
	if r.p.Touches(hw.KindBattery) {
		r.out.Care = append(r.out.Care, "Run the new battery down to 10 % once, then charge it fully, so its gauge reads correctly.")
	}
	if r.p.Touches(hw.KindDrive) {
		r.out.Care = append(r.out.Care, "Keep a backup: a new drive can fail as an old one can.")
	}
	r.out.Care = append(r.out.Care, "Keep its vents free, and have the fan cleaned when it grows loud.")
	if battery {
		r.out.Cautions = append(
			r.out.Cautions,
			"A battery that bulges, smells or grows hot: switch off, charger out, do not press or open it, away from what "+
				"burns, and call us.",
		)
	}
	r.out.Cautions = append(
		r.out.Cautions,
		"Old batteries and electronics do not belong in household waste; local rules say where they go.",
	)
}
