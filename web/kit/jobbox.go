package kit

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"yembo/shop/jobs"
	"yembo/shop/stock"

	"yembo/core/hw"
	"yembo/web/draw"
)

// JobBox is where the job stands: what is missing before a screw is turned, and what is here.
type JobBox struct {
	Missing, Here []BoxLine
	Link, Do      string // the one main action, where it is a page
	Stops         bool   // something stands against opening it
	Despite       string // why it was begun all the same
}

type BoxLine struct {
	Says, Under, Link string
	Pieces            *draw.Pieces
}

// BenchChoice is a bench to put the job on.
type BenchChoice struct {
	N     int
	Taken bool
	Next  bool // the one that is proposed
}

func OrderWords(o *stock.Coming) string {
	words := fmt.Sprintf("on order %d", o.Order)
	if o.Due != "" {
		words += ", due " + o.Due.Sheet()
	}
	return words
}

// BenchChoices are the benches, the one that the job is planned for first, else the first free one.
func BenchChoices(rows []jobs.BenchRow, row *jobs.BenchRow, benches int) []BenchChoice {
	out := make([]BenchChoice, benches)
	for b := range out {
		out[b].N = b + 1
	}
	for i := range rows {
		if r := &rows[i]; r.Class == jobs.ClassRunning && r.Bench >= 1 && r.Bench <= benches && r.JobID != row.JobID {
			out[r.Bench-1].Taken = true
		}
	}
	next := row.Bench - 1
	if next < 0 || next >= benches || out[next].Taken {
		next = 0
		for next < benches-1 && out[next].Taken {
			next++
		}
	}
	out[next].Next = true
	out[0], out[next] = out[next], out[0]
	return out
}

// BoxOf says what is missing before a screw is turned, and what is here.
func BoxOf(j *jobs.JobRecord, row *jobs.BenchRow, now time.Time) JobBox {
	b := JobBox{Stops: len(j.Stops) > 0, Despite: j.State.Despite}
	key := j.Key
	for i := range j.Stops {
		st := &j.Stops[i]
		line := BoxLine{Says: Sentence(st.Says)}
		switch st.Kind {
		case jobs.StopLook:
			line.Under, line.Link = "look, then say how it came", fmt.Sprintf("/jobs/%d/correct", j.JobID)
		case jobs.StopConsent:
			line.Says, line.Under, line.Link = Sentence(st.Consent.Row().Says), "a consent, not given yet", "#talk"
		case jobs.StopPart:
			line.Says, line.Under, line.Link = fmt.Sprintf("%d × %s", st.Lack.N, st.Lack.Name), "to be ordered", "/orders/new"
			if o := st.Lack.Order; o != nil {
				line.Under, line.Link = OrderWords(o), fmt.Sprintf("/orders/%d", o.Order)
			} else if st.Lack.Gone {
				line.Under, line.Link = "can be had no more", "/machines/"+key
			}
		case jobs.StopPromise: // they change nothing here
		}
		b.Missing = append(b.Missing, line)
	}
	if x := j.State.Away; x != nil {
		b.Stops = true // nothing is opened that is not here
		b.Missing = append([]BoxLine{{Says: Sentence(x.Words(now))}}, b.Missing...)
	}
	for _, due := range j.Due {
		b.Missing = append(
			b.Missing,
			BoxLine{Says: Sentence(due), Under: "invoice, payments", Link: fmt.Sprintf("/jobs/%d/bill", j.JobID)},
		)
	}
	for i := range j.Parts {
		if p := &j.Parts[i]; p.Held > 0 {
			b.Here = append(b.Here, BoxLine{Says: fmt.Sprintf("%d × %s", p.Held, p.Name), Under: "reserved for this job",
				Link: "/parts/" + p.Part, Pieces: draw.PiecesOf(p.Doc, []draw.PieceGroup{{State: draw.PieceHeld, N: p.Held}})})
		}
	}
	if given := givenConsents(j); given != "" {
		b.Here = append(b.Here, BoxLine{Says: "Consents: " + given})
	}
	if j.Details.Condition.Looked {
		b.Here = append(b.Here, BoxLine{Says: "Inspected"})
	}
	b.action(j, row)
	return b
}

// action is the one main action where it is a page, and not a move of the job.
func (b *JobBox) action(j *jobs.JobRecord, row *jobs.BenchRow) {
	switch {
	case slices.Contains([]int{jobs.ClassAway, jobs.ClassReady, jobs.ClassRunning, jobs.ClassDanger}, row.Class):
	case row.Class == jobs.ClassDone:
		if b.Link, b.Do = ProofAt(j.JobID), "Check and sign off"; j.State.Declined != nil {
			b.Link, b.Do = "#close", "It is handed back"
		} else if j.State.Proven != nil {
			b.Do = "Hand it over"
		}
	case row.Class == jobs.ClassCustomer && j.State.Quote != 0:
		b.Link, b.Do = QuoteAt(j.State.Quote), "Note their answer"
	case row.Class == jobs.ClassCustomer:
		b.Link, b.Do = "#talk", "Log the answer"
	case row.Class == jobs.ClassParts:
		b.Link, b.Do = "/orders/new", "Place order"
		for i := range j.Lacks {
			switch l := &j.Lacks[i]; {
			case l.Gone:
				b.Link, b.Do = "/machines/"+j.Key, "Plan again"
				return
			case l.Order != nil:
				b.Link, b.Do = fmt.Sprintf("/orders/%d", l.Order.Order), "Parts are here: book in"
			default:
				return
			}
		}
		if len(j.Lacks) == 0 {
			b.Link, b.Do = "/orders", "See the orders"
		}
	case !jobs.Surveyed(j.Chassis):
		b.Link, b.Do = "/models/"+j.Chassis.ID, "Record the model"
	default:
		b.Link, b.Do = "/machines/"+j.Key, "Choose an option"
	}
}

// StopNext is what is done at once with a machine that stops its job.
func StopNext(danger string) string {
	if jobs.PackDanger(danger) {
		return "Hands off the pack; move the machine to the fire box or onto stone, then call the customer"
	}
	return "Leave it as it is, away from people, then call the customer"
}

// DangerCautions are the usual cautions for what is wrong with a machine (docs/rules.md, Battery and wireless).
func DangerCautions(r *jobs.MachineRecord) []string {
	c := r.Details.Condition
	var out []string
	if c.Swollen || c.Hot || jobs.PackDanger(r.Danger()) {
		out = append(out, "Do not charge it, start it, press it or pry at it. Away from people and anything that "+
			"burns, on stone or in the fire box.",
			"Take the pack out only where local rules and your training allow it; never bend or pierce it. It goes "+
				"to battery recycling, terminals taped.",
			"Smoke, hissing or heat: out of the room, call the fire service.")
	}
	if c.Damp {
		out = append(out, "No charger, no start: pack unplugged as soon as it can be, opened and dried before "+
			"anything is tested.")
	}
	if c.Cracked {
		out = append(out, "Gloves and glasses: broken glass and sharp edges. Tape over the crack before it is "+
			"turned over.")
	}
	return append(out, "Local electrical, battery and waste rules, and the maker's service sheet, come before this "+
		"page.")
}

func givenConsents(j *jobs.JobRecord) string {
	var names []string
	for _, row := range hw.Consents {
		for _, code := range j.Details.Consents {
			if code == row.Consent {
				names = append(names, row.Short)
			}
		}
	}
	return strings.Join(names, ", ")
}
