package care

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/store"
)

// keepRemoved is how long what was removed can be brought back.
const keepRemoved = 30 * 24 * time.Hour

// Removal is what removing a record means: what goes with it, and what stands against it.
type Removal struct {
	Kind, ID, Name string
	With           []string
	Against        []Obstacle
}

// Obstacle is something that has to be done before a record can be removed. Page is where.
type Obstacle struct{ Says, Page string }

// RemovedRecord is a record that was removed, and until when it can be brought back.
type RemovedRecord struct {
	Kind, ID, Name, By string
	At, Until          time.Time
}

// Kinds of records that can be removed, in words.
var kindSays = map[string]string{base.KindModel: "model", base.KindMachine: "machine", base.KindJob: "job",
	base.KindCustomer: "customer", base.KindPart: "part"}

// KindSays is a kind of record in words, "" for one that cannot be removed.
func KindSays(kind string) string { return kindSays[kind] }

// LookAtRemoval tells what removing a record means.
func (s *Care) LookAtRemoval(ctx context.Context, kind, id string) (Removal, error) {
	var out Removal
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.removal(tx, kind, id)
		return err
	})
	return out, err
}

func (s *Care) removal(tx store.Tx, kind, id string) (Removal, error) {
	out := Removal{Kind: kind, ID: id}
	var err error
	switch kind {
	case base.KindModel:
		err = out.ofModel(tx)
	case base.KindMachine:
		err = out.ofMachine(tx)
	case base.KindJob:
		err = out.ofJob(tx)
	case base.KindCustomer:
		err = out.ofCustomer(tx)
	case base.KindPart:
		err = out.ofPart(tx)
	default:
		err = store.ErrNotFound
	}
	return out, err
}

// count says how many of something go along.
func (r *Removal) count(n int, one, many string) {
	switch {
	case n == 1:
		r.With = append(r.With, "1 "+one)
	case n > 1:
		r.With = append(r.With, fmt.Sprint(n, " ", many))
	}
}

func (r *Removal) stop(page, format string, args ...any) {
	r.Against = append(r.Against, Obstacle{fmt.Sprintf(format, args...), page})
}

func (r *Removal) ofModel(tx store.Tx) error {
	row, err := tx.Model(r.ID)
	if err != nil {
		return err
	}
	r.Name = strings.TrimSpace(row.Maker + " " + row.Model)
	machines, err := tx.MachinesOfModel(r.ID)
	if err != nil {
		return err
	}
	for _, m := range machines[:min(len(machines), 5)] {
		r.stop("/machines/"+m.ID+"/correct", "%s is of this model: correct which model it is, or remove it first", m.Tag)
	}
	if more := len(machines) - 5; more > 0 {
		r.stop("/machines?q="+row.Code, "%d more are of it", more)
	}
	photos, err := tx.PhotosOf(base.KindModel, r.ID)
	r.count(len(photos), "photo", "photos")
	r.With = append(r.With, "its findings and its history")
	return err
}

func (r *Removal) ofMachine(tx store.Tx) error {
	row, err := tx.Machine(r.ID)
	if err != nil {
		return err
	}
	r.ID, r.Name = row.ID, row.Tag
	jobs, err := tx.JobsOf(row.ID)
	if err != nil {
		return err
	}
	for i := range jobs {
		if err := r.jobStops(tx, &jobs[i]); err != nil {
			return err
		}
	}
	hangs, err := tx.HangsOnMachine(row.ID)
	r.count(hangs.Jobs, "job", "jobs")
	r.hangs(&hangs)
	r.count(hangs.Brought, "part that the customer brings", "parts that the customer brings")
	return err
}

func (r *Removal) hangs(h *store.HangsOn) {
	r.count(h.Readings, "reading", "readings")
	r.count(h.Photos, "photo", "photos")
	r.count(h.Talks, "talk", "talks")
}

