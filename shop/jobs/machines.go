package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// MachineRecord is a machine with its customer, its model and its newest job.
type MachineRecord struct {
	Key        string // of its address: a number, for the tag that people read says whose it is
	Machine    *hw.Machine
	MachineVer int
	Chassis    *hw.Chassis
	CustomerID int64
	Customer   string
	Contact    string
	Complaint  string
	Wish       *hw.Request  // goals and budget
	Choice     *base.Choice // nil before an option is chosen
	ChosenAt   time.Time
	ChosenBy   string
	JobID      int64 // 0 where the machine has no job
	JobVer     int
	Details    Details
	State      State
	Simulated  []int64   // readings of the simulated machine that were taken over
	TakenIn    time.Time // of the job, of the machine where it has none
	Promised   time.Time // zero where no time was promised
	Closed     time.Time // zero while the job is open
	History    []base.Change
}

// MachineRow is a machine in a list, with its newest job.
type MachineRow struct {
	Key                        string // of its address
	ID, ModelID, Model, Serial string
	Customer                   string
	CustomerID, JobID          int64 // JobID 0 where the machine has no job
	Wish                       *hw.Request
	State                      State
	TakenIn, Promised, Closed  time.Time
}

// MachineList is machines found, with how many there are in all.
type MachineList struct {
	Machines []MachineRow
	All      int
	Found    int // that the query asks for
}

// Machines lists the newest machines in whose id, serial, customer or model every word of
// the query stands.
func (s *Jobs) Machines(ctx context.Context, query string) (MachineList, error) {
	return s.ListMachines(ctx, base.ListQuery{Words: query})
}

// ListMachines lists one page of machines.
func (s *Jobs) ListMachines(ctx context.Context, q base.ListQuery) (MachineList, error) {
	var out MachineList
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, found, err := tx.MachinesPage(q.Store(base.RowsOfPage))
		if err != nil {
			return err
		}
		out.Found, out.All = found, found
		if q.Words != "" || q.Customer != 0 || q.Where != "" {
			if out.All, err = tx.MachineCount(); err != nil {
				return err
			}
		}
		jobs, err := tx.NewestJobs(rows)
		if err != nil {
			return err
		}
		for i := range rows {
			job, has := jobs[rows[i].ID]
			r, err := machineRow(&rows[i], &job, has)
			if err != nil {
				return err
			}
			out.Machines = append(out.Machines, r)
		}
		return nil
	})
	return out, err
}

// JobRow is a job in a list.
type JobRow struct {
	ID                         int64
	Key, Tag, Model, Complaint string
	Customer                   string
	CustomerID                 int64
	State                      State
	TakenIn, Promised, Closed  time.Time
}

// JobList is one page of jobs, with how many are found.
type JobList struct {
	Jobs  []JobRow
	Found int
}

// ListJobs lists one page of jobs, open and closed.
func (s *Jobs) ListJobs(ctx context.Context, q base.ListQuery) (JobList, error) {
	var out JobList
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, found, err := tx.JobsPage(q.Store(base.RowsOfPage))
		if err != nil {
			return err
		}
		out.Found = found
		for i := range rows {
			j := &rows[i]
			r := JobRow{ID: j.ID, Key: j.MachineID, Tag: j.Tag, Model: strings.TrimSpace(j.Maker + " " + j.ModelName),
				Complaint: j.Complaint, Customer: j.CustomerName, CustomerID: j.CustomerID, TakenIn: j.CreatedAt}
			if err := json.Unmarshal(j.State, &r.State); err != nil {
				return fmt.Errorf("the job %s: %w", base.Label(j.ID), err)
			}
			if j.PromisedAt != nil {
				r.Promised = *j.PromisedAt
			}
			if j.ClosedAt != nil {
				r.Closed = *j.ClosedAt
			}
			out.Jobs = append(out.Jobs, r)
		}
		return nil
	})
	return out, err
}

