package hw

import (
	"fmt"
	"slices"
)

// PlaceKind is what kind of place something sits in.
type PlaceKind int

// The kinds of places.
const (
	InSocket PlaceKind = iota
	InSlot
	InBay
	InPack // one of the packs that a model is recorded with; they share the place BatteryPlace
)

// placeLists are the lists of a record in which each kind stands.
var placeLists = [...]string{InSocket: "memory/sockets", InSlot: "slots", InBay: "bays", InPack: "batteries"}

// Place is a socket, a slot, a bay or a pack as the record has it. It is the one way to go
// through them: a new kind of place is added here.
type Place struct {
	Kind  PlaceKind
	ID    string   // in the record
	Name  string   // as exclusions name it: the id, for a pack battery:ID
	Takes PartKind // what goes in; "" where nothing is planned (a modem's slot)
	Index int      // in its list
	// The fields that all places share.
	Reach     string
	Excludes  []string
	CarryOver []string
	OnlyOn    string
	Fixing    *Fixing
	Advice    []string
	Firmware  string
	At        *At
}

// placeSays are the kinds in words.
var placeSays = [...]string{InSocket: "memory socket", InSlot: "M.2 slot", InBay: "drive bay", InPack: "battery pack"}

// Says is the kind in words.
func (k PlaceKind) Says() string { return placeSays[k] }

// List is the list of the record that the place stands in.
func (p *Place) List() string { return placeLists[p.Kind] }

// Pointer is the place's JSON Pointer by index, as documents have it.
func (p *Place) Pointer() string { return fmt.Sprintf("/%s/%d", p.List(), p.Index) }

// Path is the place's pointer by id, as findings have it.
func (p *Place) Path() string { return "/" + p.List() + "/" + p.ID }

// ReachFact is the pointer of the fact that says how the place is reached.
func (p *Place) ReachFact() string {
	if p.Kind == InPack {
		return "/battery_reach"
	}
	return p.Pointer() + "/reach"
}

// Places lists the places of a model in the order of the formats: sockets, slots, bays,
// packs.
func (c *Chassis) Places() []Place {
	out := make([]Place, 0, len(c.Mem().Sockets)+len(c.Slots)+len(c.Bays)+len(c.Batteries))
	for i := range c.Mem().Sockets {
		s := &c.Memory.Sockets[i]
		out = append(out, Place{Kind: InSocket, ID: s.ID, Name: s.ID, Takes: KindMemory, Index: i, Reach: s.Reach,
			Advice: s.Advice, Firmware: s.Firmware, At: s.At})
	}
	for i := range c.Slots {
		s := &c.Slots[i]
		out = append(out, Place{Kind: InSlot, ID: s.ID, Name: s.ID, Takes: s.Purpose.Takes(), Index: i, Reach: s.Reach,
			Excludes: s.Excludes, CarryOver: s.CarryOver, OnlyOn: s.OnlyOn, Fixing: s.Fixing, Advice: s.Advice,
			Firmware: s.Firmware, At: s.At})
	}
	for i := range c.Bays {
		b := &c.Bays[i]
		out = append(out, Place{Kind: InBay, ID: b.ID, Name: b.ID, Takes: KindDrive, Index: i, Reach: b.Reach,
			Excludes: b.Excludes, CarryOver: b.CarryOver, OnlyOn: b.OnlyOn, Fixing: b.Fixing, Advice: b.Advice,
			Firmware: b.Firmware, At: b.At})
	}
	for i := range c.Batteries {
		b := &c.Batteries[i]
		out = append(out, Place{Kind: InPack, ID: b.ID, Name: PackName(b.ID), Takes: KindBattery, Index: i,
			Reach:    c.BatteryReach,
			Excludes: b.Excludes, CarryOver: b.CarryOver, OnlyOn: b.OnlyOn, Advice: b.Advice, Firmware: b.Firmware,
			At: b.At})
	}
	return out
}

// Variants lists the configurations that only some machines of the model are, each once.
func (c *Chassis) Variants() []string {
	var out []string
	for _, p := range c.Places() {
		if p.OnlyOn != "" && !slices.Contains(out, p.OnlyOn) {
			out = append(out, p.OnlyOn)
		}
	}
	return out
}

// Open lists what is suspected and was not yet looked at.
func (c *Chassis) Open() []*Suspected {
	var out []*Suspected
	for i := range c.Suspected {
		if c.Suspected[i].Settled == nil {
			out = append(out, &c.Suspected[i])
		}
	}
	return out
}

// Takes is what goes into a slot of that purpose.
func (p Purpose) Takes() PartKind {
	switch p {
	case ForStorage:
		return KindDrive
	case ForWireless:
		return KindWireless
	case ForModem: // nothing is planned there
	}
	return ""
}

// PlaceNamed finds a place by its id; BatteryPlace stands for the packs and is not among
// them. ok is false where the record has none.
func (c *Chassis) PlaceNamed(id string) (Place, bool) {
	for _, p := range c.Places() {
		if p.Kind != InPack && p.ID == id {
			return p, true
		}
	}
	return Place{}, false
}

// PackName is how exclusions name a pack.
func PackName(id string) string { return "battery:" + id }

// Places are the ids of the places in which a machine has something; its pack apart.
func (f *Fitted) Places() []string {
	var out []string
	for i := range f.Memory {
		out = append(out, f.Memory[i].Socket)
	}
	for i := range f.Drives {
		out = append(out, f.Drives[i].Place)
	}
	if f.Wireless != nil && f.Wireless.Slot != "" {
		out = append(out, f.Wireless.Slot)
	}
	return out
}

// At says what a machine has in a place: told is false where nobody said, and words are
// "empty" where the place is known to be.
func (m *Machine) At(p Place) (words string, told, holds bool) {
	switch p.Takes {
	case KindMemory:
		for i := range m.Fitted.Memory {
			if m.Fitted.Memory[i].Socket == p.ID {
				return m.Fitted.Memory[i].Module.Words(), true, true
			}
		}
		told = m.Fitted.Memory != nil
	case KindWireless:
		if w := m.Fitted.Wireless; w != nil {
			if told = true; w.Slot == p.ID {
				return Standards.Says(w.Standard.Or("a card")), true, true
			}
		}
	case KindDrive, KindBattery, KindAccessory, "":
		for i := range m.Fitted.Drives {
			if m.Fitted.Drives[i].Place == p.ID {
				return m.Fitted.Drives[i].Drive.Words(), true, true
			}
		}
		told = m.Fitted.Drives != nil
	}
	if told {
		return "empty", true, false
	}
	return "not known", false, false
}
