package records

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// ModelRecord is a model with what is known about its record.
type ModelRecord struct {
	Chassis *hw.Chassis
	Version int
	Updated time.Time
	History []base.Change
}

// Brief is what lists show of a model, and what a search by capability asks.
type Brief struct {
	ID           string             `json:"-"`
	Name         string             `json:"-"`
	Code         string             `json:"-"`
	Kind         hw.Build           `json:"-"`
	Version      int                `json:"-"`
	Machines     int                `json:"-"`    // of it, where a list counts them
	Made         int                `json:"made"` // briefMade of when it was stored
	Covers       []string           `json:"covers,omitempty"`
	MemoryType   hw.MemoryType      `json:"memory_type,omitempty"`
	SolderedGB   hw.Dec             `json:"soldered_gb,omitempty"`
	Forms        []hw.ModuleForm    `json:"forms"`           // of the sockets; nil where they are not known
	Takes        []hw.Maybe[hw.Dec] `json:"takes,omitempty"` // the largest module of each socket, where recorded
	Limits       hw.Limits          `json:"limits,omitzero"`
	DriveSlots   []BriefSlot        `json:"drive_slots,omitempty"`
	BatterySteps hw.Maybe[int]      `json:"battery_steps,omitzero"`
	Disputed     int                `json:"disputed,omitempty"`
}

// BriefSlot is a slot for drives: the lengths in mm that it holds, and its generation.
type BriefSlot struct {
	Lengths []int         `json:"lengths,omitempty"`
	Gen     hw.Maybe[int] `json:"gen,omitzero"`
}

// briefMade is raised when a brief holds more than before; an older one is made anew from
// the record when it is read.
const briefMade = 3

// BriefOf is what lists show of a record.
func BriefOf(ch *hw.Chassis) Brief {
	mem := ch.Mem()
	b := Brief{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Kind: ch.Kind, Made: briefMade, Covers: ch.Covers,
		MemoryType: mem.Type.Or(""), Limits: mem.Limits, BatterySteps: depthOfBattery(ch)}
	for i := range mem.Soldered {
		b.SolderedGB += mem.Soldered[i].Capacity
	}
	if mem.Sockets != nil {
		b.Forms = []hw.ModuleForm{}
	}
	for i := range mem.Sockets {
		b.Forms, b.Takes = append(b.Forms, mem.Sockets[i].Form), append(b.Takes, mem.Sockets[i].MaxModule)
	}
	for i := range ch.Slots {
		if ch.Slots[i].Purpose == hw.ForStorage {
			b.DriveSlots = append(b.DriveSlots, BriefSlot{heldLengths(&ch.Slots[i]), ch.Slots[i].Gen})
		}
	}
	for _, fact := range evidence.Facts(ch.Findings) {
		if fact.Disputed {
			b.Disputed++
		}
	}
	return b
}

// heldLengths are the lengths in mm that something in a slot holds.
func heldLengths(slot *hw.Slot) []int {
	var out []int
	for text, how := range slot.Lengths {
		if mm, err := strconv.Atoi(text); err == nil && how != "none" {
			out = append(out, mm)
		}
	}
	slices.Sort(out)
	return out
}

// Briefs lists at most so many models in which every word of a query stands.
func (s *Records) Briefs(ctx context.Context, query string, most int) ([]Brief, error) {
	var out []Brief
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = briefs(tx, query, most)
		return err
	})
	return out, err
}

func briefs(tx store.Tx, query string, most int) ([]Brief, error) {
	rows, err := tx.FindModels(query, most)
	if err != nil {
		return nil, err
	}
	return briefsOf(tx, rows)
}

// ListModels lists one page of models that can do what is wanted, and how many there are.
func (s *Records) ListModels(ctx context.Context, q base.ListQuery, want Capability) (out []Brief, found int, err error) {
	err = s.Store.View(ctx, func(tx store.Tx) error {
		page := q.Store(base.RowsOfPage)
		if want.Asked() {
			page.From, page.Limit = 0, -1
		}
		rows, n, err := tx.ModelsPage(page)
		if err != nil {
			return err
		}
		found = n
		if out, err = briefsOf(tx, rows); err != nil {
			return err
		}
		if want.Asked() {
			how, err := base.SettingsIn(tx)
			if err != nil {
				return err
			}
			out = slices.DeleteFunc(out, func(b Brief) bool { return !want.Has(&b, &how) })
			found = len(out)
			from := min((max(q.Page, 1)-1)*base.RowsOfPage, found)
			out = out[from:min(from+base.RowsOfPage, found)]
		}
		ids := make([]string, len(out))
		for i := range out {
			ids[i] = out[i].ID
		}
		counts, err := tx.MachinesOfModels(ids)
		for i := range out {
			out[i].Machines = counts[out[i].ID]
		}
		return err
	})
	return out, found, err
}

func briefsOf(tx store.Tx, rows []store.Model) ([]Brief, error) {
	var err error
	out := make([]Brief, len(rows))
	for i := range rows {
		if out[i], err = briefOf(tx, &rows[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func briefOf(tx store.Tx, row *store.Model) (Brief, error) {
	b := Brief{ID: row.ID, Name: strings.TrimSpace(row.Maker + " " + row.Model), Code: row.Code,
		Kind: hw.Build(row.Kind), Version: row.Version}
	if len(row.Brief) > 0 {
		if err := json.Unmarshal(row.Brief, &b); err != nil {
			return b, fmt.Errorf("model %s: %w", row.ID, err)
		}
	}
	if b.Made == briefMade {
		return b, nil
	}
	whole, err := tx.Model(row.ID)
	if err != nil {
		return b, err
	}
	r, err := ReadModel(&whole)
	if err != nil {
		return b, err
	}
	made := BriefOf(r.Chassis)
	made.Version = row.Version
	return made, nil
}

// ModelCount is how many models are on record.
func (s *Records) ModelCount(ctx context.Context) (int, error) {
	n := 0
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		n, err = tx.ModelCount()
		return err
	})
	return n, err
}

// Chassis returns the document of one model.
func (s *Records) Chassis(ctx context.Context, id string) (*hw.Chassis, error) {
	var out *hw.Chassis
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Model(id)
		if err != nil {
			return err
		}
		r, err := ReadModel(&row)
		out = r.Chassis
		return err
	})
	return out, err
}

