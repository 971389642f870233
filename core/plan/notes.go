package plan

import (
	"fmt"
	"math/big"
	"sort"
	"strconv"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// optionNotes name the disputed facts that a listed option uses and the defaults
// that one leans on.
func (s *search) optionNotes(kept []found) []Note {
	var notes []Note
	seen := map[string]bool{}
	add := func(code hw.Code, fact, about, text string) {
		if !seen[string(code)+fact] {
			seen[string(code)+fact] = true
			notes = append(notes, Note{code, text, []string{fact}, about})
		}
	}
	for i := range kept {
		f := &kept[i]
		for _, fact := range s.factsUsed(f.changed, f.pack(), s.opened(f).down) {
			if fact.Disputed {
				add(hw.CodeFactDisputed, "chassis:"+evidence.Pointer(s.ch, fact.Path), "", disputeText(fact))
			}
		}
	}
	var defaults []string
	done := map[[2]int32]bool{}
	for i := range kept {
		for pi := range s.places {
			// A part in a place leans on the same facts in every option.
			key := [2]int32{int32(pi), s.choiceAt(&kept[i], pi)}
			if key[1] != unchanged && !done[key] {
				done[key] = true
				defaults = append(defaults, s.defaulted(&kept[i], pi)...)
			}
		}
	}
	for _, i := range s.service {
		if len(kept) > 0 && s.ch.Services[i].Reach == "" {
			defaults = append(defaults, fmt.Sprintf("chassis:/services/%d/reach", i))
		}
	}
	sort.Strings(defaults)
	for _, fact := range defaults {
		about := s.saysFact(fact)
		_, pointer, _ := strings.Cut(fact, ":")
		add(hw.CodeFactDefaulted, fact, about, fmt.Sprintf("%s is not recorded (%s); the plan assumes the usual, not checked",
			about, pointer))
	}
	return notes
}

func disputeText(f evidence.Fact) string {
	says := func(x *hw.Finding) string { return hw.Sources.Says(x.Source) + ": " + hw.ValueWords(f.Path, x.Value) }
	text := hw.FactSays(f.Path) + " is disputed: " + says(f.InForce)
	for _, other := range f.Others {
		if !evidence.SameValue(other.Value, f.InForce.Value) {
			text += ", " + says(other)
		}
	}
	return text
}

// saysFact names a fact of the record or of the machine by its prefixed pointer.
func (s *search) saysFact(fact string) string {
	if pointer, ofPart := strings.CutPrefix(fact, "parts:/parts/"); ofPart {
		words := strings.Split(pointer, "/") // "3/battery/series"
		part, _ := strconv.Atoi(words[0])
		return s.parts[part].Name + ", " + hw.FieldSays(words[len(words)-1])
	}
	pointer, ofModel := strings.CutPrefix(fact, "chassis:")
	if !ofModel {
		switch strings.TrimPrefix(fact, "machine:") {
		case "/fitted/drives":
			return "the drives in it"
		case "/fitted/battery":
			return "the pack in it"
		case "/fitted/memory":
			return "the modules in it"
		case "/variant":
			return "which configuration it is"
		}
		return "which drive starts the machine"
	}
	path, _ := evidence.ByID(s.ch, pointer)
	if at, ok := strings.CutSuffix(path, "/excludes"); ok {
		return "what cannot be used together with " + at[strings.LastIndexByte(at, '/')+1:]
	}
	return hw.FactSays(path)
}

// defaulted lists the facts nobody recorded that an option leans on at a place.
func (s *search) defaulted(f *found, pi int) []string {
	var out []string
	p := &s.places[pi]
	c := s.choiceAt(f, pi)
	if c < remove {
		for _, pointer := range s.verdictAt(int(c), pi).Defaulted {
			out = append(out, "chassis:"+pointer)
		}
	}
	if p.kind == kNone {
		return append(out, s.usualDefaults(p)...)
	}
	return append(out, allKinds[p.kind].defaulted(s, f, p)...)
}

// usualDefaults are the facts nobody recorded that any change leans on at a slot or bay.
func (s *search) usualDefaults(p *place) []string {
	at := evidence.Pointer(s.ch, p.prefix)
	out := absent(p.Excludes != nil, at+"/excludes")
	out = append(out, absent(p.CarryOver != nil, at+"/carry_over")...)
	return append(out, absent(p.Reach != "", at+"/reach")...)
}

// absent is the pointer of a fact of the record that is not known.
func absent(known bool, pointer string) []string {
	if known {
		return nil
	}
	return []string{"chassis:" + pointer}
}

const swollenText = "the pack is swollen: stop. Do not charge, press or pry it; move the machine away from anything " +
	"that " +
	"burns and follow local rules and the shop's fire plan. Nothing is planned until it is made safe"

func wornText(full, design hw.Dec) string {
	health := new(big.Rat).Quo(new(big.Rat).Mul(full.Rat(), big.NewRat(100, 1)), design.Rat())
	return fmt.Sprintf("the pack holds %s of %s Wh, %s %%: it is worn", full, design, hw.RatTenths(health))
}

// failingText says of a failing drive what comes first.
func failingText(d *hw.FittedDrive) string { return d.DataFirst() + ", then replace it" }

// failingFact is the fact that says so.
func failingFact(d *hw.FittedDrive) string {
	if d.Unreadable.Or(false) {
		return "unreadable"
	}
	return "failing"
}
