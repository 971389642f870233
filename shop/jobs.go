package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
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
	}{{c.Swollen, "pack swollen"}, {c.Hot, "hot or smelling"}, {c.Damp, "damp"}, {c.Cracked, "cracked"}} {
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
	Due     string     `json:"due,omitempty"`   // the day parts are expected
	Bench   int        `json:"bench,omitempty"`
	Running *time.Time `json:"running,omitempty"`
	Worked  *time.Time `json:"worked,omitempty"`  // when its work at the bench ended
	Proven  *time.Time `json:"proven,omitempty"`  // when its proof was signed
	Despite string     `json:"despite,omitempty"` // why it was begun with something against it
	// Declined is when its quote was declined: the machine is still here, and goes back as it came.
	Declined *time.Time `json:"declined,omitempty"`
}

// alreadyProven is what stands against work on a job whose proof is signed.
const alreadyProven = "the job is proven; for more work take the machine in again when it is handed over"

// become is how a job stands from now on; what was done on it stays done.
func (st *State) become(next State) {
	next.Worked, next.Proven = st.Worked, st.Proven
	*st = next
}

// Mark tells one standing of a job from another; closed is when it was closed, nil while it
// is open.
func (st *State) Mark(closed *time.Time) string {
	text := fmt.Sprint(st.Danger, "|", st.Waits, "|", st.For, "|", st.Due, "|", st.Bench, "|", st.Running != nil, "|",
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
	case st.Waits != "":
		return "it waits for " + orWord(st.For, st.Waits)
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
	Photos   []Photo
	Parts    []JobPart     // of the option chosen
	Lacks    []Lack        // what of them is not there
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

// Label is a job's number as it stands on its label: "YB-0012".
func Label(job int64) string { return fmt.Sprintf("YB-%04d", job) }

var labelText = regexp.MustCompile(`^YB-0*([1-9][0-9]{0,9})$`)

// JobOfLabel reads a job's label, as typed or scanned.
func JobOfLabel(text string) (int64, bool) { return numberOn(labelText, text) }

// numberOn is the number on a label, as typed or scanned.
func numberOn(label *regexp.Regexp, text string) (int64, bool) {
	m := label.FindStringSubmatch(strings.ToUpper(strings.TrimSpace(text)))
	if m == nil {
		return 0, false
	}
	n, err := strconv.ParseInt(m[1], 10, 64)
	return n, err == nil
}

// Job returns one job with everything about it.
func (s *Shop) Job(ctx context.Context, id int64) (JobRecord, error) {
	var out JobRecord
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		if out, err = s.job(tx, id); err != nil || out.State.Worked == nil && out.State.Declined == nil {
			return err
		}
		b, err := s.bill(tx, id)
		out.Due = b.Due()
		return err
	})
	return out, err
}

func (s *Shop) job(tx store.Tx, id int64) (JobRecord, error) {
	var out JobRecord
	row, err := tx.Job(id)
	if err != nil {
		return out, err
	}
	if out.MachineRecord, err = machineRecord(&row.Machine, &row); err != nil {
		return out, err
	}
	if row.CustomerID != row.Machine.CustomerID { // the machine is another's by now, the job is not
		who, err := tx.Customer(row.CustomerID)
		if err != nil {
			return out, err
		}
		out.CustomerID, out.Customer, out.Contact = who.ID, who.Name, orWord(out.Details.Contact, who.Contact)
	}
	if out.History, err = machineHistory(tx, &row.Machine, row.CustomerID); err != nil {
		return out, err
	}
	contacts, err := tx.ContactsOf(id)
	if err != nil {
		return out, err
	}
	for _, c := range contacts {
		out.Contacts = append(out.Contacts, Contact{c.At, c.By, c.Who, c.How, c.Said, c.Agreed})
	}
	if out.Readings, err = readingsOf(tx, &row.Machine, row.CustomerID); err != nil {
		return out, err
	}
	lacks, err := s.lacks(tx)
	if err != nil {
		return out, err
	}
	out.Lacks = lacks[id]
	if out.Parts, err = s.partsOf(tx, &out.MachineRecord, out.Lacks); err != nil {
		return out, err
	}
	photos, err := tx.PhotosOf(kindJob, fmt.Sprint(id))
	if err != nil {
		return out, err
	}
	for i := range photos {
		out.Photos = append(out.Photos, photoOf(&photos[i]))
	}
	moved, err := tx.MovementsFor(id)
	if err != nil {
		return out, err
	}
	if out.Quotes, err = s.quotesOf(tx, id); err != nil {
		return out, err
	}
	if out.Earlier, err = s.earlierOf(tx, out.Key, id); err != nil {
		return out, err
	}
	out.Stops = stopsOf(&out.MachineRecord, out.Lacks, s.Now())
	out.Trail = out.trail(moved, s.Now())
	return out, nil
}

