package past

import (
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/proof"
	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/shop/work"
	"yembo/standin/machine"
)

// What goes otherwise than usual, by the number of the job among all.
const (
	mended    = 8  // a module was not seated: found at the proof, mended, proven
	different = 17 // another module than agreed was fitted, and signed with that
	partPaid  = 21 // pays half, and owes the rest
	unpaid    = 42 // these and later ones have not paid yet
	wrongBill = 25 // the invoice named the wrong customer, and is made anew
)

// ready reports whether a job was agreed to and has all its parts.
func (p *shopPast) ready(j *pastJob) (bool, error) {
	if j.over || j.since.IsZero() {
		return false, nil
	}
	job, err := p.s.Job(p.ctx, j.id)
	if err != nil {
		return false, err
	}
	return job.State.Waits == "" && len(job.Lacks) == 0, nil
}

// work takes a job from the bench to its customer: opened, fitted, proven, handed over and charged.
func (p *shopPast) work(j *pastJob) error {
	a := p.actor()
	if err := p.run(j, a); err != nil {
		return fmt.Errorf("at the bench: %w", err)
	}
	if err := p.prove(j, a); err != nil {
		return fmt.Errorf("its proof: %w", err)
	}
	p.later(40 * time.Minute)
	hand := work.HandingOver{To: j.by.asks, With: []string{"charger"}}
	if j.n%6 == 5 {
		hand.AskOn = p.now.AddDate(0, 0, 14).Format(time.DateOnly)
	}
	if err := p.s.HandOver(p.ctx, a, "", j.id, hand); err != nil {
		return fmt.Errorf("handing over: %w", err)
	}
	j.over = true
	if err := p.charge(j, a); err != nil {
		return fmt.Errorf("charging: %w", err)
	}
	return p.asked()
}

// run does the steps of the work in the minutes that they are reckoned with, more or less.
func (p *shopPast) run(j *pastJob, a base.Actor) error {
	look, err := p.s.LookAtStart(p.ctx, j.id)
	if err != nil {
		return err
	}
	begin := work.Begin{Bench: 1 + j.n%2}
	for _, n := range look.Needs {
		begin.Here = append(begin.Here, n.ID)
	}
	if err := p.s.BeginRun(p.ctx, a, "", j.id, begin); err != nil {
		return err
	}
	r, err := p.s.Run(p.ctx, j.id)
	if err != nil {
		return err
	}
	pace := 0.8 + 0.5*p.random.Float64()
	var sent []work.SentEvent
	took := make([]time.Duration, len(r.State.Plan.Steps))
	var all time.Duration
	for i := range r.State.Plan.Steps {
		took[i] = time.Duration(r.State.Plan.Steps[i].Lasts.Shown().Float()*pace*60)*time.Second + 5*time.Second
		all += took[i]
	}
	p.later(all + time.Minute)
	ago := all
	for i := range r.State.Plan.Steps {
		st := &r.State.Plan.Steps[i]
		ago -= took[i]
		d := run.Data{Read: true, Back: map[string]int{}}
		for _, lot := range st.Takes {
			if !lot.Captive && !lot.Own {
				d.Back[lot.Group] += lot.Count
			}
		}
		if st.Kind == run.Fit {
			d.In = fmt.Sprintf("CV%06d", 210_000+j.n*31+i)
		}
		p.events++
		sent = append(sent, work.SentEvent{Client: fmt.Sprintf("past-%d", p.events), Kind: run.Ticked, Step: st.Key, Ago: ago, Data: d})
	}
	p.events++
	sent = append(sent, work.SentEvent{Client: fmt.Sprintf("past-%d", p.events), Kind: run.Ended})
	refused, err := p.s.RunEvents(p.ctx, a, j.id, sent)
	if err == nil && len(refused) > 0 {
		err = fmt.Errorf("not taken: %v", refused[0].Says)
	}
	return err
}