func (r *Removal) ofJob(tx store.Tx) error {
	n, err := strconv.ParseInt(r.ID, 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	row, err := tx.Job(n)
	if err != nil {
		return err
	}
	r.Name = base.Label(row.ID) + " for " + row.Machine.Tag
	if err := r.jobStops(tx, &row); err != nil {
		return err
	}
	hangs, err := tx.HangsOnJob(row.ID)
	r.hangs(&hangs)
	return err
}

// jobStops tells what stands against removing a job, and what of the shelf it lets go.
func (r *Removal) jobStops(tx store.Tx, row *store.Job) error {
	page := fmt.Sprintf("/jobs/%d", row.ID)
	var st jobs.State
	if err := json.Unmarshal(row.State, &st); err != nil {
		return err
	}
	if st.Running != nil {
		r.stop(page, "%s is on bench %d: take it off first", base.Label(row.ID), st.Bench)
	}
	money, err := tx.HoldsMoney(row.ID)
	if err != nil {
		return err
	}
	if money > 0 {
		says := "%s has a quote that was shown, an invoice or a payment: close it instead"
		if row.ClosedAt != nil {
			says = "%s has a quote that was shown, an invoice or a payment: it stays as it was closed"
		}
		r.stop(page, says, base.Label(row.ID))
	}
	holds, err := tx.HoldsOf(row.ID)
	held, fitted := 0, 0
	for _, h := range holds {
		held += h.N
		fitted += h.Fitted
	}
	switch {
	case fitted > 0 && row.ClosedAt != nil:
		r.stop(page+"#parts", "%s has %d parts fitted: it stays as it was closed", base.Label(row.ID), fitted)
	case fitted > 0:
		r.stop(page+"#parts", "%s has %d parts fitted: put them back on the shelf first, or close the job", base.Label(row.ID), fitted)
	}
	if held > 0 {
		r.With = append(r.With, fmt.Sprintf("%d kept for %s, let go on the shelf", held, base.Label(row.ID)))
	}
	return err
}

func (r *Removal) ofCustomer(tx store.Tx) error {
	id, err := strconv.ParseInt(r.ID, 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	row, err := tx.Customer(id)
	if err != nil {
		return err
	}
	r.Name = row.Name
	machines, err := tx.MachinesOf(id)
	if err != nil {
		return err
	}
	jobs, err := tx.JobsFor(id)
	if err != nil {
		return err
	}
	for i := range machines {
		if !machines[i].RemovedAt.Valid {
			r.stop("/machines/"+machines[i].ID+"/correct", "%s belongs to them: change its owner or remove it first", machines[i].Tag)
		}
	}
	for i := range jobs {
		if !jobs[i].RemovedAt.Valid {
			r.stop(fmt.Sprintf("/jobs/%d/correct", jobs[i].ID), "%s belongs to them: change its owner or remove it first",
				base.Label(jobs[i].ID))
		}
	}
	r.Against = r.Against[:min(len(r.Against), 6)]
	return nil
}

func (r *Removal) ofPart(tx store.Tx) error {
	row, err := tx.Part(r.ID)
	if err != nil {
		return err
	}
	r.Name = row.Name
	page := "/parts/" + r.ID
	moved, ordered, err := tx.UsesOfPart(r.ID)
	if err != nil {
		return err
	}
	if moved > 0 {
		r.stop(page, "used in jobs: retire it instead, its history stays")
	}
	if ordered > 0 {
		r.stop(page, "it was ordered: retire it instead, what was done with it stays")
	}
	all, err := stock.Wants(tx)
	if err != nil {
		return err
	}
	for i := range all {
		if w := &all[i]; w.Part == r.ID && w.Asked > w.Fitted {
			r.stop(fmt.Sprintf("/jobs/%d", w.Job.ID), "%s has it chosen: choose something else there first", base.Label(w.Job.ID))
		}
	}
	stock, err := tx.Stock(r.ID)
	r.count(stock.Shelf, "piece on the shelf", "pieces on the shelf")
	return err
}

// Remove takes a record that was made by mistake out of everything, with what hangs on it. For 30
// days it can be brought back. The error is hw.Faults where something stands against it.
func (s *Care) Remove(ctx context.Context, a base.Actor, token, kind, id string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		r, err := s.removal(tx, kind, id)
		if err != nil {
			return "", err
		}
		return r.ID, s.removeIn(tx, a, &r)
	})
	return err
}

// removeIn is Remove within a transaction.
func (s *Care) removeIn(tx store.Tx, a base.Actor, r *Removal) error {
	if len(r.Against) > 0 {
		var faults hw.Faults
		for _, o := range r.Against {
			faults = append(faults, hw.Fault{Text: o.Says})
		}
		return faults
	}
	now := s.Now()
	switch r.Kind {
	case base.KindMachine:
		jobs, err := tx.JobsOf(r.ID)
		if err != nil {
			return err
		}
		if err := tx.BroughtParts(r.ID, now, a.Name, false); err != nil {
			return err
		}
		for i := range jobs {
			if err := s.removeJob(tx, a, &jobs[i], now); err != nil {
				return err
			}
		}
	case base.KindJob:
		n, _ := strconv.ParseInt(r.ID, 10, 64) // removal() read it
		row, err := tx.Job(n)
		if err != nil {
			return err
		}
		return s.removeJob(tx, a, &row, now)
	case base.KindModel:
		if err := tx.Unlist(r.ID); err != nil {
			return err
		}
	}
	if err := tx.Remove(r.Kind, r.ID, now, a.Name); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, r.Kind, r.ID, base.Event{What: "removed", Kind: base.EventRemoved}, nil)
}