// Model returns one model record with its history.
func (s *Records) Model(ctx context.Context, id string) (ModelRecord, error) {
	var out ModelRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Model(id)
		if err != nil {
			return err
		}
		if out, err = ReadModel(&row); err != nil {
			return err
		}
		out.History, err = base.HistoryIn(tx, base.KindModel, id)
		return err
	})
	return out, err
}

// ReadModel reads a record out of its row.
func ReadModel(row *store.Model) (ModelRecord, error) {
	var ch hw.Chassis
	if err := json.Unmarshal(row.Doc, &ch); err != nil {
		return ModelRecord{}, fmt.Errorf("model %s: %w", row.ID, err)
	}
	return ModelRecord{Chassis: &ch, Version: row.Version, Updated: row.UpdatedAt}, nil
}

// ModelEntry is what a technician entered about a model.
type ModelEntry struct {
	Before  string // id of the record that is changed, "" for a new one
	Version int    // the version that was read
	Chassis *hw.Chassis
	// How says how a fact is known, by its path by place id, and whether that was
	// entered anew.
	How func(path string) (source hw.Source, on, note string, anew bool)
}

// isMemory is the part of a record that the entry speaks of.
func isMemory(path string) bool { return evidence.Within(path, "/memory") }

// RecordModel stores a new model or changes one. Only the general fields and the
// memory are taken from the entry; all else of an earlier record stays. The error
// is hw.Faults where something entered cannot be, ErrChanged where the record was
// changed meanwhile; nothing is stored then. It returns the model's id.
func (s *Records) RecordModel(ctx context.Context, a base.Actor, token string, in ModelEntry) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if in.Before != "" {
			return in.Before, s.ChangeModelIn(tx, a, in.Before, in.Version,
				func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
					next, err := s.entered(a, before, in)
					return next, base.Event{}, err
				})
		}
		next, err := s.entered(a, nil, in)
		if err != nil {
			return "", err
		}
		return next.ID, s.AddModelIn(tx, a, next, "/id", base.Event{What: "recorded"})
	})
}

// entered is a record with an entry brought in; before is nil for a new one.
func (s *Records) entered(a base.Actor, before *hw.Chassis, in ModelEntry) (*hw.Chassis, error) {
	typed := *in.Chassis
	typed.Format = hw.FormatChassis
	if before != nil {
		typed = mergeEntry(before, &typed)
	}
	return evidence.Record(before, &typed, isMemory, s.knownAs(a, in.How),
		hw.SetAside{On: s.Today(), By: a.Name, Note: "cleared in the record"})
}

// knownAs makes findings of how a person says that things are known: theirs, of today where
// they give no date.
func (s *Records) knownAs(a base.Actor,
	how func(path string) (source hw.Source, on, note string, anew bool)) func(path string) (hw.Finding, bool) {
	return func(path string) (hw.Finding, bool) {
		source, on, note, anew := how(path)
		if on == "" {
			on = s.Today()
		}
		return hw.Finding{Source: source, On: on, By: a.Name, Note: note}, anew
	}
}

// mergeEntry keeps everything of the earlier record that the entry does not cover:
// the id, all places, steps and screws, and where sockets and chips lie.
func mergeEntry(before, typed *hw.Chassis) hw.Chassis {
	out := *before
	out.Maker, out.Model, out.Code, out.Year, out.Kind = typed.Maker, typed.Model, typed.Code, typed.Year, typed.Kind
	if typed.Outline != nil {
		out.Outline = typed.Outline
	}
	mem := hw.Memory{}
	if typed.Memory != nil {
		mem = *typed.Memory
	}
	for i := range mem.Sockets {
		if k := before.SocketByID(mem.Sockets[i].ID); k >= 0 {
			old := before.Memory.Sockets[k]
			mem.Sockets[i].Reach, mem.Sockets[i].At, mem.Sockets[i].Channels = old.Reach, old.At, old.Channels
		}
	}
	for i := range mem.Soldered {
		for _, old := range before.Mem().Soldered {
			if old.ID == mem.Soldered[i].ID {
				mem.Soldered[i].At, mem.Soldered[i].Channels = old.At, old.Channels
			}
		}
	}
	out.Memory = &mem
	return out
}

// changedFacts names the facts that got a new finding or lost one.
func changedFacts(before, after *hw.Chassis) []string {
	var out []string
	facts := map[string][]string{} // by the thing that they are of
	name := func(path string) {
		thing, fact := hw.FactOf(path)
		if _, there := facts[thing]; !there {
			out = append(out, thing)
		}
		if !slices.Contains(facts[thing], fact) {
			facts[thing] = append(facts[thing], fact)
		}
	}
	for i, f := range after.Findings {
		switch {
		case i >= len(before.Findings):
			name(f.Path)
		case f.SetAside != nil && before.Findings[i].SetAside == nil:
			name(f.Path)
		}
	}
	if len(out) == 0 {
		return []string{"general facts"}
	}
	for i, thing := range out {
		words := strings.Trim(strings.Join(facts[thing], ", "), ", ")
		switch {
		case thing == "":
			out[i] = words
		case words != "":
			out[i] = thing + " (" + words + ")"
		}
	}
	return out
}
