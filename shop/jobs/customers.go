package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Customer is a person or a firm that brings machines.
type Customer struct {
	ID                 int64
	Name, Contact      string
	Machines, OpenJobs int
	LastJob            int64 // the newest of theirs, 0 for none
}

// Customers lists the customers whose name or contact holds every word.
func (s *Jobs) Customers(ctx context.Context, query string) ([]Customer, error) {
	var out []Customer
	words := strings.Fields(strings.ToLower(query))
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Customers()
		if err != nil {
			return err
		}
		facts, err := tx.CustomerFacts()
		for _, r := range rows {
			if holds(strings.ToLower(r.Name+" "+r.Contact), words) {
				f := facts[r.ID]
				out = append(out, Customer{r.ID, r.Name, r.Contact, f.Machines, f.OpenJobs, f.LastJob})
			}
		}
		return err
	})
	return out, err
}

// CustomerNames lists all customers by name, without counting their machines.
func (s *Jobs) CustomerNames(ctx context.Context) ([]Customer, error) {
	var out []Customer
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Customers()
		for _, r := range rows {
			out = append(out, Customer{ID: r.ID, Name: r.Name, Contact: r.Contact})
		}
		return err
	})
	return out, err
}

// CustomerNamed finds a customer by the exact name.
func (s *Jobs) CustomerNamed(ctx context.Context, name string) (Customer, error) {
	var out Customer
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.CustomerByName(strings.TrimSpace(name))
		out = Customer{ID: row.ID, Name: row.Name, Contact: row.Contact}
		return err
	})
	return out, err
}

func holds(text string, words []string) bool {
	for _, w := range words {
		if !strings.Contains(text, w) {
			return false
		}
	}
	return true
}

// CustomerRecord is a customer with machines and history.
type CustomerRecord struct {
	Customer
	List    MachineList
	History []base.Change
}

// Customer returns one customer.
func (s *Jobs) Customer(ctx context.Context, id int64) (CustomerRecord, error) {
	var out CustomerRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Customer(id)
		if err != nil {
			return err
		}
		out.Customer = Customer{ID: row.ID, Name: row.Name, Contact: row.Contact}
		out.History, err = base.HistoryIn(tx, base.KindCustomer, fmt.Sprint(id))
		return err
	})
	if err != nil {
		return out, err
	}
	out.List, err = s.ListMachines(ctx, base.ListQuery{Customer: id})
	out.Machines = len(out.List.Machines)
	return out, err
}

// SaveCustomer changes a customer's name and contact; was is the customer as looked at. The
// error is hw.Faults for a name that is empty or another customer's, ErrChanged where
// somebody changed them since.
func (s *Jobs) SaveCustomer(ctx context.Context, a base.Actor, was Customer, name, contact string) error {
	id := was.ID
	name, contact = strings.TrimSpace(name), strings.TrimSpace(contact)
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Customer(id)
		if err != nil {
			return err
		}
		if row.Name != was.Name || row.Contact != was.Contact {
			return base.ErrChanged
		}
		var faults hw.Faults
		if name == "" {
			faults.Add("/customer", hw.FaultMissing, "", "the customer's name")
		}
		for pointer, text := range map[string]string{"/customer": name, "/contact": contact} {
			if utf8.RuneCountInString(text) > base.MaxText {
				faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
			}
		}
		if other, err := tx.CustomerByName(name); err == nil && other.ID != id {
			faults.Add("/customer", hw.FaultDuplicate, name, "another customer has this name: merge the two")
		}
		if err := faults.Err(); err != nil {
			return err
		}
		if row.Name == name && row.Contact == contact {
			return nil
		}
		before, err := json.Marshal(row)
		if err != nil {
			return err
		}
		row.Name, row.Contact = name, contact
		if err := tx.SaveCustomer(&row); err != nil {
			return err
		}
		return s.Note(tx, a, base.KindCustomer, fmt.Sprint(id), "name or contact changed", before)
	})
}

// MergeCustomers gives all machines of one customer to another; the first is no more.
func (s *Jobs) MergeCustomers(ctx context.Context, a base.Actor, from, to int64) error {
	if from == to {
		return hw.Faults{{Pointer: "/into", Text: "a customer cannot be merged with itself"}}
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		gone, err := tx.Customer(from)
		if err != nil {
			return err
		}
		stays, err := tx.Customer(to)
		if err != nil {
			return hw.Faults{{Pointer: "/into", Text: "there is no such customer any more"}}
		}
		if stays.Contact == "" && gone.Contact != "" {
			stays.Contact = gone.Contact
			if err := tx.SaveCustomer(&stays); err != nil {
				return err
			}
		}
		before, err := json.Marshal(gone)
		if err != nil {
			return err
		}
		if err := tx.MoveMachines(from, to); err != nil {
			return err
		}
		return s.Note(tx, a, base.KindCustomer, fmt.Sprint(to), "merged with "+gone.Name, before)
	})
}
