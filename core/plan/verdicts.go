package plan

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/power"
	"yembo/core/storage"
	"yembo/core/wireless"
)

const (
	codeNoBay   = "practice.no_bay"
	codeNoPlace = "no_place"
	codeStock   = "stock"
)

func kindIndex(kind string) int {
	for k, name := range partKinds {
		if kind == name {
			return k
		}
	}
	return kNone
}

// judge fills verdicts: for every part of a wanted kind one verdict for each place
// it is tried in, by the checks of the handbook's tables alone.
func (s *search) judge(ctx context.Context, memoryToo bool) error {
	s.verdicts = make([][]hw.Verdict, len(s.parts))
	known := &judged{map[hw.Module][]hw.Verdict{}, map[hw.Drive][]hw.Verdict{}, map[hw.Pack][]hw.Verdict{}, map[hw.Card][]hw.Verdict{}}
	for i := range s.parts {
		if i%256 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		k := kindIndex(s.parts[i].Kind)
		if k == kNone || !(s.wanted[k] || (k == kMemory && memoryToo)) {
			continue
		}
		s.verdicts[i] = s.judgeOnce(i, k, known)
	}
	return nil
}

// judged remembers the verdicts on parts that are the same in all that the checks
// look at. A verdict that names the part's own missing fact is not shared.
type judged struct {
	memory   map[hw.Module][]hw.Verdict
	drive    map[hw.Drive][]hw.Verdict
	battery  map[hw.Pack][]hw.Verdict
	wireless map[hw.Card][]hw.Verdict
}

func (s *search) judgeOnce(i, kind int, known *judged) []hw.Verdict {
	p := &s.parts[i]
	judge := func() []hw.Verdict { return s.judgePart(i, kind) }
	switch kind {
	case kMemory:
		return recall(known.memory, *p.Memory, judge)
	case kDrive:
		return recall(known.drive, *p.Drive, judge)
	case kBattery:
		return recall(known.battery, *p.Battery, judge)
	}
	return recall(known.wireless, *p.Wireless, judge)
}

func recall[K comparable](known map[K][]hw.Verdict, spec K, judge func() []hw.Verdict) []hw.Verdict {
	if before, ok := known[spec]; ok {
		return before
	}
	out := judge()
	for j := range out {
		if strings.HasPrefix(out[j].Fact, "parts:") {
			return out
		}
	}
	known[spec] = out
	return out
}

func (s *search) judgePart(i, kind int) []hw.Verdict {
	p := &s.parts[i]
	out := make([]hw.Verdict, 0, max(len(s.ch.Mem().Sockets), len(s.ch.Slots), 1))
	switch kind {
	case kMemory:
		if v, none := memory.NoSocket(s.ch.Mem()); none {
			return []hw.Verdict{v}
		}
		for j := range s.ch.Memory.Sockets {
			out = append(out, memory.Fit(s.ch, s.soldered, j, p.Memory, s.limit, s.largest))
		}
	case kDrive:
		if storage.IsBayDrive(p.Drive) {
			for j := range s.ch.Bays {
				if s.ch.Bays[j].Form == p.Drive.Form {
					out = append(out, storage.FitBay(s.ch, j, p.Drive, i))
				}
			}
			return orNoPlace(out, s.ch.Bays == nil, "bays", "2.5-inch bay")
		}
		for j := range s.ch.Slots {
			out = append(out, storage.FitSlot(s.ch, j, p.Drive, i))
		}
		return orNoPlace(out, s.ch.Slots == nil, "slots", "M.2 slot")
	case kBattery:
		out = append(out, power.Fit(s.ch, p.Battery, i, s.practice.AllowUnlistedBattery.Or(false)))
	case kWireless:
		for j := range s.ch.Slots {
			out = append(out, wireless.Fit(s.ch, j, p.Wireless, i))
		}
		return orNoPlace(out, s.ch.Slots == nil, "slots", "M.2 slot")
	}
	return out
}

func orNoPlace(list []hw.Verdict, unknown bool, name, what string) []hw.Verdict {
	switch {
	case len(list) > 0:
		return list
	case unknown:
		v := hw.Unknown("chassis:/"+name, "nobody has recorded whether this model has a %s", what)
		v.Place = name
		return []hw.Verdict{v}
	}
	v := hw.Refuse(codeNoPlace, "this model has no %s", what)
	v.Place = name
	return []hw.Verdict{v}
}

// verdictAt returns the verdict of a part in a place; a place it is never tried in
// refuses it.
func (s *search) verdictAt(part, pi int) *hw.Verdict {
	for i := range s.verdicts[part] {
		if v := &s.verdicts[part][i]; v.Place == s.places[pi].id {
			return v
		}
	}
	return &neverTried
}

var neverTried = hw.Verdict{Code: codeNoPlace}

