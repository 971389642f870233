package jobs

import (
	"time"

	"yembo/core/week"
	"yembo/shop/base"
)

// Away is a machine that is not handed in yet: it is with its customer still.
type Away struct {
	Due base.Due `json:"due,omitempty"` // when it comes, "" where that was not said
}

// Words say where it is and when it comes.
func (x *Away) Words(now time.Time) string {
	switch {
	case x.Due == "":
		return "the machine is not here yet; when it comes was not said"
	case x.Due.Late(now):
		return "the machine was to come " + x.Due.Words() + " and is not here"
	}
	return "the machine comes " + x.Due.Words()
}

// away is where a job stands whose machine is not here: nothing is opened, all else goes on.
func (r *BenchRow) away(now time.Time) {
	x := r.Record.State.Away
	switch r.Class {
	case ClassReady:
		r.Class, r.WaitsFor, r.Why = ClassAway, "the machine", base.UpperFirst(x.Words(now))
		if r.Next = "Ask when the machine comes"; x.Due.Ahead(now) {
			r.Next = "Wait for the machine until " + x.Due.Words()
		}
	case ClassCustomer, ClassParts, ClassOther:
		r.Why += "; " + x.Words(now)
	case ClassDanger, ClassRunning, ClassDone: // it is looked at here, or is heard to be dangerous there
	}
}

// arrives tells the week from when a job's machine is here. ok is false where that is not known.
func (p *planner) arrives(j *week.Job, x *Away) (ok bool) {
	if x == nil {
		return true
	}
	at, timed, said := x.Due.At(p.Now.Location())
	if !said || x.Due.Late(p.Now) || at.Sub(p.Now) >= farthest {
		return false // years away is as good as not known
	}
	if !timed {
		at = base.AtHour(at, p.floor.Closes) // some time that day
	}
	j.From = at.Format(time.RFC3339)
	return true
}

// Movable reports whether a hand may put a job elsewhere in the week: it waits for a bench, or for what it needs at one.
func (r *BenchRow) Movable() bool {
	return r.Class == ClassReady || r.Class == ClassParts || r.Class == ClassAway
}
