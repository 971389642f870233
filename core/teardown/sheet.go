package teardown

import (
	"context"
	"fmt"
	"slices"

	"yembo/core/hw"
)

// Sheet is the order of work for some targets, in the fields of yembo.runsheet/1.
type Sheet struct {
	Format      string            `json:"format"`
	Chassis     string            `json:"chassis"`
	Targets     []string          `json:"targets"`
	Down        []string          `json:"down"`
	Work        []string          `json:"work"`
	Up          []string          `json:"up"`
	SwapOnRefit map[string]string `json:"swap_on_refit"`
	BitChanges  int               `json:"bit_changes"`
	Flips       int               `json:"flips"`
	Minutes     hw.Dec            `json:"minutes"`
	Tray        []Tray            `json:"tray"`
	Kit         Kit               `json:"kit"`
	Cautions    []Caution         `json:"cautions"`
}

// Tray is how many loose screws of a group lie on the mat.
type Tray struct {
	Group string `json:"group"`
	Count int    `json:"count"`
}

// Kit is what has to lie ready before the first screw.
type Kit struct {
	Bits        []string `json:"bits"`
	Tools       []string `json:"tools"`
	Consumables []string `json:"consumables"`
}

// Caution is something to mind at a step.
type Caution struct {
	Step string         `json:"step"`
	Code hw.CautionCode `json:"code"`
}

// Format of the document.
const FormatSheet = "yembo.runsheet/1"

// ReachUnknown is returned for a target whose way in nobody has recorded.
type ReachUnknown struct {
	Target string
	Fact   string // the pointer of the missing fact
}

// Error names the fact.
func (e ReachUnknown) Error() string {
	return fmt.Sprintf("the way to %s is not known: %s is not recorded", e.Target, e.Fact)
}

// Job is the machine that a sheet is for: as it is, and as it is to end. The zero Job is
// any machine of the model, in which every step counts.
type Job struct {
	Is, Ends *Inside
	// Planned says that a plan was made: it reckoned with the usual way to what nobody recorded.
	Planned bool
}

// JobAsIs is a machine in which every place stays as it is, but that each target ends
// filled.
func JobAsIs(ch *hw.Chassis, m *hw.Machine, targets []string) Job {
	is := InsideOf(ch, m)
	j := Job{Is: is, Ends: is}
	for _, t := range targets {
		j.Ends = j.Ends.Filled(t)
	}
	return j
}

// RunSheet works out the order of work for the targets: places, "battery" or
// services. A repeated target counts once. It returns hw.Faults for a target that
// does not exist, ReachUnknown for one whose reach is not known, ErrTooHard past
// the limit.
func RunSheet(ctx context.Context, ch *hw.Chassis, targets []string, job Job) (*Sheet, error) {
	s := newSheet(ch)
	var reaches []string
	guessed := false
	seen := map[string]bool{}
	for _, target := range targets {
		if seen[target] {
			continue
		}
		seen[target] = true
		step, exists := ch.ReachOf(target)
		if !exists {
			var faults hw.Faults
			faults.Add("", hw.FaultReference, `"`+target+`"`, "place, battery or service in "+ch.ID)
			return nil, faults
		}
		if step == "" && job.Planned {
			step = WayTo(ch, target)
			guessed = guessed || step == NotRecorded
		}
		if step == "" {
			return nil, ReachUnknown{target, reachFact(ch, target)}
		}
		s.Targets = append(s.Targets, target)
		reaches = append(reaches, step)
	}
	w := WaysInto(ch, job.Is)
	down := w.Down(reaches)
	order, err := w.Order(ctx, down)
	if err != nil {
		return nil, err
	}
	minutes := s.fill(w, down, order, job.Ends)
	if n := len(s.Down); guessed && n > 0 {
		s.mindLast(s.Down[n-1], hw.CautionNoReach)
	}
	for _, target := range s.Targets {
		if k := ch.ServiceByID(target); k >= 0 {
			minutes += hw.MinutesOf(ch.Services[k].Minutes.Or(0))
		} else {
			minutes += SwapMinutes(ch, target)
		}
	}
	s.Minutes = minutes.Shown()
	return s, nil
}

