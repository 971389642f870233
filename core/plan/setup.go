package plan

import (
	"fmt"
	"math/big"
	"slices"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
)

// What happens at a place: a part's index, or one of these. Their order is that of
// the tie-break (part by position, then a removal, then unchanged).
const (
	remove    = int32(1 << 30)
	unchanged = int32(1<<30 + 1)
)

// place is one place of the chassis, in its order: sockets, slots, bays, battery.
type place struct {
	hw.Place
	id       string
	kind     int
	bay      bool
	occupied bool
	optical  bool   // an optical drive sits there
	keep     bool   // to be left as it is
	raid     bool   // its drive is one of a striped volume, and stays
	fitted   int    // index in the machine's list of what is fitted
	sits     string // what it names on the work card, where it is occupied
	prefix   string
	swap     hw.Minutes
	way      string // the step that it lies behind, teardown.NotRecorded where nobody said
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
	kindOf   [kinds + 1][]int // by kind: its places
	excl     []uint64         // by bit (place or pack): the bits it excludes
	usedNow  uint64
	limit    memory.Limit
	memory   *memoryPlan // once it was worked out
	largest  memory.LargestModule
	facts    []evidence.Fact
	named    [kinds]bool // the request names the goal
	met      [kinds]bool // the machine meets it as it is
	untold   [kinds]bool // what the machine has of the kind was not told
	wanted   [kinds]bool

	todaySticks  []memory.Stick
	soldered     hw.Dec
	todayMemory  hw.Dec
	todayLayout  memory.Layout
	todayStorage hw.Dec
	failing      []failing
	fittedPack   int  // index of the pack in the machine, noPack for none told or listed
	packTaken    bool // it was not told, and is the only one of the model
	packUntold   bool // it was not told, and the model has several
	presentWh    hw.Maybe[hw.Dec]
	leastRuntime bool // presentWh is what the pack held when it was new, so that runtimes are least figures
	todayRuntime *big.Rat
	todayWifi    int
	bootTold     bool

	ways          *teardown.Ways
	inside        *teardown.Inside
	packMatters   bool  // a step of the way back depends on the pack
	service       []int // indexes of the services asked for
	servicesCents int64

	needNames []string
	tables    [][]hw.Verdict // by part: one verdict per place tried, by the tables alone
	closed    []hw.Verdict   // by place: what closes it to anything that would go there
	verdicts  [][]hw.Verdict // the same, after what else may rule a part out

	plentiful bool // accessories can be had in any number that is needed

	placeIndex map[string]int

	allowedSets   map[setIn]bool
	pairing       *collector // counts the steps of all searches for an allowed set
	accessoryCost map[needs]accessory
	openings      map[openingKey]opening
	factCache     map[factKey][]evidence.Fact
	providers     map[supplyKey]supply
	afters        map[*candidate]*after
	offers        [][]offer // by part: for one piece, for two, and so on
}

// maxBits is how many places and packs together a plan can look at.
const maxBits = 60

func newSearch(in Input) (*search, error) {
	s := &search{in: in, ch: in.Chassis, m: in.Machine, parts: in.Parts.Parts, practice: in.Request.Practice,
		goals: in.Request.Goals, rate: in.Request.LabourRate.Or(0), largest: in.Largest, allowedSets: map[setIn]bool{},
		accessoryCost: map[needs]accessory{}, openings: map[openingKey]opening{},
		factCache: map[factKey][]evidence.Fact{}, providers: map[supplyKey]supply{},
		afters: map[*candidate]*after{}}
	s.offers = make([][]offer, len(s.parts))
	if s.largest == nil {
		s.largest = memory.Largest()
	}
	s.facts = evidence.Facts(s.ch.Findings)
	s.limit = memory.InForce(s.ch, s.m, s.practice.MemoryLimit.Or(hw.LimitMaker), s.largest)
	if in.noLimit {
		s.liftLimit()
	}
	s.listPlaces()
	if len(s.places)+len(s.ch.Batteries) > maxBits {
		return nil, TooLarge(fmt.Sprintf("the chassis has %d places and packs; a plan looks at %d at most",
			len(s.places)+len(s.ch.Batteries), maxBits))
	}
	if err := s.readAccessories(); err != nil {
		return nil, err
	}
	s.readToday()
	s.nameFitted()
	s.listExclusions()
	s.readWays()
	s.wish()
	return s, nil
}

// liftLimit sets the limit in force aside; what cannot be reached stays out.
func (s *search) liftLimit() {
	s.limit = memory.Limit{GB: hw.Known(hw.DecOf(hw.MaxMemoryGB)), From: s.limit.From}
	if sum, _, ok := memory.Reachable(s.ch, s.m, s.largest); ok {
		s.limit.GB = hw.Known(sum)
	}
}

