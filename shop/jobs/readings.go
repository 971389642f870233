package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/reading"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// ReadingRecord is what a machine told of itself, with what became of it.
type ReadingRecord struct {
	ID       int64
	JobID    int64 // that it was taken for, 0 for none
	Observed *reading.Observed
	Files    []string
	Notes    []string
	By       string
	At       time.Time
	Accepted string // "" before anybody decided
	// Simulated says that the stand-in that ships with Yembo told it, and no real machine.
	Simulated bool
}

// Report is a file or a text that a machine's tool made.
type Report struct {
	Name string
	Data []byte
}

// maxReports is how many reports one reading may have.
const maxReports = 40

// maxThings is how many devices, drives, links and packs one report may tell of.
const maxThings = 500

func thingsOf(o *reading.Observed) int {
	n := len(o.Links) + len(o.Drives) + len(o.Batteries)
	if o.Memory != nil {
		n += len(o.Memory.Devices)
	}
	return n
}

// AddReading reads reports of a machine and keeps what they tell, beside the record until
// it is accepted. Of several reports those that cannot be read are left out, and the reading
// says so; where none can, the error is hw.Faults that names each with its reason, and
// nothing is stored. simulated marks for good what a stand-in told; the shop's settings have
// to offer it. It returns the reading's number.
func (s *Jobs) AddReading(ctx context.Context, a base.Actor, token, machineID string, reports []Report,
	simulated bool) (string, error) {
	if err := s.offersSimulated(ctx, simulated); err != nil {
		return "", err
	}
	var faults hw.Faults
	var all []*reading.Observed
	var names, notes []string
	switch {
	case len(reports) == 0:
		faults = append(faults, hw.Fault{Pointer: "/reports",
			Text: "there is no report: paste one, drop a file or choose one"})
	case len(reports) > maxReports:
		faults.Add("/reports", hw.FaultRange, fmt.Sprintf("%d reports", len(reports)),
			fmt.Sprintf("at most %d", maxReports))
	default:
		for _, r := range reports {
			o, err := reading.Read(r.Data)
			if err != nil {
				faults = append(faults, hw.Fault{Pointer: "/reports", Text: r.Name + ": " + err.Error()})
				continue
			}
			if n := thingsOf(o); n > maxThings {
				faults = append(faults, hw.Fault{Pointer: "/reports",
					Text: fmt.Sprintf("%s: it tells of %d things, and no machine has more than %d", r.Name, n,
						maxThings)})
				continue
			}
			names = append(names, r.Name)
			for _, n := range o.Notes[:min(len(o.Notes), maxThings)] {
				notes = append(notes, r.Name+": "+n)
			}
			all = append(all, o)
		}
	}
	if len(all) == 0 {
		return "", faults
	}
	for _, f := range faults {
		notes = append(notes, "left out: "+f.Text)
	}
	doc, err := json.Marshal(reading.Merge(all))
	if err != nil {
		return "", err
	}
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		m, err := tx.Machine(machineID)
		if err != nil {
			return "", err
		}
		row := store.Reading{MachineID: m.ID, Doc: doc, Files: strings.Join(names, "\n"),
			Notes: strings.Join(notes, "\n"), By: a.Name, Simulated: simulated, CreatedAt: s.Now()}
		if job, err := tx.JobOf(m.ID); err == nil && job.ClosedAt == nil {
			row.JobID = &job.ID
		}
		if err := tx.Create(&row); err != nil {
			return "", err
		}
		return strconv.FormatInt(row.ID, 10),
			s.Note(tx, a, base.KindMachine, m.ID,
				map[bool]string{true: "read, simulated: ", false: "read: "}[simulated]+strings.Join(names, ", "), nil)
	})
}

func readingOf(row *store.Reading) (ReadingRecord, error) {
	out := ReadingRecord{ID: row.ID, By: row.By, At: row.CreatedAt, Accepted: row.Accepted, Simulated: row.Simulated}
	if row.JobID != nil {
		out.JobID = *row.JobID
	}
	if row.Files != "" {
		out.Files = strings.Split(row.Files, "\n")
	}
	if row.Notes != "" {
		out.Notes = strings.Split(row.Notes, "\n")
	}
	var err error
	out.Observed, err = exchange.ReadObserved(row.Doc)
	return out, err
}

