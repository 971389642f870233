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

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/store"
)

// SignProof signs the proof of a job, and writes back what it taught, all of it or nothing: what is
// in the machine now, the stock, the old parts that go onto the shelf, and into the model's record what
// was proven. The error is hw.Faults where something stands against it and nobody says why it is
// signed all the same, and who agreed.
func (s *Hands) SignProof(ctx context.Context, a base.Actor, token string, job int64, why, agreed string) error {
	return s.ChangeJob(ctx, a, token, job, func(tx store.Tx, row *store.Job, _ *jobs.Details, st *jobs.State) (base.Event, error) {
		p, err := s.proofIn(ctx, tx, job)
		if err != nil {
			return base.Event{}, err
		}
		why, agreed = strings.TrimSpace(why), strings.TrimSpace(agreed)
		switch {
		case p.Doc.Sign != nil && p.Doc.Sign.Why == why && p.Doc.Sign.Agreed == agreed:
			return base.Event{}, nil
		case p.Doc.Sign != nil:
			return base.Event{}, hw.Faults{{Pointer: "/why", Text: fmt.Sprintf("%s signed it already, %s. Nothing of this was stored",
				p.Doc.Sign.By, base.TimeWords(p.Doc.Sign.At))}}
		case row.ClosedAt != nil:
			return base.Event{}, hw.Faults{{Pointer: "/why", Text: "the job is closed; open it again first"}}
		case st.Danger != "":
			return base.Event{}, base.ErrDanger
		case utf8.RuneCountInString(why) > base.MaxText || utf8.RuneCountInString(agreed) > base.MaxName:
			return base.Event{}, hw.Faults{
				{Pointer: "/why", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))},
			}
		}
		var faults hw.Faults
		if len(p.Bars) > 0 && why == "" {
			faults = append(faults, hw.Fault{Pointer: "/why", Text: "tell why it is signed although: " + strings.Join(p.Bars, "; ")})
		}
		if len(p.Bars) > 0 && agreed == "" {
			faults = append(faults, hw.Fault{Pointer: "/agreed", Text: hw.Word(hw.FaultMissing, "", "who agreed to it")})
		}
		if err := faults.Err(); err != nil {
			return base.Event{}, err
		}
		now := s.Now()
		p.takeReally(a, now)
		w := &writeBack{s: s, tx: tx, a: a, p: &p, row: row}
		if err := w.all(); err != nil {
			return base.Event{}, err
		}
		p.Doc.Sign = &jobs.Signed{At: now, By: a.Name, Open: p.Bars, Why: why, Agreed: agreed, Learned: w.learned}
		if err := s.saveProof(tx, &p, func(r *store.Proof) { r.SignedAt, r.SignedBy = &now, a.Name }); err != nil {
			return base.Event{}, err
		}
		if p.PlanChanged {
			if err := chose(row, *p.Option, p.Job.Chassis, p.Parts); err != nil {
				return base.Event{}, err
			}
		}
		*st = jobs.State{Worked: st.Worked, Proven: &now}
		told := base.Event{What: "the proof is signed", Kind: base.EventWork, Data: jobs.Course{To: jobs.MoveReady,
			Proven: true}.Data()}
		if len(p.Bars) > 0 {
			told.Kind, told.What = base.EventMoved, fmt.Sprintf(
				"the proof is signed with %d things open, agreed with %s: %s",
				len(p.Bars),
				agreed,
				why,
			)
		}
		return told, nil
	})
}

// takeReally takes what a report tells of the places in which something else sits than was planned, where
// that is signed all the same: the record of the machine says what is in it.
func (p *Proof) takeReally(a base.Actor, now time.Time) {
	for i := range p.Lines {
		l := &p.Lines[i]
		if l.Standing != proof.Open || l.Code != proof.OtherModule && l.Code != proof.OtherDrive {
			continue
		}
		// A place that no report tells of stays as it was planned.
		_, _ = IsReally(l.Place)(p, a, now)
	}
	p.Expected = p.afterWork(p.Before)
}

// chose makes what was done on a job its choice, where another was chosen since.
func chose(row *store.Job, done plan.Option, ch *hw.Chassis, parts *hw.Parts) error {
	var c base.Choice
	if row.Choice != nil {
		if err := json.Unmarshal(row.Choice, &c); err != nil {
			return err
		}
	}
	c.Option, c.Words = done, done.Words(ch, parts.Names())
	raw, err := json.Marshal(c)
	row.Choice = raw
	return err
}

