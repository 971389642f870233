package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange"
	"yembo/store"
)

// ModelRecord is a model with what is known about its record.
type ModelRecord struct {
	Chassis *hw.Chassis
	Version int
	Updated time.Time
	History []Change
}

// Brief is what lists show of a model, and what a search by capability asks.
type Brief struct {
	ID           string          `json:"-"`
	Name         string          `json:"-"`
	Code         string          `json:"-"`
	Kind         hw.Build        `json:"-"`
	Made         int             `json:"made"` // briefMade of when it was stored
	Covers       []string        `json:"covers,omitempty"`
	MemoryType   hw.MemoryType   `json:"memory_type,omitempty"`
	SolderedGB   hw.Dec          `json:"soldered_gb,omitempty"`
	Forms        []hw.ModuleForm `json:"forms"` // of the sockets; nil where they are not known
	Limits       hw.Limits       `json:"limits,omitzero"`
	DriveSlots   []BriefSlot     `json:"drive_slots,omitempty"`
	BatterySteps hw.Maybe[int]   `json:"battery_steps,omitzero"`
	Disputed     int             `json:"disputed,omitempty"`
}

// BriefSlot is a slot for drives: the lengths in mm that it holds, and its generation.
type BriefSlot struct {
	Lengths []int         `json:"lengths,omitempty"`
	Gen     hw.Maybe[int] `json:"gen,omitzero"`
}

// briefMade is raised when a brief holds more than before; an older one is made anew from
// the record when it is read.
const briefMade = 2

// BriefOf is what lists show of a record.
func BriefOf(ch *hw.Chassis) Brief {
	mem := ch.Mem()
	b := Brief{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Kind: ch.Kind, Made: briefMade, Covers: ch.Covers, MemoryType: mem.Type.Or(""), Limits: mem.Limits, BatterySteps: depthOfBattery(ch)}
	for i := range mem.Soldered {
		b.SolderedGB += mem.Soldered[i].Capacity
	}
	if mem.Sockets != nil {
		b.Forms = []hw.ModuleForm{}
	}
	for i := range mem.Sockets {
		b.Forms = append(b.Forms, mem.Sockets[i].Form)
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
func (s *Shop) Briefs(ctx context.Context, query string, most int) ([]Brief, error) {
	var out []Brief
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
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
	out := make([]Brief, len(rows))
	for i := range rows {
		if out[i], err = briefOf(tx, &rows[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func briefOf(tx store.Tx, row *store.Model) (Brief, error) {
	b := Brief{ID: row.ID, Name: strings.TrimSpace(row.Maker + " " + row.Model), Code: row.Code, Kind: hw.Build(row.Kind)}
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
	r, err := modelRecord(&whole)
	if err != nil {
		return b, err
	}
	return BriefOf(r.Chassis), nil
}

// ModelCount is how many models are on record.
func (s *Shop) ModelCount(ctx context.Context) (int, error) {
	n := 0
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		n, err = tx.ModelCount()
		return err
	})
	return n, err
}

// Model returns one model record with its history.
func (s *Shop) Model(ctx context.Context, id string) (ModelRecord, error) {
	var out ModelRecord
	err := s.store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Model(id)
		if err != nil {
			return err
		}
		if out, err = modelRecord(&row); err != nil {
			return err
		}
		out.History, err = history(tx, kindModel, id)
		return err
	})
	return out, err
}

func modelRecord(row *store.Model) (ModelRecord, error) {
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
func (s *Shop) RecordModel(ctx context.Context, a Actor, token string, in ModelEntry) (string, error) {
	return s.once(ctx, token, func(tx store.Tx) (string, error) {
		var before *hw.Chassis
		var row store.Model
		typed := *in.Chassis
		typed.Format = hw.FormatChassis
		if in.Before != "" {
			var err error
			if row, err = tx.Model(in.Before); err != nil {
				return "", err
			}
			record, err := modelRecord(&row)
			if err != nil {
				return "", err
			}
			before = record.Chassis
			typed = mergeEntry(before, &typed)
		} else if _, err := tx.Model(typed.ID); err == nil {
			var faults hw.Faults
			faults.Add("/id", hw.FaultDuplicate, `"`+typed.ID+`"`, "another model has it")
			return "", faults
		}
		today := s.now().Format("2006-01-02")
		next, err := evidence.Record(before, &typed, isMemory, func(path string) (hw.Finding, bool) {
			source, on, note, anew := in.How(path)
			if on == "" {
				on = today
			}
			return hw.Finding{Source: source, On: on, By: a.Name, Note: note}, anew
		}, hw.SetAside{On: today, By: a.Name, Note: "cleared in the record"})
		if err != nil {
			return "", err
		}
		if err := exchange.CheckWhole(next); err != nil {
			return "", err
		}
		return next.ID, s.storeModel(tx, a, before, next, row, in.Version)
	})
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

func (s *Shop) storeModel(tx store.Tx, a Actor, before, next *hw.Chassis, row store.Model, version int) error {
	what := "recorded"
	if before != nil {
		what = "changed: " + strings.Join(changedFacts(before, next), ", ")
	}
	return s.storeModelAs(tx, a, before == nil, next, row, version, what)
}

// storeModelAs stores a new record, or a changed one over the version that was read,
// and writes it to the history in the given words.
func (s *Shop) storeModelAs(tx store.Tx, a Actor, fresh bool, next *hw.Chassis, row store.Model, version int, what string) error {
	doc, err := json.Marshal(next)
	if err != nil {
		return err
	}
	old := row.Doc
	if !fresh && bytes.Equal(doc, old) {
		// Nothing changed: nothing to store, and nothing to tell in the history.
		if row.Version != version {
			return ErrChanged
		}
		return nil
	}
	row.ID, row.Maker, row.Model, row.Code, row.Kind, row.Doc = next.ID, next.Maker, next.Model, next.Code, string(next.Kind), doc
	if row.Brief, err = json.Marshal(BriefOf(next)); err != nil {
		return err
	}
	row.UpdatedAt = s.now()
	if fresh {
		row.Version, row.CreatedAt = 1, s.now()
		if err := tx.CreateModel(&row); err != nil {
			return err
		}
	} else {
		row.Version = version + 1
		if err := tx.SaveModel(&row, version); err != nil {
			return err
		}
	}
	return s.note(tx, a, kindModel, next.ID, what, old)
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
