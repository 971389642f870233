package work

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
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// ProofEntry is something that is noted on a proof; it says what the history tells. now is the time,
// a who says it.
type ProofEntry func(p *Proof, a base.Actor, now time.Time) (told string, err error)

// ChangeProof notes something on the proof of a job. A proof that is signed takes nothing more. The
// error is hw.Faults for what cannot be.
func (s *Hands) ChangeProof(ctx context.Context, a base.Actor, token string, job int64, entry ProofEntry) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		p, err := s.proofIn(ctx, tx, job)
		if err != nil {
			return "", err
		}
		if p.Doc.Sign != nil {
			return "", hw.Faults{{Pointer: "/proof", Text: "the proof is signed: nothing is noted on it any more"}}
		}
		told, err := entry(&p, a, s.Now())
		if err != nil {
			return "", err
		}
		if err := s.saveProof(tx, &p, nil); err != nil {
			return "", err
		}
		if told == "" {
			return fmt.Sprint(job), nil
		}
		return fmt.Sprint(job), s.NoteEvent(tx, a, base.KindMachine, p.Job.Key, base.Event{What: base.Label(job) + ": " +
			told, Job: job}, nil)
	})
	return err
}

// saveProof stores a proof; change sets the columns beside the document.
func (s *Hands) saveProof(tx store.Tx, p *Proof, change func(row *store.Proof)) error {
	raw, err := json.Marshal(&p.Doc)
	if err != nil {
		return err
	}
	row, err := tx.ProofOf(p.Job.JobID)
	fresh := errors.Is(err, base.ErrNotFound)
	if err != nil && !fresh {
		return err
	}
	row.JobID, row.Doc, row.UpdatedAt = p.Job.JobID, raw, s.Now()
	if change != nil {
		change(&row)
	}
	if fresh {
		row.Version, row.CreatedAt = 1, s.Now()
		return tx.Create(&row)
	}
	was := row.Version
	row.Version++
	return tx.SaveProof(&row, was)
}

// tooLong is the fault of a text that is too long, or missing where it has to be told.
func tooLong(pointer, text, want string) error {
	var faults hw.Faults
	if want != "" && strings.TrimSpace(text) == "" {
		faults.Add(pointer, hw.FaultMissing, "", want)
	} else if utf8.RuneCountInString(text) > base.MaxText {
		faults.Add(pointer, hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
	}
	return faults.Err()
}

func noSuch(pointer, got, want string) error {
	return hw.Faults{{Pointer: pointer, Text: hw.Word(hw.FaultReference, strconv.Quote(got), want)}}
}

// LookedAt notes what somebody saw of one line; every line that nobody has looked at where key is
// "all" and it is the same.
func LookedAt(key string, same bool, said string) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		if err := tooLong("/said", said, ""); err != nil {
			return "", err
		}
		if p.Doc.ByHand == nil {
			p.Doc.ByHand = map[string]jobs.SeenByHand{}
		}
		found := false
		for i := range p.Lines {
			l := &p.Lines[i]
			own := l.Place + " " + l.What
			if own == key || key == "all" && l.Standing == proof.Unseen {
				p.Doc.ByHand[own] = jobs.SeenByHand{Same: same, Said: strings.TrimSpace(said), At: now, By: a.Name}
				found = true
			}
		}
		if !found {
			return "", noSuch("/line", key, "line of the proof")
		}
		return "", nil
	}
}

// Meets notes a difference that only a person sees, or that it is mended.
func Meets(code proof.Code, mended bool) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		if !slices.ContainsFunc(proof.ByHandRows(), func(r proof.Row) bool { return r.Code == code }) {
			return "", noSuch("/code", string(code), "difference that is seen by hand")
		}
		for i := range p.Doc.Met {
			if m := &p.Doc.Met[i]; m.Code == code && m.Mended == nil {
				if mended {
					m.Mended = &now
					return "mended: " + code.Row().Says, nil
				}
				return "", nil
			}
		}
		if !mended {
			p.Doc.Met = append(p.Doc.Met, jobs.Met{Code: code, At: now, By: a.Name})
			return code.Row().Says, nil
		}
		return "", nil
	}
}

// Tries notes what was tried against a difference, and what came of it.
func Tries(code proof.Code, place string, try int, said string) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		row := code.Row()
		if try < 0 || try >= len(row.Try) {
			return "", noSuch("/try", strconv.Itoa(try), "thing to try")
		}
		if err := tooLong("/said", said, ""); err != nil {
			return "", err
		}
		p.Doc.Tried = append(p.Doc.Tried, jobs.Tried{Code: code, Place: place, Try: try, Said: strings.TrimSpace(said),
			At: now, By: a.Name})
		return "tried: " + hw.LowerFirst(strings.TrimSuffix(row.Try[try], ".")), nil
	}
}

