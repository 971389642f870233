package plan

import (
	"context"
	"math/big"
	"slices"
	"sync"

	"yembo/core/hw"
)

// kind is all that a plan knows of one kind of upgrade: what is asked for, what the machine
// has, the ways to change it, what they leave behind, and the words for it. The search goes
// through the kinds and knows none of them by name; another kind of upgrade is another of
// these and a row in allKinds.
type kind interface {
	names() names

	// asked reports whether goals name this kind's; only keeps that one alone.
	asked(g *hw.Goals) bool
	only(g *hw.Goals) hw.Goals
	// readToday reads what the machine has, and notes where that was not told.
	readToday(s *search)
	// reached reports whether what a candidate leaves reaches the goal, which is asked for.
	reached(s *search, x *candidate) bool
	// share is reached and goal where the goal is a number; reached is nil where not known.
	share(s *search, x *candidate) (reached *big.Rat, goal hw.Maybe[hw.Dec])

	// judge checks a part by the tables of rules in each place it is tried in.
	judge(s *search, part int, known *judged) []hw.Verdict
	// rule is what else may rule a part out in a place, before what holds for all kinds.
	rule(s *search, part, pi int) hw.Verdict
	// rules are the kind's own that may stand in the way of its goal.
	rules(s *search) []rule

	// asItIs is the kind left as it is; candidates are the ways to treat its places, that
	// one among them; own is the way that a person chose, what the rules have against it
	// being told to o.
	asItIs(s *search) candidate
	candidates(ctx context.Context, s *search) ([]group, error)
	own(o *own, choice []int32) *candidate

	// after fills in what a candidate leaves in the machine, and the warnings.
	after(s *search, a *after, f *found)
	// sits says what sits in a place, for the work card.
	sits(s *search, p *place) string
	// leansOn are the facts of the record that a change leans on, beside those of its places.
	leansOn(s *search, pack int) []string
	// defaulted are the facts nobody recorded that a change leans on at a place.
	defaulted(s *search, f *found, p *place) []string

	// meets is where an option says whether the goal is met.
	meets(m *Meets) *hw.Maybe[bool]
	// falls says, in short, by how much an option falls short of the goal.
	falls(o *Option, g *hw.Goals) string
}

// names are what a kind is called.
type names struct {
	goal   string      // in a request
	part   hw.PartKind // of the parts that are planned in
	says   string      // the goal on pages
	part1  string      // one thing to buy of it, on pages
	untold string      // why nothing can be said while today's state was not told
	at     string      // where that is told: a pointer into the machine
}

// allKinds are the kinds that a plan works on, in the order of the goals.
var allKinds = [kinds]kind{kMemory: memoryKind{}, kDrive: driveKind{}, kBattery: batteryKind{},
	kWireless: wirelessKind{}}

const (
	kMemory = iota
	kDrive
	kBattery
	kWireless
	kinds
	kNone = kinds // a place that nothing is planned into, a part of no kind planned
)

// partKinds are the kinds of parts, by kind; every part of a list is asked for its own.
var partKinds = func() (out [kinds]hw.PartKind) {
	for k, kind := range allKinds {
		out[k] = kind.names().part
	}
	return out
}()

// kindIndex is the kind that parts of a kind belong to.
func kindIndex(part hw.PartKind) int {
	if k := slices.Index(partKinds[:], part); k >= 0 {
		return k
	}
	return kNone
}

// eachKind does something for every kind, all of them at once: what one kind finds lies in
// places of its own. Of several errors it returns that of the first kind.
func eachKind(do func(k int, kind kind) error) error {
	var errs [kinds]error
	var wait sync.WaitGroup
	for k, kind := range allKinds {
		wait.Go(func() { errs[k] = do(k, kind) })
	}
	wait.Wait()
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// plain is what most kinds have in common: no rules and no facts of their own.
type plain struct{}

func (plain) rule(*search, int, int) hw.Verdict                { return hw.Verdict{} }
func (plain) rules(*search) []rule                             { return nil }
func (plain) leansOn(*search, int) []string                    { return nil }
func (plain) defaulted(s *search, f *found, p *place) []string { return s.usualDefaults(p) }
