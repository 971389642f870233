package plan

import (
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/storage"
)

// Today is the machine as it is, in the same terms as an option: what was not told is nil.
type Today struct {
	Memory   *MemoryState
	Storage  *StorageState
	Battery  *BatteryState
	Wireless *WirelessState
	Meets    Meets
	// Limit is the ceiling for memory under the practice in force.
	Limit memory.Limit
	// Need is peak use ÷ 0.8, to 0.1.
	Need hw.Maybe[hw.Dec]
}

// AsItIs states what the machine has today.
func AsItIs(in Input) (Today, error) {
	s, err := newSearch(in)
	if err != nil {
		return Today{}, err
	}
	t := Today{Limit: s.limit, Battery: s.batteryToday()}
	if !s.untold[kMemory] {
		t.Memory = memoryState(s.todayLayout)
	}
	if !s.untold[kDrive] {
		t.Storage = &StorageState{TotalGB: s.todayStorage.Tenths()}
		for i := range s.places {
			p := &s.places[i]
			if p.occupied && !p.optical && (p.kind == kDrive || p.kind == kNone) {
				l := storage.Connect(p.id, s.slotOf(p), &s.m.Fitted.Drives[p.fitted].Drive)
				t.Storage.Links = append(t.Storage.Links, linkState(l))
			}
		}
	}
	if w := s.m.Fitted.Wireless; w != nil {
		t.Wireless = &WirelessState{w.Slot, w.Standard}
	}
	for k, kind := range allKinds {
		if s.named[k] {
			*kind.meets(&t.Meets) = hw.Known(s.met[k])
		}
	}
	if peak, ok := s.m.Usage.MemoryPeak.Get(); ok {
		need, _, _ := memory.RightSize(peak, nil)
		t.Need = hw.Known(need.Tenths())
	}
	return t, nil
}

// ModuleAt is one module or set of soldered chips after an option, for drawing.
type ModuleAt struct {
	Place    string
	Channels []string
	GB       hw.Dec
	Soldered bool
	New      bool
}

// Modules lists the memory of the machine after an option's actions, or as it is
// when o is nil: soldered first, then the sockets in their order.
func Modules(in Input, o *Option) []ModuleAt {
	var out []ModuleAt
	for _, st := range memory.Soldered(in.Chassis, in.Machine) {
		out = append(out, ModuleAt{st.Place, st.Channels, st.Module.Capacity.Or(0), true, false})
	}
	for i := range in.Chassis.Mem().Sockets {
		so := &in.Chassis.Memory.Sockets[i]
		m := ModuleAt{Place: so.ID, Channels: hw.OnChannels(so.Channel, so.Channels)}
		for _, f := range in.Machine.Fitted.Memory {
			if f.Socket == so.ID {
				m.GB = f.Module.Capacity.Or(0)
			}
		}
		if o != nil {
			for _, a := range o.Actions {
				if a.Place == so.ID && a.Do == DoRemove {
					m.GB = 0
				}
				if a.Place == so.ID && a.Part != "" {
					m.New = true
					m.GB = capacityOf(in.Parts, a.Part)
				}
			}
		}
		if m.GB > 0 {
			out = append(out, m)
		}
	}
	return out
}

func capacityOf(parts *hw.Parts, id string) hw.Dec {
	for i := range parts.Parts {
		if parts.Parts[i].ID == id && parts.Parts[i].Memory != nil {
			return parts.Parts[i].Memory.Capacity.Or(0)
		}
	}
	return 0
}