// ReadingsOf lists the readings of a machine while it was a customer's, the newest first.
func ReadingsOf(tx store.Tx, machine *store.Machine, customer int64) ([]ReadingRecord, error) {
	rows, err := tx.ReadingsOf(machine.ID)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	theirs, err := timeOf(tx, machine, customer, nil)
	if err != nil {
		return nil, err
	}
	var out []ReadingRecord
	for i := range rows {
		r, err := readingOf(&rows[i])
		if err != nil {
			return nil, fmt.Errorf("reading %d: %w", rows[i].ID, err)
		}
		if job := rows[i].JobID; theirs.others && (job == nil || !theirs.jobs[*job]) {
			r.Files, r.Notes = nil, nil // another owner named the files
		}
		out = append(out, r)
	}
	return out, nil
}

// Readings lists what a machine told so far, newest first.
func (s *Jobs) Readings(ctx context.Context, machineID string) ([]ReadingRecord, error) {
	var out []ReadingRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Machine(machineID)
		if err != nil {
			return err
		}
		out, err = ReadingsOf(tx, &row, row.CustomerID)
		return err
	})
	return out, err
}

// Compared is a reading against the record and the machine as they are now.
type Compared struct {
	Record     MachineRecord
	Reading    ReadingRecord
	Comparison *reading.Comparison
	// Of is another machine of ours whose serial the reading tells, nil where it tells this one's or nobody's.
	Of *MachineRecord
}

// CompareReading sets one reading against what is believed; places says where things are,
// by the keys of the choices.
func (s *Jobs) CompareReading(ctx context.Context, machineID string, id int64, places map[string]string) (Compared,
	error) {
	var out Compared
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = compare(tx, machineID, id, places)
		return err
	})
	return out, err
}

func compare(tx store.Tx, machineID string, id int64, places map[string]string) (Compared, error) {
	var out Compared
	var err error
	if out.Record, err = machine(tx, machineID); err != nil {
		return out, err
	}
	row, err := tx.Reading(id)
	if err != nil {
		return out, err
	}
	if row.MachineID != out.Record.Key {
		return out, base.ErrNotFound
	}
	if out.Reading, err = readingOf(&row); err != nil {
		return out, err
	}
	out.Comparison = reading.Compare(out.Reading.Observed, out.Record.Chassis, out.Record.Machine, places)
	if sys := out.Reading.Observed.System; sys != nil && sys.Serial != "" && sys.Serial != out.Record.Machine.Serial {
		other, err := tx.MachineWithSerial(sys.Serial, out.Record.Key)
		if errors.Is(err, store.ErrNotFound) {
			return out, nil
		}
		if err != nil {
			return out, err
		}
		of, err := machine(tx, other.ID)
		out.Of = &of
		return out, err
	}
	return out, nil
}

// AcceptReading takes over the lines of those keys: what is fitted goes into the machine,
// facts of the model become findings with source reading. It is one transaction. The
// error is hw.Faults where the result cannot be; nothing is taken over then.
func (s *Jobs) AcceptReading(ctx context.Context, a base.Actor, token, machineID string, id int64, places map[string]string,
	keys []string) error {
	accepted := map[string]bool{}
	for _, k := range keys {
		accepted[k] = true
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		c, err := compare(tx, machineID, id, places)
		if err != nil {
			return "", err
		}
		var words []string
		var findings []hw.Finding
		for _, l := range c.Comparison.Lines {
			if !l.Offered || !accepted[l.Key] {
				continue
			}
			words = append(words, l.What+" "+l.Read)
			if l.Finding != nil {
				f := *l.Finding
				f.On, f.By, f.Note = c.Reading.At.Format("2006-01-02"), a.Name,
					"read from machine "+c.Record.Key+c.Reading.mark()
				findings = append(findings, f)
			}
		}
		summary := strings.Join(words, "; ")
		if summary == "" {
			summary = "nothing"
		}
		if err := s.fitReading(tx, a, &c, accepted, summary); err != nil {
			return "", err
		}
		if err := s.addReadFindings(tx, a, c.Record.Chassis.ID, findings); err != nil {
			return "", err
		}
		return machineID, tx.AcceptReading(id, summary)
	})
	return err
}

