package run

import (
	"slices"
	"strings"
	"time"

	"yembo/core/hw"
)

// State is how far a run is, worked out from its events.
type State struct {
	Plan    *Plan // with what was put in on the way
	Done    map[string]Tick
	Next    int      // the number of the first step that is not done
	Tray    []OnTray // the loose screws that should lie there now
	Open    []Plug   // plugs that are off, in the order in which they came off
	Fallen  []Event  // screws that fell in and were not found yet
	Waiting []Event  // what the run taught that nobody took into the record or left
	Later   map[string]bool
	Found   map[string]Event // facts found out, by path
	Paused  bool
	// Stopped is why nothing goes on before the machine is made safe, "" where it does. It is the
	// job's to say, whoever stopped it and where: whoever keeps the job sets it.
	Stopped string
	Ended   *Event
	Began   time.Time
	Spent   map[string]time.Duration // hands on it, by step
	Unsure  map[string]bool          // steps whose time has a pause in it
	Hands   time.Duration
	events  []Event
}

// Tick is a step done.
type Tick struct {
	At   time.Time
	By   string
	Data Data
}

// OnTray is the screws of a group that one step laid on the tray.
type OnTray struct {
	Step, Group string
	Count       int
	Left        bool // they were left over when the step was undone
	Stays       bool // the step is not undone: they are kept for its part
}

// Plug is one that is off.
type Plug struct {
	Step  string // key of the step that took it off
	Name  string
	Stays bool // it is not put back in this job
}

// idle is how long nothing may happen before that counts as a pause, beyond three times what
// the step takes by the record.
const idle = 5 * time.Minute

// StateOf works out a run from its events, in the order in which they were taken. Of two ticks
// of one step the first counts; an undo takes the step's tick back, whoever gave it.
func (p *Plan) StateOf(began time.Time, events []Event) *State {
	s := &State{Plan: p.with(events), Done: map[string]Tick{}, Later: map[string]bool{}, Found: map[string]Event{}, Began: began,
		Spent: map[string]time.Duration{}, Unsure: map[string]bool{}, events: events}
	for i := range events {
		s.take(&events[i])
	}
	for s.Next < len(s.Plan.Steps) {
		if _, done := s.Done[s.Plan.Steps[s.Next].Key]; !done {
			break
		}
		s.Next++
	}
	s.lay()
	s.times()
	return s
}

func (s *State) take(e *Event) {
	switch e.Kind {
	case Ticked:
		if _, done := s.Done[e.Step]; !done && s.Plan.Index(e.Step) >= 0 {
			s.Done[e.Step] = Tick{e.At, e.By, e.Data}
		}
	case Undone:
		delete(s.Done, e.Step)
	case Differs:
		if e.Data.What == FellIn {
			s.Fallen = append(s.Fallen, *e)
		}
	case Put:
		s.Waiting = append(s.Waiting, *e)
	case Offered:
		s.Waiting = slices.DeleteFunc(s.Waiting, func(w Event) bool { return w.Client == e.Data.Of })
	case Solved:
		s.Fallen = slices.DeleteFunc(s.Fallen, func(f Event) bool { return f.Client == e.Data.Of })
	case Found:
		s.Found[e.Data.Path] = *e
	case Later:
		s.Later[e.Data.Path] = true
	case Paused:
		s.Paused = true
	case Resumed:
		s.Paused = false
	case Ended:
		s.Ended = e
	case Noted, Photo, Stopped, MadeSafe, Late: // they change nothing here
	}
}

// Counted is how many screws of a group a step really has: as it was found in this run, else
// as it is recorded.
func (s *State) Counted(step string, l Lot) int {
	n := l.Count
	for i := range s.events {
		e := &s.events[i]
		if e.Kind == Differs && e.Data.What == OtherCount && e.Data.Group == l.Group && sameStep(e.Step, step) {
			n = e.Data.N
		}
	}
	return n
}

