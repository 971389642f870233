package past

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/standin/machine"
)

// customer is who brings machines, and how theirs are called.
type customer struct {
	name, contact, tags, asks string
}

// customers come in turn: those with many machines often, each walk-in once or twice.
var customers = []customer{
	{"Wath River Ferries", "ticket desk, 015 550 148", "wath", "J. Farrow"},
	{"H. Dacre", "015 550 210", "h-dacre", "H. Dacre"},
	{"Tarn Veterinary Practice", "reception, 015 550 160", "tarn-vet", "M. Selby"},
	{"L. Ormerod", "015 550 233", "l-ormerod", "L. Ormerod"},
	{"Corrie School robotics club", "T. Marr, club room", "corrie", "T. Marr"},
	{"Wath River Ferries", "ticket desk, 015 550 148", "wath", "J. Farrow"},
	{"S. Teasdale", "015 550 251", "s-teasdale", "S. Teasdale"},
	{"A. Winship", "015 550 266", "a-winship", "A. Winship"},
	{"Tarn Veterinary Practice", "reception, 015 550 160", "tarn-vet", "M. Selby"},
}

// complaints are what people say of machines, by what they want.
var complaints = map[hw.PartKind][]string{
	hw.KindMemory: {"Slow with several programs open.", "Stalls when the browser and the books are open together.",
		"The map program swaps all day."},
	hw.KindDrive:   {"The drive is full.", "No room for the photos any more.", "Nearly full, and slow to start."},
	hw.KindBattery: {"Lasts an hour at the most.", "Has to be plugged in all day."},
}

// pastJob is a job of the past as far as the days need to know it.
type pastJob struct {
	n      int // its number among them
	id     int64
	key    string // of its machine
	tag    string
	by     customer
	quote  int64
	since  time.Time // the day on which it was agreed, zero before
	answer time.Time // the day on which the answer comes
	over   bool
}

// What is told of some of them: by their number among all.
const (
	declinedEvery = 13 // one in so many declines
	linkEvery     = 5  // answers by the link
	thinkEvery    = 7  // thinks it over first
)

// takeIn takes the next machine in, reads every second one, and shows a quote of what is recommended.
func (p *shopPast) takeIn(n int) error {
	like := &p.data.Jobs[likeness[n%len(likeness)]]
	by := customers[n%len(customers)]
	raw, err := json.Marshal(like.Machine)
	if err != nil {
		return err
	}
	var m hw.Machine
	if err := json.Unmarshal(raw, &m); err != nil {
		return err
	}
	begins, _, _ := strings.Cut(like.Machine.Serial, "-")
	m.ID, m.Serial = fmt.Sprintf("%s-%02d", by.tags, 20+n), fmt.Sprintf("%s-%05d", begins, 30000+n*137)
	kind := wanted(&like.Wish.Goals)
	says := complaints[kind]
	in := jobs.Intake{Machine: &m, Agreement: jobs.Agreement{Customer: by.name, Contact: by.contact,
		Complaint: says[n%len(says)], Wish: like.Wish, Promised: p.now.AddDate(0, 0, 14).Truncate(time.Hour),
		Details: jobs.Details{Condition: jobs.Condition{Looked: true, Seal: "none"}, Accessories: []string{"charger"}}}}
	a := p.actor()
	id, err := p.s.TakeIn(p.ctx, a, "", in)
	if err != nil {
		return err
	}
	job, err := p.s.Job(p.ctx, id)
	if err != nil {
		return err
	}
	j := &pastJob{n: n, id: id, key: job.Key, tag: m.ID, by: by}
	p.jobs = append(p.jobs, j)
	if n%2 == 0 {
		p.later(6 * time.Minute)
		if err := p.read(j, job.Chassis, job.Machine, machine.Faults{}); err != nil {
			return err
		}
	}
	p.later(12 * time.Minute)
	return p.offer(j)
}

// wanted is the kind of part that a wish is most about.
func wanted(g *hw.Goals) hw.PartKind {
	switch {
	case g.RuntimeH.IsKnown():
		return hw.KindBattery
	case g.MemoryGB.IsKnown():
		return hw.KindMemory
	}
	return hw.KindDrive
}

// read keeps a reading of the simulated machine.
func (p *shopPast) read(j *pastJob, ch *hw.Chassis, m *hw.Machine, f machine.Faults) error {
	reports, err := machine.Reports(ch, m, f)
	if err != nil {
		return err
	}
	var sent []jobs.Report
	for _, r := range reports {
		sent = append(sent, jobs.Report{Name: r.Name, Data: r.Data})
	}
	_, err = p.s.AddReading(p.ctx, p.actor(), "", j.key, sent, true)
	return err
}

