package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// Proof is the proof of a job as it stands.
type Proof struct {
	Job      jobs.JobRecord
	Doc      jobs.ProofDoc
	Version  int
	Option   *plan.Option // what was done; nil for a look inside
	Expected *hw.Machine  // what should be fitted
	Before   *hw.Machine  // what was in it before the work; the machine's own document until it is signed
	Lines    []proof.Joined
	Reading  *jobs.ReadingRecord // that the lines come from, nil for none
	Earlier  []jobs.ReadingRecord
	Foreign  *jobs.ReadingRecord // of another serial: asked before it counts
	Run      *Run                // nil where none was begun
	First    []FirstItem
	Bars     []string // what stands against signing
	Since    time.Time
	Old      []OldRow
	Parts    *hw.Parts
	Card     *card.Card
	// PlanChanged says that another option was chosen after the work began; what was done is proven.
	PlanChanged bool
	Warranty    string // until which day, "" where the settings do not tell
}

// FirstItem is one thing to look at or do at the first start.
type FirstItem struct {
	ID, Says string
	NoTest   bool // it may not be testable here
}

// OldRow is a part that came out.
type OldRow struct {
	Place, What string
	Drive, Pack bool
}

// Proof returns the proof of a job; an empty one where nothing was noted yet.
func (s *Hands) Proof(ctx context.Context, job int64) (Proof, error) {
	var out Proof
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.proofIn(ctx, tx, job)
		return err
	})
	return out, err
}

// ProofOf is the proof of a job that was read already.
func (s *Hands) ProofOf(ctx context.Context, j jobs.JobRecord) (Proof, error) {
	var out Proof
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.proofOf(ctx, tx, j)
		return err
	})
	return out, err
}

func (s *Hands) proofIn(ctx context.Context, tx store.Tx, job int64) (Proof, error) {
	j, err := s.JobIn(tx, job)
	if err != nil {
		return Proof{}, err
	}
	return s.proofOf(ctx, tx, j)
}

func (s *Hands) proofOf(ctx context.Context, tx store.Tx, j jobs.JobRecord) (Proof, error) {
	p, job := Proof{Job: j}, j.JobID
	row, err := tx.ProofOf(job)
	switch {
	case err == nil:
		p.Version = row.Version
		if err := json.Unmarshal(row.Doc, &p.Doc); err != nil {
			return p, fmt.Errorf("the proof of %s: %w", base.Label(job), err)
		}
	case !errors.Is(err, base.ErrNotFound):
		return p, err
	}
	p.Since = p.Job.TakenIn
	r, err := s.runOf(tx, job)
	switch {
	case err == nil:
		at, err := s.runAt(ctx, tx, &r)
		if err != nil {
			return p, err
		}
		p.Run, p.Since = &at, at.Began
	case !errors.Is(err, ErrNoRun):
		return p, err
	}
	if err := s.expected(ctx, tx, &p, &r); err != nil {
		return p, err
	}
	p.compare()
	p.firstStart()
	p.against()
	if p.Doc.Hand != nil {
		p.Warranty = p.Doc.Hand.Warranty
		return p, nil
	}
	how, err := base.SettingsIn(tx)
	if err == nil && how.WarrantyMonths > 0 {
		p.Warranty = s.Now().AddDate(0, how.WarrantyMonths, 0).Format(time.DateOnly)
	}
	return p, err
}

// Fits are the names of the parts that the option puts in, by their places.
func (p *Proof) Fits() map[string]string {
	out := map[string]string{}
	if p.Option == nil {
		return out
	}
	for _, a := range p.Option.Actions {
		if part := partNamed(p.Parts, a.Part); part != nil && !p.leftOut(a.Place) {
			out[a.Place] = part.Name
		}
	}
	return out
}

// Unmeasured are the measures that the job's wish asks for and nobody took yet.
func (p *Proof) Unmeasured() []proof.Measure {
	if p.Job.Wish == nil {
		return nil
	}
	return slices.DeleteFunc(proof.AskedBy(&p.Job.Wish.Goals), func(m proof.Measure) bool {
		return slices.ContainsFunc(p.Doc.Measures, func(d proof.Measure) bool { return strings.EqualFold(d.Name, m.Name) })
	})
}