func (s *search) listPlaces() {
	s.placeIndex = map[string]int{}
	add := func(p place) {
		p.keep = p.keep || slices.Contains(s.in.Request.Keep, p.id)
		p.swap = teardown.Swap(p.Takes)
		p.way = teardown.WayTo(s.ch, p.id)
		s.kindOf[p.kind] = append(s.kindOf[p.kind], len(s.places))
		s.placeIndex[p.id] = len(s.places)
		s.places = append(s.places, p)
	}
	for _, at := range s.ch.Places() {
		if at.Kind == hw.InPack {
			continue
		}
		p := place{Place: at, id: at.ID, kind: kindIndex(at.Takes), bay: at.Kind == hw.InBay, prefix: at.Path()}
		s.findFitted(&p)
		add(p)
	}
	add(place{Place: hw.Place{Kind: hw.InPack, Takes: hw.KindBattery, Reach: s.ch.BatteryReach}, id: hw.BatteryPlace,
		kind: kBattery, prefix: "/battery"})
}

// nameFitted names what sits in the places, for the work card.
func (s *search) nameFitted() {
	for i := range s.places {
		switch p := &s.places[i]; {
		case !p.occupied:
		case p.kind == kNone:
			p.sits = s.m.Fitted.Drives[p.fitted].Drive.Words()
		default:
			p.sits = allKinds[p.kind].sits(s, p)
		}
	}
}

// findFitted finds what sits in a place.
func (s *search) findFitted(p *place) {
	if p.kind == kMemory {
		for j := range s.m.Fitted.Memory {
			if s.m.Fitted.Memory[j].Socket == p.id {
				p.occupied, p.fitted = true, j
			}
		}
		return
	}
	if w := s.m.Fitted.Wireless; p.kind == kWireless && w != nil && w.Slot == p.id {
		p.occupied = true
	}
	for j := range s.m.Fitted.Drives {
		if d := &s.m.Fitted.Drives[j]; d.Place == p.id {
			p.occupied, p.fitted, p.optical = true, j, storageOptical(d)
			p.raid = p.kind == kDrive && d.Raid0.Or(false) && !s.in.noRaid
			p.keep = p.keep || p.raid
		}
	}
}

// listExclusions fills excl: bits are the places, then the packs.
func (s *search) listExclusions() {
	bit := map[string]int{}
	for i := range s.places {
		bit[s.places[i].id] = i
		if s.places[i].occupied && s.places[i].kind != kBattery {
			s.usedNow |= 1 << i
		}
	}
	for i := range s.ch.Batteries {
		bit[hw.PackName(s.ch.Batteries[i].ID)] = len(s.places) + i
	}
	s.usedNow |= s.packBit(s.fittedPack)
	s.excl = make([]uint64, len(bit))
	for _, p := range s.ch.Places() {
		for _, other := range p.Excludes {
			a, okA := bit[p.Name]
			b, okB := bit[other]
			if okA && okB && a != b {
				s.excl[a] |= 1 << b
				s.excl[b] |= 1 << a
			}
		}
	}
}

// packBit is the bit of a pack, 0 for an unlisted one or none.
func (s *search) packBit(option int) uint64 {
	if option < 0 {
		return 0
	}
	return 1 << (len(s.places) + option)
}

// readToday reads what the machine has, and what of it was not told.
func (s *search) readToday() {
	s.fittedPack = noPack
	for _, k := range allKinds {
		k.readToday(s)
	}
}

// noStorage reports whether the record says that there is no place for a drive.
func (s *search) noStorage() bool {
	return s.ch.Slots != nil && s.ch.Bays != nil && len(s.kindOf[kDrive]) == 0
}

// readWays works out the ways into this machine, and the services to be done on them.
func (s *search) readWays() {
	s.inside = teardown.InsideOf(s.ch, s.m)
	s.ways = teardown.WaysInto(s.ch, s.inside)
	for i := range s.ch.Steps {
		if c := s.ch.Steps[i].Back; c != nil && c.Place == hw.BatteryPlace {
			s.packMatters = true
		}
	}
	for _, asked := range s.in.Request.Services {
		if i := s.ch.ServiceByID(asked.ID); i >= 0 {
			s.service = append(s.service, i)
			s.servicesCents += asked.Charge.Or(0)
		}
	}
}

// wish works out which goals are named, met as it is, and wanted. A goal whose present
// state was not told is not planned.
func (s *search) wish() {
	for k, kind := range allKinds {
		today := kind.asItIs(s)
		s.named[k] = kind.asked(&s.goals)
		s.met[k] = s.named[k] && kind.reached(s, &today)
		s.wanted[k] = s.named[k] && !s.met[k] && !s.untold[k]
	}
}

// stick is a module in a socket with the socket's channels.
func (s *search) stick(p *place, mod hw.Module) memory.Stick {
	so := &s.ch.Memory.Sockets[p.Index]
	return memory.Stick{Place: p.id, Channels: hw.OnChannels(so.Channel, so.Channels), Module: mod}
}

// isBoot reports whether a fitted drive counts as the boot drive: it is told, or
// no drive of the machine says. An optical drive never is.
func (s *search) isBoot(fitted int) bool {
	d := &s.m.Fitted.Drives[fitted]
	return !storageOptical(d) && d.Boot.Or(!s.bootTold)
}

// onVariant reports whether this machine has a place that only some
// configurations have; known is false where nobody told the configuration.
func (s *search) onVariant(onlyOn string) (has, known bool) {
	if onlyOn == "" || slices.Contains(s.m.Variant, onlyOn) {
		return true, true
	}
	return false, s.m.Variant != nil
}