// offer shows a quote of the option that is recommended, and of another where there is one. Pulled pieces are not offered:
// they cannot be ordered again.
func (p *shopPast) offer(j *pastJob) error {
	planned, err := p.s.Plan(p.ctx, j.key, jobs.PlanQuery{})
	if err != nil {
		return err
	}
	var prints []string
	take := func(o *plan.Option) {
		if print := jobs.Fingerprint(*o); len(prints) < 2 && len(o.Missing) == 0 && !p.pulled(o) && (len(prints) == 0 ||
			prints[0] != print) {
			prints = append(prints, print)
		}
	}
	options := planned.Plan.Options
	for i := range options {
		if options[i].ID == planned.Plan.Picks.Recommended {
			take(&options[i])
		}
	}
	for i := range options {
		if options[i].MeetsAll || len(prints) == 0 {
			take(&options[i])
		}
	}
	if len(prints) == 0 {
		return fmt.Errorf("nothing can be offered for %s: %s", j.tag, planned.Plan.Verdict)
	}
	a := p.actor()
	if j.quote, err = p.s.Offer(p.ctx, a, "", j.key, prints, jobs.PlanQuery{}); err != nil {
		return err
	}
	p.later(9 * time.Minute)
	q, err := p.s.Quote(p.ctx, j.quote)
	if err != nil {
		return err
	}
	j.answer = p.now.AddDate(0, 0, j.n%3)
	return p.s.ShowQuote(p.ctx, a, "", q.ID, q.Revision, "printed")
}

func (p *shopPast) pulled(o *plan.Option) bool {
	for _, b := range o.Buy {
		for i := range p.data.Parts.Parts {
			if x := &p.data.Parts.Parts[i]; x.ID == b.Part && x.Pulled() {
				return true
			}
		}
	}
	return false
}

// answers are those that come on a day: most accept, some think it over first, a few decline.
func (p *shopPast) answers(day time.Time) error {
	for _, j := range p.jobs {
		if j.over || !j.since.IsZero() || p.now.Before(j.answer) {
			continue
		}
		p.later(7 * time.Minute)
		if err := p.answered(j, day); err != nil {
			return fmt.Errorf("%s: %w", j.tag, err)
		}
	}
	return nil
}

func (p *shopPast) answered(j *pastJob, day time.Time) error {
	q, err := p.s.Quote(p.ctx, j.quote)
	if err != nil {
		return err
	}
	a := p.actor()
	ans := jobs.QuoteAnswer{How: "phone", Who: j.by.asks}
	switch {
	case j.n%thinkEvery == 3 && q.Answer == "":
		ans.Verdict, ans.AskOn, ans.Said = billing.Thinking, day.AddDate(0, 0, 2).Format(time.DateOnly), "Will ask at home."
		j.answer = day.AddDate(0, 0, 2)
		return p.s.AnswerQuote(p.ctx, a, "", q.ID, q.Revision, ans)
	case j.n%declinedEvery == 11:
		ans.Verdict, ans.Said, j.over = jobs.Declined, "Buys a new one instead.", true
		if err := p.s.AnswerQuote(p.ctx, a, "", q.ID, q.Revision, ans); err != nil {
			return err
		}
		p.later(20 * time.Minute)
		return p.s.MoveJob(p.ctx, a, "", j.id, jobs.Move{To: jobs.MoveClose})
	}
	alt := &q.Doc.Alternatives[0]
	if len(q.Doc.Alternatives) > 1 && j.n%4 == 1 {
		alt = &q.Doc.Alternatives[1]
	}
	ans.Verdict, ans.Letter, ans.Consents, ans.OldParts = jobs.Accepted, alt.Letter, alt.Option.Consents, "back"
	j.since = day
	if j.n%linkEvery == 2 {
		key, err := p.s.LinkQuote(p.ctx, a, q.ID, q.Revision)
		if err != nil {
			return err
		}
		p.later(15 * time.Minute)
		ans.How = "link"
		return p.s.AnswerByLink(p.ctx, "", key, ans)
	}
	return p.s.AnswerQuote(p.ctx, a, "", q.ID, q.Revision, ans)
}

// likeness are the machines of today that those of the past are like, by their number in the demo's list.
var likeness = []int{0, 1, 2, 3, 7, 9, 1, 12, 6, 0, 9}
