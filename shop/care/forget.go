package care

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/shop/work"
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
func (s *Care) ForgetCustomer(ctx context.Context, a base.Actor, id int64, serials bool) error {
	if err := s.ForgetRecords(ctx, a, id, serials); err != nil {
		return err
	}
	if err := s.Store.Scrub(); err != nil {
		return fmt.Errorf("%w: %w", ErrNotScrubbed, err)
	}
	return nil
}

// KeptCopies are the files with copies of the data that this program knows of and that hold what they held
// when they were made, whoever was forgotten since: what restoring and new versions kept in the data folder,
// and the daily copies.
func (s *Care) KeptCopies() []string {
	var out []string
	for _, pattern := range []string{filepath.Join(s.Store.Dir, "yembo-before-*.db"), filepath.Join(s.Store.Dir, "yembo-of-*.db"),
		filepath.Join(s.Copies().Folder, "yembo-*.db"), filepath.Join(s.Copies().Folder, "yembo-*.db"+sealedEnd)} {
		if found, err := filepath.Glob(pattern); err == nil && filepath.Dir(pattern) != "." {
			out = append(out, found...)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// ForgetRecords removes what is held of a person from every record, and notes that the bytes wait.
func (s *Care) ForgetRecords(ctx context.Context, a base.Actor, id int64, serials bool) error {
	var who store.Customer
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Customer(id)
		if err != nil {
			return err
		}
		who = row
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
		if err := forgetQuotes(tx, id); err != nil {
			return err
		}
		if err := forgetRuns(tx, id); err != nil {
			return err
		}
		if err := forgetTags(tx, id, jobs); err != nil {
			return err
		}
		if err := s.forgetMachines(tx, id, serials); err != nil {
			return err
		}
		if err := tx.MarkScrub(); err != nil {
			return err
		}
		return s.Note(tx, a, base.KindCustomer, fmt.Sprint(id), "personal data removed on request", nil)
	})
	if err != nil {
		return err
	}
	return s.keepForgotten(&who, serials)
}

// forgetJob leaves of a job what was agreed for the machine and how it came, in no one's words.
func forgetJob(tx store.Tx, row *store.Job) error {
	var d jobs.Details
	var st jobs.State
	if err := errors.Join(json.Unmarshal(row.Details, &d), json.Unmarshal(row.State, &st)); err != nil {
		return err
	}
	came := d.Condition
	came.Note = ""
	details, errD := json.Marshal(jobs.Details{Condition: came, Consents: d.Consents})
	st.For = ""
	state, errS := json.Marshal(st)
	if err := errors.Join(errD, errS); err != nil {
		return err
	}
	return tx.ForgetJob(row.ID, details, state)
}

// forgetQuotes leaves of what was offered what it was for and what it cost, in nobody's words: the
// sentences are a person's, and how an alternative was called.
func forgetQuotes(tx store.Tx, customer int64) error {
	rows, err := tx.QuotesFor(customer)
	if err != nil {
		return err
	}
	for i := range rows {
		var q quote.Quote
		if err := json.Unmarshal(rows[i].Doc, &q); err != nil {
			return fmt.Errorf("the quote %s: %w", jobs.QuoteLabel(rows[i].Number, rows[i].Version), err)
		}
		q.Customer, q.Told, q.Found, q.Risk, q.Left = quote.Party{}, "", "", "", []string{}
		q.Machine.ID, q.Machine.Serial = "", ""
		if q.Off != nil {
			off := *q.Off
			off.Text = string(money.Discount)
			q.Off = &off
		}
		for k := range q.Alternatives {
			a := &q.Alternatives[k]
			a.Name, a.Data, a.Ready = a.Letter, "", ""
			for n := range a.Lines {
				if l := &a.Lines[n]; l.Kind == money.Discount {
					l.Text = money.Kinds.Says(l.Kind)
				}
			}
		}
		doc, err := json.Marshal(&q)
		if err != nil {
			return err
		}
		if err := tx.ForgetQuote(rows[i].ID, doc); err != nil {
			return err
		}
	}
	return nil
}

// forgetRuns leaves of what runs were made from the work, without why it was begun, the machine's tag and
// serials, and what the customer's own parts were called.
func forgetRuns(tx store.Tx, customer int64) error {
	rows, err := tx.RunsFor(customer)
	if err != nil {
		return err
	}
	for i := range rows {
		var d work.RunDoc
		if err := json.Unmarshal(rows[i].Doc, &d); err != nil {
			return fmt.Errorf("the run %d: %w", rows[i].ID, err)
		}
		d.Why = ""
		if d.Machine != nil {
			d.Machine.ID = "forgotten"
			d.Machine.Usage.RuntimeProfile = ""
			dropSerials(d.Machine)
		}
		if d.Parts != nil {
			for k := range d.Parts.Parts {
				if p := &d.Parts.Parts[k]; p.Brought() {
					p.Name = "a part that the customer brought"
				}
			}
		}
		doc, err := json.Marshal(&d)
		if err != nil {
			return err
		}
		if err := tx.ForgetRun(rows[i].ID, doc); err != nil {
			return err
		}
	}
	return nil
}

// forgetTags takes the tags that machines had with a customer out of their histories, also of machines
// that are another's by now: a tag is made of a name.
func forgetTags(tx store.Tx, customer int64, jobs []store.Job) error {
	machines, err := tx.MachinesOf(customer)
	if err != nil {
		return err
	}
	keys := map[string]bool{}
	for i := range machines {
		keys[machines[i].ID] = true
	}
	for i := range jobs {
		keys[jobs[i].MachineID] = true
	}
	for key := range keys {
		now, err := tx.Machine(key)
		if errors.Is(err, store.ErrNotFound) {
			continue // removed for good
		}
		if err != nil {
			return err
		}
		told, err := tx.HistoryOf(base.KindMachine, key)
		if err != nil {
			return err
		}
		for i := range told {
			var was hw.Machine
			if json.Unmarshal(told[i].Before, &was) != nil || was.ID == "" || was.ID == now.Tag && now.CustomerID != customer {
				continue
			}
			if err := tx.ReplaceInHistory(key, was.ID, "machine-"+key); err != nil {
				return err
			}
		}
		if now.CustomerID == customer {
			if err := tx.ReplaceInHistory(key, now.Tag, "machine-"+key); err != nil {
				return err
			}
		}
	}
	return nil
}

// forgetMachines gives the machines of a customer tags that say nothing about them, and takes
// people's words, and serials where asked, out of their documents.
func (s *Care) forgetMachines(tx store.Tx, customer int64, serials bool) error {
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
		if err := s.SaveMachineIn(tx, row, &m); err != nil {
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
		if taken, err := tx.Taken(base.KindMachine, "tag", tag); err != nil || !taken {
			return tag, err
		}
	}
}

// forgetPart gives a part that a customer brought a name of its facts.
func (s *Care) forgetPart(tx store.Tx, row *store.Part) error {
	p, err := stock.ReadPart(row)
	if err != nil {
		return err
	}
	l := stock.LineOf(row, p)
	l.Part.Name, l.Note, l.OrderNo = "a part that the customer brought", "", ""
	if err := l.Fill(row); err != nil {
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
