package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/store"
)

// MachineRecord is a machine with its customer, its model and its newest job.
type MachineRecord struct {
	Machine   *hw.Machine
	Chassis   *hw.Chassis
	Customer  string
	Contact   string
	Complaint string
	Wish      *hw.Request // goals and budget
	Choice    *Choice     // nil before an option is chosen
	ChosenAt  time.Time
	ChosenBy  string
	JobID     int64
	JobVer    int
	TakenIn   time.Time
	History   []Change
}

// Machines lists all machines, newest first.
func (s *Shop) Machines(ctx context.Context) ([]MachineRecord, error) {
	var out []MachineRecord
	err := s.store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Machines()
		if err != nil {
			return err
		}
		jobs, err := tx.Jobs()
		if err != nil {
			return err
		}
		newest := map[string]*store.Job{}
		for i := range jobs {
			if newest[jobs[i].MachineID] == nil {
				newest[jobs[i].MachineID] = &jobs[i]
			}
		}
		for i := range rows {
			r, err := machineRecord(&rows[i], newest[rows[i].ID])
			if err != nil {
				return err
			}
			out = append(out, r)
		}
		return nil
	})
	return out, err
}

// Machine returns one machine with the history of its job.
func (s *Shop) Machine(ctx context.Context, id string) (MachineRecord, error) {
	var out MachineRecord
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
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
	var job *store.Job
	switch j, err := tx.JobOf(id); {
	case err == nil:
		job = &j
	case !errors.Is(err, store.ErrNotFound):
		return MachineRecord{}, err
	}
	out, err := machineRecord(&row, job)
	if err != nil {
		return out, err
	}
	out.History, err = history(tx, kindMachine, id)
	return out, err
}

func machineRecord(row *store.Machine, job *store.Job) (MachineRecord, error) {
	out := MachineRecord{Machine: &hw.Machine{}, Chassis: &hw.Chassis{}, Customer: row.Customer.Name,
		Contact: row.Customer.Contact, TakenIn: row.CreatedAt, Wish: &hw.Request{Format: hw.FormatRequest}}
	if err := json.Unmarshal(row.Doc, out.Machine); err != nil {
		return out, fmt.Errorf("machine %s: %w", row.ID, err)
	}
	if err := json.Unmarshal(row.Model.Doc, out.Chassis); err != nil {
		return out, fmt.Errorf("model %s: %w", row.ModelID, err)
	}
	if job == nil {
		return out, nil
	}
	out.JobID, out.JobVer, out.Complaint, out.ChosenBy = job.ID, job.Version, job.Complaint, job.ChosenBy
	if err := json.Unmarshal(job.Wish, out.Wish); err != nil {
		return out, fmt.Errorf("the wish for %s: %w", row.ID, err)
	}
	if job.ChosenAt != nil && job.Choice != nil {
		out.ChosenAt = *job.ChosenAt
		out.Choice = &Choice{}
		if err := json.Unmarshal(job.Choice, out.Choice); err != nil {
			return out, fmt.Errorf("the choice for %s: %w", row.ID, err)
		}
	}
	return out, nil
}

// Customers lists the names of all customers.
func (s *Shop) Customers(ctx context.Context) ([]string, error) {
	var out []string
	err := s.store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Customers()
		for _, r := range rows {
			out = append(out, r.Name)
		}
		return err
	})
	return out, err
}

// Intake is a machine taken in.
type Intake struct {
	Customer  string
	Contact   string
	Complaint string
	Machine   *hw.Machine // its id may be empty: one is made from the customer's name
	Wish      *hw.Request
}

const maxText = 4000

// TakeIn stores a machine, its customer where new, and the job. The error is
// hw.Faults where something cannot be; nothing is stored then. It returns the
// machine's id.
func (s *Shop) TakeIn(ctx context.Context, a Actor, token string, in Intake) (string, error) {
	return s.once(ctx, token, func(tx store.Tx) (string, error) {
		model, err := tx.Model(in.Machine.Chassis)
		if err != nil {
			return "", err
		}
		record, err := modelRecord(&model)
		if err != nil {
			return "", err
		}
		m := *in.Machine
		m.Format = hw.FormatMachine
		faults := checkIntake(&in)
		if m.ID == "" {
			if m.ID, err = freeID(tx, in.Customer); err != nil {
				return "", err
			}
		} else if _, err := tx.Machine(m.ID); err == nil {
			faults.Add("/id", hw.FaultDuplicate, `"`+m.ID+`"`, "another machine has it")
		}
		faults = append(faults, hw.ValidateMachine(&m, record.Chassis)...)
		faults = append(faults, hw.ValidateRequest(in.Wish)...)
		if err := faults.Err(); err != nil {
			return "", err
		}
		return m.ID, s.storeIntake(tx, a, in, &m)
	})
}

func checkIntake(in *Intake) hw.Faults {
	var faults hw.Faults
	if strings.TrimSpace(in.Customer) == "" {
		faults.Add("/customer", hw.FaultMissing, "", "the customer's name")
	}
	for pointer, text := range map[string]string{"/customer": in.Customer, "/contact": in.Contact, "/complaint": in.Complaint} {
		if n := utf8.RuneCountInString(text); n > maxText {
			faults.Add(pointer, hw.FaultRange, fmt.Sprintf("a text of %d characters", n), fmt.Sprintf("at most %d", maxText))
		}
	}
	return faults
}

func (s *Shop) storeIntake(tx store.Tx, a Actor, in Intake, m *hw.Machine) error {
	customer, err := tx.CustomerByName(strings.TrimSpace(in.Customer))
	if errors.Is(err, store.ErrNotFound) {
		customer = store.Customer{Name: strings.TrimSpace(in.Customer), Contact: in.Contact, CreatedAt: s.now()}
		err = tx.Create(&customer)
	}
	if err != nil {
		return err
	}
	doc, err := json.Marshal(m)
	if err != nil {
		return err
	}
	row := store.Machine{ID: m.ID, CustomerID: customer.ID, ModelID: m.Chassis, Serial: m.Serial, Doc: doc,
		Version: 1, CreatedAt: s.now(), UpdatedAt: s.now()}
	if err := tx.CreateMachine(&row); err != nil {
		return err
	}
	wish, err := json.Marshal(in.Wish)
	if err != nil {
		return err
	}
	job := store.Job{MachineID: m.ID, Complaint: in.Complaint, Wish: wish, Version: 1, CreatedAt: s.now(), UpdatedAt: s.now()}
	if err := tx.CreateJob(&job); err != nil {
		return err
	}
	return s.note(tx, a, kindMachine, m.ID, "taken in for "+customer.Name, nil)
}

// freeID makes a machine id from the customer's name and the next free number.
func freeID(tx store.Tx, customer string) (string, error) {
	base := Slug(customer)
	if base == "" {
		base = "machine"
	}
	for n := 1; n < 10_000; n++ {
		id := fmt.Sprintf("%s-%02d", base, n)
		switch _, err := tx.Machine(id); {
		case errors.Is(err, store.ErrNotFound):
			return id, nil
		case err != nil:
			return "", err
		}
	}
	return "", fmt.Errorf("no free id for %s", customer)
}

// Slug turns a name into the start of an id: lower-case letters, digits, dashes.
func Slug(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
		if b.Len() >= 24 {
			break
		}
	}
	return strings.Trim(b.String(), "-")
}
