package run

import (
	"encoding/json"
	"slices"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// Ask is a fact that is not yet known, or disputed, and lies bare for a while.
type Ask struct {
	Path  string // by place id
	How   string // to find it out, in words; "" for what is disputed
	Place string // the id of the place it is a fact of
	From  int    // the number of the step that bares it
	Until int    // the number of the step that covers it again; past the last where none does
	Says  []Said // of what is disputed: what was said of it, the strongest first
}

// Said is one finding of a disputed fact.
type Said struct {
	Value  json.RawMessage
	Source hw.Source
	On     string
	Note   string
}

// asksOf lists what can be found out on the way, in the order in which it is covered again.
func asksOf(p *Plan) []Ask {
	var out []Ask
	add := func(path, how, step string, says []Said) {
		from := p.Index(string(Down) + ":" + step)
		if step == "" || from < 0 || !evidence.ByEye(path) {
			return
		}
		a := Ask{Path: path, How: how, From: from, Until: len(p.Steps), Says: says}
		if i := p.Index(string(Up) + ":" + step); i >= 0 {
			a.Until = i
		}
		a.Place = placeOf(path)
		if i := p.Index(string(Fit) + ":" + a.Place); i >= 0 {
			a.Until = i // what goes in covers it
		}
		out = append(out, a)
	}
	for _, o := range evidence.ToFindOut(p.Chassis) {
		step := o.Step
		if strings.HasPrefix(o.Path, "/fasteners/") {
			step = turnedBy(p.Chassis, placeOf(o.Path))
		}
		add(o.Path, o.How, step, nil)
	}
	for _, f := range evidence.Facts(p.Chassis.Findings) {
		if !f.Disputed {
			continue
		}
		var says []Said
		for _, x := range append([]*hw.Finding{f.InForce}, f.Others...) {
			if !slices.ContainsFunc(says, func(s Said) bool { return evidence.SameValue(s.Value, x.Value) }) {
				says = append(says, Said{x.Value, x.Source, x.On, x.Note})
			}
		}
		add(f.Path, "", reachOf(p.Chassis, f.Path), says)
	}
	slices.SortStableFunc(out, func(a, b Ask) int { return a.Until - b.Until })
	return out
}

// placeOf is the id of the thing that a path speaks of, "" for none.
func placeOf(path string) string {
	words := strings.Split(strings.TrimPrefix(path, "/"), "/")
	if len(words) > 2 && words[0] == "memory" {
		return words[2]
	}
	if len(words) > 2 {
		return words[1]
	}
	return ""
}

// reachOf is the step behind which the thing lies that a path speaks of, "" for not known.
func reachOf(ch *hw.Chassis, path string) string {
	id := placeOf(path)
	switch {
	case strings.HasPrefix(path, "/fasteners/"):
		return turnedBy(ch, id)
	case strings.HasPrefix(path, "/batteries/"):
		return ch.BatteryReach
	}
	if place, ok := ch.PlaceNamed(id); ok {
		return place.Reach
	}
	return ""
}

// turnedBy is the first step that turns a group of screws.
func turnedBy(ch *hw.Chassis, group string) string {
	for i := range ch.Steps {
		for _, f := range ch.Steps[i].Fasteners {
			if f.Group == group {
				return ch.Steps[i].ID
			}
		}
	}
	return ""
}

// Bare lists what can be found out while the step with a number is the next: what is bare
// then, and covered by it or later. What a step turns can be counted while it is done.
func (p *Plan) Bare(step int) []Ask {
	var out []Ask
	for _, a := range p.Asks {
		bare := a.From < step
		if strings.HasPrefix(a.Path, "/fasteners/") {
			bare = a.From <= step
		}
		if bare && step <= a.Until {
			out = append(out, a)
		}
	}
	return out
}
