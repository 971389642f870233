package teardown

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// Remark is something about the way in that should be looked at: nothing is refused
// for it.
type Remark struct{ About, Text string }

// Check looks through the steps and screws of a record for what is likely forgotten.
// What cannot be (a circle, a step that is not there) is a fault of the document.
func Check(ch *hw.Chassis) []Remark {
	var out []Remark
	say := func(about, format string, args ...any) {
		out = append(out, Remark{about, fmt.Sprintf(format, args...)})
	}
	isolates := false
	used := map[string]bool{ch.BatteryReach: true}
	for i := range ch.Steps {
		isolates = isolates || ch.Steps[i].IsolatesPwr.Or(false)
		for _, need := range ch.Steps[i].Needs {
			used[need] = true
		}
	}
	if len(ch.Steps) > 0 && !isolates && ch.Kind != hw.MiniPC {
		say("", "no step disconnects power: mark the battery plug step")
	}
	for _, place := range placesOf(ch) {
		reach, _ := ch.ReachOf(place)
		if used[reach] = true; reach == "" && len(ch.Steps) > 0 {
			say(place, "access step not yet known")
		}
	}
	for i := range ch.Suspected {
		used[ch.Suspected[i].Step] = true
	}
	for i := range ch.Steps {
		st := &ch.Steps[i]
		if !used[st.ID] && !st.IsolatesPwr.Or(false) && st.BackBefore == "" {
			say(st.ID, "nothing lies behind this step, and no other needs it")
		}
		if part := strings.ToLower(st.Part); !st.RenewsPaste.IsKnown() &&
			(strings.Contains(part, "heat sink") || strings.Contains(part, "heatsink")) {
			say(st.ID, "a heat sink comes off, and whether its paste is renewed is not recorded")
		}
		if st.Verb == hw.Unscrew && len(st.Fasteners) == 0 {
			say(st.ID, "its screws are not recorded")
		}
	}
	checkScrews(ch, say)
	return out
}

func placesOf(ch *hw.Chassis) []string {
	var out []string
	for _, t := range allTargets(ch) {
		out = append(out, t.Name)
	}
	return out
}

// checkScrews holds counts, places and steps of each group against one another.
func checkScrews(ch *hw.Chassis, say func(about, format string, args ...any)) {
	turned := map[string]int{}
	for i := range ch.Steps {
		for _, f := range ch.Steps[i].Fasteners {
			turned[f.Group] += f.Count
		}
	}
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		count, known := f.Count.Get()
		if !known {
			continue
		}
		if n := len(f.At); n > 0 && n != count {
			say(f.ID, "%d screws, but %d places are recorded", count, n)
		}
		if n := len(f.Order); n > 0 && n != count {
			say(f.ID, "%d screws, but the tightening order has %d", count, n)
		}
		switch n, there := turned[f.ID]; {
		case !there && len(ch.Steps) > 0:
			say(f.ID, "no step turns these screws")
		case there && n > count:
			say(f.ID, "%d screws, but the steps turn %d", count, n)
		case there && n < count:
			say(f.ID, "%d screws, but the steps turn only %d", count, n)
		}
	}
	shorter := map[string][]string{}
	for _, m := range MixUps(ch) {
		shorter[m.Long] = append(shorter[m.Long], fmt.Sprintf("%s (%s mm longer)", m.Short, m.By))
	}
	var untold []string
	for i := range ch.Fasteners {
		if f := &ch.Fasteners[i]; f.Thread == "" && !f.Captive.Or(false) && likeAnother(ch, f) {
			untold = append(untold, f.ID)
		}
	}
	if len(untold) > 0 {
		say("", "the thread of %s is not recorded: whether a long one fits a short one's hole is not known",
			strings.Join(untold, ", "))
	}
	for i := range ch.Fasteners {
		if names := shorter[ch.Fasteners[i].ID]; len(names) > 0 {
			say(ch.Fasteners[i].ID, "differs only in length from %s: in their holes it can press through, and "+
				"theirs may not hold in its holes", strings.Join(names, ", "))
		}
	}
}

// likeAnother reports whether another loose group takes the same bit at another length.
func likeAnother(ch *hw.Chassis, f *hw.Fastener) bool {
	for i := range ch.Fasteners {
		g := &ch.Fasteners[i]
		if g.ID != f.ID && !g.Captive.Or(false) && hw.MaybeEqual(f.Bit, g.Bit) && f.Length.IsKnown() &&
			g.Length.IsKnown() && !hw.MaybeEqual(f.Length, g.Length) {
			return true
		}
	}
	return false
}

// MixUp is two groups of screws that differ only in length: one goes into the other's
// holes (docs/rules.md, The way in).
type MixUp struct {
	Long, Short string // ids of the groups
	By          hw.Dec // mm
}

// MixUps lists the pairs of groups with the same bit and thread, both told, whose lengths
// are told and differ, each pair once with its longer one first; a head that is told of one
// alone keeps no two apart. Captive screws stay in and are not mixed up.
func MixUps(ch *hw.Chassis) []MixUp {
	var out []MixUp
	for i := range ch.Fasteners {
		for k := range i {
			a, b := &ch.Fasteners[i], &ch.Fasteners[k]
			la, okA := a.Length.Get()
			lb, okB := b.Length.Get()
			same := hw.MaybeEqual(a.Bit, b.Bit) && a.Thread != "" && a.Thread == b.Thread &&
				(a.Head == b.Head || a.Head == "" || b.Head == "")
			if !okA || !okB || la == lb || !same || a.Captive.Or(false) || b.Captive.Or(false) {
				continue
			}
			if la < lb {
				a, b, la, lb = b, a, lb, la
			}
			out = append(out, MixUp{a.ID, b.ID, la - lb})
		}
	}
	return out
}