// removeJob removes a job, and lets go what is kept for it.
func (s *Care) removeJob(tx store.Tx, a base.Actor, row *store.Job, now time.Time) error {
	if row.ClosedAt == nil {
		if err := s.LetGo(tx, a, row.ID); err != nil {
			return err
		}
	}
	if err := tx.Remove(base.KindJob, fmt.Sprint(row.ID), now, a.Name); err != nil {
		return err
	}
	return s.NoteEvent(
		tx,
		a,
		base.KindMachine,
		row.MachineID,
		base.Event{What: base.Label(row.ID) + ": removed", Kind: base.EventRemoved, Job: row.ID},
		nil,
	)
}

// Removed lists what was removed and can still be brought back, the newest first.
func (s *Care) Removed(ctx context.Context) ([]RemovedRecord, error) {
	var out []RemovedRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.RemovedList(s.Now().Add(-keepRemoved))
		if err != nil {
			return err
		}
		for _, r := range rows {
			if r.Kind == base.KindJob {
				n, _ := strconv.ParseInt(r.ID, 10, 64) // a job's id is a number
				r.Name = strings.TrimSuffix(base.Label(n)+": "+r.Name, ": ")
			}
			out = append(out, RemovedRecord{r.Kind, r.ID, r.Name, r.By, r.At, r.At.Add(keepRemoved)})
		}
		slices.SortStableFunc(out, func(a, b RemovedRecord) int { return b.At.Compare(a.At) })
		return nil
	})
	return out, err
}

// BringBack puts a removed record where it was, with all that went with it. The error is hw.Faults
// where what it belongs to is itself removed.
func (s *Care) BringBack(ctx context.Context, a base.Actor, token, kind, id string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		told := base.Event{What: "brought back", Kind: base.EventRemoved}
		switch kind {
		case base.KindModel:
			row, err := tx.RemovedModel(id)
			if err != nil {
				return "", err
			}
			record, err := records.ReadModel(&row)
			if err != nil {
				return "", err
			}
			if row.Brief, err = json.Marshal(records.BriefOf(record.Chassis)); err != nil {
				return "", err
			}
			if err := tx.List(&row); err != nil {
				return "", err
			}
		case base.KindMachine:
			return id, s.bringMachineBack(tx, a, id)
		case base.KindJob:
			row, err := tx.RemovedJob(id)
			if err != nil {
				return "", err
			}
			return id, s.bringJobBack(tx, a, &row)
		case base.KindCustomer, base.KindPart:
		default:
			return "", store.ErrNotFound
		}
		if err := tx.BringBack(kind, id); err != nil {
			return "", err
		}
		return id, s.NoteEvent(tx, a, kind, id, told, nil)
	})
	return err
}

// needs tells that what a record belongs to has to be brought back first.
func needs(err error, what string) error {
	if errors.Is(err, store.ErrNotFound) {
		return hw.Faults{{Text: "bring back its " + what + " first: that was removed too"}}
	}
	return err
}

func (s *Care) bringMachineBack(tx store.Tx, a base.Actor, id string) error {
	row, err := tx.RemovedMachine(id)
	if err != nil {
		return err
	}
	if _, err := tx.Model(row.ModelID); err != nil {
		return needs(err, "model")
	}
	if _, err := tx.Customer(row.CustomerID); err != nil {
		return needs(err, "customer")
	}
	at := row.RemovedAt.Time
	if err := tx.BringBack(base.KindMachine, id); err != nil {
		return err
	}
	if err := tx.BroughtParts(id, at, a.Name, true); err != nil {
		return err
	}
	jobs, err := tx.RemovedJobs(id, at)
	if err != nil {
		return err
	}
	for i := range jobs {
		if err := s.bringJobBack(tx, a, &jobs[i]); err != nil {
			return err
		}
	}
	return s.NoteEvent(tx, a, base.KindMachine, id, base.Event{What: "brought back", Kind: base.EventRemoved}, nil)
}

func (s *Care) bringJobBack(tx store.Tx, a base.Actor, row *store.Job) error {
	if _, err := tx.Machine(row.MachineID); err != nil {
		return needs(err, "machine")
	}
	if _, err := tx.Customer(row.CustomerID); err != nil {
		return needs(err, "customer")
	}
	if err := tx.BringBack(base.KindJob, fmt.Sprint(row.ID)); err != nil {
		return err
	}
	if row.ClosedAt == nil {
		if err := s.ReserveAgain(tx, a, row); err != nil {
			return err
		}
	}
	return s.NoteEvent(
		tx,
		a,
		base.KindMachine,
		row.MachineID,
		base.Event{What: base.Label(row.ID) + ": brought back", Kind: base.EventRemoved, Job: row.ID},
		nil,
	)
}

// PurgeRemoved removes for good what was removed 30 days ago.
func (s *Care) PurgeRemoved(ctx context.Context) error {
	return s.Store.Update(ctx, func(tx store.Tx) error { return tx.Purge(s.Now().Add(-keepRemoved)) })
}
