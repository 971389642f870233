// Package run is the work at the bench as one sequence: down into the machine, what is done
// there, and up again, with what is looked at on the way; and what of it is done, worked out
// from the events of a run.
//
// The order of the steps is that of package teardown, their words are those of package card.
package run

import (
	"context"
	"slices"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
)

// Kind is what a step of a run is.
type Kind string

// The kinds of steps.
const (
	Down    Kind = "down"    // a step of the way in
	Hold    Kind = "hold"    // the power button is held, which cuts the pack
	Look    Kind = "look"    // the pack is looked at
	Fit     Kind = "fit"     // a place is served
	Service Kind = "service" // work that fits no part
	Up      Kind = "up"      // a step of the way back
	Trial   Kind = "trial"   // a start before the cover goes on
	Detour  Kind = "detour"  // put in while the run was under way
	Return  Kind = "return"  // a detour undone
)

// Spare reports whether a step can be left out, with a reason: what is done in a machine, not
// the way into it.
func (k Kind) Spare() bool { return k == Fit || k == Service || k == Trial || k == Detour }

// Lot is so many screws of a group.
type Lot struct {
	Group   string // its id, or where no group is recorded the step's
	Count   int
	Captive bool // they stay in their part, and never lie on the tray
	Own     bool // they come with what is fitted, and not from the tray
}

// Step is one step of a run.
type Step struct {
	Key    string // names it within the run: "down:cover"
	Kind   Kind
	ID     string // of the record's step, the place or the service
	Does   string
	Screws []string
	How    []string
	Mind   []string
	Why    string
	Danger []hw.CautionCode // acknowledged before it is done
	Side   hw.Side          // that faces up, "" for either
	Turns  bool             // the machine is turned over for it
	Bit    string           // picked up for it, "" where the one in hand does or none is wanted
	BitOut string           // put away for it
	Lays   []Lot            // screws that lie on the tray after it
	Takes  []Lot            // screws that go back in it
	Opens  string           // the plug that it takes off, in words
	Closes string           // the plug that it puts on
	Live   bool             // it gives the machine its power back
	Depth  int              // how many steps of the way in are done after it
	Begins hw.Minutes       // when it begins, by the record's minutes
	Lasts  hw.Minutes       // how long it takes
	Hold   hw.Maybe[hw.Dec] // seconds, of Hold
	Fit    *card.Fit        // of Fit and Service
	Goes   string           // where the old part usually goes
	At     *hw.At           // where it is done, nil where that is not recorded
}

// Plan is a run from its first step to its last.
type Plan struct {
	Chassis *hw.Chassis
	Steps   []Step
	Asks    []Ask
	Card    *card.Card
	Sheet   *teardown.Sheet
	Minutes hw.Minutes
	index   map[string]int
}

// Input is what a run is made from: the documents as they were when it began.
type Input struct {
	Chassis *hw.Chassis
	Machine *hw.Machine
	Parts   *hw.Parts
	Option  *plan.Option // what is done; nil for a look inside, down every step and up again
	Printed bool         // heat sinks are loosened in the printed order
	Trial   card.TrialWhen
	Whole   bool // every step of the way in is done, whatever the option needs
}

// Make works out a run. The error is teardown.ReachUnknown where the way to a place is not
// recorded, teardown.ErrTooHard where the order is not found.
func Make(ctx context.Context, in Input) (*Plan, error) {
	p := &Plan{Chassis: in.Chassis}
	var err error
	job := card.Job{Chassis: in.Chassis, Machine: in.Machine, Parts: in.Parts, Printed: in.Printed, Whole: in.Whole, Trial: in.Trial}
	if in.Option == nil {
		p.Card = card.OfWay(job)
	} else {
		p.Card, err = card.Of(ctx, job, in.Option)
	}
	if err != nil {
		return nil, err
	}
	if p.Card.Reach != nil {
		return nil, p.Card.Reach
	}
	p.Sheet = p.Card.Sheet
	m := maker{in: in, p: p}
	m.wayIn()
	m.bottom()
	m.wayBack()
	p.number()
	p.Asks = asksOf(p)
	return p, nil
}

// maker makes one run.
type maker struct {
	in       Input
	p        *Plan
	deep     int
	undoneAt map[string][]Step // fits that are done on the way back, by the step they are done at
}

func (m *maker) add(s Step) {
	s.Depth = m.deep
	m.p.Steps = append(m.p.Steps, s)
}

// step is what the record says of a step, on the way in or back.
func (m *maker) step(kind Kind, c *card.Step) Step {
	s := Step{Key: string(kind) + ":" + c.ID, Kind: kind, ID: c.ID, Does: c.Does, Screws: c.Screws, How: c.How,
		Mind: c.Mind, Why: c.Why}
	st := &m.in.Chassis.Steps[m.in.Chassis.StepByID(c.ID)]
	s.Side, s.At = st.Side, st.At
	s.Lasts = teardown.StepMinutes(st)
	if kind == Up && st.BackBefore == "" {
		s.Lasts = s.Lasts.Back()
	}
	return s
}

