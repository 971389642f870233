package plan

import (
	"fmt"
	"math/big"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/power"
	"yembo/core/wireless"
)

// The kinds that a plan works on, in the order of the goals.
const (
	kMemory = iota
	kDrive
	kBattery
	kWireless
	kinds
	kNone = -1 // a place that nothing is planned into
)

var goalNames = [kinds]string{"memory_gb", "storage_gb", "runtime_h", "wireless"}
var partKinds = [kinds]string{hw.KindMemory, hw.KindDrive, hw.KindBattery, hw.KindWireless}

// What happens at a place: a part's index, or one of these. Their order is that of
// the tie-break (part by position, then a removal, then unchanged).
const (
	remove    = int32(1 << 30)
	unchanged = int32(1<<30 + 1)
)

// place is one place of the chassis, in its order: sockets, slots, bays, battery.
type place struct {
	id       string
	kind     int
	index    int // in the chassis list it comes from
	bay      bool
	occupied bool
	fitted   int // index in the machine's list of what is fitted
	reach    string
	onlyOn   string
	prefix   string // of its facts, by place id
	swap     hw.Minutes
}

// search holds everything that stays the same during one plan.
type search struct {
	in       Input
	ch       *hw.Chassis
	m        *hw.Machine
	parts    []hw.Part
	practice hw.Practice
	goals    hw.Goals
	rate     int64
	places   []place
	kindOf   map[int][]int // kind -> its places
	excl     []uint64      // by bit (place or pack): the bits it excludes
	usedNow  uint64
	limit    memory.Limit
	largest  memory.LargestModule
	facts    []evidence.Fact
	named    [kinds]bool // the request names the goal
	met      [kinds]bool // the machine meets it as it is
	wanted   [kinds]bool

	todaySticks  []memory.Stick
	soldered     hw.Dec
	todayMemory  hw.Dec
	todayStorage hw.Dec
	presentWh    hw.Maybe[hw.Dec]
	todayRuntime *big.Rat
	todayWifi    int
	bootTold     bool

	needNames []string
	verdicts  [][]hw.Verdict // by part: one verdict per place tried

	plentiful bool // accessories can be had in any number that is needed

	placeIndex map[string]int
	blocked    []string // by place: what stays in use and excludes it

	allowedSets   map[classIn]bool
	pairing       *collector // counts the steps of all searches for an allowed set
	accessoryCost map[needs]accessory
	openings      map[uint64]opening
	factCache     map[factKey][]evidence.Fact
	providers     map[supplyKey]int
}

// maxBits is how many places and packs together a plan can look at.
const maxBits = 60

func newSearch(in Input) (*search, error) {
	s := &search{in: in, ch: in.Chassis, m: in.Machine, parts: in.Parts.Parts, practice: in.Request.Practice,
		goals: in.Request.Goals, rate: in.Request.LabourRate.Or(0), largest: in.Largest, allowedSets: map[classIn]bool{},
		accessoryCost: map[needs]accessory{}, openings: map[uint64]opening{}, factCache: map[factKey][]evidence.Fact{}, providers: map[supplyKey]int{}}
	if s.largest == nil {
		s.largest = memory.Largest()
	}
	s.facts = evidence.Facts(s.ch.Findings)
	s.limit = memory.InForce(s.ch, s.m, s.practice.MemoryLimit.Or(memory.LimitMaker), s.largest)
	for i := range s.m.Fitted.Drives {
		s.bootTold = s.bootTold || s.m.Fitted.Drives[i].Boot.IsKnown()
	}
	s.listPlaces()
	if len(s.places)+len(s.ch.Batteries) > maxBits {
		return nil, TooLarge(fmt.Sprintf("the chassis has %d places and packs; a plan looks at %d at most",
			len(s.places)+len(s.ch.Batteries), maxBits))
	}
	s.plentiful = s.accessoriesPlentiful()
	s.listExclusions()
	s.readToday()
	return s, nil
}

func (s *search) listPlaces() {
	s.kindOf = map[int][]int{}
	add := func(p place) {
		p.swap = swapOf(p)
		s.kindOf[p.kind] = append(s.kindOf[p.kind], len(s.places))
		s.places = append(s.places, p)
	}
	for i := range s.ch.Mem().Sockets {
		so := &s.ch.Memory.Sockets[i]
		p := place{id: so.ID, kind: kMemory, index: i, reach: so.Reach, prefix: "/memory/sockets/" + so.ID}
		for j := range s.m.Fitted.Memory {
			if s.m.Fitted.Memory[j].Socket == so.ID {
				p.occupied, p.fitted = true, j
			}
		}
		add(p)
	}
	for i := range s.ch.Slots {
		sl := &s.ch.Slots[i]
		p := place{id: sl.ID, kind: kNone, index: i, reach: sl.Reach, onlyOn: sl.OnlyOn, prefix: "/slots/" + sl.ID}
		switch sl.Purpose {
		case "storage":
			p.kind = kDrive
		case "wireless":
			p.kind = kWireless
			p.occupied = s.m.Fitted.Wireless != nil && s.m.Fitted.Wireless.Slot == sl.ID
		}
		s.findDrive(&p)
		add(p)
	}
	for i := range s.ch.Bays {
		b := &s.ch.Bays[i]
		p := place{id: b.ID, kind: kDrive, index: i, bay: true, reach: b.Reach, onlyOn: b.OnlyOn, prefix: "/bays/" + b.ID}
		s.findDrive(&p)
		add(p)
	}
	add(place{id: hw.BatteryPlace, kind: kBattery, reach: s.ch.BatteryReach, occupied: s.m.Fitted.Battery != nil, prefix: "/battery"})
}

