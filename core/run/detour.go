package run

import (
	"slices"

	"yembo/core/hw"
)

// with is the plan with the detours that were put in: each before the step that asked for it,
// and undone right after that step is, on the way back.
func (p *Plan) with(events []Event) *Plan {
	out := p
	for i := range events {
		e := &events[i]
		at := out.Index(e.Step)
		if e.Kind != Put || at < 0 {
			continue
		}
		if out == p {
			out = &Plan{Chassis: p.Chassis, Steps: slices.Clone(p.Steps), Asks: p.Asks, Card: p.Card, Sheet: p.Sheet, index: p.index}
		}
		out.put(e, at)
	}
	return out
}

func (p *Plan) put(e *Event, at int) {
	st := hw.Step{Verb: e.Data.Verb, Part: e.Data.Part}
	asks := p.Steps[at]
	row := e.Data.Verb.Row()
	there := Step{Key: string(Detour) + ":" + e.Client, Kind: Detour, ID: e.Client, Does: st.Does(), Depth: asks.Depth,
		Lasts: row.Minutes, Why: "put in while at it"}
	back := Step{Key: string(Return) + ":" + e.Client, Kind: Return, ID: e.Client, Does: st.Undone(""), Depth: asks.Depth,
		Lasts: row.Minutes.Back(), Why: "put in while at it"}
	p.Steps = slices.Insert(p.Steps, at, there)
	after := at + 1 // the step that asked for it
	if asks.Kind == Down {
		for i := range p.Steps {
			if p.Steps[i].Kind == Up && p.Steps[i].ID == asks.ID {
				after = i
			}
		}
		if after == at+1 { // it stays out: what was put in is undone before anything else is
			for after+1 < len(p.Steps) && p.Steps[after+1].Kind != Up {
				after++
			}
		}
	}
	back.Depth = p.Steps[after].Depth
	p.Steps = slices.Insert(p.Steps, after+1, back)
	old := p.Asks
	before := make([][2]string, len(old))
	for i, a := range old {
		before[i] = [2]string{p.keyBefore(a.From, at, after), p.keyBefore(a.Until, at, after)}
	}
	p.number()
	p.Asks = slices.Clone(old)
	for i := range p.Asks {
		p.Asks[i].From, p.Asks[i].Until = p.numberOf(before[i][0]), p.numberOf(before[i][1])
	}
}

// keyBefore is the key of the step that had a number before two steps were put in.
func (p *Plan) keyBefore(n, at, after int) string {
	if n >= at {
		n++
	}
	if n > after {
		n++
	}
	if n >= len(p.Steps) {
		return ""
	}
	return p.Steps[n].Key
}

// numberOf is the number of a step, past the last for none.
func (p *Plan) numberOf(key string) int {
	if i := p.Index(key); i >= 0 {
		return i
	}
	return len(p.Steps)
}