// wayIn lists the way in, with the look at the pack before it is unplugged, in the card's order.
func (m *maker) wayIn() {
	for i := range m.p.Card.Down {
		c := &m.p.Card.Down[i]
		switch c.Kind {
		case card.StepHold: // the power button, which the record does not have as a step
			m.add(Step{Key: "hold", Kind: Hold, Does: c.Does, How: c.How, Hold: m.in.Chassis.HoldSeconds})
			continue
		case card.StepLook:
			m.add(Step{Key: lookKey, Kind: Look, Does: c.Does, ID: hw.BatteryPlace, How: c.How})
			continue
		case card.StepRecorded, card.StepTrial: // they change nothing here
		}
		m.deep++
		s := m.step(Down, c)
		st := &m.in.Chassis.Steps[m.in.Chassis.StepByID(c.ID)]
		for _, caution := range m.p.Sheet.Cautions {
			if caution.Step == c.ID && caution.Code.Danger() {
				s.Danger = append(s.Danger, caution.Code)
			}
		}
		s.Lays = m.lots(st)
		if st.Verb == hw.Unplug {
			s.Opens = plugName(st)
		}
		m.add(s)
	}
}

// lots are the screws that a step turns.
func (m *maker) lots(st *hw.Step) []Lot {
	if !st.Verb.Row().Turns {
		return nil
	}
	var out []Lot
	for _, f := range st.Fasteners {
		l := Lot{Group: f.Group, Count: f.Count, Captive: !st.Verb.Row().Lays}
		if i := m.in.Chassis.FastenerByID(f.Group); i >= 0 && m.in.Chassis.Fasteners[i].Captive.Or(false) {
			l.Captive = true
		}
		out = append(out, l)
	}
	return out
}

func plugName(st *hw.Step) string {
	if st.Part != "" {
		return st.Part
	}
	return "plug of " + st.ID
}

// Look keys.
const (
	lookKey  = "look"
	trialKey = "trial"
)

// bottom lists what is done at the bottom, and keeps what is done on the way back.
func (m *maker) bottom() {
	m.undoneAt = map[string][]Step{}
	for i := range m.p.Card.Fit {
		f := &m.p.Card.Fit[i]
		s := Step{Key: string(Fit) + ":" + f.ID, Kind: Fit, ID: f.ID, Fit: f}
		if k := m.in.Chassis.ServiceByID(f.ID); k >= 0 {
			s.Key, s.Kind = string(Service)+":"+f.ID, Service
			s.Lasts = hw.MinutesOf(m.in.Chassis.Services[k].Minutes.Or(0))
			s.Does = f.What
			s.How = f.How
		} else {
			s.Does = fitWords(f)
			s.Lasts = teardown.SwapMinutes(m.in.Chassis, f.ID)
			if place, ok := m.in.Chassis.PlaceNamed(f.ID); ok {
				s.At = place.At
			}
			for _, old := range m.p.Card.Old {
				if old.Place == f.ID {
					s.Goes = old.Goes
				}
			}
		}
		if at, back := m.p.Sheet.SwapOnRefit[f.ID]; back {
			m.undoneAt[at] = append(m.undoneAt[at], s)
			continue
		}
		m.add(s)
	}
}

func fitWords(f *card.Fit) string {
	where := f.Place
	if f.ID == hw.BatteryPlace {
		where = "its place"
	}
	switch {
	case f.In == nil:
		return "Take out what is in " + where
	case f.ID == hw.BatteryPlace:
		return "Fit the pack"
	case f.In.Memory != nil:
		return "Fit the memory in " + where
	case f.In.Wireless != nil:
		return "Fit the card in " + where
	}
	return "Fit the drive in " + where
}

// wayBack lists the way back, with what is fitted on it and the trial start.
func (m *maker) wayBack() {
	ch := m.in.Chassis
	for i := range m.p.Card.Up {
		c := &m.p.Card.Up[i]
		if c.Kind == card.StepTrial {
			// What is fitted at the step that follows is fitted before the machine is started.
			if i+1 < len(m.p.Card.Up) {
				m.serve(m.p.Card.Up[i+1].ID)
			}
			m.add(Step{Key: trialKey, Kind: Trial, Does: c.Does, How: c.How, Live: true})
			continue
		}
		st := &ch.Steps[ch.StepByID(c.ID)]
		m.serve(c.ID)
		if at := slices.Index(m.p.Sheet.Down, c.ID); at >= 0 {
			m.deep = at // as deep as before it was done, whatever stays out
		}
		s := m.step(Up, c)
		s.Takes = m.lots(st)
		for k := range s.Takes {
			s.Takes[k].Own = st.BackBefore != ""
		}
		if st.Verb == hw.Unplug && st.BackBefore == "" {
			s.Closes = plugName(st)
		}
		s.Live = st.IsolatesPwr.Or(false) || st.Verb == hw.PowerDown
		m.add(s)
	}
}

// serve adds what is fitted when a step is undone.
func (m *maker) serve(step string) {
	for _, s := range m.undoneAt[step] {
		m.add(s)
	}
	delete(m.undoneAt, step)
}

// number works out bits, sides and times along the sequence, and how steps are found.
func (p *Plan) number() {
	p.index = map[string]int{}
	var at hw.Minutes
	bit, side := "", hw.Side("")
	for i := range p.Steps {
		s := &p.Steps[i]
		p.index[s.Key] = i
		s.Begins, s.Turns, s.Bit, s.BitOut = at, false, "", ""
		at += s.Lasts
		if s.Side != "" {
			s.Turns = side != "" && side != s.Side
			side = s.Side
		}
		if i := p.Chassis.StepByID(s.ID); i >= 0 && (s.Kind == Down || s.Kind == Up) {
			if bits := teardown.StepBits(p.Chassis, &p.Chassis.Steps[i]); len(bits) > 0 && bits[0] != bit {
				s.Bit, s.BitOut = bits[0], bit
				bit = bits[len(bits)-1]
			}
		}
	}
	p.Minutes = at
}

// Index is the number of a step by its key, -1 for none.
func (p *Plan) Index(key string) int {
	if i, ok := p.index[key]; ok {
		return i
	}
	return -1
}
