package jobs

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// owners is what the history keeps of a correction that gave a machine or a job to another
// customer: whose it was before.
type owners struct {
	Customer int64 `json:"customer,omitempty"`
}

func (o owners) data() (string, error) {
	if o.Customer == 0 {
		return "", nil
	}
	raw, err := json.Marshal(o)
	return string(raw), err
}

// MachineCorrection is what a machine really is, and whose.
type MachineCorrection struct {
	Machine           *hw.Machine // whole; its id stays as it is
	Customer, Contact string      // "" where the owner stays
}

// CorrectMachine stores what a machine really is: it was entered otherwise. With another customer
// its open job goes along where it was of the same one. The error is hw.Faults where something
// cannot be, ErrChanged where the machine is no longer the version that was looked at.
func (s *Jobs) CorrectMachine(ctx context.Context, a base.Actor, token, key string, version int, c MachineCorrection) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Machine(key)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		to := row.CustomerID
		if strings.TrimSpace(c.Customer) != "" && strings.TrimSpace(c.Customer) != row.Customer.Name {
			customer, err := s.customerFor(tx, c.Customer, c.Contact)
			if err != nil {
				return "", err
			}
			to = customer.ID
		}
		return row.ID, s.correctMachine(tx, a, &row, c.Machine, to, "corrected: ")
	})
	return err
}

// PutMachineBack makes a machine again what it was before an entry of its history, its owner too
// where that entry changed it.
func (s *Jobs) PutMachineBack(ctx context.Context, a base.Actor, token, key string, version int, entry int64) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Machine(key)
		if err != nil {
			return "", err
		}
		if row.Version != version {
			return "", base.ErrChanged
		}
		h, err := tx.HistoryEntry(entry)
		if err != nil {
			return "", err
		}
		var m hw.Machine
		if h.Kind != base.KindMachine || h.Record != row.ID || json.Unmarshal(h.Before, &m) != nil || m.Format != hw.FormatMachine {
			return "", store.ErrNotFound
		}
		to := row.CustomerID
		if from := ownersIn(&h); from.Customer != 0 {
			to = from.Customer
		}
		return row.ID, s.correctMachine(tx, a, &row, &m, to, "put back: ")
	})
	return err
}

// ownersIn reads whose a thing was before an entry of the history, zero where it stayed.
func ownersIn(h *store.History) owners {
	var o owners
	if h.Event != base.EventCorrected || json.Unmarshal([]byte(h.Data), &o) != nil {
		return owners{}
	}
	return o
}

// correctMachine checks and stores what a machine is and whose, and tells the history.
func (s *Jobs) correctMachine(tx store.Tx, a base.Actor, row *store.Machine, next *hw.Machine, to int64, how string) error {
	model, err := tx.Model(next.Chassis)
	if errors.Is(err, store.ErrNotFound) {
		return hw.Faults{{Pointer: "/chassis", Text: "there is no record of that model"}}
	}
	if err != nil {
		return err
	}
	record, err := records.ReadModel(&model)
	if err != nil {
		return err
	}
	m := *next
	m.Format, m.ID = hw.FormatMachine, row.Tag
	if err := hw.ValidateMachine(&m, record.Chassis).Err(); err != nil {
		return err
	}
	var was hw.Machine
	if err := json.Unmarshal(row.Doc, &was); err != nil {
		return err
	}
	changed := changedInMachine(&was, &m)
	told := base.Event{Kind: base.EventCorrected}
	before := row.Doc
	if to != row.CustomerID {
		changed = append(changed, "owner")
		if err := s.giveOpenJob(tx, row, to); err != nil {
			return err
		}
		if told.Data, err = (owners{row.CustomerID}).data(); err != nil {
			return err
		}
		if m.ID, err = tagWith(tx, row, to); err != nil {
			return err
		}
		row.CustomerID, row.Tag = to, m.ID
	}
	if len(changed) == 0 {
		return nil
	}
	told.What = how + strings.Join(changed, ", ")
	row.ModelID, row.Customer, row.Model = m.Chassis, store.Customer{}, store.Model{}
	if err := s.SaveMachineIn(tx, row, &m); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, base.KindMachine, row.ID, told, before)
}

// tagWith is a machine's tag with another owner: one that was made of the former owner's name is
// made anew.
func tagWith(tx store.Tx, row *store.Machine, to int64) (string, error) {
	if !strings.HasPrefix(row.Tag, slug.Make(row.Customer.Name, "machine")+"-") {
		return row.Tag, nil
	}
	customer, err := tx.Customer(to)
	if err != nil {
		return "", err
	}
	return freeID(tx, customer.Name)
}

