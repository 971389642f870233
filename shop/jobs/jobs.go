package jobs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
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
	"yembo/shop/stock"
	"yembo/store"
)

// Details is what was seen and agreed when a machine was taken in.
type Details struct {
	Condition   Condition    `json:"condition,omitzero"`
	Accessories []string     `json:"accessories,omitempty"`
	Use         string       `json:"use,omitempty"`
	Contact     string       `json:"contact,omitempty"` // who brought it, where that is not the customer's own
	Account     string       `json:"account,omitempty"` // the name of a test account; a password is never kept
	Consents    []hw.Consent `json:"consents,omitempty"`
	Signature   *Signature   `json:"signature,omitempty"` // under the intake sheet
	Resigned    []Signature  `json:"resigned,omitempty"`  // under quotes, in place of struck ones
	Struck      []Struck     `json:"struck,omitempty"`    // signatures that do not count any more
	Returns     int64        `json:"returns,omitempty"`   // the earlier job that it comes back for, 0 for none
	Told        string       `json:"told,omitempty"`      // what the case is about, in two sentences
}

// Condition is how the machine came. Looked says that somebody looked: without it
// nothing is known, which is not the same as sound.
type Condition struct {
	Looked  bool   `json:"looked,omitempty"`
	Damp    bool   `json:"damp,omitempty"`
	Cracked bool   `json:"cracked,omitempty"`
	Swollen bool   `json:"swollen,omitempty"`
	Hot     bool   `json:"hot,omitempty"`
	Screws  bool   `json:"screws_missing,omitempty"`
	Seal    string `json:"seal,omitempty"` // intact, broken, none
	Note    string `json:"note,omitempty"`
}

// Seals are the words for a seal on the base.
var Seals = []string{"intact", "broken", "none"}

// Danger is why the machine stops the normal course, "" when nothing does.
func (c *Condition) Danger() string {
	var words []string
	for _, x := range []struct {
		is   bool
		word string
	}{{c.Swollen, "battery swollen"}, {c.Hot, "hot or smelling"}, {c.Damp, "damp"}, {c.Cracked, "cracked"}} {
		if x.is {
			words = append(words, x.word)
		}
	}
	return strings.Join(words, ", ")
}

// State is where a job stands.
type State struct {
	Danger  string     `json:"danger,omitempty"`
	Waits   string     `json:"waits,omitempty"` // WaitsCustomer, WaitsParts, "" for neither
	For     string     `json:"for,omitempty"`   // what it waits for, in words
	Quote   int64      `json:"quote,omitempty"` // whose answer it waits for, 0 for none
	Since   time.Time  `json:"since,omitzero"`  // that it waits or runs
	Due     base.Due   `json:"due,omitempty"`   // when what it waits for is expected
	Bench   int        `json:"bench,omitempty"`
	Running *time.Time `json:"running,omitempty"`
	Away    *Away      `json:"away,omitempty"`    // nil for a machine that is here
	Worked  *time.Time `json:"worked,omitempty"`  // when its work at the bench ended
	Proven  *time.Time `json:"proven,omitempty"`  // when its proof was signed
	Despite string     `json:"despite,omitempty"` // why it was begun with something against it
	// Declined is when its quote was declined: the machine is still here, and goes back as it came.
	Declined *time.Time `json:"declined,omitempty"`
}

// AlreadyProven is what stands against work on a job whose proof is signed.
const AlreadyProven = "the job is signed off; for more work, take the machine in again after hand-over"

// Become is how a job stands from now on; what was done on it stays done.
func (st *State) Become(next State) {
	next.Worked, next.Proven, next.Away = st.Worked, st.Proven, st.Away
	*st = next
}

// Mark tells one standing of a job from another; closed is when it was closed, nil while it
// is open.
func (st *State) Mark(closed *time.Time) string {
	away := ""
	if st.Away != nil {
		away = "away " + string(st.Away.Due)
	}
	text := fmt.Sprint(away, "|", st.Danger, "|", st.Waits, "|", st.For, "|", st.Due, "|", st.Bench, "|", st.Running != nil, "|",
		closed != nil, "|", st.Worked != nil, "|", st.Proven != nil, "|", st.Declined != nil)
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:6])
}

