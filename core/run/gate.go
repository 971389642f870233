package run

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// Bar is what stands against ticking a step.
type Bar string

// The bars.
const (
	BarGone    Bar = "gone"    // there is no such step
	BarStopped Bar = "stopped" // the job is stopped
	BarEnded   Bar = "ended"
	BarLook    Bar = "look"   // nobody looked at the pack
	BarRead    Bar = "read"   // the caution was not read
	BarPlugs   Bar = "plugs"  // a plug is still off
	BarBehind  Bar = "behind" // what lies behind it is not back
	BarScrews  Bar = "screws" // the count does not come out
	BarFallen  Bar = "fallen" // a screw lies somewhere in the machine
)

// Against is one thing that stands against a tick, in words that say what to do.
type Against struct {
	Bar  Bar
	Says string
}

// Bars lists what stands against ticking a step now. A step that is done has none: a second
// tick of it says nothing new.
func (s *State) Bars(key string, d Data) []Against {
	i := s.Plan.Index(key)
	if i < 0 {
		return []Against{{BarGone, "this step is not in the run any more"}}
	}
	if _, done := s.Done[key]; done {
		return nil
	}
	var out []Against
	say := func(bar Bar, format string, args ...any) {
		out = append(out, Against{bar, fmt.Sprintf(format, args...)})
	}
	switch {
	case s.Ended != nil:
		say(BarEnded, "the run is finished")
		return out
	case s.Stopped != "":
		say(BarStopped, "the job is stopped (%s): the machine is made safe first", s.Stopped)
		return out
	}
	st := &s.Plan.Steps[i]
	if d.Skip {
		if !st.Kind.Spare() {
			say(BarBehind, "this step cannot be left out")
		}
		return out
	}
	if look := s.Plan.Index(lookKey); look >= 0 && look < i {
		if _, looked := s.Done[lookKey]; !looked {
			say(BarLook, "look at the pack first")
		}
	}
	if len(st.Danger) > 0 && !d.Read {
		words := make([]string, len(st.Danger))
		for k, c := range st.Danger {
			words[k] = hw.Cautions.Says(c)
		}
		say(BarRead, "read the caution and say so: %s", strings.Join(words, "; "))
	}
	if st.Live && len(s.Fallen) > 0 {
		say(BarFallen, "a screw fell in and was not found: find it before connecting power")
	}
	if st.Kind == Up || st.Kind == Trial {
		s.backBars(i, say)
	}
	if st.Kind == Up {
		s.countBars(st, d, say)
	}
	return out
}

// backBars name the plugs and the other things that lie behind a step of the way back and are
// not back.
func (s *State) backBars(i int, say func(Bar, string, ...any)) {
	var plugs, other []string
	for k := range i {
		before := &s.Plan.Steps[k]
		if _, done := s.Done[before.Key]; done {
			continue
		}
		switch {
		case before.Kind == Up && before.Closes != "":
			// One that never came off is not missing.
			if _, off := s.Done[string(Down)+":"+before.ID]; off {
				plugs = append(plugs, before.Closes)
			}
		case before.Kind == Up || before.Kind.Spare() && before.Kind != Detour || before.Kind == Return:
			other = append(other, hw.LowerFirst(before.Does))
		}
	}
	if len(plugs) > 0 {
		say(BarPlugs, "still unplugged: %s", strings.Join(plugs, ", "))
	}
	if len(other) > 0 {
		say(BarBehind, "not done yet: %s", strings.Join(other, "; "))
	}
}

// countBars say where the screws that went back are not those that came out.
func (s *State) countBars(st *Step, d Data, say func(Bar, string, ...any)) {
	if d.Why != "" && d.Rest != "" {
		return
	}
	for _, t := range s.Tray {
		if t.Step != string(Down)+":"+st.ID {
			continue
		}
		if n := d.Back[t.Group]; n != t.Count {
			say(BarScrews, "%d of %d screws %s went back: say what became of the rest", n, t.Count, t.Group)
		}
	}
}

// EndBars lists what stands against finishing a run: steps that are not done, screws on the
// tray that belong nowhere, plugs that are off, a screw that fell in.
func (s *State) EndBars() []Against {
	var out []Against
	if s.Stopped != "" {
		out = append(out, Against{BarStopped, "the job is stopped: the machine is made safe first"})
	}
	undone := 0
	for i := range s.Plan.Steps {
		if _, done := s.Done[s.Plan.Steps[i].Key]; !done {
			undone++
		}
	}
	if undone > 0 {
		out = append(out, Against{BarBehind, fmt.Sprintf("%d steps are not done", undone)})
	}
	for _, t := range s.Tray {
		if !t.Stays {
			out = append(out, Against{BarScrews, fmt.Sprintf("%d screws %s lie on the mat", t.Count, t.Group)})
		}
	}
	for _, p := range s.Open {
		if !p.Stays {
			out = append(out, Against{BarPlugs, "still unplugged: " + p.Name})
		}
	}
	if len(s.Fallen) > 0 {
		out = append(out, Against{BarFallen, "a screw fell in and was not found"})
	}
	return out
}