func (s *search) findDrive(p *place) {
	for j := range s.m.Fitted.Drives {
		if s.m.Fitted.Drives[j].Place == p.id {
			p.occupied, p.fitted = true, j
		}
	}
}

// listExclusions fills excl: bits are the places, then the packs.
func (s *search) listExclusions() {
	names := make([]string, 0, len(s.places)+len(s.ch.Batteries))
	for i := range s.places {
		names = append(names, s.places[i].id)
		if s.places[i].occupied && s.places[i].kind != kBattery {
			s.usedNow |= 1 << i
		}
	}
	for i := range s.ch.Batteries {
		names = append(names, "battery:"+s.ch.Batteries[i].ID)
	}
	if b := s.m.Fitted.Battery; b != nil {
		if i := s.ch.BatteryByID(b.Option); i >= 0 {
			s.usedNow |= s.packBit(i)
		}
	}
	s.excl = make([]uint64, len(names))
	for i := range names {
		for j := range names {
			if i != j && s.ch.Excluded(names[i], names[j]) {
				s.excl[i] |= 1 << j
			}
		}
	}
}

// packBit is the bit of a pack, 0 for an unlisted one (-1).
func (s *search) packBit(option int) uint64 {
	if option < 0 {
		return 0
	}
	return 1 << (len(s.places) + option)
}

func (s *search) readToday() {
	s.todaySticks = append([]memory.Stick{}, memory.Soldered(s.ch, s.m)...)
	for _, st := range s.todaySticks {
		gb, _ := st.Module.Capacity.Get()
		s.soldered += gb
	}
	s.todayMemory = s.soldered
	for _, pi := range s.kindOf[kMemory] {
		if p := &s.places[pi]; p.occupied {
			st := s.stick(p, s.m.Fitted.Memory[p.fitted].Module)
			s.todaySticks = append(s.todaySticks, st)
			gb, _ := st.Module.Capacity.Get()
			s.todayMemory += gb
		}
	}
	for i := range s.m.Fitted.Drives {
		gb, _ := s.m.Fitted.Drives[i].Drive.Capacity.Get()
		s.todayStorage += gb
	}
	if b := s.m.Fitted.Battery; b != nil {
		s.presentWh = b.FullWh
		s.todayRuntime = power.Runtime(&s.m.Usage, b.FullWh)
	}
	if w := s.m.Fitted.Wireless; w != nil {
		s.todayWifi = wireless.Rank(w.Standard.Or(""))
	}
	gb, okM := s.goals.MemoryGB.Get()
	s.named[kMemory], s.met[kMemory] = okM, okM && s.todayMemory >= gb
	gb, okS := s.goals.StorageGB.Get()
	s.named[kDrive], s.met[kDrive] = okS, okS && s.todayStorage >= gb
	h, okR := s.goals.RuntimeH.Get()
	s.named[kBattery], s.met[kBattery] = okR, okR && s.todayRuntime != nil && s.todayRuntime.Cmp(h.Rat()) >= 0
	std, okW := s.goals.Wireless.Get()
	s.named[kWireless], s.met[kWireless] = okW, okW && s.todayWifi >= wireless.Rank(std)
	for k := range kinds {
		s.wanted[k] = s.named[k] && !s.met[k]
	}
}

// stick is a module in a socket with the socket's channels.
func (s *search) stick(p *place, mod hw.Module) memory.Stick {
	so := &s.ch.Memory.Sockets[p.index]
	return memory.Stick{Place: p.id, Channels: hw.OnChannels(so.Channel, so.Channels), Module: mod}
}

// isBoot reports whether a fitted drive counts as the boot drive: it is told, or
// no drive of the machine says.
func (s *search) isBoot(fitted int) bool {
	return s.m.Fitted.Drives[fitted].Boot.Or(!s.bootTold)
}

// onVariant reports whether this machine has a place that only some
// configurations have; known is false where nobody told the configuration.
func (s *search) onVariant(onlyOn string) (has, known bool) {
	if onlyOn == "" {
		return true, true
	}
	for _, v := range s.m.Variant {
		if v == onlyOn {
			return true, true
		}
	}
	return false, s.m.Variant != nil
}

// meets says for each named goal whether a state reaches it.
func (s *search) meets(mem, sto hw.Dec, run *big.Rat, wifi int) (met [kinds]bool) {
	gb, ok := s.goals.MemoryGB.Get()
	met[kMemory] = ok && mem >= gb
	gb, ok = s.goals.StorageGB.Get()
	met[kDrive] = ok && sto >= gb
	h, ok := s.goals.RuntimeH.Get()
	met[kBattery] = ok && run != nil && run.Cmp(h.Rat()) >= 0
	std, ok := s.goals.Wireless.Get()
	met[kWireless] = ok && wifi >= wireless.Rank(std)
	return met
}
