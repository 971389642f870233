package proof

import (
	"encoding/json"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/reading"
	"yembo/core/storage"
)

// Expect lists what there is to look for in a machine that is fitted as its document says, in the order
// of a comparison: the list that somebody goes through at the firmware's page.
func Expect(ch *hw.Chassis, m *hw.Machine) []Line {
	c := &comparer{ch: ch, m: m, o: &reading.Observed{}}
	look := func(place, what string, expected any) {
		c.lines = append(c.lines, Line{Place: place, What: what, Expected: written(expected)})
	}
	if m.Serial != "" {
		look(PlaceMachine, whatSerial, m.Serial)
	}
	for i := range ch.Mem().Sockets {
		mod, told := c.fittedIn(ch.Memory.Sockets[i].ID)
		switch {
		case !told:
		case mod == nil:
			look(ch.Memory.Sockets[i].ID, whatCapacity, nil)
		case mod.Capacity.IsKnown():
			look(ch.Memory.Sockets[i].ID, whatCapacity, mod.Capacity)
		}
	}
	if sticks, told := c.sticks(); told {
		sum, known := hw.Dec(0), true
		for _, s := range sticks {
			gb, ok := s.Module.Capacity.Get()
			sum, known = sum+gb, known && ok
		}
		if known {
			look(PlaceMemory, whatCapacity, sum)
		}
		if mts, ok := memory.Arrange(ch.Mem(), sticks).Speed.Get(); ok {
			look(PlaceMemory, whatSpeed, mts)
		}
	}
	for _, p := range ch.Places() {
		for i := range m.Fitted.Drives {
			f := &m.Fitted.Drives[i]
			if f.Place != p.ID || storage.IsOptical(&f.Drive) {
				continue
			}
			if f.Drive.Capacity.IsKnown() {
				look(p.ID, whatCapacity, f.Drive.Capacity)
			}
			if p.Kind != hw.InSlot || f.Drive.Interface != hw.NVMe {
				continue
			}
			link := map[string]int{}
			slot := &ch.Slots[p.Index]
			for _, x := range []struct {
				name string
				a, b hw.Maybe[int]
			}{{"gen", slot.Gen, f.Drive.Gen}, {"lanes", slot.Lanes, f.Drive.Lanes}} {
				if a, ok := x.a.Get(); ok {
					if b, ok := x.b.Get(); ok {
						link[x.name] = min(a, b)
					}
				}
			}
			if len(link) > 0 {
				look(p.ID, whatLink, link)
			}
		}
	}
	if f := m.Fitted.Battery; f != nil {
		if i := ch.BatteryByID(f.Option); f.Option != "" && i >= 0 && ch.Batteries[i].DesignWh.IsKnown() {
			look(hw.BatteryPlace, whatDesign, ch.Batteries[i].DesignWh)
		}
	}
	return c.lines
}

// Standing is how a line stands.
type Standing string

// How it can stand.
const (
	Unseen  Standing = "unseen"  // nobody looked, and no report tells it
	AsIs    Standing = "same"    // as planned
	Open    Standing = "open"    // it differs
	Follows Standing = "follows" // it differs because another line does
)

// Joined is what should be there beside what was seen.
type Joined struct {
	Line
	Standing Standing
}

// Join puts what a report tells beside what there is to look for; what the report tells beyond that
// comes behind it. report is nil where there is none.
func Join(expect, report []Line) []Joined {
	at := map[string]int{}
	var out []Joined
	for i, l := range expect {
		at[l.Place+" "+l.What] = i
		out = append(out, Joined{l, Unseen})
	}
	places := map[string]bool{}
	for _, l := range report {
		j := Joined{l, AsIs}
		if l.Code != "" {
			j.Standing = Open
			places[l.Place] = true
		}
		if i, ok := at[l.Place+" "+l.What]; ok {
			out[i] = j
			continue
		}
		if i := lastOf(out, l.Place); i >= 0 && l.Place != PlaceDrives {
			out = append(out[:i+1], append([]Joined{j}, out[i+1:]...)...)
			for k, n := range at {
				if n > i {
					at[k] = n + 1
				}
			}
			continue
		}
		out = append(out, j)
	}
	// A total that differs while a socket does follows from that; what it runs at is told when the
	// total is right.
	differs := false
	for i := range out {
		l := &out[i]
		switch {
		case l.Place != PlaceMemory:
		case l.What == whatCapacity && l.Standing == Open:
			differs = true
			if socketOpen(out) {
				l.Standing = Follows
			}
		case l.What == whatSpeed && l.Standing == Unseen && differs:
			l.Standing = Follows
		}
	}
	return out
}

func lastOf(list []Joined, place string) int {
	last := -1
	for i := range list {
		if list[i].Place == place {
			last = i
		}
	}
	return last
}

func socketOpen(list []Joined) bool {
	for i := range list {
		if list[i].Standing == Open && (list[i].Code == ModuleAbsent || list[i].Code == OtherModule) && list[i].Place != PlaceMemory {
			return true
		}
	}
	return false
}

// Number is a value of a line as a number, ok is false where it is none.
func Number(raw json.RawMessage) (hw.Dec, bool) {
	d, err := hw.ParseDec(string(raw))
	return d, err == nil
}
