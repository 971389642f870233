package jobs

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/store"
)

// mostMoves is how many moves can be taken back.
const mostMoves = 50

// pin puts a job somewhere, nil leaves it free.
func (v *Arranged) pin(job int64, to *Pin) {
	pins := map[int64]Pin{}
	for id, x := range v.Pins {
		pins[id] = x
	}
	if delete(pins, job); to != nil {
		pins[job] = *to
	}
	v.Pins = pins
}

// last is the last move of a job, 0 for none.
func (v *Arranged) last(job int64) int64 {
	for i := len(v.Moves) - 1; i >= 0; i-- {
		if v.Moves[i].Job == job {
			return v.Moves[i].ID
		}
	}
	return 0
}

// LastMove tells by whom and when a job was moved last, as a form has to name it; 0 for never.
func (w *WeekPlan) LastMove(job int64) int64 { return w.Arr.last(job) }

// note writes down a move, and forgets those that are too old to be taken back.
func (v *Arranged) note(m Moved) {
	if n := len(v.Moves); n > 0 {
		m.ID = v.Moves[n-1].ID
	}
	m.ID++
	v.Moves = append(v.Moves, m)
	v.Moves = v.Moves[max(0, len(v.Moves)-mostMoves):]
}

// pinOf is where a hand has put a job, nil for nowhere.
func (v *Arranged) pinOf(job int64) *Pin {
	if x, ok := v.Pins[job]; ok {
		return &x
	}
	return nil
}

// ErrMoved is told where another has moved a job since it was looked at.
type ErrMoved struct{ Says string }

func (e ErrMoved) Error() string { return e.Says }

// MoveTo puts a job where a hand wants it, or nowhere in particular (to is nil). seen is the last move of it that the hand has
// seen. The error is hw.Faults at /start where it cannot stand there, ErrMoved where another has moved it since.
func (s *Jobs) MoveTo(ctx context.Context, a base.Actor, token string, job, seen int64, to *Pin) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		c, err := s.draftIn(tx)
		if err != nil {
			return "", err
		}
		if last := c.Arr.last(job); last != seen {
			return "", ErrMoved{movedWords(&c.Arr, last)}
		}
		before := c.Arr.pinOf(job)
		if to != nil {
			to.By, to.At = a.Name, c.Now
		}
		c.Arr.pin(job, to)
		if err := s.canStand(tx, c, job, to); err != nil {
			return "", err
		}
		c.Arr.note(Moved{Job: job, Before: before, After: to, By: a.Name, At: c.Now})
		return "", s.keepMove(tx, a, &c, job, to)
	})
	return err
}

// keepMove keeps an arrangement with a job moved, and says so in the machine's history. Where one person works alone, nobody has
// to be shown it.
func (s *Jobs) keepMove(tx store.Tx, a base.Actor, c *Calendar, job int64, to *Pin) error {
	if len(c.How.AtBench) <= 1 {
		c.Arr.ShownPins = c.Arr.Pins
	}
	if err := putArranged(tx, &c.Arr); err != nil {
		return err
	}
	row, err := tx.Job(job)
	if err != nil {
		return err
	}
	what := "free to be planned again"
	if to != nil {
		what = "put " + to.Words()
	}
	return s.NoteEvent(tx, a, base.KindMachine, row.MachineID, base.Event{What: base.Label(job) + ": " + what,
		Kind: base.EventWork, Job: job}, nil)
}

// Words are where a hand has put something.
func (x *Pin) Words() string {
	who := ""
	if x.Person != "" {
		who = " with " + x.Person
	}
	return fmt.Sprintf("on bench %d%s, %s", x.Bench, who, base.TimeWords(x.Start))
}

// movedWords say who has put a job where.
func movedWords(v *Arranged, id int64) string {
	for i := range v.Moves {
		m := &v.Moves[i]
		switch {
		case m.ID != id:
		case m.After == nil:
			return m.By + " has let it go since: it is free to be planned"
		default:
			return m.By + " has put it " + m.After.Words() + " since"
		}
	}
	return "it was moved since"
}

