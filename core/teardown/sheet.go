package teardown

import (
	"context"
	"fmt"

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
	Step string `json:"step"`
	Code string `json:"code"`
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

// RunSheet works out the order of work for the targets: places, "battery" or
// services. A repeated target counts once. It returns hw.Faults for a target that
// does not exist, ReachUnknown for one whose reach is not known, ErrTooHard past
// the limit.
func RunSheet(ctx context.Context, ch *hw.Chassis, targets []string) (*Sheet, error) {
	s := &Sheet{Format: FormatSheet, Chassis: ch.ID, Targets: []string{}, Down: []string{}, Work: []string{}, Up: []string{},
		SwapOnRefit: map[string]string{}, Tray: []Tray{}, Cautions: []Caution{}, Kit: Kit{[]string{}, []string{}, []string{}}}
	var reaches []string
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
		if step == "" {
			return nil, ReachUnknown{target, reachFact(ch, target)}
		}
		s.Targets = append(s.Targets, target)
		reaches = append(reaches, step)
	}
	down := Down(ch, reaches)
	order, err := BestOrder(ctx, ch, down)
	if err != nil {
		return nil, err
	}
	s.BitChanges, s.Flips = order.BitChanges, order.Flips
	s.fill(ch, order.Steps, Live(ch, down))
	s.workAndMinutes(ch, order.Steps, DownMinutes(ch, down))
	return s, nil
}

func reachFact(ch *hw.Chassis, target string) string {
	if target == hw.BatteryPlace {
		return "/battery_reach"
	}
	if i := ch.SocketByID(target); i >= 0 {
		return fmt.Sprintf("/memory/sockets/%d/reach", i)
	}
	if i := ch.SlotByID(target); i >= 0 {
		return fmt.Sprintf("/slots/%d/reach", i)
	}
	if i := ch.BayByID(target); i >= 0 {
		return fmt.Sprintf("/bays/%d/reach", i)
	}
	return fmt.Sprintf("/services/%d/reach", ch.ServiceByID(target))
}

// fill writes out the steps, the tray, the kit and the cautions.
func (s *Sheet) fill(ch *hw.Chassis, order []int, live []bool) {
	isolated := false
	for _, i := range order {
		st := &ch.Steps[i]
		s.Down = append(s.Down, st.ID)
		isolated = isolated || st.IsolatesPwr.Or(false)
		for _, bit := range StepBits(ch, st) {
			addOnce(&s.Kit.Bits, bit)
		}
		if st.Tool != "" {
			addOnce(&s.Kit.Tools, st.Tool)
		}
		for _, c := range st.Consumables {
			addOnce(&s.Kit.Consumables, c)
		}
		if st.Verb == "unscrew" {
			s.lay(ch, st)
		}
		for _, c := range st.Cautions {
			s.Cautions = append(s.Cautions, Caution{st.ID, c})
		}
		for _, c := range []struct {
			holds bool
			code  string
		}{{live[i], "live_unplug"}, {Glued(st), "glued"}, {Sealed(st), "seal"}, {BoardOut(st), "board_out"}} {
			if c.holds {
				s.Cautions = append(s.Cautions, Caution{st.ID, c.code})
			}
		}
	}
	if !isolated && len(s.Down) > 0 {
		s.Cautions = append(s.Cautions, Caution{s.Down[len(s.Down)-1], "no_isolation_step"})
	}
	for k := len(s.Down) - 1; k >= 0; k-- {
		s.Up = append(s.Up, s.Down[k])
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

// workAndMinutes lists the work at the bottom; what a step takes out anyway is
// served when that step is undone on the way up.
func (s *Sheet) workAndMinutes(ch *hw.Chassis, order []int, way hw.Minutes) {
	total := way + way.Back()
	takenBy := map[string]string{}
	for _, i := range order {
		if p := ch.Steps[i].Place; p != "" {
			takenBy[p] = ch.Steps[i].ID
		}
	}
	for _, target := range s.Targets {
		if k := ch.ServiceByID(target); k >= 0 {
			service := &ch.Services[k]
			total += hw.MinutesOf(service.Minutes.Or(0))
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
		total += SwapMinutes(ch, target)
		if step, out := takenBy[target]; out {
			s.SwapOnRefit[target] = step
		} else {
			s.Work = append(s.Work, target)
		}
	}
	s.Minutes = total.Shown()
}

func addOnce(list *[]string, text string) {
	for _, have := range *list {
		if have == text {
			return
		}
	}
	*list = append(*list, text)
}