// machineRow reads what a list shows; the model's record is not opened for it.
func machineRow(m *store.Machine, job *store.Job, has bool) (MachineRow, error) {
	r := MachineRow{Key: m.ID, ID: m.Tag, ModelID: m.ModelID,
		Model: strings.TrimSpace(m.Model.Maker + " " + m.Model.Model), Serial: m.Serial,
		Customer: m.Customer.Name, CustomerID: m.CustomerID, TakenIn: m.CreatedAt}
	if !has {
		return r, nil
	}
	var wish hw.Request
	if err := errors.Join(json.Unmarshal(job.Wish, &wish), json.Unmarshal(job.State, &r.State)); err != nil {
		return r, fmt.Errorf("the job %s: %w", base.Label(job.ID), err)
	}
	r.JobID, r.Wish, r.TakenIn = job.ID, &wish, job.CreatedAt
	if job.PromisedAt != nil {
		r.Promised = *job.PromisedAt
	}
	if job.ClosedAt != nil {
		r.Closed = *job.ClosedAt
	}
	return r, nil
}

// jobOf is the newest job of a machine, nil where it has none.
func jobOf(tx store.Tx, machineID string) (*store.Job, error) {
	job, err := tx.JobOf(machineID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	return &job, err
}

// Machine returns one machine, by its key or its tag, with the history of its job.
func (s *Jobs) Machine(ctx context.Context, id string) (MachineRecord, error) {
	var out MachineRecord
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = machine(tx, id)
		return err
	})
	return out, err
}

func machine(tx store.Tx, id string) (MachineRecord, error) {
	row, err := tx.Machine(id)
	if err != nil {
		return MachineRecord{}, err
	}
	job, err := jobOf(tx, row.ID)
	if err != nil {
		return MachineRecord{}, err
	}
	out, err := ReadMachine(&row, job)
	if err != nil {
		return out, err
	}
	if out.Simulated, err = tx.SimulatedReadings(row.ID); err != nil {
		return out, err
	}
	out.History, err = MachineHistoryIn(tx, &row, row.CustomerID)
	return out, err
}

// ownersTime tells what of a machine's history is one customer's.
type ownersTime struct {
	jobs   map[int64]bool // theirs
	others bool           // the machine had other owners' jobs too
	from   int64          // the entry of the history with which their time begins
	now    bool           // it is theirs now
}

func timeOf(tx store.Tx, row *store.Machine, customer int64, rows []store.History) (ownersTime, error) {
	out := ownersTime{jobs: map[int64]bool{}, now: row.CustomerID == customer}
	jobs, err := tx.JobsOf(row.ID)
	for _, j := range jobs {
		out.jobs[j.ID] = j.CustomerID == customer
		out.others = out.others || j.CustomerID != customer
	}
	for _, r := range rows { // the newest first
		if r.JobID != nil && out.jobs[*r.JobID] {
			out.from = r.ID
		}
	}
	return out, err
}

// has reports whether what belongs to a job, or to none, is told to the customer.
func (o *ownersTime) has(job *int64, entry int64) bool {
	if !o.others || job != nil && o.jobs[*job] {
		return true
	}
	return job == nil && o.now && entry > o.from
}

// MachineHistoryIn is what happened to a machine, as far as it is one customer's: of other owners'
// times only the work is told.
func MachineHistoryIn(tx store.Tx, row *store.Machine, customer int64) ([]base.Change, error) {
	rows, err := tx.HistoryOf(base.KindMachine, row.ID)
	if err != nil {
		return nil, err
	}
	theirs, err := timeOf(tx, row, customer, rows)
	var out []base.Change
	for i := range rows {
		if theirs.has(rows[i].JobID, rows[i].ID) || rows[i].Event == base.EventWork {
			out = append(out, base.ChangeOf(&rows[i]))
		}
	}
	return out, err
}

// MachineHistory is all that happened to one machine: its jobs, newest first, and what it
// told.
type MachineHistory struct {
	Record   MachineRecord
	Jobs     []MachineRecord
	Readings []ReadingRecord
	Before   []MachineState // what it was, newest first
}

// MachineState is a machine as it was until some time.
type MachineState struct {
	Entry   int64 // of the history, that ended it
	Until   time.Time
	Why     string // it is another since
	Machine *hw.Machine
}