// expected works out what should be fitted: the machine as the option leaves it, with the serials
// that went in, and what is really in where that was agreed. A signed proof has written that into the
// machine already.
func (s *Hands) expected(ctx context.Context, tx store.Tx, p *Proof, r *store.Run) error {
	p.Before, p.Parts = p.Job.Machine, &hw.Parts{}
	if p.Job.Choice != nil {
		p.Option = &p.Job.Choice.Option
	}
	if p.Run != nil {
		d := &RunDoc{}
		if err := json.Unmarshal(r.Doc, d); err != nil {
			return err
		}
		p.PlanChanged = d.Option != nil && (p.Job.Choice == nil || jobs.Fingerprint(p.Job.Choice.Option) != jobs.Fingerprint(*d.Option))
		p.Option, p.Parts, p.Before, p.Card = d.Option, d.Parts, d.Machine, p.Run.State.Plan.Card
	} else if p.Option != nil {
		d, err := s.docOf(tx, &p.Job.MachineRecord)
		if err != nil {
			return err
		}
		p.Parts = d.Parts
		if p.Card, err = card.Of(ctx, card.Job{Chassis: p.Job.Chassis, Machine: p.Before, Parts: p.Parts}, p.Option); err != nil {
			return err
		}
	}
	p.Expected = p.afterWork(p.Before)
	p.oldParts()
	return nil
}

// afterWork is a machine as the work leaves it: what the option fits, and what is really in where that
// was agreed.
func (p *Proof) afterWork(m *hw.Machine) *hw.Machine {
	if p.Option != nil {
		m = proof.Fitted(p.Job.Chassis, m, p.Option, p.Parts, p.serialIn, p.leftOut)
	}
	return withReally(p.Job.Chassis, m, p.Doc.Really)
}

// Total is the memory that should be there, where all of it is told.
func (p *Proof) Total() (gb hw.Dec, known bool) { return p.totalOf(p.Expected) }

// totalOf is the memory of a machine, where all of it is told.
func (p *Proof) totalOf(m *hw.Machine) (hw.Dec, bool) {
	if m.Fitted.Memory == nil || p.Job.Chassis.Mem().Soldered == nil {
		return 0, false
	}
	sum := hw.Dec(0)
	for _, st := range memory.Soldered(p.Job.Chassis, m) {
		gb, ok := st.Module.Capacity.Get()
		if !ok {
			return 0, false
		}
		sum += gb
	}
	for i := range m.Fitted.Memory {
		gb, ok := m.Fitted.Memory[i].Module.Capacity.Get()
		if !ok {
			return 0, false
		}
		sum += gb
	}
	return sum, true
}

// memoryOpen reports whether something of the memory is seen otherwise than it should be.
func (p *Proof) memoryOpen() bool {
	return slices.ContainsFunc(p.Lines, func(l proof.Joined) bool {
		return l.Standing == proof.Open && (l.Place == proof.PlaceMemory || p.Job.Chassis.SocketByID(l.Place) >= 0)
	})
}

// serialIn is the serial that was scanned for what went into a place.
func (p *Proof) serialIn(place string) string {
	if p.Run == nil {
		return ""
	}
	return strings.TrimSpace(p.Run.State.Done[string(run.Fit)+":"+place].Data.In)
}

// leftOut reports whether a place was left as it was after all.
func (p *Proof) leftOut(place string) bool {
	return p.Run != nil && p.Run.State.Done[string(run.Fit)+":"+place].Data.Skip
}

func (p *Proof) oldParts() {
	if p.Option == nil {
		return
	}
	for _, old := range p.Card.Old {
		if p.leftOut(old.Place) {
			continue
		}
		row := OldRow{Place: old.Place, What: old.What, Pack: old.Place == hw.BatteryPlace}
		for i := range p.Before.Fitted.Drives {
			row.Drive = row.Drive || p.Before.Fitted.Drives[i].Place == old.Place
		}
		p.Old = append(p.Old, row)
	}
}