// IsReally agrees that what the report tells of a place is what is in it: it was fitted otherwise than
// planned.
func IsReally(place string) ProofEntry {
	return func(p *Proof, a base.Actor, _ time.Time) (string, error) {
		if p.Reading == nil || !p.Job.Chassis.HasPlace(place) {
			return "", noSuch("/place", place, "place that a report tells of")
		}
		really := jobs.Really{By: a.Name}
		o := p.Reading.Observed
		if socket := p.Job.Chassis.SocketByID(place); socket >= 0 {
			really.Module = realModule(proof.DeviceOf(p.Job.Chassis, o, socket))
			really.None = really.Module == nil
		} else {
			d := proof.DriveOf(p.Job.Chassis, p.Expected, o, place)
			if d == nil {
				really.None = true
			} else {
				really.Drive = realDrive(d)
			}
		}
		if p.Doc.Really == nil {
			p.Doc.Really = map[string]jobs.Really{}
		}
		p.Doc.Really[place] = really
		return "what is in " + hw.PlaceSays(place) + " was taken from the report", nil
	}
}

func realDrive(d *reading.Drive) *hw.Drive {
	out := &hw.Drive{Interface: d.Interface, Serial: d.Serial, Model: d.Model}
	if bytes, ok := d.Capacity.Get(); ok {
		out.Capacity = hw.Known(hw.DecOf(int((bytes + 500_000_000) / 1_000_000_000)))
	}
	return out
}

// ReadingCounts says that a report counts although it is from before the work, or of another serial.
func ReadingCounts(id int64) ProofEntry {
	return func(p *Proof, _ base.Actor, _ time.Time) (string, error) {
		if !slices.ContainsFunc(p.Job.Readings, func(r jobs.ReadingRecord) bool { return r.ID == id }) {
			return "", noSuch("/reading", strconv.FormatInt(id, 10), "report of this machine")
		}
		if !slices.Contains(p.Doc.Counts, id) {
			p.Doc.Counts = append(p.Doc.Counts, id)
		}
		return fmt.Sprintf("reading %d counts for the proof", id), nil
	}
}

// FirstStarts notes what became of a thing of the first start.
func FirstStarts(id string, answer jobs.FirstAnswer, note string) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		i := slices.IndexFunc(p.First, func(f FirstItem) bool { return f.ID == id })
		if i < 0 || answer != jobs.FirstDone && (answer != jobs.FirstNoTest || !p.First[i].NoTest) {
			return "", noSuch("/first", id, "thing of the first start")
		}
		if err := tooLong("/note", note, ""); err != nil {
			return "", err
		}
		if p.Doc.First == nil {
			p.Doc.First = map[string]jobs.FirstStart{}
		}
		p.Doc.First[id] = jobs.FirstStart{Answer: answer, Note: strings.TrimSpace(note), At: now, By: a.Name}
		return "", nil
	}
}

// WasMeasured notes runs of a measure: those of a side that are told take the place of what was noted.
func WasMeasured(m proof.Measure) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		m.Name = strings.TrimSpace(m.Name)
		var faults hw.Faults
		m.Check(&faults)
		if len(m.Before.Runs)+len(m.After.Runs) == 0 {
			faults.Add("/after", hw.FaultMissing, "", "the runs")
		}
		if len(p.Doc.Measures) >= 40 {
			faults.Add("/name", hw.FaultRange, "more than 40 measures", "at most 40")
		}
		if err := errors.Join(faults.Err(), tooLong("/name", m.Name, "what was measured")); err != nil {
			return "", err
		}
		stamp := func(side *proof.Side) {
			if len(side.Runs) > 0 {
				side.On, side.By = now.Format(time.DateOnly), a.Name
			}
		}
		stamp(&m.Before)
		stamp(&m.After)
		for i := range p.Doc.Measures {
			old := &p.Doc.Measures[i]
			if !strings.EqualFold(old.Name, m.Name) {
				continue
			}
			if len(m.Before.Runs) > 0 {
				old.Before = m.Before
			}
			if len(m.After.Runs) > 0 {
				old.After = m.After
			}
			if m.Unit != "" {
				old.Unit, old.Less = m.Unit, m.Less
			}
			return "", nil
		}
		p.Doc.Measures = append(p.Doc.Measures, m)
		return "", nil
	}
}

// Unmeasured takes a measure off the proof.
func Unmeasured(name string) ProofEntry {
	return func(p *Proof, _ base.Actor, _ time.Time) (string, error) {
		p.Doc.Measures = slices.DeleteFunc(p.Doc.Measures, func(m proof.Measure) bool { return m.Name == name })
		return "", nil
	}
}

