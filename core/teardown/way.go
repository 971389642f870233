package teardown

import "yembo/core/hw"

// Ways are the steps of a model as one machine has them: those that what is fitted leaves
// out count for nothing, and what needs them needs their needs instead.
type Ways struct {
	ch    *hw.Chassis
	as    *Inside
	index map[string]int
	part  []bool  // by step: it is part of the way in
	needs [][]int // by step: the steps needed, those left out replaced by their own needs
	usual []int   // the way that stands in for one that nobody recorded
}

// NotRecorded is, for Down, the way to a place whose own nobody recorded.
const NotRecorded = "*"

// WayTo is what Down takes for the way to a place or the battery: the step that it lies behind; NotRecorded where
// nobody said in a model that has steps. A service that names no step asks for none.
func WayTo(ch *hw.Chassis, place string) string {
	reach, _ := ch.ReachOf(place)
	if reach == "" && len(ch.Steps) > 0 && ch.ServiceByID(place) < 0 {
		return NotRecorded
	}
	return reach
}

// WaysInto works out the ways into a machine as it is; nil is any machine of the model.
// The record must be valid: no circle, no missing step.
func WaysInto(ch *hw.Chassis, as *Inside) *Ways {
	w := &Ways{ch: ch, as: as, index: make(map[string]int, len(ch.Steps)), part: make([]bool, len(ch.Steps)),
		needs: make([][]int, len(ch.Steps))}
	for i := range ch.Steps {
		st := &ch.Steps[i]
		w.index[st.ID] = i
		w.part[i] = st.BackBefore == "" && as.holds(st.When) && !(st.Place != "" && as.isEmpty(st.Place))
	}
	for i := range ch.Steps {
		for _, need := range ch.Steps[i].Needs {
			w.needs[i] = w.standIn(w.needs[i], need)
		}
	}
	w.usual = w.usualWay()
	return w
}

// usualWay is every step that depends on nothing fitted and neither takes the main board out nor needs a step that
// does, at once or through others.
func (w *Ways) usualWay() []int {
	deep := make([]bool, len(w.ch.Steps)) // the board is out by then
	seen := make([]bool, len(w.ch.Steps))
	var visit func(i int) bool
	visit = func(i int) bool {
		if seen[i] {
			return deep[i]
		}
		seen[i], deep[i] = true, BoardOut(&w.ch.Steps[i])
		for _, need := range w.ch.Steps[i].Needs {
			if j, ok := w.index[need]; ok && visit(j) {
				deep[i] = true
			}
		}
		return deep[i]
	}
	var out []int
	for i := range w.ch.Steps {
		if st := &w.ch.Steps[i]; !visit(i) && st.Place == "" && st.When == nil && st.BackBefore == "" {
			out = append(out, i)
		}
	}
	return out
}

// standIn adds a step, or where it is left out what it needs.
func (w *Ways) standIn(list []int, id string) []int {
	i, ok := w.index[id]
	if !ok {
		return list
	}
	if w.part[i] {
		return append(list, i)
	}
	for _, need := range w.ch.Steps[i].Needs {
		list = w.standIn(list, need)
	}
	return list
}

// isolates reports whether a step is done on the way in and cuts the power.
func (w *Ways) isolates(i int) bool { return w.part[i] && w.ch.Steps[i].IsolatesPwr.Or(false) }

// Down returns, for each step of the chassis in its order, whether it has to be done
// before the given reaches can be worked on: the reaches themselves, all they need, and
// every step that isolates power with all that it needs. Reaches that are "" add nothing;
// NotRecorded adds the usual way.
func (w *Ways) Down(reaches []string) []bool {
	down := make([]bool, len(w.ch.Steps))
	for _, r := range reaches {
		if r == NotRecorded {
			for _, i := range w.usual {
				w.mark(i, down)
			}
			continue
		}
		for _, i := range w.standIn(nil, r) {
			w.mark(i, down)
		}
	}
	for i := range w.ch.Steps {
		if w.isolates(i) {
			w.mark(i, down)
		}
	}
	return down
}

// mark sets a step and all that it needs.
func (w *Ways) mark(i int, down []bool) {
	if down[i] {
		return
	}
	down[i] = true
	for _, j := range w.needs[i] {
		w.mark(j, down)
	}
}

// Live returns, for each step, whether it takes off a plug that carries power at that
// time: it is marked live_risk, or unplugs and does not isolate and is not marked as free
// of it, and stands before the last isolating step or the model has none. Isolation comes
// as early as its needs allow, so what stands before it is exactly what it and the earlier
// isolating steps need. A machine without a battery has no live plug.
func (w *Ways) Live(down []bool) []bool {
	live := make([]bool, len(w.ch.Steps))
	if w.ch.Batteries != nil && len(w.ch.Batteries) == 0 {
		return live
	}
	before := make([]bool, len(w.ch.Steps))
	last := -1
	for i := range w.ch.Steps {
		if w.isolates(i) && !before[i] {
			w.mark(i, before)
			last = i
		}
	}
	if last >= 0 {
		before[last] = false
	}
	for i := range w.ch.Steps {
		st := &w.ch.Steps[i]
		risky := st.LiveRisk.Or(st.Verb == hw.Unplug && !st.IsolatesPwr.Or(false))
		live[i] = down[i] && risky && (last < 0 || before[i])
	}
	return live
}

// Back returns which of the steps done on the way in are undone on the way back, in the
// machine as it ends, and which steps of the way back alone are done, in the order of the
// document.
func (w *Ways) Back(down []bool, ends *Inside) (undone []bool, extra []int) {
	undone = make([]bool, len(down))
	for i := range w.ch.Steps {
		undone[i] = down[i] && w.returns(i, ends)
	}
	for i := range w.ch.Steps {
		if before := w.ch.Steps[i].BackBefore; before != "" {
			if j, ok := w.index[before]; ok && undone[j] && w.returns(i, ends) {
				extra = append(extra, i)
			}
		}
	}
	return undone, extra
}

// returns reports whether what a step did is undone in the machine as it ends.
func (w *Ways) returns(i int, ends *Inside) bool {
	st := &w.ch.Steps[i]
	return ends.holds(st.Back) && !(st.Place != "" && ends.isEmpty(st.Place))
}

// Minutes is the way in and the way back of one opening, without the work: the steps done,
// 0.8 of those undone, and the steps of the way back alone at their full figure.
func (w *Ways) Minutes(down, undone []bool, extra []int) hw.Minutes {
	var back, full hw.Minutes
	for i := range w.ch.Steps {
		if undone[i] {
			back += StepMinutes(&w.ch.Steps[i])
		}
	}
	for _, i := range extra {
		full += StepMinutes(&w.ch.Steps[i])
	}
	return DownMinutes(w.ch, down) + back.Back() + full
}

// Down is Ways.Down for any machine of the model.
func Down(ch *hw.Chassis, reaches []string) []bool { return WaysInto(ch, nil).Down(reaches) }