func (s *Jobs) fitReading(tx store.Tx, a base.Actor, c *Compared, accepted map[string]bool, summary string) error {
	row, err := tx.Machine(c.Record.Key)
	if err != nil {
		return err
	}
	next, err := c.Comparison.Fit(c.Record.Machine, accepted)
	if err != nil {
		return err
	}
	if err := hw.ValidateMachine(next, c.Record.Chassis).Err(); err != nil {
		return err
	}
	before := row.Doc
	if err := s.SaveMachineIn(tx, &row, next); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, base.KindMachine, row.ID, base.Event{Kind: base.EventWork,
		What: fmt.Sprintf("reading %d%s taken over: %s", c.Reading.ID, c.Reading.mark(), summary)}, before)
}

func (s *Jobs) addReadFindings(tx store.Tx, a base.Actor, model string, findings []hw.Finding) error {
	if len(findings) == 0 {
		return nil
	}
	return s.ChangeModelIn(tx, a, model, records.Latest, func(next *hw.Chassis) (_ *hw.Chassis, _ base.Event, err error) {
		for _, f := range findings {
			if next, err = evidence.Add(next, f); err != nil {
				return nil, base.Event{}, err
			}
		}
		return next, base.Event{}, nil
	})
}

// mark is what is said beside a reading that no real machine gave.
func (r *ReadingRecord) mark() string {
	if r.Simulated {
		return simulatedMark
	}
	return ""
}

// simulatedMark ends what is said of a figure that a stand-in gave. At the end of a profile
// it keeps such a draw from being compared with a real one.
const simulatedMark = ", simulated"

// offersSimulated refuses what a stand-in told where the shop's settings do not offer it.
func (s *Jobs) offersSimulated(ctx context.Context, simulated bool) error {
	if !simulated {
		return nil
	}
	how, err := s.Settings(ctx)
	if err == nil && !how.Simulated {
		err = hw.Faults{{Pointer: "/reports", Text: "the settings do not offer the simulated machine and meter"}}
	}
	return err
}

// RealProfile is a profile without the mark of a simulated figure.
func RealProfile(profile string) string { return strings.TrimSuffix(profile, simulatedMark) }

// Measured is what a power meter showed over a while.
type Measured struct {
	Mean      hw.Dec // W
	Seconds   int
	Profile   string
	Simulated bool // the stand-in gave it
}

// TakeDraw keeps a measured mean as what the machine draws, under its profile: two
// runtimes are compared only where it is the same (docs/rules.md, Battery and wireless).
func (s *Jobs) TakeDraw(ctx context.Context, a base.Actor, token, machineID string, m Measured) error {
	if err := s.offersSimulated(ctx, m.Simulated); err != nil {
		return err
	}
	var faults hw.Faults
	if strings.TrimSpace(m.Profile) == "" {
		faults.Add("/profile", hw.FaultMissing, "", "the profile: work done, brightness, power mode")
	}
	if len([]rune(m.Profile)) > 200 {
		faults.Add("/profile", hw.FaultRange, "the profile", "at most 200 characters")
	}
	if m.Mean <= 0 || m.Seconds < minSeconds {
		faults.Add("/mean", hw.FaultRange, fmt.Sprintf("%d s measured", m.Seconds),
			fmt.Sprintf("at least %d s with the machine on", minSeconds))
	}
	if err := faults.Err(); err != nil {
		return err
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Machine(machineID)
		if err != nil {
			return "", err
		}
		var doc hw.Machine
		if err := json.Unmarshal(row.Doc, &doc); err != nil {
			return "", err
		}
		before := row.Doc
		profile := RealProfile(strings.TrimSpace(m.Profile))
		if m.Simulated {
			profile += simulatedMark
		}
		if doc.Usage.RuntimeProfile != profile && doc.Usage.RuntimeH.IsKnown() {
			// A runtime of another profile says nothing beside this draw.
			doc.Usage.RuntimeH = hw.Maybe[hw.Dec]{}
		}
		doc.Usage.DrawW, doc.Usage.RuntimeProfile = hw.Known(m.Mean.Tenths()), profile
		if err := s.SaveMachineIn(tx, &row, &doc); err != nil {
			return "", err
		}
		what := fmt.Sprintf("draw %s W, mean of %d s (%s)", m.Mean.Tenths(), m.Seconds, profile)
		return machineID, s.Note(tx, a, base.KindMachine, row.ID, what, before)
	})
	return err
}

// minSeconds is the shortest measurement that is taken over.
const minSeconds = 10