// changeJob changes a job in one transaction and notes it. change returns what to note;
// "" stores nothing.
func (s *Shop) changeJob(ctx context.Context, a Actor, token string, id int64,
	change func(tx store.Tx, row *store.Job, d *Details, st *State) (event, error)) error {
	_, err := s.once(ctx, token, func(tx store.Tx) (string, error) {
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
		if err != nil || told.what == "" {
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
		return fmt.Sprint(id), s.noteEvent(tx, a, kindMachine, row.MachineID,
			event{what: Label(id) + ": " + told.what, kind: told.kind, data: told.data, job: id}, told.before)
	})
	return err
}

// saveMachine stores a machine's changed document.
func (s *Shop) saveMachine(tx store.Tx, row *store.Machine, m *hw.Machine) error {
	doc, err := json.Marshal(m)
	if err != nil {
		return err
	}
	row.Doc, row.Serial, row.UpdatedAt = doc, m.Serial, s.Now()
	row.Version++
	return tx.SaveMachine(row, row.Version-1)
}

// AddContact notes a talk with the customer. A job that waited for the customer is ready
// again where something was agreed.
func (s *Shop) AddContact(ctx context.Context, a Actor, token string, id int64, c Contact,
	consents []hw.Consent) error {
	return s.changeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (event, error) {
		var faults hw.Faults
		if strings.TrimSpace(c.Said) == "" && strings.TrimSpace(c.Agreed) == "" && len(consents) == 0 {
			faults.Add("/said", hw.FaultMissing, "", "what was said or agreed")
		}
		if !slices.Contains(ContactWays, c.How) {
			faults.Add("/how", hw.FaultChoice, strconv.Quote(c.How), strings.Join(ContactWays, ", "))
		}
		for pointer, text := range map[string]string{"/who": c.Who, "/said": c.Said, "/agreed": c.Agreed} {
			if utf8.RuneCountInString(text) > maxText {
				faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", maxText))
			}
		}
		if err := faults.Err(); err != nil {
			return event{}, err
		}
		var course course
		for _, code := range consents {
			if isConsent(code) && !slices.Contains(d.Consents, code) {
				d.Consents = append(d.Consents, code)
				course.Consents = append(course.Consents, code)
			}
		}
		if strings.TrimSpace(c.Agreed) != "" {
			course.Agreed = true
			if st.Waits == WaitsCustomer {
				st.become(State{Danger: st.Danger})
				course.To = moveReady
			}
		}
		if err := tx.Create(&store.Contact{JobID: id, At: s.Now(), By: a.Name, Who: c.Who, How: c.How, Said: c.Said,
			Agreed: c.Agreed}); err != nil {
			return event{}, err
		}
		what := "spoke with " + orWord(c.Who, "the customer") + " (" + c.How + ")"
		if c.How == wayNote {
			what = "noted"
		}
		if c.Agreed != "" {
			what += ", agreed: " + c.Agreed
		}
		return event{what: what, kind: eventTalk, data: course.data()}, nil
	})
}

func orWord(a, b string) string {
	if strings.TrimSpace(a) != "" {
		return a
	}
	return b
}

func isConsent(code hw.Consent) bool {
	return slices.ContainsFunc(hw.Consents, func(row hw.ConsentRow) bool { return row.Consent == code })
}