// further applies, to a part that passes the tables in a place, what else may rule
// it out there, in the order of the formats.
func (s *search) further(part int, v *hw.Verdict) hw.Verdict {
	p := &s.parts[part]
	pi := s.placeIndex[v.Place]
	pl := &s.places[pi]
	refuse := func(code, format string, args ...any) hw.Verdict {
		out := hw.Refuse(code, format, args...)
		out.Place = v.Place
		return out
	}
	if pl.kind == kMemory && !s.inAllowedSet(int32(part), pl.index) {
		return refuse(memory.CodePairing, "no set of modules that the pairing practice %q allows has it in %s", s.practice.Pairing.Or(memory.PairAny), pl.id)
	}
	onlyOn, factAt := pl.onlyOn, ""
	switch {
	case pl.kind == kBattery:
		option := power.OptionFor(s.ch, p.Battery.PartNumber)
		if by := s.blockedBy(s.packBit(option)); option >= 0 && !s.packFitted(option) && by != "" {
			return refuse(power.CodeExcluded, "pack %s takes the space of %s, which stays in use", s.ch.Batteries[option].ID, by)
		}
		if option >= 0 {
			onlyOn, factAt = s.ch.Batteries[option].OnlyOn, fmt.Sprintf("/batteries/%d/only_on", option)
		}
	case pl.kind != kMemory:
		if by := s.blocked[pi]; by != "" && !pl.occupied {
			return refuse(storage.CodeExcluded, "%s cannot be used beside %s, which stays in use", pl.id, by)
		}
		list := "slots"
		if pl.bay {
			list = "bays"
		}
		factAt = fmt.Sprintf("/%s/%d/only_on", list, pl.index)
	}
	if has, known := s.onVariant(onlyOn); !known {
		out := hw.Unknown("chassis:"+factAt, "%s is only on the configuration %q; which one this machine is was not told", v.Place, onlyOn)
		out.Place, out.Step = v.Place, pl.reach
		return out
	} else if !has {
		return refuse(storage.CodeNotOnVariant, "%s is only on the configuration %q; this machine is not of it", v.Place, onlyOn)
	}
	if pl.bay && !s.practice.AllowBay.Or(true) {
		return refuse(codeNoBay, "by practice no 2.5-inch drive is planned in")
	}
	if !s.canBeHad(p) {
		why := "none in stock and none to order"
		if p.LeadDays.IsKnown() || !p.Stock.IsKnown() {
			why = "not enough in stock, and by practice nothing is ordered"
		}
		return refuse(codeStock, "%s", why)
	}
	return *v
}

func (s *search) packFitted(option int) bool {
	b := s.m.Fitted.Battery
	return b != nil && b.Option == s.ch.Batteries[option].ID
}

// blockedBy names a place in use today that excludes the bit and cannot be
// emptied: it holds the boot drive or a card, or is the fitted pack while no
// battery is wanted.
func (s *search) blockedBy(bit uint64) string {
	if bit == 0 {
		return ""
	}
	var mine uint64
	for i := range s.excl {
		if bit == 1<<i {
			mine = s.excl[i]
		}
	}
	for i := range s.places {
		p := &s.places[i]
		if mine&s.usedNow&(1<<i) == 0 {
			continue
		}
		if p.kind != kDrive || s.isBoot(p.fitted) {
			return p.id
		}
	}
	for i := range s.ch.Batteries {
		if mine&s.usedNow&s.packBit(i) != 0 && !s.wanted[kBattery] {
			return "pack " + s.ch.Batteries[i].ID
		}
	}
	return ""
}

// sift applies the further checks and returns what is rejected everywhere. After
// it, verdicts hold the final word for every part and place.
func (s *search) sift(ctx context.Context) ([]Rejected, error) {
	s.pairing = s.collector(ctx)
	out := make([]Rejected, 0, 2*len(s.parts))
	s.placeIndex, s.blocked = map[string]int{}, make([]string, len(s.places))
	for i := range s.places {
		s.placeIndex[s.places[i].id] = i
		s.blocked[i] = s.blockedBy(1 << i)
	}
	for i := range s.parts {
		k := kindIndex(s.parts[i].Kind)
		if k == kNone || s.verdicts[i] == nil || !s.wanted[k] {
			continue
		}
		fits := false
		for j := range s.verdicts[i] {
			v := &s.verdicts[i][j]
			if !v.Fits() {
				continue
			}
			if final := s.further(i, v); final.Fits() {
				fits = true
			} else {
				// The verdicts are shared with equal parts; this one is this part's own.
				s.verdicts[i] = slices.Clone(s.verdicts[i])
				s.verdicts[i][j] = final
			}
		}
		if fits {
			continue
		}
		for j := range s.verdicts[i] {
			v := &s.verdicts[i][j]
			out = append(out, Rejected{s.parts[i].ID, v.Place, v.Code, v.Text, v.Fact, v.Step})
		}
	}
	return out, s.pairing.err
}