// writeBack brings what a job taught into the records, within the transaction that signs its proof.
type writeBack struct {
	s       *Hands
	tx      store.Tx
	a       base.Actor
	p       *Proof
	row     *store.Job
	learned []string
}

func (w *writeBack) learn(format string, args ...any) {
	w.learned = append(w.learned, fmt.Sprintf(format, args...))
}

func (w *writeBack) all() error {
	for _, write := range []func() error{w.machine, w.stock, w.oldParts, w.proven, w.links} {
		if err := write(); err != nil {
			return err
		}
	}
	return nil
}

// machine writes what is fitted now.
func (w *writeBack) machine() error {
	if w.p.Option == nil && len(w.p.Doc.Really) == 0 {
		return nil
	}
	var now hw.Machine
	if err := json.Unmarshal(w.row.Machine.Doc, &now); err != nil {
		return err
	}
	// What was corrected while the work went on stays: the work is done to the machine as it is known now.
	next := proof.Used(w.p.afterWork(&now))
	if err := hw.ValidateMachine(next, w.p.Job.Chassis).Err(); err != nil {
		return err
	}
	w.learn("what is fitted in %s", w.row.Machine.Tag)
	return w.s.SaveMachineIn(w.tx, &w.row.Machine, next)
}

// stock books the pieces that went in and were not booked yet.
func (w *writeBack) stock() error {
	if w.p.Option == nil {
		return nil
	}
	holds, err := w.tx.HoldsOf(w.p.Job.JobID)
	if err != nil {
		return err
	}
	for _, b := range w.p.Option.Buy {
		row, err := w.tx.Part(b.Part)
		if errors.Is(err, base.ErrNotFound) || err == nil && (row.Uncounted || row.RetiredAt != nil) {
			continue // nobody counts it
		}
		if err != nil {
			return err
		}
		held, fitted := 0, 0
		for _, h := range holds {
			if h.PartID == b.Part {
				held, fitted = h.N, h.Fitted
			}
		}
		part, err := stock.ReadPart(&row)
		if err != nil {
			return err
		}
		there, err := w.tx.Stock(b.Part)
		if err != nil {
			return err
		}
		want := min(b.Quantity, w.purchasesUsed(part)) - fitted // the rest was planned and not used: it stays on the shelf
		n := min(want, held+there.Free())                       // where the plan was changed since, none is held any more
		if n < want {
			w.learn("%d × %s fitted that the shelf does not have: count it", want-n, part.Name)
		}
		if n < 1 {
			continue
		}
		serials, err := w.serialsHere(b.Part, n)
		if err != nil {
			return err
		}
		err = w.s.MovePartIn(w.tx, w.a, stock.Moving{Part: b.Part, Kind: stock.Fitted, N: n, Job: w.p.Job.JobID, Serials: serials})
		if err != nil {
			return err
		}
		w.learn("%d × %s taken off the shelf", n, part.Name)
	}
	return nil
}

// purchasesUsed is how many purchases of a part went in: those of its places that were left as they
// were, or hold something else, used none.
func (w *writeBack) purchasesUsed(part *hw.Part) int {
	pieces := 0
	for _, a := range w.p.Option.Actions {
		_, other := w.p.Doc.Really[a.Place]
		if a.Part == part.ID && !w.p.leftOut(a.Place) && !other {
			pieces++
		}
	}
	if part.Kind == hw.KindAccessory {
		for _, b := range w.p.Option.Buy {
			if b.Part == part.ID {
				return b.Quantity
			}
		}
	}
	return part.Purchases(pieces)
}

// serialsHere are the serials scanned for a part's places that the shelf knows.
func (w *writeBack) serialsHere(part string, most int) ([]string, error) {
	here, err := w.tx.SerialsHere(part)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, a := range w.p.Option.Actions {
		serial := w.p.serialIn(a.Place)
		known := len(here) == 0 || slices.ContainsFunc(here, func(x store.Serial) bool { return x.Serial == serial })
		if a.Part == part && serial != "" && known && len(out) < most && !slices.Contains(out, serial) {
			out = append(out, serial)
		}
	}
	return out, nil
}

// oldParts puts what came out and stays here onto the shelf, as a used part with its state.
func (w *writeBack) oldParts() error {
	for _, old := range w.p.Old {
		done, told := w.p.Doc.Old[old.Place]
		if !told || done.Goes != jobs.GoesShelf {
			continue
		}
		part := w.pulled(old)
		if part == nil {
			continue
		}
		m := stock.Moving{Kind: stock.Pulled, N: 1, Machine: w.row.Machine.ID, Note: "out of " + base.Label(w.p.Job.JobID)}
		if old.Drive {
			m.Erased = done.How
		} else {
			m.Tested = done.How
		}
		if done.Serial != "" {
			m.Serials = []string{done.Serial}
		}
		id, err := w.s.AddPartIn(w.tx, w.a, stock.PartLine{Part: *part}, m)
		if err != nil {
			return err
		}
		w.learn("%s lies on the shelf, %s", part.Name, id)
	}
	return nil
}