// Mark tells where the job stands from where it stood.
func (r *MachineRecord) Mark() string {
	if r.Closed.IsZero() {
		return r.State.Mark(nil)
	}
	return r.State.Mark(&r.Closed)
}

// words says where a job stands.
func (st *State) words(closed *time.Time) string {
	switch {
	case closed != nil:
		return "it is closed"
	case st.Running != nil:
		return fmt.Sprintf("it is on bench %d", st.Bench)
	case st.Proven != nil:
		return "it is proven"
	case st.Worked != nil:
		return "its work at the bench is done"
	case st.Declined != nil:
		return "its quote was declined"
	case st.Away != nil:
		return "the machine is not here yet"
	case st.Waits != "":
		return "it waits for " + base.OrWord(st.For, st.Waits)
	}
	return "it waits for us"
}

// What a job can wait for.
const (
	WaitsCustomer = "customer"
	WaitsParts    = "parts"
)

// JobRecord is a job with its machine, its talks and its history.
type JobRecord struct {
	MachineRecord
	Contacts []Contact
	Readings []ReadingRecord
	Photos   []records.Photo
	Parts    []JobPart     // of the option chosen
	Lacks    []stock.Lack  // what of them is not there
	Stops    []Stop        // what stands against opening the machine
	Quotes   []QuoteRecord // the newest first
	Earlier  []Earlier     // proven jobs of the same machine
	Trail    Trail
	Due      []string // what is to be charged or paid before the machine goes, where the work is done
}

// Contact is a talk with the customer.
type Contact struct {
	At                         time.Time
	By, Who, How, Said, Agreed string
}

// ContactWays are how a talk was held; a note is what was noted without one.
var ContactWays = []string{"counter", "phone", "message", "mail", "letter", wayNote}

const wayNote = "note"

// Job returns one job with everything about it.
func (s *Jobs) Job(ctx context.Context, id int64) (JobRecord, error) {
	var out JobRecord
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		if out, err = s.JobIn(tx, id); err != nil || out.State.Worked == nil && out.State.Declined == nil {
			return err
		}
		out.Due, err = s.Bills.DueIn(tx, id)
		return err
	})
	return out, err
}

// JobIn reads a job whole, but for what is owed for it.
func (s *Jobs) JobIn(tx store.Tx, id int64) (JobRecord, error) {
	var out JobRecord
	row, err := tx.Job(id)
	if err != nil {
		return out, err
	}
	if out.MachineRecord, err = ReadMachine(&row.Machine, &row); err != nil {
		return out, err
	}
	if row.CustomerID != row.Machine.CustomerID { // the machine is another's by now, the job is not
		who, err := tx.Customer(row.CustomerID)
		if err != nil {
			return out, err
		}
		out.CustomerID, out.Customer, out.Contact = who.ID, who.Name, base.OrWord(out.Details.Contact, who.Contact)
	}
	if out.History, err = MachineHistoryIn(tx, &row.Machine, row.CustomerID); err != nil {
		return out, err
	}
	contacts, err := tx.ContactsOf(id)
	if err != nil {
		return out, err
	}
	for _, c := range contacts {
		out.Contacts = append(out.Contacts, Contact{c.At, c.By, c.Who, c.How, c.Said, c.Agreed})
	}
	if out.Readings, err = ReadingsOf(tx, &row.Machine, row.CustomerID); err != nil {
		return out, err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return out, err
	}
	out.Lacks = lacks[id]
	if out.Parts, err = s.partsOf(tx, &out.MachineRecord, out.Lacks); err != nil {
		return out, err
	}
	photos, err := tx.PhotosOf(base.KindJob, fmt.Sprint(id))
	if err != nil {
		return out, err
	}
	for i := range photos {
		out.Photos = append(out.Photos, records.PhotoOf(&photos[i]))
	}
	moved, err := tx.MovementsFor(id)
	if err != nil {
		return out, err
	}
	if out.Quotes, err = s.QuotesOf(tx, id); err != nil {
		return out, err
	}
	if out.Earlier, err = s.earlierOf(tx, out.Key, id); err != nil {
		return out, err
	}
	c, err := s.CalendarIn(tx)
	if err != nil {
		return out, err
	}
	out.Stops = StopsOf(&out.MachineRecord, out.Lacks, &c)
	out.Trail = out.trail(moved, s.Now())
	return out, nil
}