// giveOpenJob gives a machine's open job to another customer where it was its owner's.
func (s *Jobs) giveOpenJob(tx store.Tx, row *store.Machine, to int64) error {
	job, err := jobOf(tx, row.ID)
	if err != nil || job == nil || job.ClosedAt != nil || job.CustomerID != row.CustomerID {
		return err
	}
	job.CustomerID, job.UpdatedAt = to, s.Now()
	job.Version++
	return tx.SaveJob(job, job.Version-1)
}

// changedInMachine names what differs between two states of a machine.
func changedInMachine(a, b *hw.Machine) []string {
	var out []string
	say := func(word string, x, y any) {
		dx, errX := json.Marshal(x)
		dy, errY := json.Marshal(y)
		if errX != nil || errY != nil || !bytes.Equal(dx, dy) {
			out = append(out, word)
		}
	}
	say("model", a.Chassis, b.Chassis)
	say("serial", a.Serial, b.Serial)
	say("configuration", a.Variant, b.Variant)
	say("soldered memory", a.Fitted.SolderedGB, b.Fitted.SolderedGB)
	say("modules", a.Fitted.Memory, b.Fitted.Memory)
	say("drives", a.Fitted.Drives, b.Fitted.Drives)
	say("battery", a.Fitted.Battery, b.Fitted.Battery)
	say("wireless card", a.Fitted.Wireless, b.Fitted.Wireless)
	say("what was measured", a.Usage, b.Usage)
	return out
}

// formatAgreement marks what the history keeps of an agreement before it was corrected.
const formatAgreement = "yembo.agreement"

// agreementBefore is what a job said before it was corrected.
type agreementBefore struct {
	Format    string      `json:"format"`
	Complaint string      `json:"complaint,omitempty"`
	Wish      *hw.Request `json:"wish"`
	Details   Details     `json:"details"`
	Promised  *time.Time  `json:"promised,omitempty"`
}

// CorrectJob stores what was really said, seen and agreed when a job's machine was handed in. With
// another customer the machine goes along where it was of the same one. keepSigned says that the
// signature still holds. The error is hw.Faults where something cannot be, ErrChanged where the job
// is no longer the version that was looked at.
func (s *Jobs) CorrectJob(ctx context.Context, a base.Actor, token string, id int64, version int, next Agreement,
	keepSigned bool) error {
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (base.Event, error) {
		if row.Version != version {
			return base.Event{}, base.ErrChanged
		}
		if faults := s.checkAgreement(&next); len(faults) > 0 {
			return base.Event{}, faults
		}
		customer, err := s.customerFor(tx, next.Customer, "")
		if err != nil {
			return base.Event{}, err
		}
		next.Details.Contact = ""
		if next.Contact = strings.TrimSpace(next.Contact); next.Contact != customer.Contact {
			next.Details.Contact = next.Contact
		}
		next.Details.Told, next.Details.Returns = d.Told, d.Returns
		next.Details.Resigned, next.Details.Struck = d.Resigned, d.Struck
		if keepSigned {
			next.Details.Signature = d.Signature
		}
		now := agreementBefore{Format: formatAgreement, Complaint: next.Complaint, Wish: next.Wish, Details: next.Details}
		if !next.Promised.IsZero() {
			now.Promised = &next.Promised
		}
		return s.correctJob(tx, row, d, st, &now, customer.ID, "corrected: ")
	})
}

// PutJobBack makes of what was agreed for a job again what it was before an entry of the history.
func (s *Jobs) PutJobBack(ctx context.Context, a base.Actor, token string, id int64, version int, entry int64) error {
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (base.Event, error) {
		if row.Version != version {
			return base.Event{}, base.ErrChanged
		}
		h, err := tx.HistoryEntry(entry)
		if err != nil {
			return base.Event{}, err
		}
		var was agreementBefore
		if h.JobID == nil || *h.JobID != id || json.Unmarshal(h.Before, &was) != nil || was.Format != formatAgreement {
			return base.Event{}, store.ErrNotFound
		}
		to := row.CustomerID
		if from := ownersIn(&h); from.Customer != 0 {
			to = from.Customer
		}
		return s.correctJob(tx, row, d, st, &was, to, "put back: ")
	})
}