// Tests notes a memory test.
func Tests(t jobs.MemoryTest) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		var faults hw.Faults
		if t.Passes < 1 || t.Passes > 1000 {
			faults.Add("/passes", hw.FaultRange, strconv.Itoa(t.Passes), "1 to 1000")
		}
		n, told := t.Errors.Get()
		if !told {
			faults.Add("/errors", hw.FaultMissing, "", "how many errors it found, 0 for none")
		} else if n < 0 {
			faults.Add("/errors", hw.FaultRange, strconv.Itoa(n), "0 or more")
		}
		if t.TotalGB <= 0 || t.TotalGB > hw.DecOf(hw.MaxMemoryGB) {
			faults.Add("/total_gb", hw.FaultRange, t.TotalGB.String(), "the total that was tested")
		}
		if has, known := p.Total(); known && t.TotalGB > has {
			faults.Add("/total_gb", hw.FaultRange, t.TotalGB.String()+" GB", "the machine has "+has.String()+" GB")
		}
		if err := errors.Join(faults.Err(), tooLong("/tool", t.Tool, "what tested it")); err != nil {
			return "", err
		}
		t.At, t.By = now, a.Name
		p.Doc.Test = &t
		return fmt.Sprintf("memory test: %s, %d passes, %d errors", t.Tool, t.Passes, n), nil
	}
}

// DataIs notes what became of the customer's data.
func DataIs(d jobs.DataDone) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		if err := errors.Join(tooLong("/verified", d.Verified, ""), tooLong("/note", d.Note, "")); err != nil {
			return "", err
		}
		if p.Option == nil || p.Option.Migration == nil {
			return "", noSuch("/verified", "data", "drive that data moves to")
		}
		for _, step := range d.Steps {
			if jobs.DataSteps[p.Option.Migration.How].Index(step) < 0 {
				return "", noSuch("/verified", step, "step of moving data")
			}
		}
		d.At, d.By = now, a.Name
		p.Doc.Data = &d
		return "", nil
	}
}

// OldGoes notes where an old part goes.
func OldGoes(place string, old jobs.OldPart) ProofEntry {
	return func(p *Proof, a base.Actor, _ time.Time) (string, error) {
		i := slices.IndexFunc(p.Old, func(r OldRow) bool { return r.Place == place })
		var faults hw.Faults
		switch {
		case i < 0:
			return "", noSuch("/place", place, "part that came out")
		case jobs.GoesWays.Index(old.Goes) < 0:
			faults.Add("/goes", hw.FaultChoice, strconv.Quote(string(old.Goes)), strings.Join(jobs.GoesWays.Words(), ", "))
		case old.Goes == jobs.GoesKept && (old.Days < 1 || old.Days > 365):
			faults.Add("/days", hw.FaultRange, strconv.Itoa(old.Days), "1 to 365 days")
		case p.Old[i].Drive && (old.Goes == jobs.GoesErased || old.Goes == jobs.GoesShelf) && strings.TrimSpace(old.How) == "":
			faults.Add("/how", hw.FaultMissing, "", "how it was erased")
		case p.Old[i].Pack && old.Goes != jobs.GoesRecycled && old.Goes != jobs.GoesBack:
			faults.Add("/goes", hw.FaultChoice, "a pack", "to battery recycling, or back to the customer")
		}
		if err := errors.Join(faults.Err(), tooLong("/how", old.How, "")); err != nil {
			return "", err
		}
		if p.Doc.Old == nil {
			p.Doc.Old = map[string]jobs.OldPart{}
		}
		old.By = a.Name
		p.Doc.Old[place] = old
		return "", nil
	}
}

// Seam notes edges of the seam that somebody looked along.
func Seam(edges ...string) ProofEntry {
	return func(p *Proof, _ base.Actor, now time.Time) (string, error) {
		if p.Doc.Seam == nil {
			p.Doc.Seam = map[string]time.Time{}
		}
		for _, edge := range edges {
			if !slices.Contains(jobs.SeamEdges, edge) {
				return "", noSuch("/edge", edge, strings.Join(jobs.SeamEdges, ", "))
			}
			p.Doc.Seam[edge] = now
		}
		return "", nil
	}
}

// ProofNoted adds a note that stands on the report.
func ProofNoted(text string) ProofEntry {
	return func(p *Proof, a base.Actor, now time.Time) (string, error) {
		if err := tooLong("/text", text, "the note"); err != nil {
			return "", err
		}
		p.Doc.Notes = append(p.Doc.Notes, jobs.ProofNote{Text: strings.TrimSpace(text), At: now, By: a.Name})
		return "", nil
	}
}