// ChangeJob changes a job in one transaction and notes it. change returns what to note;
// "" stores nothing.
func (s *Jobs) ChangeJob(ctx context.Context, a base.Actor, token string, id int64,
	change func(tx store.Tx, row *store.Job, d *Details, st *State) (base.Event, error)) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Job(id)
		if err != nil {
			return "", err
		}
		var d Details
		var st State
		if err := errors.Join(json.Unmarshal(row.Details, &d), json.Unmarshal(row.State, &st)); err != nil {
			return "", err
		}
		told, err := change(tx, &row, &d, &st)
		if err != nil || told.What == "" {
			return fmt.Sprint(id), err
		}
		var errD, errS error
		row.Details, errD = json.Marshal(d)
		row.State, errS = json.Marshal(st)
		if err := errors.Join(errD, errS); err != nil {
			return "", err
		}
		row.UpdatedAt = s.Now()
		row.Version++
		if err := tx.SaveJob(&row, row.Version-1); err != nil {
			return "", err
		}
		return fmt.Sprint(id), s.NoteEvent(tx, a, base.KindMachine, row.MachineID,
			base.Event{What: base.Label(id) + ": " + told.What, Kind: told.Kind, Data: told.Data, Job: id}, told.Before)
	})
	return err
}

// SaveMachineIn stores a machine's changed document.
func (s *Jobs) SaveMachineIn(tx store.Tx, row *store.Machine, m *hw.Machine) error {
	doc, err := json.Marshal(m)
	if err != nil {
		return err
	}
	row.Doc, row.Serial, row.UpdatedAt = doc, m.Serial, s.Now()
	row.Version++
	return tx.SaveMachine(row, row.Version-1)
}

// check adds what cannot be of a talk.
func (c *Contact) check(faults *hw.Faults) {
	if !slices.Contains(ContactWays, c.How) {
		faults.Add("/how", hw.FaultChoice, strconv.Quote(c.How), strings.Join(ContactWays, ", "))
	}
	for pointer, text := range map[string]string{"/who": c.Who, "/said": c.Said, "/agreed": c.Agreed} {
		if utf8.RuneCountInString(text) > base.MaxText {
			faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
		}
	}
}

// AddContact notes a talk with the customer. A job that waited for the customer is ready
// again where something was agreed.
func (s *Jobs) AddContact(ctx context.Context, a base.Actor, token string, id int64, c Contact,
	consents []hw.Consent) error {
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (base.Event, error) {
		var faults hw.Faults
		if strings.TrimSpace(c.Said) == "" && strings.TrimSpace(c.Agreed) == "" && len(consents) == 0 {
			faults.Add("/said", hw.FaultMissing, "", "what was said or agreed")
		}
		c.check(&faults)
		if err := faults.Err(); err != nil {
			return base.Event{}, err
		}
		var course Course
		for _, code := range consents {
			if IsConsent(code) && !slices.Contains(d.Consents, code) {
				d.Consents = append(d.Consents, code)
				course.Consents = append(course.Consents, code)
			}
		}
		if strings.TrimSpace(c.Agreed) != "" {
			course.Agreed = true
			if st.Waits == WaitsCustomer {
				st.Become(State{Danger: st.Danger})
				course.To = MoveReady
			}
		}
		if err := tx.Create(&store.Contact{JobID: id, At: s.Now(), By: a.Name, Who: c.Who, How: c.How, Said: c.Said,
			Agreed: c.Agreed}); err != nil {
			return base.Event{}, err
		}
		what := "spoke with " + base.OrWord(c.Who, "the customer") + " (" + c.How + ")"
		if c.How == wayNote {
			what = "noted"
		}
		if c.Agreed != "" {
			what += ", agreed: " + c.Agreed
		}
		return base.Event{What: what, Kind: base.EventTalk, Data: course.Data()}, nil
	})
}

// IsConsent reports whether a code is one of the consents.
func IsConsent(code hw.Consent) bool {
	return slices.ContainsFunc(hw.Consents, func(row hw.ConsentRow) bool { return row.Consent == code })
}