// correctJob puts an agreement into a job. The history keeps the one before.
func (s *Jobs) correctJob(tx store.Tx, row *store.Job, d *Details, st *State, next *agreementBefore, to int64,
	how string) (base.Event, error) {
	model, err := records.ReadModel(&row.Machine.Model)
	if err != nil {
		return base.Event{}, err
	}
	if err := hw.ValidateRequest(next.Wish, model.Chassis).Err(); err != nil {
		return base.Event{}, err
	}
	was := agreementBefore{Format: formatAgreement, Complaint: row.Complaint, Details: *d, Promised: row.PromisedAt,
		Wish: &hw.Request{}}
	if err := json.Unmarshal(row.Wish, was.Wish); err != nil {
		return base.Event{}, err
	}
	before, err := json.Marshal(was)
	if err != nil {
		return base.Event{}, err
	}
	changed := changedInAgreement(&was, next)
	told := base.Event{Kind: base.EventCorrected, Before: before}
	if to != row.CustomerID {
		changed = append(changed, "customer")
		if told.Data, err = (owners{row.CustomerID}).data(); err != nil {
			return base.Event{}, err
		}
		if err := s.giveMachine(tx, row, to); err != nil {
			return base.Event{}, err
		}
		row.CustomerID = to
	}
	if len(changed) == 0 {
		return base.Event{}, nil
	}
	if err := s.correctCondition(tx, row, &d.Condition, &next.Details.Condition, st); err != nil {
		return base.Event{}, err
	}
	row.Complaint, row.PromisedAt, *d = next.Complaint, next.Promised, next.Details
	row.Wish, err = json.Marshal(next.Wish)
	told.What = how + strings.Join(changed, ", ")
	return told, err
}

// giveMachine gives a job's machine to another customer where it was the job's.
func (s *Jobs) giveMachine(tx store.Tx, job *store.Job, to int64) error {
	row := job.Machine
	if row.CustomerID != job.CustomerID {
		return nil
	}
	var m hw.Machine
	err := json.Unmarshal(row.Doc, &m)
	if err != nil {
		return err
	}
	if m.ID, err = tagWith(tx, &row, to); err != nil {
		return err
	}
	row.CustomerID, row.Tag, row.Customer = to, m.ID, store.Customer{}
	job.Machine.CustomerID, job.Machine.Tag, job.Machine.Version = to, m.ID, row.Version+1
	return s.SaveMachineIn(tx, &row, &m)
}

// correctCondition carries what was wrongly seen into what stops the job, and into the machine's
// pack.
func (s *Jobs) correctCondition(tx store.Tx, job *store.Job, was, now *Condition, st *State) error {
	// What was stopped at the bench stays stopped until somebody says that it is safe.
	if was.Danger() != now.Danger() && !strings.HasPrefix(st.Danger, PackNotSound) {
		st.Danger = now.Danger()
		if st.Danger != "" && st.Running == nil {
			st.Become(State{Danger: st.Danger, Since: s.Now()})
		}
	}
	if was.Swollen == now.Swollen {
		return nil
	}
	row, err := tx.Machine(job.MachineID)
	if err != nil {
		return err
	}
	var m hw.Machine
	if err := json.Unmarshal(row.Doc, &m); err != nil {
		return err
	}
	if m.Fitted.Battery == nil {
		m.Fitted.Battery = &hw.FittedBattery{}
	}
	m.Fitted.Battery.Swollen = hw.Known(now.Swollen)
	return s.SaveMachineIn(tx, &row, &m)
}

// inOrder is a wish as it is compared: the order in which services and places were ticked says nothing.
func inOrder(w *hw.Request) *hw.Request {
	out := *w
	out.Services = slices.SortedFunc(
		slices.Values(w.Services),
		func(a, b hw.AskedService) int { return strings.Compare(a.ID, b.ID) },
	)
	out.Keep = slices.Sorted(slices.Values(w.Keep))
	return &out
}

// changedInAgreement names what differs between two states of what was agreed.
func changedInAgreement(a, b *agreementBefore) []string {
	var out []string
	say := func(word string, same bool) {
		if !same {
			out = append(out, word)
		}
	}
	wishA, errA := json.Marshal(inOrder(a.Wish))
	wishB, errB := json.Marshal(inOrder(b.Wish))
	say("complaint", a.Complaint == b.Complaint)
	say("wish", errA == nil && errB == nil && bytes.Equal(wishA, wishB))
	say("condition", a.Details.Condition == b.Details.Condition)
	say("what was handed in with it", slices.Equal(a.Details.Accessories, b.Details.Accessories))
	say("use", a.Details.Use == b.Details.Use)
	say("contact", a.Details.Contact == b.Details.Contact)
	say("test account", a.Details.Account == b.Details.Account)
	say("consents", slices.Equal(slices.Sorted(slices.Values(a.Details.Consents)), slices.Sorted(slices.Values(b.Details.Consents))))
	say("signature", (a.Details.Signature == nil) == (b.Details.Signature == nil))
	say("promise", (a.Promised == nil) == (b.Promised == nil) && (a.Promised == nil || a.Promised.Equal(*b.Promised)))
	return out
}