// pulled is an old part as the shelf lists it, nil where nothing is known of it.
func (w *writeBack) pulled(old OldRow) *hw.Part {
	out := &hw.Part{Name: old.What + ", pulled", Source: hw.OriginPulled}
	for i := range w.p.Before.Fitted.Memory {
		if f := &w.p.Before.Fitted.Memory[i]; f.Socket == old.Place {
			mod := f.Module
			mod.Serial = ""
			if mod.Form == "" {
				mod.Form = w.p.Job.Chassis.Memory.Sockets[w.p.Job.Chassis.SocketByID(old.Place)].Form
			}
			out.Kind, out.Memory = hw.KindMemory, &mod
		}
	}
	for i := range w.p.Before.Fitted.Drives {
		if f := &w.p.Before.Fitted.Drives[i]; f.Place == old.Place {
			d := f.Drive
			d.Serial = ""
			out.Kind, out.Drive = hw.KindDrive, &d
		}
	}
	if out.Kind == "" {
		return nil
	}
	return out
}

// proven writes a total that a memory test has passed, where it is the highest so far.
func (w *writeBack) proven() error {
	t := w.p.Doc.Test
	if !t.Passed() || w.p.memoryOpen() {
		return nil // with a module that is not seen, nobody knows what was tested
	}
	if known, ok := w.p.Job.Chassis.Mem().Limits.Proven.Get(); ok && known >= t.TotalGB {
		return nil
	}
	raw, err := json.Marshal(t.TotalGB)
	if err != nil {
		return err
	}
	note := fmt.Sprintf("%s, %d passes without an error, %s", t.Tool, t.Passes, base.Label(w.p.Job.JobID))
	err = w.fact("/memory/limits/proven_gb", raw, hw.Bench, note)
	if err == nil {
		w.learn("%s GB proven in the model", t.TotalGB)
	}
	return err
}

// links writes what a link tells of its slot: where a drive could do more, what it runs at is the
// slot's own.
func (w *writeBack) links() error {
	if w.p.Reading == nil {
		return nil
	}
	ch := w.p.Job.Chassis
	for i := range ch.Slots {
		slot := &ch.Slots[i]
		now, d := linkAt(w.p.Expected, w.p.Reading.Observed, slot.ID)
		if d == nil || now == nil {
			continue
		}
		for _, x := range []struct {
			name             string
			slot, drive, now hw.Maybe[int]
		}{{"pcie_gen", slot.Gen, d.Gen, now.NowGen}, {"lanes", slot.Lanes, d.Lanes, now.NowLanes}} {
			can, okC := x.drive.Get()
			runs, okR := x.now.Get()
			if !okC || !okR || runs >= can || x.slot.IsKnown() {
				continue
			}
			raw, err := json.Marshal(runs)
			if err != nil {
				return err
			}
			if err := w.fact("/slots/"+slot.ID+"/"+x.name, raw, hw.FromReading, base.Label(w.p.Job.JobID)); err != nil {
				return err
			}
			w.learn("%s: %s %d", slot.ID, hw.FieldSays(x.name), runs)
		}
	}
	return nil
}

// linkAt is the link of the drive in a slot, where the report has one NVMe drive and one link alone.
func linkAt(m *hw.Machine, o *reading.Observed, slot string) (*reading.Link, *hw.Drive) {
	var link *reading.Link
	for i := range o.Links {
		if o.Links[i].Class == "nvme" {
			if link != nil {
				return nil, nil
			}
			link = &o.Links[i]
		}
	}
	var found *hw.Drive
	n := 0
	for i := range m.Fitted.Drives {
		if d := &m.Fitted.Drives[i]; d.Drive.Interface == hw.NVMe {
			if n++; d.Place == slot {
				found = &d.Drive
			}
		}
	}
	if n != 1 {
		return nil, nil
	}
	return link, found
}