// prove reads the machine, notes what a proof asks for, and signs it.
func (p *shopPast) prove(j *pastJob, a base.Actor) error {
	note := func(entry work.ProofEntry) error {
		p.later(time.Minute)
		return p.s.ChangeProof(p.ctx, a, "", j.id, entry)
	}
	pr, err := p.s.Proof(p.ctx, j.id)
	if err != nil {
		return err
	}
	p.later(4 * time.Minute)
	faults := machine.Faults{Unseated: j.n == mended, OtherModule: j.n == different}
	if err := p.read(j, pr.Job.Chassis, pr.Expected, faults); err != nil {
		return err
	}
	if j.n == mended {
		place := lastModule(pr.Expected)
		if err := note(work.Tries(proof.ModuleAbsent, place, 0, "seated anew, and clicked")); err != nil {
			return err
		}
		p.later(8 * time.Minute)
		if err := p.read(j, pr.Job.Chassis, pr.Expected, machine.Faults{}); err != nil {
			return err
		}
	}
	for _, f := range pr.First {
		if err := note(work.FirstStarts(f.ID, jobs.FirstDone, "")); err != nil {
			return err
		}
	}
	for _, old := range pr.Old {
		how := jobs.OldPart{Goes: jobs.GoesBack}
		if old.Pack {
			how.Goes = jobs.GoesRecycled
		}
		if err := note(work.OldGoes(old.Place, how)); err != nil {
			return err
		}
	}
	if pr.Option != nil && pr.Option.Migration != nil {
		if err := note(work.DataIs(jobs.DataDone{Verified: "files counted, three opened"})); err != nil {
			return err
		}
	}
	if pr.Touches(hw.KindMemory) {
		if pr, err = p.s.Proof(p.ctx, j.id); err != nil {
			return err
		}
		if total, known := pr.Total(); known {
			p.later(50 * time.Minute)
			if err := note(work.Tests(jobs.MemoryTest{Tool: "memory tester", Passes: 2, TotalGB: total,
				Errors: hw.Known(0)})); err != nil {
				return err
			}
		}
	}
	if err := note(work.Seam(jobs.SeamEdges...)); err != nil {
		return err
	}
	why, agreed := "", ""
	if pr, err = p.s.Proof(p.ctx, j.id); err != nil {
		return err
	}
	if j.n == different {
		why, agreed = "the smaller module was the one that runs clean; the price is lowered", j.by.asks
	} else if len(pr.Bars) > 0 {
		return fmt.Errorf("against it stand %v", pr.Bars)
	}
	return p.s.SignProof(p.ctx, a, "", j.id, why, agreed)
}

// lastModule is the socket of the last module that should be fitted.
func lastModule(m *hw.Machine) string {
	list := m.Fitted.Memory
	if len(list) == 0 {
		return ""
	}
	return list[len(list)-1].Socket
}

// charge makes the invoice, and takes what is paid.
func (p *shopPast) charge(j *pastJob, a base.Actor) error {
	p.later(3 * time.Minute)
	number, err := p.s.MakeInvoice(p.ctx, a, "", j.id, nil)
	if err != nil {
		return err
	}
	if j.n == wrongBill {
		p.later(time.Hour)
		if _, err := p.s.CancelInvoice(p.ctx, a, "", number, "the wrong address"); err != nil {
			return err
		}
		if number, err = p.s.MakeInvoice(p.ctx, a, "", j.id, nil); err != nil {
			return err
		}
	}
	bill, err := p.s.Invoice(p.ctx, number)
	if err != nil {
		return err
	}
	owed := bill.Owed()
	switch {
	case j.n >= unpaid:
		return nil
	case j.n == partPaid:
		owed /= 2
	}
	how := billing.PaidHows[j.n%2].Word
	return p.s.Pay(p.ctx, a, "", j.id, number, owed, how, "")
}

// asked notes what those said who were to be asked how it goes.
func (p *shopPast) asked() error {
	list, err := p.s.ToAsk(p.ctx)
	if err != nil {
		return err
	}
	for _, x := range list {
		p.later(4 * time.Minute)
		if err := p.s.Asked(p.ctx, p.actor(), "", x.Job, "runs well"); err != nil {
			return err
		}
	}
	return nil
}