// sameStep reports whether two keys are a step and its undoing.
func sameStep(a, b string) bool {
	_, x, _ := strings.Cut(a, ":")
	_, y, _ := strings.Cut(b, ":")
	return a == b || x != "" && x == y
}

// lay works out what lies on the tray and which plugs are off.
func (s *State) lay() {
	back := map[string]bool{} // ids of steps that are undone in this job
	for i := range s.Plan.Steps {
		if st := &s.Plan.Steps[i]; st.Kind == Up || st.Kind == Return {
			back[st.ID] = true
		}
	}
	for i := range s.Plan.Steps {
		st := &s.Plan.Steps[i]
		tick, done := s.Done[st.Key]
		if !done {
			continue
		}
		for _, l := range st.Lays {
			if n := s.Counted(st.Key, l); !l.Captive && n > 0 {
				s.Tray = append(s.Tray, OnTray{Step: st.Key, Group: l.Group, Count: n, Stays: !back[st.ID]})
			}
		}
		if st.Opens != "" {
			s.Open = append(s.Open, Plug{st.Key, st.Opens, !back[st.ID]})
		}
		if st.Kind != Up {
			continue
		}
		s.Open = slices.DeleteFunc(s.Open, func(p Plug) bool { return p.Step == string(Down)+":"+st.ID })
		s.pick(st, &tick)
	}
}

// pick takes from the tray what a step of the way back used.
func (s *State) pick(st *Step, tick *Tick) {
	kept := s.Tray[:0]
	for _, t := range s.Tray {
		if t.Step != string(Down)+":"+st.ID {
			kept = append(kept, t)
			continue
		}
		n, told := tick.Data.Back[t.Group]
		if t.Count -= n; told && tick.Data.Rest == RestLeft && t.Count > 0 {
			t.Left = true
			kept = append(kept, t)
		}
	}
	s.Tray = kept
}

// times works out how long hands were on each step: from one event to the next, without what
// was paused and without what is too long to have been work. Events are taken by their own
// times, since those of a tablet that was cut off come later.
func (s *State) times() {
	byTime := slices.Clone(s.events)
	slices.SortStableFunc(byTime, func(a, b Event) int { return a.At.Compare(b.At) })
	last, running := s.Began, true
	pending, unsure := time.Duration(0), false
	ticked := map[string]bool{}
	for i := range byTime {
		e := &byTime[i]
		if gap := e.At.Sub(last); running && gap > 0 {
			if most := s.most(e, ticked); gap > most {
				unsure = true
			} else {
				pending += gap
			}
		}
		last = e.At
		switch e.Kind {
		case Paused:
			running = false
		case Resumed:
			running = true
		case Undone:
			delete(ticked, e.Step)
		case Ticked:
			running = true
			if ticked[e.Step] {
				continue
			}
			ticked[e.Step] = true
			s.Spent[e.Step] += pending
			s.Unsure[e.Step] = s.Unsure[e.Step] || unsure
			pending, unsure = 0, false
		case Noted, Photo, Differs, Put, Found, Later, Solved, Stopped, MadeSafe, Offered, Ended, Late: // they change nothing here
		}
	}
	for _, d := range s.Spent {
		s.Hands += d
	}
}

// most is the longest time before an event that counts as work.
func (s *State) most(e *Event, ticked map[string]bool) time.Duration {
	step := e.Step
	if step == "" {
		for i := range s.Plan.Steps {
			if !ticked[s.Plan.Steps[i].Key] {
				step = s.Plan.Steps[i].Key
				break
			}
		}
	}
	i := s.Plan.Index(step)
	if i < 0 {
		return idle
	}
	return max(idle, 3*minutes(s.Plan.Steps[i].Lasts))
}

// minutes is a figure of a record as a time.
func minutes(m hw.Minutes) time.Duration { return time.Duration(m) * time.Minute / 1000 }

// Puts are the detours that were put in.
func (s *State) Puts() []Event {
	return slices.DeleteFunc(slices.Clone(s.events), func(e Event) bool { return e.Kind != Put })
}
