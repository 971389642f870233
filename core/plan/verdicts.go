package plan

import (
	"context"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/power"
)

// judge fills verdicts: for every part of some kinds one verdict for each place
// it is tried in, by the checks of the tables of rules alone.
func (s *search) judge(ctx context.Context, which [kinds]bool) error {
	s.tables = make([][]hw.Verdict, len(s.parts))
	known := &judged{map[hw.Module][]hw.Verdict{}, map[hw.Drive][]hw.Verdict{}, map[hw.Pack][]hw.Verdict{},
		map[hw.Card][]hw.Verdict{}}
	return eachKind(func(k int, kind kind) error {
		for i := range s.parts {
			if i%256 == 0 && ctx.Err() != nil {
				return ctx.Err()
			}
			if p := &s.parts[i]; which[k] && p.Kind == partKinds[k] && s.takesPart(p) {
				s.tables[i] = kind.judge(s, i, known)
			}
		}
		return nil
	})
}

// judged remembers the verdicts on parts that are the same in all that the checks
// look at; what they do not look at is taken out of the keys. A verdict that names the
// part's own missing fact is not shared.
type judged struct {
	memory   map[hw.Module][]hw.Verdict
	drive    map[hw.Drive][]hw.Verdict
	battery  map[hw.Pack][]hw.Verdict
	wireless map[hw.Card][]hw.Verdict
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

func orNoPlace(list []hw.Verdict, unknown bool, name, what string) []hw.Verdict {
	switch {
	case len(list) > 0:
		return list
	case unknown:
		v := hw.Unknown("chassis:/"+name, "not recorded whether this model has a %s", what)
		v.Place = name
		return []hw.Verdict{v}
	}
	v := hw.Refuse(hw.CodeNoPlace, "this model has no %s", what)
	v.Place = name
	return []hw.Verdict{v}
}

// verdictAt returns the final verdict of a part in a place; a place it is never tried in
// refuses it.
func (s *search) verdictAt(part, pi int) *hw.Verdict { return at(s.verdicts[part], s.places[pi].id) }

// tableAt is verdictAt by the tables alone.
func (s *search) tableAt(part, pi int) *hw.Verdict { return at(s.tables[part], s.places[pi].id) }

func at(verdicts []hw.Verdict, place string) *hw.Verdict {
	for i := range verdicts {
		if verdicts[i].Place == place {
			return &verdicts[i]
		}
	}
	return &neverTried
}

var neverTried = hw.Verdict{Code: hw.CodeNoPlace}

// goesThere reports, without working out a reason, whether nothing further rules a part out
// in a place; where it says no, further has the last word.
func (s *search) goesThere(part, pi int) bool {
	kind := s.places[pi].kind
	return kind != kBattery && (kind != kMemory || s.pairs() == hw.PairAny) && s.closed[pi].Fits() &&
		!s.spinsWrongly(part, pi) && s.canBeHad(&s.parts[part])
}

// further applies, to a part that passes the tables in a place, what else may rule it out
// there, in the order of the formats: pairing, exclusions, the configuration, the practice
// for bays, places to be left alone, stock.
func (s *search) further(part int, pi int) hw.Verdict {
	p, pl := &s.parts[part], &s.places[pi]
	if v := allKinds[pl.kind].rule(s, part, pi); !v.Fits() {
		return v
	}
	// What holds for a place holds for all that would go there, but packs have their own.
	there := s.closed[pi]
	if pl.kind == kBattery {
		there = s.closedTo(pi, s.packOf(p))
	}
	if (there.Fits() || there.Code == hw.CodeKeep || there.Code == hw.CodeRaid0) && s.spinsWrongly(part, pi) {
		return s.refuse(pi, hw.CodeNoSpinning, "a spinning drive; shop rule: %s",
			hw.RotationalUses.Says(s.practice.Rotational.Or(hw.SpinBulk)))
	}
	if !there.Fits() || s.canBeHad(p) {
		return there
	}
	if p.LeadDays.IsKnown() || !p.Stock.IsKnown() {
		return s.refuse(pi, hw.CodeStock, "not enough in stock, and the shop rule is to order nothing")
	}
	return s.refuse(pi, hw.CodeStock, "none in stock and none to order")
}

// staysBy is why a place is left as it is: it was asked for, or its drive is one of a striped volume.
func (p *place) staysBy() (hw.Code, string) {
	if p.raid {
		return hw.CodeRaid0, p.id + " holds a drive of a striped volume (RAID 0): it is imaged first and taken apart by hand"
	}
	return hw.CodeKeep, p.id + " is to be left as it is"
}

// spinsWrongly reports whether a part is a spinning drive that the practice does not put in a place. For bulk it
// stays out of the place of a boot drive (of each drive, where that is told of none), and out of a machine that
// is told to have no drive to start from.
func (s *search) spinsWrongly(part, pi int) bool {
	d, pl := s.parts[part].Drive, &s.places[pi]
	if d == nil || !d.Rotational.Or(false) {
		return false
	}
	switch s.practice.Rotational.Or(hw.SpinBulk) {
	case hw.SpinAny:
		return false
	case hw.SpinBulk:
		return pl.occupied && s.isBoot(pl.fitted) || s.toldNoDrive()
	case hw.SpinNever: // nowhere
	}
	return true
}

// toldNoDrive reports whether the machine is told to have no drive; an optical one is none.
func (s *search) toldNoDrive() bool {
	if s.m.Fitted.Drives == nil {
		return false
	}
	for i := range s.m.Fitted.Drives {
		if !storageOptical(&s.m.Fitted.Drives[i]) {
			return false
		}
	}
	return true
}

func (s *search) refuse(pi int, code hw.Code, format string, args ...any) hw.Verdict {
	v := hw.Refuse(code, format, args...)
	v.Place = s.places[pi].id
	return v
}

// closedTo says what closes a place to anything that would go there; pack is the pack of
// the model that would, -1 for one on no list and for other places.
func (s *search) closedTo(pi, pack int) hw.Verdict {
	pl := &s.places[pi]
	if out := s.excludedThere(pl, pack); !out.Fits() {
		out.Place = pl.id
		return out
	}
	onlyOn, fact := pl.OnlyOn, pl.Pointer()
	if pack >= 0 {
		onlyOn, fact = s.ch.Batteries[pack].OnlyOn, fmt.Sprintf("/batteries/%d", pack)
	}
	if has, known := s.onVariant(onlyOn); !known {
		out := hw.Unknown("chassis:"+fact+"/only_on",
			"%s is only on the configuration %q; this machine's configuration is not known", pl.id, onlyOn)
		out.Place, out.Step = pl.id, pl.Reach
		return out
	} else if !has {
		return s.refuse(pi, hw.CodeNotOnVariant, "%s is only on the configuration %q; this machine is not of it", pl.id,
			onlyOn)
	}
	if pl.bay && !s.practice.AllowBay.Or(true) {
		return s.refuse(pi, hw.CodeNoBay, "shop rule: no 2.5-inch drive")
	}
	if pl.keep {
		code, text := pl.staysBy()
		return s.refuse(pi, code, "%s", text)
	}
	return hw.Verdict{}
}

// packOf is the pack of the model that a battery is, -1 for one on no list and for any
// other part.
func (s *search) packOf(p *hw.Part) int {
	if p.Battery == nil {
		return -1
	}
	return power.OptionFor(s.ch, p.Battery.PartNumber)
}

// excludedThere says whether something that stays excludes what would go into a place: surely, or
// perhaps, where what sits on the other side was not told.
func (s *search) excludedThere(pl *place, pack int) hw.Verdict {
	code, bit, what := hw.CodeExcluded, uint64(1)<<s.placeIndex[pl.id], pl.id
	switch {
	case pl.kind == kMemory || pl.kind != kBattery && pl.occupied:
		return hw.Verdict{}
	case pl.kind == kBattery:
		if pack < 0 || pack == s.fittedPack {
			return hw.Verdict{}
		}
		code, bit, what = hw.CodeBatteryExcluded, s.packBit(pack), hw.PackSays(s.ch.Batteries[pack].ID)
	}
	against := s.excludedBy(bit)
	for i := range s.places {
		q := &s.places[i]
		if against&s.usedNow&(1<<i) != 0 && (q.kind != kDrive || q.keep || s.isBoot(q.fitted)) {
			return hw.Refuse(code, "%s cannot be used beside %s, which stays in use", what, q.id)
		}
	}
	if s.fittedPack >= 0 && against&s.packBit(s.fittedPack) != 0 &&
		(!s.wanted[kBattery] || s.places[s.placeIndex[hw.BatteryPlace]].keep) {
		return hw.Refuse(code, "%s cannot be used beside %s, which stays in use", what,
			hw.PackSays(s.ch.Batteries[s.fittedPack].ID))
	}
	for i := range s.places {
		if q := &s.places[i]; against&(1<<i) != 0 && q.kind == kDrive && s.m.Fitted.Drives == nil {
			return hw.Unknown("machine:/fitted/drives",
				"%s cannot be used beside %s; whether a drive sits there is not known", what, q.id)
		}
	}
	for i := range s.ch.Batteries {
		if s.packUntold && against&s.packBit(i) != 0 {
			return hw.Unknown("machine:/fitted/battery",
				"%s cannot be used beside %s; which pack is fitted is not known", what,
				hw.PackSays(s.ch.Batteries[i].ID))
		}
	}
	return hw.Verdict{}
}

// excludedBy are the bits that a bit excludes.
func (s *search) excludedBy(bit uint64) uint64 {
	if bit == 0 {
		return 0
	}
	return s.excl[bits.TrailingZeros64(bit)]
}

// sift applies the further checks and returns what is rejected everywhere. After
// it, verdicts hold the final word for every part and place.
func (s *search) sift(ctx context.Context) ([]Rejected, error) {
	s.pairing = s.collector(ctx)
	s.verdicts = slices.Clone(s.tables)
	s.closed = make([]hw.Verdict, len(s.places))
	for pi := range s.places {
		if s.places[pi].kind != kBattery {
			s.closed[pi] = s.closedTo(pi, -1)
		}
	}
	refused, all := make([]int, 0, len(s.parts)), 0
	for i := range s.parts {
		k := kindIndex(s.parts[i].Kind)
		if k == kNone || s.tables[i] == nil || !s.wanted[k] {
			continue
		}
		fits := false
		for j := range s.verdicts[i] {
			v := &s.tables[i][j]
			if !v.Fits() {
				continue
			}
			pi := s.placeIndex[v.Place]
			if s.goesThere(i, pi) {
				fits = true
			} else if final := s.further(i, pi); final.Fits() {
				fits = true
			} else {
				// The verdicts are shared with equal parts; this one is this part's own.
				s.verdicts[i] = slices.Clone(s.verdicts[i])
				s.verdicts[i][j] = final
			}
		}
		if !fits {
			refused = append(refused, i)
			all += len(s.verdicts[i])
		}
	}
	out := make([]Rejected, 0, all)
	for _, i := range refused {
		for j := range s.verdicts[i] {
			v := &s.verdicts[i][j]
			out = append(out, Rejected{s.parts[i].ID, v.Place, v.Code, v.Text, v.Fact, v.Step})
		}
	}
	return out, s.pairing.err
}

// checksWarn says what the checks of the parts in their places only warn of.
func (s *search) checksWarn(o *Option, f *found) {
	for left := f.changed; left != 0; left &= left - 1 {
		pi := bits.TrailingZeros64(left)
		c := s.choiceAt(f, pi)
		if c >= remove {
			continue
		}
		if v := s.verdictAt(int(c), pi); v.Code != "" && v.Fits() {
			o.Warnings = append(o.Warnings, Warning{v.Code, v.Place, v.Text})
		}
	}
}