// WholeWay is the sheet of a look inside: every step of the way in, in the order in which they
// were recorded, and back again; the targets are served on the way.
func WholeWay(ch *hw.Chassis, job Job, targets ...string) *Sheet {
	s := newSheet(ch)
	s.Targets = append(s.Targets, targets...)
	w := WaysInto(ch, job.Is)
	var order Order
	for i := range ch.Steps {
		w.inOrder(i, &order.Steps)
	}
	s.Minutes = s.fill(w, w.part, order, job.Ends).Shown()
	return s
}

// mindLast adds a caution to a step of the way in, after all others of it and before those of the way back alone.
func (s *Sheet) mindLast(step string, code hw.CautionCode) {
	at := 0
	for i := range s.Cautions {
		if slices.Contains(s.Down, s.Cautions[i].Step) {
			at = i + 1
		}
	}
	s.Cautions = slices.Insert(s.Cautions, at, Caution{step, code})
}

// inOrder adds a step of the way in after all that it needs.
func (w *Ways) inOrder(i int, steps *[]int) {
	if !w.part[i] || slices.Contains(*steps, i) {
		return
	}
	for _, need := range w.needs[i] {
		w.inOrder(need, steps)
	}
	*steps = append(*steps, i)
}

func newSheet(ch *hw.Chassis) *Sheet {
	return &Sheet{Format: FormatSheet, Chassis: ch.ID, Targets: []string{}, Down: []string{}, Work: []string{},
		Up: []string{}, SwapOnRefit: map[string]string{}, Tray: []Tray{}, Cautions: []Caution{},
		Kit: Kit{[]string{}, []string{}, []string{}}}
}

// fill writes out both ways and the work, and returns the minutes of the ways.
func (s *Sheet) fill(w *Ways, down []bool, order Order, ends *Inside) hw.Minutes {
	undone, extra := w.Back(down, ends)
	s.BitChanges, s.Flips = order.BitChanges, order.Flips
	s.wayIn(w, order.Steps, w.Live(down))
	s.work(w, order.Steps, undone, ends)
	s.wayBack(w, order.Steps, undone, extra)
	return w.Minutes(down, undone, extra)
}

func reachFact(ch *hw.Chassis, target string) string {
	if target == hw.BatteryPlace {
		return "/battery_reach"
	}
	if p, ok := ch.PlaceNamed(target); ok {
		return p.ReachFact()
	}
	return fmt.Sprintf("/services/%d/reach", ch.ServiceByID(target))
}

// wayIn writes out the steps, the tray, the kit and the cautions of the way in.
func (s *Sheet) wayIn(w *Ways, order []int, live []bool) {
	ch := w.ch
	isolated := false
	for _, i := range order {
		st := &ch.Steps[i]
		s.Down = append(s.Down, st.ID)
		isolated = isolated || st.IsolatesPwr.Or(false)
		s.take(ch, st)
		if st.RenewsPaste.Or(false) {
			for _, c := range pasteKit {
				addOnce(&s.Kit.Consumables, c)
			}
		}
		if st.Verb.Row().Lays {
			s.lay(ch, st)
		}
		for _, c := range st.Cautions {
			s.Cautions = append(s.Cautions, Caution{st.ID, hw.CautionCode(c)})
		}
		for _, c := range []struct {
			holds bool
			code  hw.CautionCode
		}{{st.RenewsPaste.Or(false), hw.CautionPaste}, {live[i], hw.CautionLive},
			{Glued(st), hw.CautionGlued}, {Sealed(st), hw.CautionSeal},
			{BoardOut(st), hw.CautionBoardOut}} {
			if c.holds {
				s.Cautions = append(s.Cautions, Caution{st.ID, c.code})
			}
		}
	}
	battery := ch.Batteries == nil || len(ch.Batteries) > 0
	if battery && !isolated && len(s.Down) > 0 {
		s.Cautions = append(s.Cautions, Caution{s.Down[len(s.Down)-1], hw.CautionNoIsolation})
	}
}

// pasteKit is what renewing thermal paste uses up (docs/rules.md, services).
var pasteKit = []string{"thermal paste", "isopropyl alcohol", "swabs"}

