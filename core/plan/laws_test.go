package plan

import (
	"fmt"
	"math/big"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// tableTen is the table of risks: points and consent by code.
var tableTen = map[hw.Code]struct {
	points  int
	consent hw.Consent
}{
	"memory.limit_inferred": {1, "limit_unknown"}, "memory.narrower": {1, ""}, "memory.single_channel": {1, ""},
	"part.customer":       {0, ""},
	"memory.beyond_maker": {3, "beyond_maker"}, "memory.mixed": {1, ""}, "memory.asymmetric": {0, ""},
	"drive.hot": {1, ""}, "drive.boot_replaced": {1, "data"}, "drive.failing": {4, ""},
	"step.board_out": {3, ""}, "step.glued": {1, "glued_part"}, "step.seal": {1, "seal"}, "step.live_unplug": {1, ""},
	"reach.not_recorded": {1, ""}, "battery.other_wh": {1, ""},
	"battery.not_listed": {3, "unlisted_battery"},
	"fact.assumed":       {1, ""}, "fact.disputed": {2, ""}, "part.pulled": {1, ""},
}

// TestLaws holds what any answer promises, whatever was asked: the verdict by its
// definition, goals by their figures, totals that add up, risk by the table, picks that are
// best in what they are named for, and a reason for each goal that is missed.
func TestLaws(t *testing.T) {
	cases := 2000
	if testing.Short() {
		cases = 200
	}
	seen := map[string]int{}
	for seed := range uint64(cases) {
		in := newGen(seed).input(9)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		today, err := AsItIs(in)
		if err != nil {
			t.Fatal(err)
		}
		seen[p.Verdict]++
		for _, wrong := range slices.Concat(lawsOfAnswer(in, p, &today), lawsOfPicks(in, p, &today)) {
			t.Errorf("seed %d: %s", seed, wrong)
		}
		for i := range p.Options {
			for _, wrong := range lawsOfOption(in, &p.Options[i]) {
				t.Errorf("seed %d, %s: %s", seed, p.Options[i].ID, wrong)
			}
		}
	}
	for _, v := range []string{Upgrade, Partial, Enough, NotPossible} {
		if seen[v] < cases/100 {
			t.Errorf("hardly any answer is %s: %v", v, seen)
		}
	}
}

// goalsOf are the goals asked for, with whether they are met.
func goalsOf(m *Meets) map[string]bool {
	out := map[string]bool{}
	for name, met := range map[string]hw.Maybe[bool]{"memory_gb": m.Memory, "storage_gb": m.Storage,
		"runtime_h": m.Runtime, "wireless": m.Wireless} {
		if yes, asked := met.Get(); asked {
			out[name] = yes
		}
	}
	return out
}

func everyGoal(m *Meets) bool {
	for _, met := range goalsOf(m) {
		if !met {
			return false
		}
	}
	return true
}

func countMet(m *Meets) int {
	n := 0
	for _, met := range goalsOf(m) {
		if met {
			n++
		}
	}
	return n
}

func lawsOfAnswer(in Input, p *Plan, today *Today) (wrong []string) {
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	some := slices.ContainsFunc(p.Options, func(o Option) bool { return o.MeetsAll })
	switch {
	case p.Verdict == Upgrade && !some, p.Verdict == Partial && (some || len(p.Options) == 0),
		p.Verdict == NotPossible && len(p.Options) > 0,
		p.Verdict == Enough && (len(p.Options) > 0 || !everyGoal(&today.Meets)),
		p.Verdict == Upgrade && everyGoal(&today.Meets),
		p.Verdict == ServiceOnly && len(p.Options) != 1, p.Verdict == NotKnown && len(p.Options) > 0,
		p.Verdict == NotKnown && !slices.ContainsFunc(p.Unmet,
			func(u Unmet) bool { return u.Code == hw.CodeMachineNotKnown }):
		say("the verdict is %s", p.Verdict)
	}
	if p.Verdict == Enough || p.Verdict == Stop {
		if len(p.Unmet)+len(p.Rejected) > 0 || p.Picks != (Picks{}) {
			say("%s with %v %v %v", p.Verdict, p.Unmet, p.Rejected, p.Picks)
		}
		return wrong
	}
	base := &today.Meets
	for i := range p.Options {
		o := &p.Options[i]
		if o.ID == p.Picks.LeastCost {
			base = &o.Meets
		}
		if o.ID != fmt.Sprintf("o%d", i+1) {
			say("option %d is called %s", i+1, o.ID)
		}
		if i > 0 {
			before := &p.Options[i-1]
			if whole, earlier := len(o.Missing) == 0, len(before.Missing) == 0; whole && !earlier || whole == earlier &&
				o.TotalCents < before.TotalCents {
				say("%s stands after %s", o.ID, before.ID)
			}
		}
	}
	reasons := map[string]bool{}
	for _, u := range p.Unmet {
		if reasons[u.Goal] || u.Code == "" || u.Text == "" {
			say("unmet: %+v", u)
		}
		reasons[u.Goal] = true
	}
	if reasons["services"] && (len(p.Options) > 0 || p.Unmet[len(p.Unmet)-1].Goal != "services") {
		say("services are over the budget: %v", p.Unmet)
	}
	for goal, met := range goalsOf(base) {
		if met == reasons[goal] {
			say("%s is met: %v, and a reason stands there: %v", goal, met, reasons[goal])
		}
	}
	return wrong
}

// lawsOfPicks works the picks out anew from what is printed. Hours are printed to 0.1, so
// that headroom is compared with that much room.
func lawsOfPicks(in Input, p *Plan, today *Today) (wrong []string) {
	var best []*Option
	for i := range p.Options {
		o := &p.Options[i]
		if len(o.Missing) > 0 {
			continue
		}
		if len(best) > 0 && countMet(&o.Meets) > countMet(&best[0].Meets) {
			best = nil
		}
		if len(best) == 0 || countMet(&o.Meets) == countMet(&best[0].Meets) {
			best = append(best, o)
		}
	}
	if len(best) == 0 {
		if p.Picks != (Picks{}) {
			return []string{fmt.Sprintf("nothing can be picked, but %+v", p.Picks)}
		}
		return nil
	}
	first := func(better func(a, b *Option) int) string {
		at := best[0]
		for _, o := range best[1:] {
			c := better(o, at)
			if c == 0 {
				c = compare(at.TotalCents, o.TotalCents)
			}
			if c == 0 {
				c = compare(at.Minutes.Whole(), o.Minutes.Whole())
			}
			if c > 0 {
				at = o
			}
		}
		return at.ID
	}
	days := func(o *Option) int { return o.ReadyInDays.Or(1 << 30) }
	want := Picks{MostHeadroom: p.Picks.MostHeadroom, Recommended: p.Picks.Recommended,
		Soonest:    first(func(a, b *Option) int { return compare(days(b), days(a)) }),
		LeastCost:  first(func(a, b *Option) int { return compare(b.TotalCents, a.TotalCents) }),
		LeastWork:  first(func(a, b *Option) int { return compare(int64(b.Minutes), int64(a.Minutes)) }),
		LowestRisk: first(func(a, b *Option) int { return compare(b.Risk.Points, a.Risk.Points) })}
	if p.Picks != want {
		wrong = append(wrong, fmt.Sprintf("picks %+v, want %+v", p.Picks, want))
	}
	wrong = append(wrong, lawsOfRecommended(in, best, p.Picks.Recommended)...)
	at := slices.IndexFunc(best, func(o *Option) bool { return o.ID == p.Picks.MostHeadroom })
	if at < 0 {
		return append(wrong, "the pick for headroom is none of the best")
	}
	own, slack := headroomOf(in, today, best[at])
	for _, o := range best {
		other, _ := headroomOf(in, today, o)
		if other.Cmp(new(big.Rat).Add(own, slack)) > 0 {
			wrong = append(wrong, fmt.Sprintf("%s has more headroom than %s: %s over %s", o.ID, p.Picks.MostHeadroom,
				other.FloatString(3), own.FloatString(3)))
		}
		wanted := goalsOf(&today.Meets)
		if met, named := wanted["memory_gb"]; other.Cmp(own) == 0 && slack.Sign() == 0 &&
			o.TotalCents < best[at].TotalCents && (!named || met) {
			wrong = append(wrong, fmt.Sprintf("%s has the headroom of %s for less", o.ID, p.Picks.MostHeadroom))
		}
	}
	return wrong
}

// lawsOfRecommended: none of the best comes nearer to the goals that all of them miss, and of those that come as
// near none is less money with its risk counted as money.
func lawsOfRecommended(in Input, best []*Option, id string) (wrong []string) {
	at := slices.IndexFunc(best, func(o *Option) bool { return o.ID == id })
	if at < 0 {
		return []string{"what is recommended is none of the best"}
	}
	missed := map[string]bool{}
	for i, o := range best {
		for name, met := range goalsOf(&o.Meets) {
			missed[name] = !met && (i == 0 || missed[name])
		}
	}
	near := func(o *Option) (sum, slack *big.Rat) {
		sum, slack = new(big.Rat), new(big.Rat)
		add := func(name string, goal hw.Maybe[hw.Dec], reached hw.Dec, rounded bool) {
			if g, ok := goal.Get(); ok && missed[name] && g > 0 {
				if sum.Add(sum, new(big.Rat).Quo(min(reached, g).Rat(), g.Rat())); rounded {
					slack.Quo(big.NewRat(1, 10), g.Rat())
				}
			}
		}
		if o.Memory != nil {
			add("memory_gb", in.Request.Goals.MemoryGB, o.Memory.TotalGB, false)
		}
		if o.Storage != nil {
			add("storage_gb", in.Request.Goals.StorageGB, o.Storage.TotalGB, false)
		}
		if o.Battery != nil {
			add("runtime_h", in.Request.Goals.RuntimeH, o.Battery.RuntimeH.Or(0), true)
		}
		return sum, slack
	}
	value := func(o *Option) int64 {
		return o.TotalCents + in.Request.Practice.RiskCents.Or(1500)*int64(o.Risk.Points)
	}
	own, slack := near(best[at])
	for _, o := range best {
		other, _ := near(o)
		if other.Cmp(new(big.Rat).Add(own, slack)) > 0 {
			wrong = append(wrong, fmt.Sprintf("%s is nearer to what all miss than %s", o.ID, id))
		}
		if slack.Sign() == 0 && other.Cmp(own) == 0 && value(o) < value(best[at]) {
			wrong = append(wrong, fmt.Sprintf("%s is worth more than %s: %d against %d", o.ID, id, value(o), value(best[at])))
		}
	}
	return wrong
}

func headroomOf(in Input, today *Today, o *Option) (sum, slack *big.Rat) {
	sum, slack = new(big.Rat), new(big.Rat)
	add := func(goal hw.Maybe[hw.Dec], met hw.Maybe[bool], reached hw.Dec, rounded bool) {
		g, ok := goal.Get()
		if !ok || met.Or(true) {
			return
		}
		r := new(big.Rat).Quo(reached.Rat(), g.Rat())
		if two := big.NewRat(2, 1); r.Cmp(two) > 0 {
			r = two
		}
		sum.Add(sum, r)
		if rounded {
			slack.Add(slack, new(big.Rat).Quo(big.NewRat(1, 10), g.Rat()))
		}
	}
	goals := in.Request.Goals
	if o.Memory != nil {
		add(goals.MemoryGB, today.Meets.Memory, o.Memory.TotalGB, false)
	}
	if o.Storage != nil {
		add(goals.StorageGB, today.Meets.Storage, o.Storage.TotalGB, false)
	}
	if o.Battery != nil {
		if h, ok := o.Battery.RuntimeH.Get(); ok {
			add(goals.RuntimeH, today.Meets.Runtime, h, true)
		}
	}
	return sum, slack
}

// failingLeft reports whether an option leaves a failing drive in its place.
func failingLeft(in Input, o *Option) bool {
	return slices.ContainsFunc(in.Machine.Fitted.Drives, func(d hw.FittedDrive) bool {
		gone := slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Place == d.Place && a.Do != DoKeep })
		return plainFails(&d) && !gone
	})
}

