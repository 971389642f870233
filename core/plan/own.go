package plan

import (
	"context"
	"strings"

	"yembo/core/hw"
)

// Ask says for one part, of the list or not, what every place it is tried in answers:
// "why not this part?". It uses the same checks as a plan, whatever is wanted. The
// verdicts of a part that fits have no code; what it brings with it there, with all else
// as it is, comes as warnings.
func Ask(ctx context.Context, in Input, part hw.Part) ([]Answer, error) {
	parts := *in.Parts
	at := -1
	for i := range parts.Parts {
		if parts.Parts[i].ID == part.ID {
			at = i
		}
	}
	if at < 0 {
		parts.Parts = append(append([]hw.Part{}, parts.Parts...), part)
		at = len(parts.Parts) - 1
	}
	in.Parts = &parts
	s, err := newSearch(in)
	if err != nil {
		return nil, err
	}
	kind := kindIndex(part.Kind)
	if kind == kNone {
		return nil, nil
	}
	s.wanted = [kinds]bool{}
	s.wanted[kind] = true
	if _, err := s.sort(ctx, s.wanted); err != nil {
		return nil, err
	}
	out := make([]Answer, len(s.verdicts[at]))
	for i, v := range s.verdicts[at] {
		if out[i].Verdict = v; !v.Fits() {
			continue
		}
		alone, _, err := Own(ctx, in, map[string]string{v.Place: part.ID})
		if err != nil {
			return nil, err
		}
		out[i].Warnings = alone.Warnings
	}
	return out, nil
}

// Answer is what one place says to a part that was asked about.
type Answer struct {
	hw.Verdict
	Warnings []Warning
}

// Kept and Removed are what Own can be told to do at a place, beside a part's id.
const (
	Kept    = "keep"
	Removed = "remove"
)

// Own works out a combination that a person made, place by place, by the same rules as
// the plan's options. What the rules have against it comes as verdicts; the figures are
// worked out all the same, as far as they can be.
func Own(ctx context.Context, in Input, at map[string]string) (Option, []hw.Verdict, error) {
	s, err := newSearch(in)
	if err != nil {
		return Option{}, nil, err
	}
	o := &own{s: s}
	if err := o.read(ctx, at); err != nil {
		return Option{}, nil, err
	}
	var f found
	for k, kind := range allKinds {
		f.parts[k] = kind.own(o, o.choice[k])
	}
	for k := range kinds {
		x := f.parts[k]
		f.changed |= x.changed
		f.removed |= x.removed
		f.partsC += x.cost
		x.met = allKinds[k].reached(s, x)
	}
	f.met = s.metBy(&f)
	o.exclusions(&f)
	needs := f.needs()
	acc := s.accessories(needs)
	f.partsC += acc.cents
	f.missing = acc.missing
	for i, name := range s.needNames {
		if needs[i] > 0 && s.supplied(name, int(needs[i])).missing {
			o.refuse("", hw.CodeMissing, "%d × %s needed, not available", needs[i],
				strings.ReplaceAll(name, "-", " "))
		}
	}
	open := s.opened(&f)
	f.total, f.minutes = f.partsC+open.labour+s.servicesCents, open.minutes
	if f.changed == 0 && len(s.service) == 0 {
		o.refuse("", hw.CodeNothing, "nothing is changed yet")
	}
	if budget, ok := in.Request.BudgetCents.Get(); ok && f.total > budget {
		o.refuse("", hw.CodeBudget, "%s in all; the budget is %s", s.money(f.total), s.money(budget))
	}
	out := s.option(&f, 0)
	out.ID = "own"
	out.MeetsAll = out.MeetsAll && len(o.faults) == 0
	return out, o.faults, nil
}

// own is a combination being read.
type own struct {
	s      *search
	choice [kinds][]int32
	faults []hw.Verdict
}

func (o *own) refuse(place string, code hw.Code, format string, args ...any) {
	v := hw.Refuse(code, format, args...)
	v.Place = place
	o.faults = append(o.faults, v)
}

// read turns what is said of each place into choices, and judges each part in its place.
func (o *own) read(ctx context.Context, at map[string]string) error {
	s := o.s
	index := map[string]int{}
	for i := range s.parts {
		index[s.parts[i].ID] = i
	}
	s.wanted = [kinds]bool{}
	for k := range kinds {
		o.choice[k] = s.same(k)
	}
	type placed struct{ place, part int }
	var all []placed
	for k := range kinds {
		for i, pi := range s.kindOf[k] {
			p := &s.places[pi]
			switch word := at[p.id]; word {
			case "", Kept:
			case Removed:
				if p.occupied && k != kBattery && k != kWireless {
					o.choice[k][i] = remove
				}
				if p.keep {
					code, text := p.staysBy()
					o.refuse(p.id, code, "%s", text)
				}
			default:
				part, ok := index[word]
				if !ok || kindIndex(s.parts[part].Kind) != k {
					o.refuse(p.id, hw.CodeNoPart, "there is no part %q for it any more", word)
					continue
				}
				o.choice[k][i] = int32(part)
				s.wanted[k] = true
				all = append(all, placed{pi, part})
			}
		}
	}
	if _, err := s.sort(ctx, s.wanted); err != nil {
		return err
	}
	for _, x := range all {
		v := *s.verdictAt(x.part, x.place)
		if v.Fits() {
			continue
		}
		if v.Place = s.places[x.place].id; v.Text == "" {
			v.Text = "nothing of that kind goes in there"
		}
		o.faults = append(o.faults, v)
	}
	return nil
}

// cost adds up what a choice buys, whether it can be had or not; what cannot is a fault.
func (o *own) cost(c *candidate) {
	s := o.s
	pieces := map[int32]int{}
	for _, part := range c.choice {
		if part < remove {
			pieces[part]++
		}
	}
	for i := range s.parts {
		n := pieces[int32(i)]
		if n == 0 {
			continue
		}
		p := &s.parts[i]
		buy := p.Purchases(n)
		c.cost += int64(buy) * p.PriceCents
		if p.Pulled() {
			c.flags |= fPulled
		}
		if !s.canHave(p, buy) {
			o.refuse("", hw.CodeStock, "%s: %d wanted, %d in stock and none to order", p.Name, buy, p.InStock())
		}
	}
}

// exclusions names each thing put in use that cannot be beside another in use.
func (o *own) exclusions(f *found) {
	s := o.s
	var used, fresh uint64
	for k := range kinds {
		used |= f.parts[k].used
		fresh |= f.parts[k].fresh
	}
	for i := range s.excl {
		if fresh&(1<<i) == 0 {
			continue
		}
		for j := range s.excl {
			if s.excl[i]&used&(1<<j) != 0 {
				o.refuse(s.bitName(i), hw.CodeExcluded, "%s cannot be used beside %s", s.bitName(i), s.bitName(j))
			}
		}
	}
}

// bitName is the place or pack of a bit.
func (s *search) bitName(bit int) string {
	if bit < len(s.places) {
		return s.places[bit].id
	}
	return hw.PackSays(s.ch.Batteries[bit-len(s.places)].ID)
}