// MachineHistory returns a machine with all its jobs and readings.
func (s *Jobs) MachineHistory(ctx context.Context, id string) (MachineHistory, error) {
	var out MachineHistory
	err := s.Store.View(ctx, func(tx store.Tx) error {
		var err error
		if out.Record, err = machine(tx, id); err != nil {
			return err
		}
		row, err := tx.Machine(id)
		if err != nil {
			return err
		}
		jobs, err := tx.JobsOf(row.ID)
		if err != nil {
			return err
		}
		for i := range jobs {
			r, err := ReadMachine(&row, &jobs[i])
			if err != nil {
				return err
			}
			if jobs[i].CustomerID != row.CustomerID {
				r.Complaint, r.Contact, r.Details, r.State.For, r.ChosenBy = "", "", Details{}, "", ""
			}
			out.Jobs = append(out.Jobs, r)
		}
		if out.Readings, err = ReadingsOf(tx, &row, row.CustomerID); err != nil {
			return err
		}
		out.Before, err = statesOf(tx, &row)
		return err
	})
	return out, err
}

// statesOf reads the machine's earlier documents out of its history; entries that keep
// something else, such as a choice, are passed over.
func statesOf(tx store.Tx, row *store.Machine) ([]MachineState, error) {
	rows, err := tx.HistoryOf(base.KindMachine, row.ID)
	if err != nil {
		return nil, err
	}
	theirs, err := timeOf(tx, row, row.CustomerID, rows)
	if err != nil {
		return nil, err
	}
	var out []MachineState
	for _, h := range rows {
		var m hw.Machine
		if len(h.Before) == 0 || json.Unmarshal(h.Before, &m) != nil || m.Format != hw.FormatMachine {
			continue
		}
		why := h.What
		if !theirs.has(h.JobID, h.ID) && h.Event != base.EventWork {
			why, m.Usage.RuntimeProfile, m.ID = "", "", row.Tag
		}
		out = append(out, MachineState{h.ID, h.At, why, &m})
	}
	return out, nil
}

// ReadMachine reads a machine with its job, nil for none, and its model out of their rows.
func ReadMachine(row *store.Machine, job *store.Job) (MachineRecord, error) {
	ch := &hw.Chassis{}
	if err := json.Unmarshal(row.Model.Doc, ch); err != nil {
		return MachineRecord{}, fmt.Errorf("model %s: %w", row.ModelID, err)
	}
	return recordOf(row, job, ch)
}

// recordOf is ReadMachine with the model's record already opened.
func recordOf(row *store.Machine, job *store.Job, ch *hw.Chassis) (MachineRecord, error) {
	out := MachineRecord{Key: row.ID, Machine: &hw.Machine{}, MachineVer: row.Version, Chassis: ch,
		CustomerID: row.CustomerID, Customer: row.Customer.Name,
		Contact: row.Customer.Contact, TakenIn: row.CreatedAt, Wish: &hw.Request{Format: hw.FormatRequest}}
	if err := json.Unmarshal(row.Doc, out.Machine); err != nil {
		return out, fmt.Errorf("machine %s: %w", row.ID, err)
	}
	if job == nil {
		return out, nil
	}
	out.JobID, out.JobVer, out.Complaint, out.ChosenBy, out.TakenIn = job.ID, job.Version, job.Complaint, job.ChosenBy,
		job.CreatedAt
	if job.PromisedAt != nil {
		out.Promised = *job.PromisedAt
	}
	if job.ClosedAt != nil {
		out.Closed = *job.ClosedAt
	}
	if err := errors.Join(json.Unmarshal(job.Wish, out.Wish), json.Unmarshal(job.Details, &out.Details),
		json.Unmarshal(job.State, &out.State)); err != nil {
		return out, fmt.Errorf("the job %s for %s: %w", base.Label(job.ID), row.ID, err)
	}
	if out.Details.Contact != "" {
		out.Contact = out.Details.Contact
	}
	if job.ChosenAt != nil && job.Choice != nil {
		out.ChosenAt = *job.ChosenAt
		out.Choice = &base.Choice{}
		if err := json.Unmarshal(job.Choice, out.Choice); err != nil {
			return out, fmt.Errorf("the choice for %s: %w", row.ID, err)
		}
	}
	return out, nil
}

// freeID makes a machine tag from the customer's name and the next free number.
func freeID(tx store.Tx, customer string) (string, error) {
	stem := slug.Make(customer, "machine")
	for n := 1; n < 10_000; n++ {
		id := fmt.Sprintf("%s-%02d", stem, n)
		if taken, err := tx.Taken(base.KindMachine, "tag", id); err != nil || !taken {
			return id, err
		}
	}
	return "", fmt.Errorf("no free id for %s", customer)
}
