package teardown

import (
	"slices"

	"yembo/core/hw"
)

// Target is something that lies behind a step: a place, the battery, a service, or
// what is only suspected.
type Target struct{ Name, Reach string }

// allTargets lists the places, the battery and the services of a model, in the order of its
// record; a reach that is not recorded is "".
func allTargets(ch *hw.Chassis) []Target {
	var out []Target
	battery := false
	for _, p := range ch.Places() {
		switch {
		case p.Kind != hw.InPack:
			out = append(out, Target{p.ID, p.Reach})
		case !battery:
			out = append(out, Target{hw.BatteryPlace, p.Reach})
			battery = true
		}
	}
	for i := range ch.Services {
		out = append(out, Target{ch.Services[i].ID, ch.Services[i].Reach})
	}
	return out
}

// Targets lists what lies somewhere in a model, what is only suspected at the end. What has
// no reach recorded is left out: it has no depth.
func Targets(ch *hw.Chassis) []Target {
	all := allTargets(ch)
	for i := range ch.Suspected {
		if ch.Suspected[i].Settled == nil {
			all = append(all, Target{ch.Suspected[i].ID, ch.Suspected[i].Step})
		}
	}
	return slices.DeleteFunc(all, func(t Target) bool { return t.Reach == "" })
}

// Floor is one step as a floor of the reach chart: it lies under all targets of its
// columns. A step that stands in several ways has a floor in each.
type Floor struct {
	Step     int // index in the record
	Depth    int // 1 is the first step of a closed machine
	From, To int // columns, To not included
}

// Standing is a target in the chart: it stands under its last floor.
type Standing struct {
	Name    string
	Column  int
	Depth   int // steps down
	Minutes hw.Minutes
}

// node is a floor with what lies under it.
type node struct {
	step     int
	children []*node
	targets  []Target
}

// Chart lays out how deep each target lies. Steps that targets share from the closed
// machine on are one floor; walls part where ways part.
func Chart(ch *hw.Chassis, targets []Target) ([]Floor, []Standing) {
	order := wayOrder(ch)
	root := &node{step: -1}
	for _, t := range targets {
		down := Down(ch, []string{t.Reach})
		at := root
		for _, i := range order {
			if down[i] {
				at = at.under(i)
			}
		}
		at.targets = append(at.targets, t)
	}
	var floors []Floor
	var places []Standing
	column := 0
	var lay func(n *node, depth int, minutes hw.Minutes)
	lay = func(n *node, depth int, minutes hw.Minutes) {
		from := column
		if n.step >= 0 {
			minutes += StepMinutes(&ch.Steps[n.step])
		}
		for _, t := range n.targets {
			places = append(places, Standing{t.Name, column, depth, minutes})
			column++
		}
		for _, child := range n.children {
			lay(child, depth+1, minutes)
		}
		if n.step >= 0 {
			floors = append(floors, Floor{n.step, depth, from, column})
		}
	}
	lay(root, 0, 0)
	return floors, places
}

func (n *node) under(step int) *node {
	for _, c := range n.children {
		if c.step == step {
			return c
		}
	}
	c := &node{step: step}
	n.children = append(n.children, c)
	return c
}

// wayOrder is one order of all steps in which each comes after what it needs: those
// that isolate power first, with what they need, the others as the record has them.
func wayOrder(ch *hw.Chassis) []int {
	w := WaysInto(ch, nil)
	done := make([]bool, len(ch.Steps))
	var order []int
	var do func(i int)
	do = func(i int) {
		if done[i] {
			return
		}
		done[i] = true
		for _, j := range w.needs[i] {
			do(j)
		}
		order = append(order, i)
	}
	for i := range ch.Steps {
		if w.isolates(i) {
			do(i)
		}
	}
	for i := range ch.Steps {
		if w.part[i] {
			do(i)
		}
	}
	return order
}