func lawsOfOption(in Input, o *Option) (wrong []string) {
	say := func(format string, args ...any) { wrong = append(wrong, fmt.Sprintf(format, args...)) }
	goals, half := in.Request.Goals, hw.DecOf(1)/20
	check := func(name string, goal hw.Maybe[hw.Dec], met hw.Maybe[bool], reached, slack hw.Dec) {
		g, asked := goal.Get()
		if yes, told := met.Get(); asked != told || asked && (yes && reached+slack < g || !yes && reached-slack >= g) {
			say("%s: goal %v, reached %s, met %v", name, goal, reached, met)
		}
	}
	if o.Memory != nil {
		check("memory", goals.MemoryGB, o.Meets.Memory, o.Memory.TotalGB, 0)
	} else if o.Meets.Memory.Or(false) {
		say("memory that nobody told is met")
	}
	left := failingLeft(in, o)
	if warned := slices.ContainsFunc(o.Warnings, func(w Warning) bool { return w.Code == hw.CodeDriveFailing }); warned != left {
		say("a failing drive is left: %v, warned of: %v", left, warned)
	}
	if o.Storage != nil && left {
		if o.Meets.Storage.Or(false) {
			say("storage is met with a failing drive left in place")
		}
	} else if o.Storage != nil {
		check("storage", goals.StorageGB, o.Meets.Storage, o.Storage.TotalGB, 0)
	} else if o.Meets.Storage.Or(false) {
		say("storage that nobody told is met")
	}
	if o.Battery != nil && o.Battery.RuntimeH.IsKnown() {
		check("runtime", goals.RuntimeH, o.Meets.Runtime, o.Battery.RuntimeH.Or(0), half)
	} else if told := in.Machine.Usage.RuntimeH.IsKnown(); o.Meets.Runtime.Or(false) && !told {
		say("a runtime that nothing tells is met")
	}
	var standard hw.Standard
	if o.Wireless != nil {
		standard = o.Wireless.Standard.Or("")
	}
	if want, asked := goals.Wireless.Get(); asked &&
		o.Meets.Wireless.Or(false) != (wireless.Rank(standard) >= wireless.Rank(want)) {
		say("wireless: goal %s, reached %q, met %v", want, standard, o.Meets.Wireless)
	}
	if o.MeetsAll != (everyGoal(&o.Meets) && len(o.Missing) == 0) {
		say("meets all is %v", o.MeetsAll)
	}
	parts := int64(0)
	for _, b := range o.Buy {
		parts += b.Cents
		if b.Quantity < 1 {
			say("%d of %s are bought", b.Quantity, b.Part)
		}
	}
	if parts != o.PartsCents || o.PartsCents+o.LabourCents+o.ServicesCents.Or(0) != o.TotalCents {
		say("%d parts of %d, and %d labour, are %d", o.PartsCents, parts, o.LabourCents, o.TotalCents)
	}
	if most, ok := in.Request.BudgetCents.Get(); ok && o.TotalCents > most {
		say("%d is over the budget of %d", o.TotalCents, most)
	}
	// Minutes are printed to 0.1; labour uses the exact ones.
	if rate := in.Request.LabourRate.Or(0); rate > 0 {
		least, most := hw.MinutesOf(o.Minutes-half).Labour(rate), hw.MinutesOf(o.Minutes+half).Labour(rate)
		if o.LabourCents < least || o.LabourCents > most {
			say("%s minutes are %d cents", o.Minutes, o.LabourCents)
		}
	}
	points, consents := 0, map[hw.Consent]bool{}
	for _, r := range o.Risk.Reasons {
		row, known := tableTen[r.Code]
		if points += r.Points; !known || r.Points != row.points {
			say("%s is %d points", r.Code, r.Points)
		}
		if row.consent != "" {
			consents[row.consent] = true
		}
	}
	if points != o.Risk.Points {
		say("the reasons are %d points, the risk is %d", points, o.Risk.Points)
	}
	for _, c := range o.Consents {
		if !consents[c] && c != "data" {
			say("%s is asked for with no reason", c)
		}
		delete(consents, c)
	}
	if len(consents) > 0 {
		say("%v is not asked for", consents)
	}
	changed := 0
	var places []string
	for _, a := range o.Actions {
		if a.Do != DoKeep {
			changed++
		}
		if (a.Part != "") != (a.Do == DoAdd || a.Do == DoReplace) || slices.Contains(places, a.Place) {
			say("%+v", a)
		}
		places = append(places, a.Place)
	}
	if changed == 0 && len(o.Services) == 0 {
		say("nothing is changed: %s", strings.Join(places, " "))
	}
	return wrong
}