// withReally is a machine with what is really in some places.
func withReally(ch *hw.Chassis, m *hw.Machine, really map[string]jobs.Really) *hw.Machine {
	if len(really) == 0 {
		return m
	}
	out := *m
	out.Fitted.Memory, out.Fitted.Drives = slices.Clone(m.Fitted.Memory), slices.Clone(m.Fitted.Drives)
	for place, r := range really {
		switch {
		case ch.SocketByID(place) >= 0:
			out.Fitted.Memory = slices.DeleteFunc(out.Fitted.Memory, func(f hw.FittedModule) bool { return f.Socket == place })
			if r.Module != nil {
				out.Fitted.Memory = append(out.Fitted.Memory, hw.FittedModule{Socket: place, Module: *r.Module})
			}
		case ch.HasPlace(place):
			was := hw.FittedDrive{Place: place}
			for i := range out.Fitted.Drives {
				if out.Fitted.Drives[i].Place == place {
					was = out.Fitted.Drives[i]
				}
			}
			out.Fitted.Drives = slices.DeleteFunc(out.Fitted.Drives, func(f hw.FittedDrive) bool { return f.Place == place })
			if r.Drive != nil {
				was.Drive = *r.Drive
				out.Fitted.Drives = append(out.Fitted.Drives, was)
			}
		}
	}
	slices.SortStableFunc(
		out.Fitted.Memory,
		func(a, b hw.FittedModule) int { return ch.SocketByID(a.Socket) - ch.SocketByID(b.Socket) },
	)
	return &out
}

// compare joins what should be there with what was seen: the newest report of this machine since the
// work began, and what somebody looked at themselves.
func (p *Proof) compare() {
	ch := p.Job.Chassis
	var report []proof.Line
	for i := range p.Job.Readings {
		r := &p.Job.Readings[i]
		counts := slices.Contains(p.Doc.Counts, r.ID)
		if r.At.Before(p.Since) && !counts {
			p.Earlier = append(p.Earlier, *r)
			continue
		}
		foreign := p.Expected.Serial != "" && r.Observed.System != nil && r.Observed.System.Serial != "" &&
			r.Observed.System.Serial != p.Expected.Serial
		if foreign && !counts {
			if p.Foreign == nil {
				p.Foreign = r
			}
			continue
		}
		p.Reading = r
		report = proof.Compare(ch, p.Expected, r.Observed)
		break
	}
	p.Lines = proof.Join(proof.Expect(ch, p.Expected), report)
	for i := range p.Lines {
		l := &p.Lines[i]
		if seen, ok := p.Doc.ByHand[l.Place+" "+l.What]; ok && l.Standing == proof.Unseen {
			l.Standing = proof.AsIs
			if !seen.Same {
				l.Standing, l.Code = proof.Open, byHandCode(ch, l)
			}
		}
	}
}

// byHandCode is the kind of a difference that somebody saw at a line.
func byHandCode(ch *hw.Chassis, l *proof.Joined) proof.Code {
	switch {
	case l.Place == proof.PlaceMachine:
		return proof.OtherSerial
	case l.Place == hw.BatteryPlace:
		return proof.OtherBattery
	case l.What == "link":
		return proof.LinkDiffers
	case l.What == "speed_mts":
		return proof.Slower
	case l.Place == proof.PlaceMemory || ch.SocketByID(l.Place) >= 0:
		return proof.ModuleAbsent
	}
	return proof.DriveAbsent
}