// take puts what a step wants into the kit.
func (s *Sheet) take(ch *hw.Chassis, st *hw.Step) {
	for _, bit := range StepBits(ch, st) {
		addOnce(&s.Kit.Bits, bit)
	}
	if st.Tool != "" {
		addOnce(&s.Kit.Tools, st.Tool)
	}
	for _, c := range st.Consumables {
		addOnce(&s.Kit.Consumables, c)
	}
}

// wayBack writes out what is undone, last first, and before each step what the way back
// alone has there.
func (s *Sheet) wayBack(w *Ways, order []int, undone []bool, extra []int) {
	for k := len(order) - 1; k >= 0; k-- {
		i := order[k]
		if !undone[i] {
			continue
		}
		for _, x := range extra {
			st := &w.ch.Steps[x]
			if st.BackBefore != w.ch.Steps[i].ID {
				continue
			}
			s.Up = append(s.Up, st.ID)
			s.take(w.ch, st)
			for _, c := range st.Cautions {
				s.Cautions = append(s.Cautions, Caution{st.ID, hw.CautionCode(c)})
			}
		}
		s.Up = append(s.Up, w.ch.Steps[i].ID)
	}
}

// lay puts the loose screws of a step on the tray.
func (s *Sheet) lay(ch *hw.Chassis, st *hw.Step) {
	for _, f := range st.Fasteners {
		i := ch.FastenerByID(f.Group)
		if i >= 0 && ch.Fasteners[i].Captive.Or(false) {
			continue
		}
		found := false
		for k := range s.Tray {
			if s.Tray[k].Group == f.Group {
				s.Tray[k].Count += f.Count
				found = true
			}
		}
		if !found {
			s.Tray = append(s.Tray, Tray{f.Group, f.Count})
		}
	}
}

// work lists the work at the bottom, and puts what it wants into the kit. What a step
// takes out anyway is served when that step is undone on the way up.
func (s *Sheet) work(w *Ways, order []int, undone []bool, ends *Inside) {
	for _, target := range s.Targets {
		if k := w.ch.ServiceByID(target); k >= 0 {
			service := &w.ch.Services[k]
			if service.Tool != "" {
				addOnce(&s.Kit.Tools, service.Tool)
			}
			for _, tool := range service.Tools {
				addOnce(&s.Kit.Tools, tool)
			}
			for _, c := range service.Consumables {
				addOnce(&s.Kit.Consumables, c)
			}
			s.Work = append(s.Work, target)
			continue
		}
		p, _ := w.ch.PlaceNamed(target)
		if f := p.Fixing; f != nil {
			if bit, ok := f.Bit.Get(); ok {
				addOnce(&s.Kit.Bits, bit)
			}
			if f.From == hw.FromKit && f.Screw != "" && !ends.isEmpty(target) {
				addOnce(&s.Kit.Consumables, f.Screw)
			}
		}
		if step := w.servedBy(target, order, undone, ends); step >= 0 {
			s.SwapOnRefit[target] = w.ch.Steps[step].ID
		} else {
			s.Work = append(s.Work, target)
		}
	}
}

// servedBy is the step at whose undoing a place is filled again, -1 for a place that is
// served at the bottom: the step that takes it out, or where that is left out because the
// place is empty, the first of the steps done that needed it.
func (w *Ways) servedBy(place string, order []int, undone []bool, ends *Inside) int {
	if ends.isEmpty(place) {
		return -1
	}
	for _, i := range slices.Backward(order) { // of several, the one undone first on the way up
		if w.ch.Steps[i].Place == place && undone[i] {
			return i
		}
	}
	for _, i := range order {
		if w.as.isEmpty(place) && undone[i] && w.neededOut(i, place) {
			return i
		}
	}
	return -1
}

// neededOut reports whether a step needed one that takes the place out and is left out, at
// once or through others left out.
func (w *Ways) neededOut(i int, place string) bool {
	for _, need := range w.ch.Steps[i].Needs {
		j, ok := w.index[need]
		if ok && !w.part[j] && (w.ch.Steps[j].Place == place || w.neededOut(j, place)) {
			return true
		}
	}
	return false
}

func addOnce(list *[]string, text string) {
	for _, have := range *list {
		if have == text {
			return
		}
	}
	*list = append(*list, text)
}