// fact brings one fact into the model's record.
func (w *writeBack) fact(path string, value json.RawMessage, source hw.Source, note string) error {
	return w.s.ChangeModelIn(w.tx, w.a, w.p.Job.Chassis.ID, records.Latest, func(before *hw.Chassis) (*hw.Chassis,
		base.Event, error) {
		f := hw.Finding{Path: path, Value: value, Source: source, On: w.s.Today(), By: w.a.Name, Note: note}
		if err := records.PossibleFinding(before, f); err != nil {
			return nil, base.Event{}, err
		}
		typed, err := evidence.Set(before, path, value)
		if err != nil {
			return nil, base.Event{}, hw.Faults{{Pointer: "/proof", Text: err.Error()}}
		}
		next, err := evidence.Record(before, typed, func(p string) bool { return p == path },
			func(string) (hw.Finding, bool) { return f, true }, hw.SetAside{On: f.On, By: f.By, Note: "proven otherwise"})
		return next, base.Event{}, err
	})
}

// HandingOver is to whom a machine goes, with what.
type HandingOver struct {
	To    string
	With  []string // accessories that go with it
	AskOn string   // the day on which they are asked how it goes, "" for none
	Path  string   // a signature, "" for none
}

// sameHand reports whether a hand-over says what another did.
func sameHand(was *jobs.Handed, h *HandingOver) bool {
	path := ""
	if was.Signature != nil {
		path = was.Signature.Path
	}
	for _, x := range was.With {
		if !slices.Contains(h.With, x) {
			return false
		}
	}
	for _, x := range was.Without {
		if slices.Contains(h.With, x) {
			return false
		}
	}
	return was.To == h.To && path == h.Path
}

// HandOver hands a machine over whose proof is signed, and closes the job.
func (s *Hands) HandOver(ctx context.Context, a base.Actor, token string, job int64, h HandingOver) error {
	return s.ChangeJob(ctx, a, token, job, func(tx store.Tx, row *store.Job, d *jobs.Details, st *jobs.State) (base.Event, error) {
		p, err := s.proofIn(ctx, tx, job)
		if err != nil {
			return base.Event{}, err
		}
		var faults hw.Faults
		h.To = strings.TrimSpace(h.To)
		switch {
		case p.Doc.Hand != nil && sameHand(p.Doc.Hand, &h):
			return base.Event{}, nil
		case p.Doc.Hand != nil:
			return base.Event{}, hw.Faults{
				{
					Pointer: "/to",
					Text: fmt.Sprintf(
						"it was handed over to %s already, %s, by %s. Nothing of this was stored: take the hand-over back first",
						p.Doc.Hand.To,
						base.TimeWords(p.Doc.Hand.At),
						p.Doc.Hand.By,
					),
				},
			}
		case p.Doc.Sign == nil:
			faults = append(faults, hw.Fault{Pointer: "/to", Text: "the proof is signed first"})
		case row.ClosedAt != nil:
			faults = append(faults, hw.Fault{Pointer: "/to", Text: "the job is closed; open it again first"})
		case h.To == "":
			faults.Add("/to", hw.FaultMissing, "", "who takes it")
		case utf8.RuneCountInString(h.To) > base.MaxName:
			faults.Add("/to", hw.FaultRange, "the name", fmt.Sprintf("at most %d characters", base.MaxName))
		}
		if h.AskOn != "" {
			if _, err := time.Parse(time.DateOnly, h.AskOn); err != nil {
				faults.Add("/ask", hw.FaultType, strconv.Quote(h.AskOn), "a day")
			}
		}
		if h.Path != "" && (len(h.Path) > billing.MaxSignature || !billing.SignaturePath.MatchString(h.Path)) {
			faults.Add("/signature", hw.FaultType, "it", "strokes")
		}
		if err := faults.Err(); err != nil {
			return base.Event{}, err
		}
		now := s.Now()
		hand := &jobs.Handed{To: h.To, At: now, By: a.Name, Warranty: p.Warranty}
		for _, x := range d.Accessories {
			if slices.Contains(h.With, x) {
				hand.With = append(hand.With, x)
			} else {
				hand.Without = append(hand.Without, x)
			}
		}
		if h.Path != "" {
			hand.Signature = &jobs.Signature{Path: h.Path, Name: h.To, At: now}
		}
		p.Doc.Hand = hand
		if err := s.saveProof(tx, &p, func(r *store.Proof) { r.HandedAt, r.AskOn = &now, h.AskOn }); err != nil {
			return base.Event{}, err
		}
		row.ClosedAt = &now
		st.Become(jobs.State{})
		if err := s.LetGo(tx, a, job); err != nil {
			return base.Event{}, err
		}
		return base.Event{What: "handed over to " + h.To, Kind: base.EventMoved, Data: jobs.Course{To: jobs.MoveClose}.Data()}, nil
	})
}
