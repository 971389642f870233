package bench

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"yembo/shop/work"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// groups lists the groups of screws that lie on the mat at any time of the run.
func (v *runView) groups(st *run.State, letters map[string]string) {
	most := map[string]int{}
	var order []string
	for i := range st.Plan.Steps {
		x := &st.Plan.Steps[i]
		for _, l := range x.Lays {
			if l.Captive {
				continue
			}
			if most[l.Group] == 0 {
				order = append(order, l.Group)
			}
			most[l.Group] += st.Counted(x.Key, l)
		}
	}
	now := trayOf(st)
	for _, id := range order {
		lot := lotView(st.Plan.Chassis, run.Lot{Group: id}, most[id], letters)
		g := runGroup{
			ID:     id,
			Letter: lot.Letter,
			Count:  now[id],
			Most:   most[id],
			Says:   kit.OrNothing(lot.Length, "length not known"),
			Shank:  4 + 1.6*max(lot.MM, 3),
		}
		for k := range min(most[id], 14) {
			g.Marks = append(g.Marks, float64(k)*13)
		}
		v.Groups = append(v.Groups, g)
	}
}

// asks lists what can be found out.
func (v *runView) asks(p *run.Plan, st *run.State) {
	for _, a := range p.Asks {
		if _, found := st.Found[a.Path]; found || st.Later[a.Path] {
			continue
		}
		spec, ok := form.FieldAt(a.Path)
		if !ok {
			continue
		}
		x := runAsk{
			Path:     a.Path,
			Name:     hw.UpperFirst(hw.FactSays(a.Path)),
			Place:    a.Place,
			How:      hw.UpperFirst(a.How),
			From:     a.From,
			Until:    a.Until,
			Field:    spec,
			Unit:     spec.Unit,
			Disputed: len(a.Says) > 0,
		}
		if strings.HasPrefix(a.Path, "/fasteners/") {
			x.From--
		}
		if a.Until < len(p.Steps) {
			x.UntilWords = fmt.Sprintf("Bare until step %d", a.Until+1)
		}
		for _, said := range a.Says {
			x.Choices = append(
				x.Choices,
				runChoice{
					Value:  typedValue(&spec, said.Value),
					Says:   hw.ValueWords(a.Path, said.Value),
					Source: string(said.Source),
					On:     hw.Day(said.On),
				},
			)
		}
		if len(x.Choices) == 0 && (spec.Kind == "choice" || spec.Kind == "yesno") {
			for _, t := range spec.Terms {
				x.Choices = append(x.Choices, runChoice{Value: t.Word, Says: t.Says})
			}
		}
		v.Asks = append(v.Asks, x)
	}
}

// typedValue is a value as it would be typed into its field.
func typedValue(spec *form.FieldSpec, raw json.RawMessage) string {
	var value any
	if json.Unmarshal(raw, &value) != nil {
		return ""
	}
	f := form.New(map[string][]string{})
	spec.Fill(f, "v", value)
	return f.Value("v")
}

// bitsOf are the bits that the model's record knows.
func bitsOf(ch *hw.Chassis) []string {
	var out []string
	for i := range ch.Fasteners {
		if bit, ok := ch.Fasteners[i].Bit.Get(); ok && !slices.Contains(out, bit) {
			out = append(out, bit)
		}
	}
	for _, usual := range []string{"PH0", "PH1", "PH00", "T5", "T6", "T8"} {
		if !slices.Contains(out, usual) {
			out = append(out, usual)
		}
	}
	return out
}

// log tells what happened, the newest first; ticks stand at their steps.
func (v *runView) log(r *work.Run) {
	for i := len(r.Events) - 1; i >= 0; i-- {
		e := &r.Events[i]
		line := runLine{At: e.At.Format("15:04"), By: e.By, Says: eventWords(r.State.Plan, &e.Event)}
		if e.Data.Refused != "" {
			line.Under = "not taken into the record: " + e.Data.Refused
		}
		if k := r.State.Plan.Index(e.Step); k >= 0 && line.Says != "" {
			line.Under = strings.TrimPrefix(fmt.Sprintf("%s; step %d", line.Under, k+1), "; ")
		}
		if line.Says != "" {
			v.Log = append(v.Log, line)
		}
	}
}

// eventWords says what happened, "" for what needs no line.
func eventWords(p *run.Plan, e *run.Event) string {
	d := &e.Data
	switch e.Kind {
	case run.Noted:
		return d.Text
	case run.Photo:
		return strings.TrimSuffix("Photo: "+d.Text, ": ")
	case run.Undone:
		return "Taken back"
	case run.Stopped:
		return "Stopped: " + kit.OrNothing(d.Text, "the pack is not sound")
	case run.MadeSafe:
		return "Made safe: " + d.Text
	case run.Late:
		was := *e
		was.Kind = d.Was
		words := eventWords(p, &was)
		if k := p.Index(e.Step); words == "" && k >= 0 && d.Was == run.Ticked {
			words = "ticked: " + p.Steps[k].Does
		}
		return "Came after the end, counts for nothing: " + hw.LowerFirst(kit.OrNothing(words, string(d.Was)))
	case run.Put:
		made := hw.Step{Verb: d.Verb, Part: d.Part}
		return "Put in: " + hw.LowerFirst(made.Does())
	case run.Found:
		return hw.UpperFirst(hw.FactSays(d.Path)) + ": " + hw.ValueWords(d.Path, d.Value)
	case run.Later:
		return "Left for the next opening: " + hw.FactSays(d.Path)
	case run.Solved:
		return "The screw was found"
	case run.Offered:
		if d.Kept {
			return "Taken into the model's record"
		}
		return "Left out of the model's record"
	case run.Differs:
		words := hw.UpperFirst(run.Whats.Says(d.What))
		switch {
		case d.What == run.OtherCount:
			words = fmt.Sprintf("%d screws %s", d.N, draw.Letters(p.Chassis)[d.Group])
		case d.Word != "" && d.What == run.OtherPlug:
			words += ": " + hw.Connectors.Says(hw.Connector(d.Word))
		case d.Word != "":
			words += ": " + d.Word
		}
		return strings.TrimSuffix(words+": "+d.Text, ": ")
	case run.Ticked:
		switch {
		case d.Skip:
			return "Left out: " + d.Why
		case d.Rest != "":
			return hw.UpperFirst(run.Rests.Says(d.Rest)) + ": " + d.Why
		}
	case run.Paused, run.Resumed, run.Ended: // they change nothing here
	}
	return ""
}