// canStand is hw.Faults where a job cannot stand where a hand puts it.
func (s *Jobs) canStand(tx store.Tx, c Calendar, job int64, to *Pin) error {
	if to == nil {
		return nil
	}
	fault := func(at, text string) error { return hw.Faults{{Pointer: at, Text: text}} }
	switch n := c.How.FloorOf().Benches; {
	case to.Bench < 1 || to.Bench > n:
		return fault("/bench", hw.Word(hw.FaultRange, fmt.Sprint(to.Bench), fmt.Sprintf("bench 1 to %d", n)))
	case to.Person != "" && !slices.Contains(c.How.AtBench, to.Person):
		return fault("/person", hw.Word(hw.FaultChoice, strconv.Quote(to.Person), strings.Join(c.How.AtBench, ", ")))
	case to.Start.Sub(c.Now) > farthest:
		return fault("/start", "it is planned for a year at most")
	}
	w, err := s.weekIn(tx, c)
	if err != nil {
		return err
	}
	r := w.Jobs[strconv.FormatInt(job, 10)]
	switch code, refused := w.Refused[job]; {
	case r == nil || !r.Movable():
		return fault("/start", "it is not planned: "+whyNotPlanned(r))
	case refused:
		return fault("/start", week.PinCodes.Says(code))
	case r.Plan == nil:
		return fault("/start", "it is not planned: "+unplacedWords(&w, job))
	}
	return nil
}

func whyNotPlanned(r *BenchRow) string {
	switch {
	case r == nil:
		return "it is no open job with work left"
	case r.Class == ClassRunning || r.Class == ClassDone:
		return "it is under way, and goes on where it stands"
	case r.Class == ClassDanger:
		return "it is made safe first"
	}
	return "it waits for " + r.WaitsFor
}

// unplacedWords say why a job has no place.
func unplacedWords(w *WeekPlan, job int64) string {
	for _, x := range w.Made.Unplaced {
		if x.Job == strconv.FormatInt(job, 10) {
			return week.NoPlaces.Says(x.Code)
		}
	}
	return week.NoPlaces.Says(week.NeverFits)
}

// UndoMove takes back the last move of somebody, or does it again. The error is ErrMoved where another has moved the job since,
// hw.Faults where there is nothing to take back or it cannot stand there any more.
func (s *Jobs) UndoMove(ctx context.Context, a base.Actor, token string, again bool) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		c, err := s.draftIn(tx)
		if err != nil {
			return "", err
		}
		at := c.Arr.undoable(a.Name, again)
		if at < 0 {
			return "", hw.Faults{{Pointer: "/undo", Text: "there is no move of yours to take back"}}
		}
		m := &c.Arr.Moves[at]
		if last := c.Arr.last(m.Job); last != m.ID {
			return "", ErrMoved{movedWords(&c.Arr, last) + "; you had put it elsewhere before"}
		}
		m.Undone = true
		job, back := m.Job, m.Before
		now := c.Arr.pinOf(job)
		c.Arr.pin(job, back)
		if err := s.canStand(tx, c, job, back); err != nil {
			return "", err
		}
		next := Moved{Job: job, Before: now, After: back, By: a.Name, At: c.Now, Undoes: m.ID}
		if again {
			next.Undoes = 0 // it is a move like any other, and can be taken back
		}
		c.Arr.note(next)
		return "", s.keepMove(tx, a, &c, job, back)
	})
	return err
}

// undoable is where the move stands that somebody takes back, or the taking back that they take back; -1 for none.
func (v *Arranged) undoable(by string, again bool) int {
	for i := len(v.Moves) - 1; i >= 0; i-- {
		m := &v.Moves[i]
		switch {
		case m.By != by || m.Undone:
		case again && m.Undoes == 0:
			return -1 // something else was done since
		case again == (m.Undoes != 0):
			return i
		}
	}
	return -1
}

// CanUndo reports whether somebody has a move to take back, and one to do again.
func (w *WeekPlan) CanUndo(by string) (undo, again bool) {
	return w.Arr.undoable(by, false) >= 0, w.Arr.undoable(by, true) >= 0
}
