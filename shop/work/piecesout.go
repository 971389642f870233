package work

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// PieceOut is where pieces of a part went: the job they were fitted for, and the deliveries that they
// can be of. Bad says what was told of one that was found bad.
type PieceOut struct {
	Job     int64
	Key     string // of the machine
	Tag     string
	On      time.Time
	N       int
	Serials []string
	Orders  []int64 // those of its lot are of the same order; several where nobody can tell which, none where it was not ordered
	Bad     []string
}

// Label is what pages call the job.
func (o PieceOut) Label() string { return base.Label(o.Job) }

// PiecesOut lists where the pieces of a part went, the newest first. Where a piece's serial was noted
// when it came, its delivery is that one; else it can be of every delivery before.
func (s *Hands) PiecesOut(ctx context.Context, part string) ([]PieceOut, error) {
	var out []PieceOut
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.piecesOut(tx, part)
		return err
	})
	return out, err
}

func (s *Hands) piecesOut(tx store.Tx, part string) ([]PieceOut, error) {
	moves, err := tx.AllMovementsOf(part)
	if err != nil {
		return nil, err
	}
	came := map[string]int64{} // the order by the serial
	serials, err := tx.SerialsOf(part)
	if err != nil {
		return nil, err
	}
	for _, x := range serials {
		for _, m := range moves {
			if m.ID == x.Came && m.OrderID != nil {
				came[x.Serial] = *m.OrderID
			}
		}
	}
	var out []PieceOut
	var delivered []int64
	at := map[int64]int{}  // where a job stands in out
	for i := range moves { // the oldest first
		m := &moves[i]
		switch kind := stock.MoveKind(m.Kind); {
		case kind == stock.Bought && m.OrderID != nil && !slices.Contains(delivered, *m.OrderID):
			delivered = append(delivered, *m.OrderID)
		case m.JobID == nil:
		case kind == stock.Fitted || kind == stock.Unfitted:
			i, ok := at[*m.JobID]
			if !ok {
				i = len(out)
				at[*m.JobID] = i
				out = append(out, PieceOut{Job: *m.JobID, Orders: slices.Clone(delivered)})
			}
			out[i].N -= m.Shelf
			out[i].On = m.At
		case kind == stock.SentBack:
			if i, ok := at[*m.JobID]; ok {
				out[i].Bad = append(out[i].Bad, m.Note)
			}
		}
	}
	out = slices.DeleteFunc(out, func(o PieceOut) bool { return o.N < 1 })
	for i := range out {
		if err := s.fillPieceOut(tx, &out[i], part, came); err != nil {
			return nil, err
		}
	}
	slices.Reverse(out)
	return out, nil
}

// fillPieceOut adds the machine and the serials that went in with the part.
func (s *Hands) fillPieceOut(tx store.Tx, o *PieceOut, part string, came map[string]int64) error {
	job, err := tx.Job(o.Job)
	if err != nil {
		return err
	}
	o.Key, o.Tag = job.MachineID, job.Machine.Tag
	if job.Choice == nil {
		return nil
	}
	var c base.Choice
	var m hw.Machine
	if err := json.Unmarshal(job.Choice, &c); err != nil {
		return err
	}
	if err := json.Unmarshal(job.Machine.Doc, &m); err != nil {
		return err
	}
	for _, a := range c.Option.Actions {
		if serial := serialAt(&m, a.Place); a.Part == part && serial != "" {
			o.Serials = append(o.Serials, serial)
			if order, ok := came[serial]; ok {
				o.Orders = []int64{order}
			}
		}
	}
	return nil
}

// serialAt is the serial of what sits in a place of a machine, "" where it is not told.
func serialAt(m *hw.Machine, place string) string {
	for i := range m.Fitted.Memory {
		if f := &m.Fitted.Memory[i]; f.Socket == place {
			return f.Module.Serial
		}
	}
	for i := range m.Fitted.Drives {
		if f := &m.Fitted.Drives[i]; f.Place == place {
			return f.Drive.Serial
		}
	}
	return ""
}

// FoundBad notes that a piece that was fitted for a job was found bad and goes back to its supplier.
// Nothing on the shelf changes: it did not lie there. The error is hw.Faults.
func (s *Hands) FoundBad(ctx context.Context, a base.Actor, token, part string, job int64, serial, why string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		var faults hw.Faults
		serial, why = strings.TrimSpace(serial), strings.TrimSpace(why)
		if why == "" {
			faults.Add("/bad", hw.FaultMissing, "", "what is wrong with it")
		}
		list, err := s.piecesOut(tx, part)
		if err != nil {
			return "", err
		}
		i := slices.IndexFunc(list, func(o PieceOut) bool { return o.Job == job })
		if i < 0 {
			faults = append(faults, hw.Fault{Pointer: "/bad", Text: "no piece was fitted for " + base.Label(job)})
		} else if len(list[i].Bad) >= list[i].N {
			faults = append(faults, hw.Fault{Pointer: "/bad", Text: "all that were fitted for " + base.Label(job) + " went back already"})
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		if err := tooLong("/bad", serial+why, "what is wrong with it"); err != nil {
			return "", err
		}
		note := why
		if serial != "" {
			note = fmt.Sprintf("serial %s: %s", serial, why)
		}
		return part, s.BookMovement(
			tx,
			a,
			store.Movement{PartID: part, Kind: string(stock.SentBack), JobID: &job, MachineID: &list[i].Key, Note: note},
		)
	})
	return err
}
