package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// Intake is a machine taken in: a new one, or one that was here before (Known), which
// then gets another job.
type Intake struct {
	Agreement
	Machine  *hw.Machine // its id may be empty: one is made from the customer's name
	Known    bool
	KnownVer int   // the version of the known machine that was looked at
	Another  bool  // it gets another job beside one that is open
	Away     *Away // nil for a machine that is here
}

// Agreement is what was said, seen and agreed when a machine was handed in.
type Agreement struct {
	Customer  string
	Contact   string
	Complaint string
	Wish      *hw.Request
	Details   Details
	Promised  time.Time
}

// TakeIn stores a machine, its customer where new, and the job. The error is
// hw.Faults where something cannot be; nothing is stored then. It returns the
// job's number.
func (s *Jobs) TakeIn(ctx context.Context, a base.Actor, token string, in Intake) (int64, error) {
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		model, err := tx.Model(in.Machine.Chassis)
		if err != nil {
			return "", err
		}
		record, err := records.ReadModel(&model)
		if err != nil {
			return "", err
		}
		m := *in.Machine
		m.Format = hw.FormatMachine
		faults := s.checkAgreement(&in.Agreement)
		switch {
		case in.Known:
			row, err := tx.Machine(m.ID)
			if err != nil {
				return "", err
			}
			if row.Version != in.KnownVer {
				return "", base.ErrChanged
			}
			if back := in.Details.Returns; back != 0 {
				was, err := s.wasEarlier(tx, row.ID, back)
				if err != nil {
					return "", err
				}
				if !was {
					faults = append(
						faults,
						hw.Fault{Pointer: "/returns", Text: "names " + base.Label(back) + ", but that is no proven job of this machine"},
					)
				}
			}
			open, err := openJobOf(tx, row.ID)
			if err != nil {
				return "", err
			}
			if open != 0 && !in.Another {
				faults = append(faults, hw.Fault{Pointer: "/another",
					Text: base.Label(open) + " is open for this machine: continue it, or tick to open a second job"})
			}
		case m.ID == "":
			if m.ID, err = freeID(tx, in.Customer); err != nil {
				return "", err
			}
		default:
			if fault := tagFault(tx, m.ID); fault != "" {
				faults = append(faults, hw.Fault{Pointer: "/id", Text: fault})
			}
		}
		if in.Details.Condition.Swollen {
			pack := &hw.FittedBattery{}
			if m.Fitted.Battery != nil {
				*pack = *m.Fitted.Battery
			}
			pack.Swollen = hw.Known(true)
			m.Fitted.Battery = pack
		}
		faults = append(faults, hw.ValidateMachine(&m, record.Chassis)...)
		asked := hw.ValidateRequest(in.Wish, record.Chassis)
		if in.Details.Returns != 0 && !in.Wish.Asks() {
			// It comes back for what it was here for: nobody has to wish anything.
			asked = slices.DeleteFunc(asked, func(f hw.Fault) bool { return f.Pointer == "/goals" })
		}
		faults = append(faults, asked...)
		if err := faults.Err(); err != nil {
			return "", err
		}
		job, err := s.StoreIntake(tx, a, in, &m)
		return strconv.FormatInt(job, 10), err
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// openJobOf is the number of a machine's job that is not closed, 0 where there is none.
func openJobOf(tx store.Tx, key string) (int64, error) {
	job, err := jobOf(tx, key)
	if err != nil || job == nil || job.ClosedAt != nil {
		return 0, err
	}
	return job.ID, nil
}

// checkAgreement lists what cannot be, and has a machine that was found wanting looked at.
func (s *Jobs) checkAgreement(in *Agreement) hw.Faults {
	var faults hw.Faults
	if strings.TrimSpace(in.Customer) == "" {
		faults.Add("/customer", hw.FaultMissing, "", "the customer's name")
	}
	for pointer, text := range map[string]string{"/customer": in.Customer, "/contact": in.Contact,
		"/complaint": in.Complaint, "/use": in.Details.Use,
		"/condition/note": in.Details.Condition.Note, "/accessories": strings.Join(in.Details.Accessories, ", "),
		"/account": in.Details.Account} {
		if n := utf8.RuneCountInString(text); n > base.MaxText {
			faults.Add(pointer, hw.FaultRange, fmt.Sprintf("a text of %d characters", n),
				fmt.Sprintf("at most %d", base.MaxText))
		}
	}
	c := in.Details.Condition
	if (c.Damp || c.Cracked || c.Swollen || c.Hot || c.Screws) && !c.Looked {
		in.Details.Condition.Looked = true
	}
	if c.Seal != "" && !slices.Contains(Seals, c.Seal) {
		faults.Add("/condition/seal", hw.FaultChoice, strconv.Quote(c.Seal), strings.Join(Seals, ", "))
	}
	for _, code := range in.Details.Consents {
		if !IsConsent(code) {
			faults.Add("/consents", hw.FaultChoice, strconv.Quote(string(code)), "a consent of the list")
		}
	}
	if !in.Promised.IsZero() && in.Promised.Before(s.Now().AddDate(-1, 0, 0)) {
		faults.Add("/promised", hw.FaultRange, in.Promised.Format("2006-01-02"), "a day to come")
	}
	return faults
}

// StoreIntake stores what was checked and returns the job's number.
func (s *Jobs) StoreIntake(tx store.Tx, a base.Actor, in Intake, m *hw.Machine) (int64, error) {
	customer, err := s.customerFor(tx, in.Customer, in.Contact)
	if err != nil {
		return 0, err
	}
	key, before, err := s.intakeMachine(tx, in.Known, customer.ID, m)
	if err != nil {
		return 0, err
	}
	if in.Contact = strings.TrimSpace(in.Contact); in.Contact != customer.Contact {
		in.Details.Contact = in.Contact
	}
	wish, errW := json.Marshal(in.Wish)
	details, errD := json.Marshal(in.Details)
	state, errS := json.Marshal(State{Danger: in.Details.Condition.Danger(), Since: s.Now(), Away: in.Away})
	if err := errors.Join(errW, errD, errS); err != nil {
		return 0, err
	}
	job := store.Job{MachineID: key, CustomerID: customer.ID, Complaint: in.Complaint, Wish: wish, Details: details,
		State: state, Version: 1,
		CreatedAt: s.Now(), UpdatedAt: s.Now()}
	if !in.Promised.IsZero() {
		job.PromisedAt = &in.Promised
	}
	if err := tx.CreateJob(&job); err != nil {
		return 0, err
	}
	what := base.Label(job.ID) + ": taken in for " + customer.Name
	if danger := in.Details.Condition.Danger(); danger != "" {
		what += "; " + danger
	}
	told := base.Event{Job: job.ID}
	if in.Away != nil {
		what += "; " + in.Away.Words(s.Now())
		told.Kind, told.Data = base.EventWork, Course{To: MoveAway}.Data()
	}
	told.What = what
	return job.ID, s.NoteEvent(tx, a, base.KindMachine, key, told, before)
}

// customerFor finds a customer by name, or makes one. A contact that was given is kept
// where there was none; who brought this machine stands in its job.
func (s *Jobs) customerFor(tx store.Tx, name, contact string) (store.Customer, error) {
	name, contact = strings.TrimSpace(name), strings.TrimSpace(contact)
	customer, err := tx.CustomerByName(name)
	if errors.Is(err, store.ErrNotFound) {
		customer = store.Customer{Name: name, Contact: contact, CreatedAt: s.Now()}
		return customer, tx.Create(&customer)
	}
	if err == nil && contact != "" && customer.Contact == "" {
		customer.Contact = contact
		err = tx.SaveCustomer(&customer)
	}
	return customer, err
}

// intakeMachine stores a new machine, or brings one that was here before up to date. It
// returns the machine's key, and what its document was.
func (s *Jobs) intakeMachine(tx store.Tx, known bool, customer int64, m *hw.Machine) (key string, before []byte,
	err error) {
	if !known {
		doc, err := json.Marshal(m)
		if err != nil {
			return "", nil, err
		}
		row := store.Machine{Tag: m.ID, CustomerID: customer, ModelID: m.Chassis, Serial: m.Serial, Doc: doc,
			Version: 1, CreatedAt: s.Now(), UpdatedAt: s.Now()}
		err = tx.CreateMachine(&row)
		return row.ID, nil, err
	}
	row, err := tx.Machine(m.ID)
	if err != nil {
		return "", nil, err
	}
	before = row.Doc
	was := row.CustomerID
	row.CustomerID, row.Customer = customer, store.Customer{}
	if was != customer { // its tag was that of whoever had it before
		now, err := tx.Customer(customer)
		if err != nil {
			return "", nil, err
		}
		next := *m
		if next.ID, err = freeID(tx, now.Name); err != nil {
			return "", nil, err
		}
		m, row.Tag = &next, next.ID
	}
	return row.ID, before, s.SaveMachineIn(tx, &row, m)
}
