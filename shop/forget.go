package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"yembo/core/hw"
	"yembo/store"
)

// Nobody is the name that stands in place of a customer's who asked to be forgotten.
const Nobody = "(removed on request)"

// ErrNotScrubbed means that a person's data is removed, and the file's own bytes still wait for
// that: something reads it all the time, or the disk is full.
var ErrNotScrubbed = errors.New("the data is removed, but its bytes are still in the file")

// ForgetCustomer removes what is held of a person: name, contact, complaints, talks, signatures,
// photos of the machine as it was handed in, what was noted of their jobs and machines in people's
// words, the tags made of their name, and with serials also those of their machines and parts. What
// was found and done on the machines stays, under no name. Then the file's own bytes are written
// over; the error is ErrNotScrubbed where that has to be done again. Copies made before still hold
// everything.
func (s *Shop) ForgetCustomer(ctx context.Context, a Actor, id int64, serials bool) error {
	err := s.store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Customer(id)
		if err != nil {
			return err
		}
		row.Name, row.Contact = fmt.Sprintf("%s %d", Nobody, id), ""
		if err := tx.SaveCustomer(&row); err != nil {
			return err
		}
		jobs, err := tx.JobsFor(id)
		if err != nil {
			return err
		}
		for i := range jobs {
			if err := forgetJob(tx, &jobs[i]); err != nil {
				return err
			}
		}
		if err := tx.ForgetTexts(id, Nobody); err != nil {
			return err
		}
		if serials {
			if err := tx.ForgetSerials(id); err != nil {
				return err
			}
		}
		if err := s.forgetMachines(tx, id, serials); err != nil {
			return err
		}
		return s.note(tx, a, kindCustomer, fmt.Sprint(id), "personal data removed on request", nil)
	})
	if err != nil {
		return err
	}
	if err := s.store.Scrub(); err != nil {
		return fmt.Errorf("%w: %w", ErrNotScrubbed, err)
	}
	return nil
}

// forgetJob leaves of a job what was agreed for the machine and how it came, in no one's words.
func forgetJob(tx store.Tx, row *store.Job) error {
	var d Details
	var st State
	if err := errors.Join(json.Unmarshal(row.Details, &d), json.Unmarshal(row.State, &st)); err != nil {
		return err
	}
	came := d.Condition
	came.Note = ""
	details, errD := json.Marshal(Details{Condition: came, Consents: d.Consents})
	st.For = ""
	state, errS := json.Marshal(st)
	if err := errors.Join(errD, errS); err != nil {
		return err
	}
	return tx.ForgetJob(row.ID, details, state)
}

// forgetMachines gives the machines of a customer tags that say nothing about them, and takes
// people's words, and serials where asked, out of their documents.
func (s *Shop) forgetMachines(tx store.Tx, customer int64, serials bool) error {
	rows, err := tx.MachinesOf(customer)
	if err != nil {
		return err
	}
	for i := range rows {
		row := &rows[i]
		var m hw.Machine
		if err := json.Unmarshal(row.Doc, &m); err != nil {
			return err
		}
		if m.ID, err = nobodysTag(tx, row.ID); err != nil {
			return err
		}
		m.Usage.RuntimeProfile = ""
		if serials {
			dropSerials(&m)
			if err := dropReadSerials(tx, row.ID); err != nil {
				return err
			}
		}
		row.Tag = m.ID
		if err := s.saveMachine(tx, row, &m); err != nil {
			return err
		}
		brought, err := tx.PartsFor(row.ID)
		if err != nil {
			return err
		}
		for k := range brought {
			if err := s.forgetPart(tx, &brought[k]); err != nil {
				return err
			}
		}
	}
	return nil
}

// nobodysTag is a tag for a machine that says nothing about whose it is.
func nobodysTag(tx store.Tx, key string) (string, error) {
	for n := 0; ; n++ {
		tag := "machine-" + key
		if n > 0 {
			tag += fmt.Sprint("-", n)
		}
		if taken, err := tx.Taken(kindMachine, "tag", tag); err != nil || !taken {
			return tag, err
		}
	}
}

// forgetPart gives a part that a customer brought a name of its facts.
func (s *Shop) forgetPart(tx store.Tx, row *store.Part) error {
	p, err := readPart(row)
	if err != nil {
		return err
	}
	l := lineOf(row, p)
	l.Part.Name, l.Note, l.OrderNo = "a part that the customer brought", "", ""
	if err := l.fill(row); err != nil {
		return err
	}
	row.Version++
	return tx.SavePart(row, row.Version-1)
}

// dropSerials takes every serial out of a machine's document.
func dropSerials(m *hw.Machine) {
	m.Serial = ""
	for i := range m.Fitted.Memory {
		m.Fitted.Memory[i].Module.Serial = ""
	}
	for i := range m.Fitted.Drives {
		m.Fitted.Drives[i].Drive.Serial = ""
	}
}

// dropReadSerials takes every serial out of what a machine told of itself.
func dropReadSerials(tx store.Tx, machine string) error {
	rows, err := tx.ReadingsOf(machine)
	if err != nil {
		return err
	}
	for i := range rows {
		var tree any
		if err := json.Unmarshal(rows[i].Doc, &tree); err != nil {
			return err
		}
		dropNamed(tree, "serial")
		doc, err := json.Marshal(tree)
		if err != nil {
			return err
		}
		if err := tx.SetReading(rows[i].ID, doc); err != nil {
			return err
		}
	}
	return nil
}

// dropNamed removes a field from every object of a document, and what was said in conflict about it.
func dropNamed(node any, name string) {
	switch x := node.(type) {
	case map[string]any:
		delete(x, name)
		if list, ok := x["conflicts"].([]any); ok {
			var kept []any
			for _, c := range list {
				if said, _ := c.(map[string]any); !strings.HasSuffix(fmt.Sprint(said["path"]), "/"+name) {
					kept = append(kept, c)
				}
			}
			x["conflicts"] = kept
			if kept == nil {
				delete(x, "conflicts")
			}
		}
		for _, child := range x {
			dropNamed(child, name)
		}
	case []any:
		for _, child := range x {
			dropNamed(child, name)
		}
	}
}