// firstStart lists what is to be looked at and done at the first start, by the record's quirks and by
// what was done.
func (p *Proof) firstStart() {
	say := func(id, says string, noTest bool) { p.First = append(p.First, FirstItem{id, says, noTest}) }
	ch := p.Job.Chassis
	if ch.Batteries == nil || len(ch.Batteries) > 0 {
		say("charger", "The charger was in before the first start", false)
	}
	if p.Touches(hw.KindMemory) {
		say("training", "Left some minutes for memory training", false)
		if slices.Contains(ch.Quirks, hw.NoticeAfterMemory) {
			say("notice", "It said once that its settings changed, and not again", false)
		}
	}
	if slices.Contains(ch.Quirks, hw.NoClockCell) {
		say("clock", "The clock is set", false)
	}
	if p.Option != nil && p.Option.Migration != nil {
		say("boot", "It starts from the new drive", false)
		for i := range p.Before.Fitted.Drives {
			if p.Before.Fitted.Drives[i].Encrypted.Or(false) {
				say("encryption", "The encryption is on again", false)
				break
			}
		}
	} else if p.puts(hw.KindDrive) {
		say("volume", "The new drive is initialised (GPT) and has a volume", false)
	}
	if p.puts(hw.KindBattery) {
		say("battery", "The new pack is seen and charges; what it holds is judged after one full cycle", false)
	}
	if p.puts(hw.KindWireless) {
		say("wireless", "The new card has its driver, and connects at its own standard", true)
	}
	say("system", "System starts, no device missing", false)
}

func partNamed(parts *hw.Parts, id string) *hw.Part {
	for i := range parts.Parts {
		if parts.Parts[i].ID == id {
			return &parts.Parts[i]
		}
	}
	return nil
}

// against lists what stands against signing.
func (p *Proof) against() {
	say := func(format string, args ...any) { p.Bars = append(p.Bars, fmt.Sprintf(format, args...)) }
	if p.Run != nil && p.Run.Ended.IsZero() {
		say("the work at the bench is not finished")
	}
	if p.Foreign != nil {
		say("a report of another serial waits for an answer")
	}
	unseen := 0
	for i := range p.Lines {
		switch l := &p.Lines[i]; l.Standing {
		case proof.Unseen:
			unseen++
		case proof.Open:
			say("%s: %s", hw.PlaceSays(l.Place), l.Code.Row().Says)
		case proof.AsIs, proof.Follows: // they change nothing here
		}
	}
	for _, m := range p.Doc.Met {
		if m.Mended == nil {
			say("%s", m.Code.Row().Says)
		}
	}
	switch {
	case len(p.Lines) == 0:
		say("fitted parts not known, no report read")
	case unseen == 1:
		say("one value not checked")
	case unseen > 1:
		say("%d values not checked", unseen)
	}
	for _, f := range p.First {
		if _, done := p.Doc.First[f.ID]; !done {
			say("first start: %s", hw.LowerFirst(f.Says))
		}
	}
	if p.Touches(hw.KindMemory) && !p.Doc.Test.Passed() {
		say("no memory test has passed")
	}
	if p.Option != nil && p.Option.Migration != nil && (p.Doc.Data == nil || p.Doc.Data.Verified == "") {
		say("the result of the copy is not recorded")
	}
	for _, old := range p.Old {
		if _, told := p.Doc.Old[old.Place]; !told {
			say("where the old part of %s goes", hw.PlaceSays(old.Place))
		}
	}
	if p.Option != nil && len(p.Doc.Seam) < len(jobs.SeamEdges) {
		say("the seam is not checked all round")
	}
}

// puts reports whether the option puts in a part of a kind.
func (p *Proof) puts(kind hw.PartKind) bool {
	return p.Option != nil && slices.ContainsFunc(p.Option.Actions, func(a plan.Action) bool {
		part := partNamed(p.Parts, a.Part)
		return part != nil && part.Kind == kind && !p.leftOut(a.Place)
	})
}

// Touches reports whether the option changed a place that takes a kind of part.
func (p *Proof) Touches(kind hw.PartKind) bool {
	if p.Option == nil {
		return false
	}
	for _, a := range p.Option.Actions {
		place, ok := p.Job.Chassis.PlaceNamed(a.Place)
		if ok && place.Takes == kind && a.Do != plan.DoKeep && !p.leftOut(a.Place) {
			return true
		}
	}
	return false
}

// realModule is a module as a report tells it.
func realModule(d *reading.Device) *hw.Module {
	if d == nil || d.Capacity.Or(0) == 0 {
		return nil
	}
	return &hw.Module{
		Type:       d.Type,
		Form:       d.Form,
		Capacity:   d.Capacity,
		Speed:      d.Rated,
		Ranks:      d.Ranks,
		PartNumber: d.PartNumber,
		Serial:     d.Serial,
	}
}
